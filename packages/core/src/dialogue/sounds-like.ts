import { COSTS, PHONES, SKIPS, type Phones } from './phones';

const ROW = PHONES.length;
/** Nothing that is looked for or heard in one piece has more sounds. */
const MOST_PHONES = 256;
/** No cost: more than any sum of them. */
export const NEVER = 0xffff;

/**
 * The smaller, and the larger, of two whole numbers without a jump: which of them it is cannot be foreseen, and each wrong guess costs a
 * dozen sums. They may be 2^30 apart.
 */
export const smaller = (a: number, b: number): number => {
  const less = (a - b) | 0;
  return (b + (less & (less >> 31))) | 0;
};
export const larger = (a: number, b: number): number => {
  const less = (a - b) | 0;
  return (a - (less & (less >> 31))) | 0;
};

/** Where some sounds lie within others, and what it costs. */
export interface Within {
  readonly cost: number;
  readonly from: number;
  /** The one after the last. */
  readonly to: number;
}

/** What a stretch costs, and where it begins, are in one number, so that the smaller of two takes its beginning along. */
const FROM_BITS = 9;
const FROM = (1 << FROM_BITS) - 1;
const above = new Int32Array(MOST_PHONES + 1);
const below = new Int32Array(MOST_PHONES + 1);
const puts = new Int32Array(MOST_PHONES);

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
  // As variables of its own they are read where they lie, not looked up for each phone.
  const all = COSTS;
  const skips = SKIPS;
  const width = ROW;
  const bits = FROM_BITS;
  const put = puts;
  for (let j = 0; j < length; j += 1) put[j] = (skips[text[j] as number] as number) << bits;
  let before = above;
  let row = below;
  for (let j = 0; j <= length; j += 1) before[j] = ((toBegin[j] as number) << bits) | j;
  for (let i = 0; i < sought.length; i += 1) {
    const phone = sought[i] as number;
    const costs = phone * width;
    const skip = (skips[phone] as number) << bits;
    let diagonal = before[0] as number;
    let left = (diagonal + skip) | 0;
    let least = left;
    row[0] = left;
    for (let j = 0; j < length; j += 1) {
      const over = before[j + 1] as number;
      const kept = (diagonal + ((all[costs + (text[j] as number)] as number) << bits)) | 0;
      left = smaller(smaller(kept, (over + skip) | 0), (left + (put[j] as number)) | 0);
      row[j + 1] = left;
      least = smaller(least, left);
      diagonal = over;
    }
    if (least >> bits > most) return null;
    const lastRow = before;
    before = row;
    row = lastRow;
  }
  let cost = NEVER;
  let to = -1;
  for (let j = 0; j <= length; j += 1) {
    const ended = ((before[j] as number) >> bits) + (toEnd[j] as number);
    if (ended > most || ended >= cost) continue;
    cost = ended;
    to = j;
  }
  return to < 0 ? null : { cost, from: (before[to] as number) & FROM, to };
}

/**
 * What it costs at least to have heard some sounds right beside a place, whatever comes after them. What was heard is put in from the
 * place on, a word at a time, until that cannot cost less any more.
 */
export class Beside {
  /** Before anything was heard. */
  private readonly first: Int32Array;
  private readonly row: Int32Array;
  private best = 0;
  private cap = 0;

  /** @param sought from the place on; where that goes back, the last first */
  constructor(private readonly sought: Phones) {
    this.first = new Int32Array(sought.length + 1);
    for (const [j, phone] of sought.entries()) this.first[j + 1] = (this.first[j] as number) + (SKIPS[phone] as number);
    this.row = this.first.slice();
  }

  /** @param cap what costs more is of no use */
  begin(cap: number): void {
    this.row.set(this.first);
    this.best = this.first[this.sought.length] as number;
    this.cap = cap;
  }

  /** As of what was put in. */
  get cost(): number {
    return this.best;
  }

  /**
   * Puts in the sounds from one to another, in steps of 1 or -1.
   * @returns false once nothing more is needed
   */
  add(sounds: Phones, from: number, to: number, step: 1 | -1): boolean {
    // As variables of their own they are read where they lie, not looked up for each phone.
    const { row, sought } = this;
    const all = COSTS;
    const skips = SKIPS;
    const length = sought.length;
    for (let at = from; at !== to; at += step) {
      const phone = sounds[at] as number;
      const costs = phone * ROW;
      const skip = skips[phone] as number;
      let diagonal = row[0] as number;
      let left = (diagonal + skip) | 0;
      let least = left;
      row[0] = left;
      for (let j = 0; j < length; j += 1) {
        const other = sought[j] as number;
        const over = row[j + 1] as number;
        const kept = (diagonal + (all[costs + other] as number)) | 0;
        left = smaller(smaller(kept, (over + skip) | 0), (left + (skips[other] as number)) | 0);
        row[j + 1] = left;
        least = smaller(least, left);
        diagonal = over;
      }
      this.best = smaller(this.best, left);
      if (least >= this.best || least > this.cap) return false;
    }
    return true;
  }
}
