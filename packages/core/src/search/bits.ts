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

/** The numbers that are in a set, ascending. */
export function listBits(bits: Bits, count = countBits(bits)): Uint32Array {
  const out = new Uint32Array(count);
  let n = 0;
  for (let i = 0; i < bits.length; i += 1)
    // The lowest one is taken off until none is left.
    for (let word = bits[i] as number; word !== 0; word &= word - 1)
      out[n++] = (i << 5) + 31 - Math.clz32(word & -word);
  return out;
}

/** All numbers below `universe`. */
export function allBits(universe: number): Bits {
  const bits = bitsFor(universe).fill(0xffffffff);
  if (universe & 31) bits[bits.length - 1] = (1 << (universe & 31)) - 1;
  return bits;
}

/** How many are in both of two sets. */
export function countBoth(a: Bits, b: Bits): number {
  let count = 0;
  for (let i = 0; i < a.length; i += 1) count += ones((a[i] as number) & (b[i] as number));
  return count;
}
