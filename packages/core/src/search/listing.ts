import { holds, ofList, without } from './doc-set';
import type { RegisteredField } from '../fields';
import type { Group } from './grouping';
import type { Tally } from './tally';
import { windowOf, type Found, type Order } from './window';

/** What a list is cut into groups by. */
interface Grouping {
  readonly tally: Tally;
  readonly field: RegisteredField;
}

interface ListWindow {
  /** Places of the whole list. */
  readonly total: number;
  readonly groups: readonly Group[] | null;
  readonly ids: readonly number[];
}

/** A list of what was found, in an order, perhaps in groups. */
export class Listing {
  /** @param byHand assets in an order of their own; what is not among them comes after */
  constructor(
    private readonly found: readonly Found[],
    private readonly assets: number,
    private readonly order: Order,
    private readonly byHand: readonly number[] | undefined,
    private readonly grouping: Grouping | null,
  ) {}

  window(offset: number, limit: number): ListWindow {
    if (this.grouping) return this.inGroups(this.grouping, offset, limit);
    return { total: this.assets, groups: null, ids: this.inOrder(this.found, offset, limit) };
  }

  /** The nearest place from one on, or before it, of an asset that is one of those; null if there is none. */
  nearest(from: number, backwards: boolean, isOne: (id: number) => boolean): number | null {
    if (!backwards) {
      const at = this.window(from, Infinity).ids.findIndex(isOne);
      return at < 0 ? null : from + at;
    }
    const at = this.window(0, Math.max(0, from)).ids.findLastIndex(isOne);
    return at < 0 ? null : at;
  }

  private inGroups({ tally, field }: Grouping, offset: number, limit: number): ListWindow {
    const all = tally.groups(this.found, field).all();
    const shown: { readonly at: number; readonly from: number; readonly to: number }[] = [];
    let total = 0;
    all.forEach(({ count }, at) => {
      const [from, to] = [Math.max(0, offset - total), Math.min(count, offset + limit - total)];
      if (from < to) shown.push({ at, from, to });
      total += count;
    });
    const members = tally.members(
      this.found,
      field,
      shown.map(({ at }) => (all[at] as (typeof all)[number]).key),
    );
    const ids = shown.flatMap(({ from, to }, index) => this.inOrder(members[index] ?? [], from, to - from));
    return { total, groups: all.map(({ key: { label, test }, count }) => ({ label, test, count })), ids };
  }

  /** A window of what was found; first what is in an order of its own, then the rest. */
  private inOrder(found: readonly Found[], offset: number, limit: number): number[] {
    const { byHand, order } = this;
    if (!byHand || byHand.length === 0) return windowOf(found, order, offset, limit);
    const placed = found.map(() => [] as number[]);
    const first = [...new Set(byHand)].filter((id) =>
      found.some(({ part, set }, at) => {
        const doc = part.docOf(id);
        if (doc < 0 || !holds(set, doc)) return false;
        placed[at]?.push(doc);
        return true;
      }),
    );
    const rest = found.map(({ part, set }, at) => ({
      part,
      set: without(set, ofList(Uint32Array.from(placed[at] as number[]).sort())),
    }));
    const front = first.slice(offset, offset + limit);
    return front.length === limit
      ? front
      : [...front, ...windowOf(rest, order, Math.max(0, offset - first.length), limit - front.length)];
  }
}
