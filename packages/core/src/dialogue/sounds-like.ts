import { COSTS, PHONES, SKIPS, type Phones } from './phones';

const ROW = PHONES.length;
/** Nothing that is looked for or heard in one piece has more sounds. */
const MOST_PHONES = 256;
const above = new Uint16Array(MOST_PHONES + 1);
const below = new Uint16Array(MOST_PHONES + 1);

/** No cost: more than any sum of them. */
export const NEVER = 0xffff;

/** Where some sounds lie within others, and what it costs. */
export interface Within {
  readonly cost: number;
  readonly from: number;
  /** The one after the last. */
  readonly to: number;
}

const starts = new Uint16Array(MOST_PHONES + 1);
const startsBelow = new Uint16Array(MOST_PHONES + 1);

/**
 * The stretch of `text` that `sought` is heard best in (after P. H. Sellers, “The theory and computation of evolutionary distances:
 * pattern recognition”, Journal of Algorithms 1, 1980). `toBegin` and `toEnd` say what it costs to begin or end at a place of `text`.
 */
export function bestWithin(
  sought: Phones,
  text: Phones,
  toBegin: Uint8Array,
  toEnd: Uint8Array,
  most: number,
): Within | null {
  const length = Math.min(text.length, MOST_PHONES);
  let before = above;
  let row = below;
  let from = starts;
  let fromRow = startsBelow;
  for (let j = 0; j <= length; j += 1) {
    before[j] = toBegin[j] as number;
    from[j] = j;
  }
  for (let i = 0; i < sought.length; i += 1) {
    const phone = sought[i] as number;
    const costs = phone * ROW;
    const skip = SKIPS[phone] as number;
    let left = (before[0] as number) + skip;
    let leftFrom = from[0] as number;
    let least = left;
    row[0] = left;
    fromRow[0] = leftFrom;
    for (let j = 0; j < length; j += 1) {
      const other = text[j] as number;
      let cost = (before[j] as number) + (COSTS[costs + other] as number);
      let start = from[j] as number;
      const out = (before[j + 1] as number) + skip;
      if (out < cost) {
        cost = out;
        start = from[j + 1] as number;
      }
      const put = left + (SKIPS[other] as number);
      if (put < cost) {
        cost = put;
        start = leftFrom;
      }
      row[j + 1] = left = cost;
      fromRow[j + 1] = leftFrom = start;
      if (cost < least) least = cost;
    }
    if (least > most) return null;
    const [lastRow, lastFrom] = [before, from];
    before = row;
    from = fromRow;
    row = lastRow;
    fromRow = lastFrom;
  }
  let cost = NEVER;
  let to = -1;
  for (let j = 0; j <= length; j += 1) {
    const ended = (before[j] as number) + (toEnd[j] as number);
    if (ended > most || ended >= cost) continue;
    cost = ended;
    to = j;
  }
  return to < 0 ? null : { cost, from: from[to] as number, to };
}
