import { likeliestStretch, NATS, soughtPhones, type HeardStretch, type SoughtPhones } from './phone-channel';
import { BLOCK, stretchesWith, threeOf, type PhoneBlocks } from './phone-blocks';
import { PHONES, type Phones } from './phones';

const N = PHONES.length;
/** Three phones in a row as one number. */
const BITS = 6;
const THREE = 1 << (3 * BITS);
const [BEGINS, ENDS] = [1, 2] as const;
/** With fewer phones nearly everything has something like it. */
export const LEAST_SOUGHT = 5;

/** So much must speak for three phones in a row, and for all of the name around them, to be looked at closer. */
const LEAST_THREE = 4.4 * NATS;
const LEAST_AROUND = 3 * NATS;
/** So many phones more or less may be heard before and after, at most. */
const MARGIN = 4;

/**
 * Looks through phones that were heard for some that were said: a name that no recogniser knows. Where three in a row are likely to be
 * three of the name, all of it is compared near them, and only where that is promising too all ways to have misheard it are weighed (as
 * S. Altschul and others, “Basic local alignment search tool”, Journal of Molecular Biology 215, 1990, find sequences).
 */
export class PhoneSearch {
  private readonly sought: SoughtPhones;
  /** For three phones in a row: one more than the place of what they are likeliest to be; 0 where they are not likely. */
  private readonly seeds = new Uint8Array(THREE);
  /** All of these, as `threeOf` has them. */
  private readonly threes: number[] = [];
  /** Of two phones in a row, whether three that are likely begin or end so. */
  private readonly pairs = new Uint8Array(1 << (2 * BITS));

  constructor(private readonly phones: Phones) {
    this.sought = soughtPhones(phones);
    this.plant();
  }

  private plant(): void {
    const { gains } = this.sought;
    const strongest = new Int16Array(THREE);
    // No two phones speak for more than that.
    const most = Math.max(...gains);
    for (let at = 0; at + 2 < this.phones.length; at += 1)
      for (let a = 0; a < N; a += 1) {
        const first = gains[at * N + a] as number;
        if (first + 2 * most < LEAST_THREE) continue;
        for (let b = 0; b < N; b += 1) {
          const second = first + (gains[(at + 1) * N + b] as number);
          if (second + most < LEAST_THREE) continue;
          for (let c = 0; c < N; c += 1) {
            const all = second + (gains[(at + 2) * N + c] as number);
            const three = (a << (2 * BITS)) | (b << BITS) | c;
            if (all < LEAST_THREE || all <= (strongest[three] as number)) continue;
            if (this.seeds[three] === 0) this.threes.push(threeOf(a, b, c));
            strongest[three] = all;
            this.seeds[three] = at + 1;
            this.mark((a << BITS) | b, BEGINS);
            this.mark((b << BITS) | c, ENDS);
          }
        }
      }
  }

  private mark(pair: number, flag: number): void {
    this.pairs[pair] = (this.pairs[pair] as number) | flag;
  }

  /**
   * Tells stretches that may be what is looked for, some of them more than once.
   * @param ends where each speech ends, ascending; the first begins at 0
   */
  each(
    { sounds, ...blocks }: PhoneBlocks & { readonly sounds: Uint8Array },
    ends: (speech: number) => number,
    found: (stretch: HeardStretch, speech: number) => void,
  ): void {
    const { phones, seeds } = this;
    let speech = 0;
    let begins = 0;
    let end = ends(0);
    let looked = -Infinity;
    for (const [from, to] of this.stretches(sounds, blocks)) {
      const count = this.sift(sounds, from, to);
      for (let n = 0; n < count; n += 1) {
        const first = firsts[n] as number;
        while (first + 2 >= end) {
          begins = end;
          end = ends((speech += 1));
          looked = -Infinity;
        }
        const diagonal = first + 1 - (seeds[threeAt(sounds, first)] as number);
        // Neighbours on one line have been looked at together; of three that are of two speeches nothing is known.
        if (first < begins || diagonal === looked) continue;
        if (this.around(sounds, diagonal) < LEAST_AROUND) continue;
        looked = diagonal;
        const start = Math.max(begins, diagonal - MARGIN);
        const last = Math.min(end, diagonal + phones.length + MARGIN);
        found(likeliestStretch(phones, sounds, start, last, start === begins), speech);
      }
    }
  }

