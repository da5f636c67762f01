import { COSTS, PHONES, SKIPS, type Phones } from './phones';
import { NEVER, smaller } from './sounds-like';

/** The ways to say words, as many as come, one after the other. */
export interface Ways {
  readonly length: number;
  at(place: number): Phones;
}

/** How many may be looked through one by one before all are put in order again. */
const UNSORTED = 2000;
const ROW = PHONES.length;
/** Nothing is looked for, nor said as one word, with more sounds. */
export const MOST_SOUNDS = 255;

/** How what is sought and what is heard are put side by side. */
export interface Alignment {
  /** The word that is heard may begin and end anywhere in what is sought. */
  readonly within: boolean;
  /** The most that a word of so many sounds may cost; it never falls as they grow. */
  most(sounds: number): number;
  /** The most sounds that a word may have. */
  readonly longest: number;
}

/**
 * Ways to say words, in the order of their sounds, so that what begins alike is compared once: rows of the table of costs are kept for
 * the sounds that the next word begins with too, and words that begin too unlike are passed over together. A tenth of the time of
 * comparing each of 60,000.
 */
export class SoundTree {
  private order = new Uint32Array(0);
  /** With how many sounds of the one before each begins. */
  private alike = new Uint8Array(0);
  private rows = new Uint16Array(0);

  constructor(private readonly ways: Ways) {}

  /** Tells the cost of each way that costs no more than it may, from a place on in the order in which they came. */
  each(sought: Phones, alignment: Alignment, from: number, found: (at: number, cost: number) => void): void {
    if (sought.length > MOST_SOUNDS) return;
    const size = sought.length + 1;
    if (this.rows.length < size * (MOST_SOUNDS + 1)) this.rows = new Uint16Array(size * (MOST_SOUNDS + 1));
    for (let j = 0, cost = 0; j < size; j += 1) {
      this.rows[j] = alignment.within ? 0 : cost;
      if (j < sought.length) cost += SKIPS[sought[j] as number] as number;
    }
    // Of few that are new it is shorter to look at each.
    if (this.ways.length - from < UNSORTED) {
      for (let at = from; at < this.ways.length; at += 1) this.look(sought, alignment, at, 0, found);
      return;
    }
    this.sort();
    let cut = MOST_SOUNDS + 1;
    for (let n = 0; n < this.order.length; n += 1) {
      const alike = this.alike[n] as number;
      if (alike >= cut) continue;
      const at = this.order[n] as number;
      cut = this.look(sought, alignment, at, alike, at < from ? ignored : found);
    }
    for (let at = this.order.length; at < this.ways.length; at += 1)
      this.look(sought, alignment, at, 0, at < from ? ignored : found);
  }

  /** Compares one, of which rows are known up to `alike`; tells after how many sounds it was given up, if it was. */
  private look(
    sought: Phones,
    { longest, most, within }: Alignment,
    at: number,
    alike: number,
    found: (at: number, cost: number) => void,
  ): number {
    const { rows } = this;
    // As variables of its own they are read where they lie, not looked up for each phone.
    const all = COSTS;
    const skips = SKIPS;
    const width = ROW;
    const heard = this.ways.at(at);
    const length = heard.length;
    const size = sought.length + 1;
    const bound = most(longest);
    const upTo = length < longest ? length : longest;
    for (let i = alike; i < upTo; i += 1) {
      const phone = heard[i] as number;
      const costs = phone * width;
      const skip = skips[phone] as number;
      const above = i * size;
      const row = above + size;
      let diagonal = rows[above] as number;
      let left = diagonal + skip;
      let least = left;
      rows[row] = left;
      for (let j = 1; j < size; j += 1) {
        const other = sought[j - 1] as number;
        const over = rows[above + j] as number;
        const kept = diagonal + (all[costs + other] as number);
        left = smaller(smaller(kept, over + skip), left + (skips[other] as number));
        rows[row + j] = left;
        least = smaller(least, left);
        diagonal = over;
      }
      if (least > bound) return i + 1;
    }
    // What is longer than that is passed over with all that begins like it.
    if (length > longest) return longest + 1;
    const last = length * size;
    let cost = rows[last + size - 1] as number;
    if (within)
      for (let j = 0; j < size; j += 1) if ((rows[last + j] as number) < cost) cost = rows[last + j] as number;
    if (cost <= most(length) && cost !== NEVER) found(at, cost);
    return MOST_SOUNDS + 1;
  }

  private sort(): void {
    if (this.ways.length - this.order.length < UNSORTED && this.order.length > 0) return;
    const keys = Array.from({ length: this.ways.length }, (_unused, at) =>
      String.fromCharCode(...this.ways.at(at).map((phone) => phone + 1)),
    );
    const order = Uint32Array.from(keys.keys());
    order.sort((a, b) => {
      const [x, y] = [keys[a] as string, keys[b] as string];
      return x < y ? -1 : x > y ? 1 : 0;
    });
    this.alike = Uint8Array.from(order, (at, n) =>
      n === 0 ? 0 : beginsAlike(keys[order[n - 1] as number] as string, keys[at] as string),
    );
    this.order = order;
  }
}

const ignored = (): void => undefined;

function beginsAlike(a: string, b: string): number {
  let at = 0;
  while (at < a.length && at < b.length && a.charCodeAt(at) === b.charCodeAt(at)) at += 1;
  return at;
}
