import { AFTER, ALONE, EXTRA, HEARD, MISSED } from './phone-channel-table';
import { PHONES, type Phones } from './phones';

const N = PHONES.length;
/** What stands before the first phone. */
const START = N;
/** So many of its units are one by natural logarithm. */
export const NATS = 16;

const unpacked = (hex: string): Uint8Array =>
  Uint8Array.from({ length: hex.length / 2 }, (_unused, at) => parseInt(hex.slice(2 * at, 2 * at + 2), 16));

const heard = unpacked(HEARD);
const missed = unpacked(MISSED);
const extra = unpacked(EXTRA);
const after = unpacked(AFTER);
const alone = unpacked(ALONE);

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
const above = new Int32Array(LONGEST_STRETCH + 1);
const below = new Int32Array(LONGEST_STRETCH + 1);
const starts = new Int32Array(LONGEST_STRETCH + 1);
const startsBelow = new Int32Array(LONGEST_STRETCH + 1);

/**
 * The stretch within some phones that were heard which the phones that are looked for were most likely said in. As `bestWithin`, but by
 * how likely a recogniser hears one phone for another (a log-odds alignment; R. Durbin and others, “Biological Sequence Analysis”,
 * Cambridge 1998, chapter 2; from memory).
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
  // As variables of its own they are read where they lie, not looked up for each phone.
  const [hear, more, follow, width] = [heard, extra, after, N];
  let before = above;
  let row = below;
  let beforeFrom = starts;
  let rowFrom = startsBelow;
  for (let j = 0; j <= length; j += 1) {
    before[j] = 0;
    beforeFrom[j] = j;
  }
  for (let i = 0; i < sought.length; i += 1) {
    const phone = sought[i] as number;
    const costs = phone * width;
    const skip = missed[phone] as number;
    let left = (before[0] as number) - skip;
    let leftFrom = beforeFrom[0] as number;
    row[0] = left;
    rowFrom[0] = leftFrom;
    let last = begins ? START : (sounds[from - 1] as number);
    for (let j = 0; j < length; j += 1) {
      const other = sounds[from + j] as number;
      const seldom = follow[last * width + other] as number;
      last = other;
      let odds = (before[j] as number) + seldom - (hear[costs + other] as number);
      let start = beforeFrom[j] as number;
      const out = (before[j + 1] as number) - skip;
      if (out > odds) {
        odds = out;
        start = beforeFrom[j + 1] as number;
      }
      const put = left + seldom - (more[other] as number);
      if (put > odds) {
        odds = put;
        start = leftFrom;
      }
      row[j + 1] = left = odds;
      rowFrom[j + 1] = leftFrom = start;
    }
    const [lastRow, lastFrom] = [before, beforeFrom];
    before = row;
    beforeFrom = rowFrom;
    row = lastRow;
    rowFrom = lastFrom;
  }
  let best = 0;
  for (let j = 1; j <= length; j += 1) if ((before[j] as number) > (before[best] as number)) best = j;
  return { odds: before[best] as number, from: from + (beforeFrom[best] as number), to: from + best };
}
