import { addUp, eachGroup, type GroupColumn } from './add-up';
import { bitsFor, countBoth, hasBit, setBit, type Bits } from './bits';
import { isDense } from './doc-set';

/**
 * How long it takes, measured against one probe of a bit: to count a word of two sets of bits, to begin with a group, and to add up
 * one thing that a document says.
 */
const STEPS = { word: 0.4, group: 30, added: 1.2 } as const;

/**
 * The documents of each group of a column: bits of large ones, lists of small ones. Where much was found, counting the few groups
 * that are shown is sooner done than adding up everything.
 */
export class GroupLists {
  /** Documents of each group, those that are gone among them; at 0 those that say nothing. */
  private readonly totals: Uint32Array;
  /** Groups from 1, the largest first. */
  readonly bySize: Uint32Array;
  private readonly bits = new Map<number, Bits>();
  private readonly starts: Uint32Array;
  private readonly docs: Uint32Array;
  /** Steps to count the largest so many groups. */
  private readonly steps: Float64Array;
  private readonly said: number;

  constructor(
    column: GroupColumn,
    private readonly groups: number,
    private readonly universe: number,
  ) {
    this.totals = new Uint32Array(groups + 1);
    addUp(column, null, this.totals);
    const { totals } = this;
    this.bySize = Uint32Array.from({ length: groups }, (_unused, at) => at + 1).sort(
      (a, b) => (totals[b] as number) - (totals[a] as number) || a - b,
    );
    this.starts = new Uint32Array(groups + 2);
    for (let group = 0; group <= groups; group += 1) {
      const total = totals[group] as number;
      const dense = group === 0 || isDense(total, universe);
      if (dense) this.bits.set(group, bitsFor(universe));
      this.starts[group + 1] = (this.starts[group] as number) + (dense ? 0 : total);
    }
    this.docs = new Uint32Array(this.starts[groups + 1] as number);
    const next = this.starts.slice();
    const bitsAt = Array.from({ length: groups + 1 }, (_unused, group) => this.bits.get(group) ?? null);
    eachGroup(column, null, (doc, group) => {
      const bits = bitsAt[group];
      if (bits) setBit(bits, doc);
      else {
        const at = next[group] as number;
        this.docs[at] = doc;
        next[group] = at + 1;
      }
    });
    this.steps = new Float64Array(groups + 1);
    this.bySize.forEach((group, at) => {
      const own = STEPS.group + (bitsAt[group] ? (universe / 32) * STEPS.word : (totals[group] as number));
      this.steps[at + 1] = (this.steps[at] as number) + own;
    });
    this.said = totals.reduce((sum, total) => sum + total, 0);
  }

  /** No more than this of a group can be found. */
  most(group: number): number {
    return this.totals[group] as number;
  }

  count(found: Bits, group: number): number {
    const bits = this.bits.get(group);
    if (bits) return countBoth(found, bits);
    // Taken out of the loop, which is a third quicker by it.
    const { docs } = this;
    const end = this.starts[group + 1] as number;
    let count = 0;
    for (let at = this.starts[group] as number; at < end; at += 1) {
      const doc = docs[at] as number;
      count += ((found[doc >>> 5] as number) >>> (doc & 31)) & 1;
    }
    return count;
  }

  has(found: Bits, group: number): boolean {
    const bits = this.bits.get(group);
    if (bits) return bits.some((word, at) => (word & (found[at] as number)) !== 0);
    const end = this.starts[group + 1] as number;
    for (let at = this.starts[group] as number; at < end; at += 1)
      if (hasBit(found, this.docs[at] as number)) return true;
    return false;
  }

  /** Whether the largest `limit` of what was found are sooner counted here than by adding up all of it. */
  isSooner(found: number, limit: number): boolean {
    const last = this.bySize[Math.min(limit, this.groups) - 1];
    if (last === undefined) return true;
    // If groups are found as often as everything is, all that could still be among the largest is at least this large.
    const least = (this.most(last) * found) / this.universe;
    let [low, high] = [0, this.groups];
    while (low < high) {
      const middle = (low + high) >>> 1;
      if (this.most(this.bySize[middle] as number) >= least) low = middle + 1;
      else high = middle;
    }
    return (this.steps[low] as number) < (found / this.universe) * this.said * STEPS.added;
  }
}
