import { AFTER, ALONE, EXTRA, HEARD, MISSED } from './phone-channel-table';
import { PHONES, type Phones } from './phones';
import { larger } from './sounds-like';

const N = PHONES.length;
/** What stands before the first phone. */
export const START = N;
/** So many of its units are one by natural logarithm. */
export const NATS = 16;

const unpacked = (hex: string): Uint8Array =>
  Uint8Array.from({ length: hex.length / 2 }, (_unused, at) => parseInt(hex.slice(2 * at, 2 * at + 2), 16));

const heard = unpacked(HEARD);
const missed = unpacked(MISSED);
const extra = unpacked(EXTRA);
const after = unpacked(AFTER);
const alone = unpacked(ALONE);

/** Of each phone by `NATS`, against it: that it is heard for each, missed, heard beside others, and stands after each other. */
export const TABLES = { heard, missed, extra, after } as const;

/** Some phones that are looked for, and how much each speaks for them: logarithms of odds, by `NATS`. */
export interface SoughtPhones {
  readonly phones: Phones;
  /** Of each that is looked for, what speaks for it when another is heard, whatever stands before that: `PHONES.length` for each. */
  readonly gains: Int16Array;
  /** Of each, what speaks against it when it is not heard; and of each phone there is, when it is heard beside what is looked for. */
  readonly misses: Int16Array;
  readonly extras: Int16Array;
}

export const soughtPhones = (phones: Phones): SoughtPhones => ({
  phones,
  gains: Int16Array.from(
    { length: phones.length * N },
    (_unused, at) =>
      (alone[at % N] as number) - (heard[(phones[Math.floor(at / N)] as number) * N + (at % N)] as number),
  ),
  misses: Int16Array.from(phones, (phone) => missed[phone] as number),
  extras: Int16Array.from({ length: N }, (_unused, phone) => (extra[phone] as number) - (alone[phone] as number)),
});

/** A stretch of phones that were heard, and what speaks for it that the phones that are looked for were said there. */
export interface HeardStretch {
  /** The logarithm of the odds against any other speech, by `NATS`. */
  readonly odds: number;
  readonly from: number;
  /** The one after the last. */
  readonly to: number;
}

/** No stretch that is looked through has more phones. */
export const LONGEST_STRETCH = 512;
/** What speaks for a stretch, and where it begins, are in one number, so that the larger of two takes its beginning along. */
export const FROM_BITS = 10;
export const FROM = (1 << FROM_BITS) - 1;
const above = new Int32Array(LONGEST_STRETCH + 1);
const below = new Int32Array(LONGEST_STRETCH + 1);
const others = new Uint8Array(LONGEST_STRETCH);
const seldoms = new Int32Array(LONGEST_STRETCH);
const puts = new Int32Array(LONGEST_STRETCH);

/**
 * The stretch within some phones that were heard which the phones that are looked for were most likely said in; of some that are as
 * likely one that begins last. As `bestWithin`, but by how likely a recogniser hears one phone for another (a log-odds alignment;
 * R. Durbin and others, “Biological Sequence Analysis”, Cambridge 1998, chapter 2; from memory).
 * @param from where to begin in `sounds`, @param to the one after the last; at most `LONGEST_STRETCH` are looked through
 * @param begins whether speech begins there, so that nothing stands before it
 */
export function likeliestStretch(
  sought: Phones,
  sounds: Uint8Array,
  from: number,
  to: number,
  begins: boolean,
): HeardStretch {
  const length = Math.min(to - from, LONGEST_STRETCH);
  // As constants of its own they are read where they lie, not looked up each time.
  const bits = FROM_BITS;
  const hear = heard;
  const some = others;
  const seldom = seldoms;
  const put = puts;
  // What hangs on the place alone is looked up once for all rows.
  let last = begins ? START : (sounds[from - 1] as number);
  for (let j = 0; j < length; j += 1) {
    const other = sounds[from + j] as number;
    const follows = after[last * N + other] as number;
    some[j] = other;
    seldom[j] = follows << bits;
    put[j] = (follows - (extra[other] as number)) << bits;
    last = other;
  }
  let before = above;
  let row = below;
  for (let j = 0; j <= length; j += 1) before[j] = j;
  for (let i = 0; i < sought.length; i += 1) {
    const phone = sought[i] as number;
    const costs = phone * N;
    const skip = (missed[phone] as number) << bits;
    let diagonal = before[0] as number;
    let left = (diagonal - skip) | 0;
    row[0] = left;
    for (let j = 0; j < length; j += 1) {
      const over = before[j + 1] as number;
      const misheard = (hear[costs + (some[j] as number)] as number) << bits;
      const kept = (diagonal + (seldom[j] as number) - misheard) | 0;
      left = larger(larger(kept, (over - skip) | 0), (left + (put[j] as number)) | 0);
      row[j + 1] = left;
      diagonal = over;
    }
    const lastRow = before;
    before = row;
    row = lastRow;
  }
  let best = 0;
  for (let j = 1; j <= length; j += 1) if ((before[j] as number) >> bits > (before[best] as number) >> bits) best = j;
  const all = before[best] as number;
  return { odds: all >> bits, from: from + (all & FROM), to: from + best };
}
