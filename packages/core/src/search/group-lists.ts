import { addUp, eachGroup, type GroupColumn } from './add-up';
import { bitsFor, countBoth, hasBit, setBit, type Bits } from './bits';
import { isDense } from './doc-set';
import { firstNot } from './first-not';
import type { Kernel } from './kernel';
import { asShared, sharedNumbers } from './segment';

/**
 * How long it takes, measured against one probe of a bit: to count a word of two sets of bits, to begin with a group, and to add up
 * one thing that a document says.
 */
const STEPS = { word: 0.1, group: 30, added: 1.2 } as const;

/** The documents of each group of a column, as they are kept: bits of large groups, lists of small ones. */
export interface ListsData {
  /** Documents of each group, those that are gone among them; at 0 those that say nothing. */
  readonly totals: Uint32Array;
  /** Groups from 1, the largest first. */
  readonly bySize: Uint32Array;
  /** Groups that have bits, ascending, and the bits one after the other; all others have a list. */
  readonly dense: Uint32Array;
  readonly bits: Bits;
  readonly starts: Uint32Array;
  readonly docs: Uint32Array;
}

export function listsOf(column: GroupColumn, groups: number, universe: number): ListsData {
  const totals = sharedNumbers(groups + 1);
  addUp(column, null, totals);
  const bySize = sharedNumbers(groups);
  bySize.set(
    Uint32Array.from({ length: groups }, (_unused, at) => at + 1).sort(
      (a, b) => (totals[b] as number) - (totals[a] as number) || a - b,
    ),
  );
  const dense = asShared(
    Array.from(totals.keys()).filter((group) => group === 0 || isDense(totals[group] as number, universe)),
  );
  const size = bitsFor(universe).length;
  const bits = sharedNumbers(dense.length * size);
  const bitsAt = new Array<Bits | undefined>(groups + 1);
  dense.forEach((group, at) => (bitsAt[group] = bits.subarray(at * size, (at + 1) * size)));
  const starts = sharedNumbers(groups + 2);
  for (let group = 0; group <= groups; group += 1)
    starts[group + 1] = (starts[group] as number) + (bitsAt[group] ? 0 : (totals[group] as number));
  const docs = sharedNumbers(starts[groups + 1] as number);
  const next = starts.slice();
  eachGroup(column, null, (doc, group) => {
    const own = bitsAt[group];
    if (own) return setBit(own, doc);
    const at = next[group] as number;
    docs[at] = doc;
    next[group] = at + 1;
  });
  return { totals, bySize, dense, bits, starts, docs };
}

/**
 * Counts groups one by one. Where much was found, counting the few groups that are shown is sooner done than adding up everything.
 */
export class GroupLists {
  readonly bySize: Uint32Array;
  private readonly totals: Uint32Array;
  private readonly bits = new Map<number, Bits>();
  private readonly starts: Uint32Array;
  private readonly docs: Uint32Array;
  /** Steps to count the largest so many groups. */
  private readonly steps: Float64Array;
  private readonly said: number;
  /** Addresses in the kernel. */
  private readonly bitsAt = new Map<number, number>();
  private readonly docsAt: number;

  constructor(
    { totals, bySize, dense, bits, starts, docs }: ListsData,
    private readonly universe: number,
    private readonly kernel: Kernel | null,
  ) {
    [this.totals, this.bySize, this.starts, this.docs] = [totals, bySize, starts, docs];
    const size = bitsFor(universe).length;
    const bitsAt = kernel?.place(bits) ?? 0;
    dense.forEach((group, at) => {
      this.bits.set(group, bits.subarray(at * size, (at + 1) * size));
      this.bitsAt.set(group, bitsAt + at * size * bits.BYTES_PER_ELEMENT);
    });
    this.docsAt = kernel?.place(docs) ?? 0;
    this.steps = new Float64Array(totals.length);
    bySize.forEach((group, at) => {
      const own = this.bits.has(group) ? (universe / 32) * STEPS.word : (totals[group] as number);
      this.steps[at + 1] = (this.steps[at] as number) + STEPS.group + own;
    });
    this.said = totals.reduce((sum, total) => sum + total, 0);
  }

  /** No more than this of a group can be found. */
  most(group: number): number {
    return this.totals[group] as number;
  }

  count(found: Bits, group: number): number {
    const bits = this.bits.get(group);
    const [from, to] = [this.starts[group] as number, this.starts[group + 1] as number];
    if (this.kernel)
      return bits
        ? this.kernel.countBoth(this.bitsAt.get(group) as number, found)
        : this.kernel.countList(this.docsAt + from * 4, this.docsAt + to * 4, found);
    if (bits) return countBoth(found, bits);
    // Taken out of the loop, which is a third quicker by it.
    const { docs } = this;
    let count = 0;
    for (let at = from; at < to; at += 1) {
      const doc = docs[at] as number;
      count += ((found[doc >>> 5] as number) >>> (doc & 31)) & 1;
    }
    return count;
  }

  has(found: Bits, group: number): boolean {
    const bits = this.bits.get(group);
    if (bits) return this.kernel ? this.count(found, group) > 0 : countBoth(found, bits) > 0;
    const [from, to] = [this.starts[group] as number, this.starts[group + 1] as number];
    if (this.kernel) return this.kernel.hasList(this.docsAt + from * 4, this.docsAt + to * 4, found);
    for (let at = from; at < to; at += 1) if (hasBit(found, this.docs[at] as number)) return true;
    return false;
  }

  /** Whether the largest `limit` of what was found are sooner counted here than by adding up all of it. */
  isSooner(found: number, limit: number): boolean {
    const last = this.bySize[Math.min(limit, this.bySize.length) - 1];
    if (last === undefined) return true;
    // If groups are found as often as everything is, all that could still be among the largest is at least this large.
    const least = (this.most(last) * found) / this.universe;
    const fits = (at: number): boolean => this.most(this.bySize[at] as number) >= least;
    const low = firstNot(fits, 0, this.bySize.length);
    return (this.steps[low] as number) < (found / this.universe) * this.said * STEPS.added;
  }
}
