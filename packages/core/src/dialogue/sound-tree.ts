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

/** Some ways, one behind the other, so that what begins alike is compared once. */
interface Order {
  /** Where they came. */
  readonly places: Uint32Array;
  /** With how many sounds of the one before each begins. */
  readonly alike: Uint8Array;
  /** All their sounds, and where those of each begin; one more for the end. */
  readonly sounds: Uint8Array;
  readonly starts: Uint32Array;
  /** For each the next that begins with fewer sounds alike than one, than two and so on up to `JUMPS`: those of all for one come first. */
  readonly jumps: Uint32Array;
}

/** What is given up after more sounds is mostly followed by few that begin like it. */
const JUMPS = 4;

/** What is sought, from the first sound on or from the last back. */
interface Side {
  readonly sought: Phones;
  /** Up to so many of what is sought may cost no more than `cap` together; -1 where that is not asked. */
  readonly half: number;
  readonly cap: number;
}

/** Set in a cost that is ruled out: more than any sum of them, and far from what 32 bits hold. */
const RULED_OUT = 1 << 20;

/**
 * Ways to say words, in the order of their sounds: rows of the table of costs are kept for the sounds that the next word begins with too,
 * and words that begin too unlike are passed over together. What is alike as a whole has one half in which it costs no more than half of
 * what it may: so one half is looked for from the front, the other from the back, and most words are passed over after two or three
 * sounds. A thirtieth of the time of comparing each of 60,000.
 */
export class SoundTree {
  private forwards = inOrder([], 0);
  private backwards = this.forwards;
  private rows = new Int32Array(0);

  constructor(private readonly ways: Ways) {}

  /**
   * Tells the cost of each way that costs no more than it may, from a place on in the order in which they came. One may be told twice:
   * the smaller cost is the right one.
   */
  each(sought: Phones, alignment: Alignment, from: number, found: (at: number, cost: number) => void): void {
    if (sought.length > MOST_SOUNDS) return;
    const size = sought.length + 1;
    if (this.rows.length < size * (MOST_SOUNDS + 1)) this.rows = new Int32Array(size * (MOST_SOUNDS + 1));
    const whole: Side = { sought, half: -1, cap: 0 };
    // Of few that are new it is shorter to look at each.
    const isSorted = this.ways.length - from >= UNSORTED;
    if (isSorted) this.sort();
    const since = isSorted ? this.forwards.places.length : from;
    this.through(inOrder(this.waysFrom(since), since), whole, alignment, found);
    if (!isSorted) return;
    const told = (at: number, cost: number): void => {
      if (at >= from) found(at, cost);
    };
    if (alignment.within) return this.through(this.forwards, whole, alignment, told);
    const half = sought.length >> 1;
    const cap = alignment.most(alignment.longest) >> 1;
    // What is heard besides, right between the halves, counts in neither: so the last of each half is not held to it.
    this.through(this.forwards, { sought, half: half - 1, cap }, alignment, told);
    const rest = alignment.most(alignment.longest) - cap - 1;
    const back: Side = { sought: sought.slice().reverse(), half: sought.length - half - 1, cap: rest };
    this.through(this.backwards, back, alignment, told);
  }

  private waysFrom(from: number): Phones[] {
    return Array.from({ length: this.ways.length - from }, (_unused, at) => this.ways.at(from + at));
  }

  /** The row before any sound. */
  private begin({ cap, half, sought }: Side, within: boolean): void {
    for (let j = 0, cost = 0; j <= sought.length; j += 1) {
      if (j <= half && cost > cap) cost |= RULED_OUT;
      this.rows[j] = within ? 0 : cost;
      if (j < sought.length) cost += SKIPS[sought[j] as number] as number;
    }
  }

