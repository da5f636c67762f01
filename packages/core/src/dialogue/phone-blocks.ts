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

/** A byte and a half for each phone; counts first, then puts each number where those of its three stand. */
export function phoneBlocks(sounds: Uint8Array): PhoneBlocks {
  const threeStarts = new Uint32Array(THREES + 1);
  eachGap(sounds, (three, gap) => {
    threeStarts[three + 1] = (threeStarts[three + 1] as number) + bytesOf(gap);
  });
  for (let three = 0; three < THREES; three += 1)
    threeStarts[three + 1] = (threeStarts[three + 1] as number) + (threeStarts[three] as number);
  const threeGaps = new Uint8Array(threeStarts[THREES] as number);
  const next = threeStarts.slice();
  eachGap(sounds, (three, gap) => {
    let [at, rest] = [next[three] as number, gap];
    for (; rest > SEVEN; rest >>>= 7) {
      threeGaps[at] = (rest & SEVEN) | MORE;
      at += 1;
    }
    threeGaps[at] = rest;
    next[three] = at + 1;
  });
  return { threeStarts, threeGaps };
}

/** Each block in which three phones begin, once, by how far it is from the one before it; the first by its number and one. */
function eachGap(sounds: Uint8Array, told: (three: number, gap: number) => void): void {
  const last = new Uint32Array(THREES);
  let [a, b] = [sounds[0] ?? 0, sounds[1] ?? 0];
  for (let at = 0; at + 2 < sounds.length; at += 1) {
    const c = sounds[at + 2] as number;
    const three = threeOf(a, b, c);
    a = b;
    b = c;
    const block = (at >>> BLOCK_BITS) + 1;
    const before = last[three] as number;
    if (before === block) continue;
    last[three] = block;
    told(three, block - before);
  }
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
