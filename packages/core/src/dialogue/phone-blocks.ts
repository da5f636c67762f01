import { PHONES } from './phones';

const N = PHONES.length;
const THREES = N ** 3;
/** So many phones stand together: in fewer each would take more room, of more too many would have to be looked at. */
const BLOCK_BITS = 4;
export const BLOCK = 1 << BLOCK_BITS;
/** A byte holds seven bits of a number, and says whether more follow. */
const [SEVEN, MORE] = [0x7f, 0x80] as const;

/** Three phones in a row as one number below `THREES`. */
export const threeOf = (a: number, b: number, c: number): number => (a * N + b) * N + c;

/** In which blocks of some phones each three in a row begin: how far from one to the next, in as many bytes as that takes. */
export interface PhoneBlocks {
  /** Where the bytes of each three begin; one more at the end. */
  readonly threeStarts: Uint32Array;
  readonly threeGaps: Uint8Array;
}

/** Up to two bytes for each phone; counts first, then puts each number where those of its three stand. */
export function phoneBlocks(sounds: Uint8Array): PhoneBlocks {
  const threeStarts = new Uint32Array(THREES + 1);
  const gaps = gapsOf(sounds);
  for (let at = 0; at < gaps.length; at += 1) {
    if (gaps[at] === 0) continue;
    const after = 1 + threeAt(sounds, at);
    threeStarts[after] = (threeStarts[after] as number) + bytesOf(gaps[at] as number);
  }
  for (let three = 0; three < THREES; three += 1)
    threeStarts[three + 1] = (threeStarts[three + 1] as number) + (threeStarts[three] as number);
  const threeGaps = new Uint8Array(threeStarts[THREES] as number);
  const next = threeStarts.slice();
  for (let at = 0; at < gaps.length; at += 1) {
    let rest = gaps[at] as number;
    if (rest === 0) continue;
    const three = threeAt(sounds, at);
    let to = next[three] as number;
    for (; rest > SEVEN; rest >>>= 7) {
      threeGaps[to] = (rest & SEVEN) | MORE;
      to += 1;
    }
    threeGaps[to] = rest;
    next[three] = to + 1;
  }
  return { threeStarts, threeGaps };
}

const threeAt = (sounds: Uint8Array, at: number): number =>
  threeOf(sounds[at] as number, sounds[at + 1] as number, sounds[at + 2] as number);

/**
 * Of each three in a row, how far its block is from the last in which the same began; of the first its number and one, and 0 where it is
 * the same block.
 */
function gapsOf(sounds: Uint8Array): Uint32Array {
  const gaps = new Uint32Array(Math.max(0, sounds.length - 2));
  const last = new Uint32Array(THREES);
  for (let at = 0; at < gaps.length; at += 1) {
    const three = threeAt(sounds, at);
    const block = (at >>> BLOCK_BITS) + 1;
    gaps[at] = block - (last[three] as number);
    last[three] = block;
  }
  return gaps;
}

const bytesOf = (gap: number): number =>
  gap < 1 << 7 ? 1 : gap < 1 << 14 ? 2 : gap < 1 << 21 ? 3 : gap < 1 << 28 ? 4 : 5;

/**
 * The stretches of phones, ascending, of whole blocks in which any of some threes begins.
 * @param length of all phones
 */
export function* stretchesWith(
  { threeGaps, threeStarts }: PhoneBlocks,
  threes: Iterable<number>,
  length: number,
): Generator<readonly [from: number, to: number]> {
  const blocks = Math.ceil(length / BLOCK);
  const isIn = new Uint8Array(blocks + 1);
  for (const three of threes) {
    const end = threeStarts[three + 1] as number;
    for (let [at, block] = [threeStarts[three] as number, -1]; at < end;) {
      let [gap, shift] = [0, 0];
      for (let more = true; more; shift += 7) {
        const byte = threeGaps[at] as number;
        gap |= (byte & SEVEN) << shift;
        more = byte >= MORE;
        at += 1;
      }
      block += gap;
      isIn[block] = 1;
    }
  }
  for (let from = isIn.indexOf(1); from >= 0; from = isIn.indexOf(1, from)) {
    const to = isIn.indexOf(0, from);
    yield [from * BLOCK, Math.min(length, to * BLOCK)];
    from = to;
  }
}