  private through(order: Order, side: Side, alignment: Alignment, found: (at: number, cost: number) => void): void {
    const { longest, most, within } = alignment;
    this.begin(side, within);
    // As variables of its own they are read where they lie, not looked up for each phone.
    const { alike, jumps, places, sounds, starts } = order;
    const { cap, half, sought } = side;
    const { rows } = this;
    const all = COSTS;
    const skips = SKIPS;
    const width = ROW;
    const size = sought.length + 1;
    const bound = most(longest);
    const count = places.length;
    let n = 0;
    next: while (n < count) {
      const start = starts[n] as number;
      const length = (starts[n + 1] as number) - start;
      const upTo = length < longest ? length : longest;
      for (let i = alike[n] as number; i < upTo; i += 1) {
        const phone = sounds[start + i] as number;
        const costs = phone * width;
        const skip = skips[phone] as number;
        const above = i * size;
        const row = above + size;
        let diagonal = rows[above] as number;
        let left = (diagonal + skip) | 0;
        if (half >= 0 && left > cap) left |= RULED_OUT;
        let least = left;
        rows[row] = left;
        let j = 1;
        for (; j <= half; j += 1) {
          const other = sought[j - 1] as number;
          const over = rows[above + j] as number;
          const kept = (diagonal + (all[costs + other] as number)) | 0;
          left = smaller(smaller(kept, (over + skip) | 0), (left + (skips[other] as number)) | 0);
          left |= ((cap - left) >> 31) & RULED_OUT;
          rows[row + j] = left;
          least = smaller(least, left);
          diagonal = over;
        }
        for (; j < size; j += 1) {
          const other = sought[j - 1] as number;
          const over = rows[above + j] as number;
          const kept = (diagonal + (all[costs + other] as number)) | 0;
          left = smaller(smaller(kept, (over + skip) | 0), (left + (skips[other] as number)) | 0);
          rows[row + j] = left;
          least = smaller(least, left);
          diagonal = over;
        }
        if (least > bound) {
          n = nextBelow(n, i + 1, alike, jumps);
          continue next;
        }
      }
      if (length > longest) {
        // It is passed over with all that begins like it.
        n = nextBelow(n, longest + 1, alike, jumps);
        continue;
      }
      const last = length * size;
      let cost = rows[last + size - 1] as number;
      if (within) for (let j = 0; j < size; j += 1) cost = smaller(cost, rows[last + j] as number);
      if (cost <= most(length) && cost < NEVER) found(places[n] as number, cost);
      n += 1;
    }
  }

  private sort(): void {
    const known = this.forwards.places.length;
    if (this.ways.length - known < UNSORTED && known > 0) return;
    const ways = this.waysFrom(0);
    this.forwards = sorted(ways);
    this.backwards = sorted(ways.map((way) => way.slice().reverse()));
  }
}

/** The next behind one that begins with fewer sounds alike than so many. */
function nextBelow(n: number, sounds: number, alike: Uint8Array, jumps: Uint32Array): number {
  if (sounds <= JUMPS) return jumps[(sounds - 1) * alike.length + n] as number;
  let at = n + 1;
  while (at < alike.length && (alike[at] as number) >= sounds) at += 1;
  return at;
}

function sorted(ways: readonly Phones[]): Order {
  const keys = ways.map((way) => String.fromCharCode(...way.map((phone) => phone + 1)));
  const places = Uint32Array.from(keys.keys());
  places.sort((a, b) => {
    const [x, y] = [keys[a] as string, keys[b] as string];
    return x < y ? -1 : x > y ? 1 : 0;
  });
  const inTurn = Array.from(places, (at) => ways[at] as Phones);
  return { ...inOrder(inTurn, 0, beginsAlike), places };
}

/** Ways as they stand, which came from a place on. */
function inOrder(ways: readonly Phones[], from: number, alikeIn: (a: Phones, b: Phones) => number = () => 0): Order {
  const count = ways.length;
  const starts = new Uint32Array(count + 1);
  for (const [n, way] of ways.entries()) starts[n + 1] = (starts[n] as number) + way.length;
  const sounds = new Uint8Array(starts[count] as number);
  for (const [n, way] of ways.entries()) sounds.set(way, starts[n]);
  const alike = Uint8Array.from(ways, (way, n) => (n === 0 ? 0 : alikeIn(ways[n - 1] as Phones, way)));
  const jumps = new Uint32Array(JUMPS * count);
  for (let sought = 1; sought <= JUMPS; sought += 1)
    for (let n = count - 1, next = count; n >= 0; n -= 1) {
      jumps[(sought - 1) * count + n] = next;
      if ((alike[n] as number) < sought) next = n;
    }
  return { places: Uint32Array.from(ways, (_way, n) => from + n), alike, sounds, starts, jumps };
}

function beginsAlike(a: Phones, b: Phones): number {
  let at = 0;
  while (at < a.length && at < b.length && a[at] === b[at]) at += 1;
  return at;
}
