/** Sets of document numbers as one bit each, 32 to a word. */
export type Bits = Uint32Array;

export const bitsFor = (universe: number): Bits => new Uint32Array((universe + 31) >>> 5);

export const hasBit = (bits: Bits, at: number): boolean => (((bits[at >>> 5] as number) >>> (at & 31)) & 1) === 1;

export function setBit(bits: Bits, at: number): void {
  bits[at >>> 5] = (bits[at >>> 5] as number) | (1 << (at & 31));
}

/** Ones in a word: sums of pairs, of fours, of bytes, and the bytes added up by a multiplication. */
function ones(word: number): number {
  const pairs = word - ((word >>> 1) & 0x55555555);
  const fours = (pairs & 0x33333333) + ((pairs >>> 2) & 0x33333333);
  return Math.imul((fours + (fours >>> 4)) & 0x0f0f0f0f, 0x01010101) >>> 24;
}

export function countBits(bits: Bits): number {
  let count = 0;
  for (let i = 0; i < bits.length; i += 1) count += ones(bits[i] as number);
  return count;
}

/** The numbers that are in a set, ascending; the first `count` of them. */
export function listBits(bits: Bits, count = countBits(bits)): Uint32Array {
  const out = new Uint32Array(count);
  let n = 0;
  for (let i = 0; i < bits.length && n < count; i += 1) {
    // The lowest one is taken off until none is left; as a signed number, which the machine has no detour for.
    let word = (bits[i] as number) | 0;
    const base = i << 5;
    while (word !== 0 && n < count) {
      out[n] = base + 31 - Math.clz32(word & -word);
      n += 1;
      word &= word - 1;
    }
  }
  return out;
}

/** All numbers below `universe`. */
export function allBits(universe: number): Bits {
  const bits = bitsFor(universe).fill(0xffffffff);
  if (universe & 31) bits[bits.length - 1] = (1 << (universe & 31)) - 1;
  return bits;
}

/**
 * How many are in both of two sets. Eight words are added up bit by bit before anything is counted (carry-save adders, after Harley and
 * Seal), which takes half the time of counting each word.
 */
export function countBoth(a: Bits, b: Bits): number {
  const whole = a.length & ~7;
  let [one, two, four, eights] = [0, 0, 0, 0];
  for (let i = 0; i < whole; i += 8) {
    let x = (a[i] as number) & (b[i] as number);
    let y = (a[i + 1] as number) & (b[i + 1] as number);
    let half = one ^ x;
    const twoA = (one & x) | (half & y);
    one = half ^ y;
    x = (a[i + 2] as number) & (b[i + 2] as number);
    y = (a[i + 3] as number) & (b[i + 3] as number);
    half = one ^ x;
    const twoB = (one & x) | (half & y);
    one = half ^ y;
    half = two ^ twoA;
    const fourA = (two & twoA) | (half & twoB);
    two = half ^ twoB;
    x = (a[i + 4] as number) & (b[i + 4] as number);
    y = (a[i + 5] as number) & (b[i + 5] as number);
    half = one ^ x;
    const twoC = (one & x) | (half & y);
    one = half ^ y;
    x = (a[i + 6] as number) & (b[i + 6] as number);
    y = (a[i + 7] as number) & (b[i + 7] as number);
    half = one ^ x;
    const twoD = (one & x) | (half & y);
    one = half ^ y;
    half = two ^ twoC;
    const fourB = (two & twoC) | (half & twoD);
    two = half ^ twoD;
    half = four ^ fourA;
    eights += ones((four & fourA) | (half & fourB));
    four = half ^ fourB;
  }
  let count = 8 * eights + 4 * ones(four) + 2 * ones(two) + ones(one);
  for (let i = whole; i < a.length; i += 1) count += ones((a[i] as number) & (b[i] as number));
  return count;
}