  /** Those in which any three that are likely begin, none longer than is sifted in one go. */
  private *stretches(sounds: Uint8Array, blocks: PhoneBlocks): Generator<readonly [from: number, to: number]> {
    for (const [from, to] of stretchesWith(blocks, this.threes, sounds.length))
      for (let part = from; part < to; part += CHUNK) yield [part, Math.min(to, part + CHUNK)];
  }

  /** Where in a stretch three likely phones begin, ascending, put into `firsts`; tells how many. */
  private sift(sounds: Uint8Array, from: number, to: number): number {
    const { pairs, seeds } = this;
    // As variables of their own they are read where they lie, not looked up for each pair.
    const [likely, found, bits] = [places, firsts, BITS];
    // Three that begin with the last phone of it have their other two behind it.
    const some = likelyPairs(sounds, pairs, from, Math.min(to + 1, sounds.length - 1));
    let count = 0;
    for (let n = 0; n < some; n += 1) {
      const at = likely[n] as number;
      const b = sounds[at] as number;
      const c = sounds[at + 1] as number;
      const flags = pairs[(b << bits) | c] as number;
      // The other two of the three are looked up where it is near, before all three are where it is far.
      if ((flags & ENDS) !== 0 && at > from) {
        const pair = ((sounds[at - 1] as number) << bits) | b;
        if (((pairs[pair] as number) & BEGINS) !== 0 && seeds[(pair << bits) | c] !== 0) {
          found[count] = at - 1;
          count += 1;
        }
      }
      if ((flags & BEGINS) !== 0 && at < to && at + 2 < sounds.length) {
        const pair = (c << bits) | (sounds[at + 2] as number);
        if (((pairs[pair] as number) & ENDS) !== 0 && seeds[(b << (2 * bits)) | pair] !== 0) {
          found[count] = at;
          count += 1;
        }
      }
    }
    return count;
  }

  /**
   * What speaks for all that is looked for where no more than two phones more or less were heard on the way: along five lines of the
   * table of both, each in a variable of its own, which is a tenth of the time of the whole.
   */
  private around(sounds: Uint8Array, diagonal: number): number {
    const { extras, gains, misses } = this.sought;
    const width = N;
    let place = diagonal + 2;
    // So near to an end nobody knows.
    if (diagonal < 2 || place + misses.length >= sounds.length) return LEAST_AROUND;
    let a = 0;
    let b = 0;
    let c = 0;
    let d = 0;
    let e = 0;
    let w = sounds[diagonal - 2] as number;
    let x = sounds[diagonal - 1] as number;
    let y = sounds[diagonal] as number;
    let z = sounds[diagonal + 1] as number;
    for (let n = 0; n < misses.length; n += 1) {
      const row = n * width;
      const missed = misses[n] as number;
      const next = sounds[place] as number;
      a = best(a + (gains[row + w] as number), b - missed);
      b = best(best(b + (gains[row + x] as number), c - missed), a - (extras[x] as number));
      c = best(best(c + (gains[row + y] as number), d - missed), b - (extras[y] as number));
      d = best(best(d + (gains[row + z] as number), e - missed), c - (extras[z] as number));
      e = best(e + (gains[row + next] as number), d - (extras[next] as number));
      w = x;
      x = y;
      y = z;
      z = next;
      place += 1;
    }
    return best(best(best(a, b), best(c, d)), e);
  }
}

/** So many phones are sifted in one go: whole blocks. */
const CHUNK = BLOCK << 12;
const places = new Int32Array(CHUNK / 2 + 2);
const firsts = new Int32Array(CHUNK + 2);

/**
 * The even places at which two phones of three that are likely stand, put into `places`; tells how many. Three in a row have two of which
 * the first stands at an even place, so that half of all pairs are looked at. Each place is written down, and kept where it counts: what
 * is done about it hangs on nothing that had to be guessed.
 */
function likelyPairs(sounds: Uint8Array, pairs: Uint8Array, from: number, to: number): number {
  const [found, bits] = [places, BITS];
  let count = 0;
  for (let at = from; at < to; at += 2) {
    found[count] = at;
    count += pairs[((sounds[at] as number) << bits) | (sounds[at + 1] as number)] === 0 ? 0 : 1;
  }
  return count;
}

const threeAt = (sounds: Uint8Array, at: number): number =>
  ((sounds[at] as number) << (2 * BITS)) | ((sounds[at + 1] as number) << BITS) | (sounds[at + 2] as number);

/** The larger of two whole numbers, without a jump: which of them it is cannot be foreseen, and each wrong guess costs a dozen sums. */
const best = (a: number, b: number): number => {
  const less = a - b;
  return a - (less & (less >> 31));
};
