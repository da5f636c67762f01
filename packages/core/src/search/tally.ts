import type { FieldId, RegisteredField } from '../fields';
import { sameTest, type FieldTest } from '../query';
import type { Bits } from './bits';
import { countOf, listOf, ofList, type DocSet } from './doc-set';
import { GroupLists } from './group-lists';
import { byGroup, groupsOf, NO_GROUP, sameGroup, STEPS, type Group, type GroupKey } from './grouping';
import type { Part } from './part';
import { addUp, eachGroup, type GroupColumn } from './add-up';
import { sharedNarrow, type Column } from './segment';
import type { Found } from './window';

const MOST_KEYS = 10_000;
/** Fewer documents than this are added up sooner than anything is made of them. */
const FEW_DOCS = 4096;
/** So many groups in an order of their own are gone through one by one. */
const MOST_ORDERED = 20_000;

/** How what one column says is gathered into groups, in the order of their keys. */
interface Grouped {
  readonly count: number;
  /** The first value of each group, which it is called by; null where each value is a group. */
  readonly firsts: Uint32Array | null;
  readonly column: GroupColumn;
  /** Keys that were read, by their groups: the same few are shown again and again. */
  readonly keys: Map<number, GroupKey>;
}

/** What parts say in a field in groups, worked out once for each part. */
export class Tally {
  private readonly grouped = new WeakMap<Part, Map<FieldId, Grouped>>();
  private readonly lists = new WeakMap<Part, Map<FieldId, GroupLists>>();
  private readonly totals = new WeakMap<Part, Map<FieldId, Uint32Array>>();

  /**
   * What is said in the field by what was found, group by group; what says nothing is a group too.
   * @param shown how many groups will be asked for; without it all are counted
   */
  groups(found: readonly Found[], field: RegisteredField, shown = Infinity): Counted {
    const [base, ...others] = found.toSorted((a, b) => b.part.data.ids.length - a.part.data.ids.length);
    if (!base) return new Counted(field, null, new Map(), []);
    const more = new Map<number, number>();
    const beside = new Map<string, CountedGroup>();
    for (const each of others) {
      const grouped = this.groupedIn(each.part, field);
      this.count(each, field).forEach((count, group) => {
        if (count === 0) return;
        const key = group === 0 ? NO_GROUP : keyOf(each.part, field, grouped, group);
        const there = this.groupOf(base.part, field, key);
        if (there !== null) more.set(there, (more.get(there) ?? 0) + count);
        else beside.set(nameOf(key), { key, count: count + (beside.get(nameOf(key))?.count ?? 0) });
      });
    }
    const of = this.baseCounts(base, field, shown);
    const { counts } = of;
    if (counts) {
      more.forEach((count, group) => (counts[group] = (counts[group] as number) + count));
      more.clear();
    }
    return new Counted(field, { part: base.part, grouped: this.groupedIn(base.part, field), of }, more, [
      ...beside.values(),
    ]);
  }

  private baseCounts(base: Found, field: RegisteredField, shown: number): BaseCounts {
    const { part, set } = base;
    const total = part.data.ids.length;
    const grouped = this.groupedIn(part, field);
    if (set.bits && total > FEW_DOCS && shown < Infinity && part.finder.column(field.id)) {
      const lists = this.listsIn(part, field.id, grouped);
      const few = isOrdered(field) ? grouped.count < MOST_ORDERED : lists.isSooner(countOf(set), shown);
      if (few) return { counts: null, lists, found: set.bits };
    }
    return { counts: this.count(base, field), lists: null, found: null };
  }

  private listsIn(part: Part, field: FieldId, grouped: Grouped): GroupLists {
    const known = this.lists.get(part) ?? new Map<FieldId, GroupLists>();
    this.lists.set(part, known);
    let lists = known.get(field);
    if (!lists) known.set(field, (lists = new GroupLists(grouped.column, grouped.count, part.data.ids.length)));
    return lists;
  }

  /** By the number of its group, how many of a part's documents say it; at 0 those that say nothing. */
  private count({ part, set }: Found, field: RegisteredField): Uint32Array {
    const grouped = this.groupedIn(part, field);
    const total = part.data.ids.length;
    const found = countOf(set);
    if (!part.finder.column(field.id)) return Uint32Array.of(found);
    if (set.bits && found * 2 > total && total > FEW_DOCS) {
      // Of most it is shorter to count the rest.
      const counts = this.totalsIn(part, field.id, grouped).slice();
      const rest = new Uint32Array(grouped.count + 1);
      addUp(grouped.column, complement(set.bits, total, total - found), rest);
      for (let group = 0; group < counts.length; group += 1)
        counts[group] = (counts[group] as number) - (rest[group] as number);
      return counts;
    }
    const counts = new Uint32Array(grouped.count + 1);
    addUp(grouped.column, listOf(set), counts);
    return counts;
  }

  private totalsIn(part: Part, field: FieldId, grouped: Grouped): Uint32Array {
    const known = this.totals.get(part) ?? new Map<FieldId, Uint32Array>();
    this.totals.set(part, known);
    let totals = known.get(field);
    if (!totals) {
      totals = new Uint32Array(grouped.count + 1);
      addUp(grouped.column, null, totals);
      known.set(field, totals);
    }
    return totals;
  }

  groupedIn(part: Part, field: RegisteredField): Grouped {
    const known = this.grouped.get(part) ?? new Map<FieldId, Grouped>();
    this.grouped.set(part, known);
    let grouped = known.get(field.id);
    if (!grouped) known.set(field.id, (grouped = groupedOf(part.finder.column(field.id), field, part.data.ids.length)));
    return grouped;
  }

  /** The number of a group in a part; null if nothing of it is said there. */
  private groupOf(part: Part, field: RegisteredField, key: GroupKey): number | null {
    if (key === NO_GROUP) return 0;
    const grouped = this.groupedIn(part, field);
    const isBefore = (group: number): boolean => {
      const there = valueOf(part, field, grouped, group);
      if (typeof there === 'number') return there < key.rank && !sameGroup(field, there, key.rank);
      return keyOf(part, field, grouped, group).key < key.key;
    };
    const at = firstNot(isBefore, 1, grouped.count + 1);
    return at <= grouped.count && nameOf(keyOf(part, field, grouped, at)) === nameOf(key) ? at : null;
  }

  /** Each thing that is said in a field of words, and how often; numbers as their digits. */
  values({ part, set }: Found, field: FieldId): { readonly value: string; readonly count: number }[] {
    const column = part.finder.column(field);
    if (!column) return [];
    const texts = part.finder.textsOf(field);
    return counted(column, set).map(({ number, count }) => ({
      value: column.kind === 'numbers' ? String(column.values[number]) : texts.at(number),
      count,
    }));
  }

  /** Each number that is said in a field, and how often. */
  numbers({ part, set }: Found, field: FieldId): { readonly value: number; readonly count: number }[] {
    const column = part.finder.column(field);
    if (column?.kind !== 'numbers') return [];
    return counted(column, set).map(({ number, count }) => ({ value: column.values[number] as number, count }));
  }

  /** Of what was found, what stands in each of some groups. */
  members(found: readonly Found[], field: RegisteredField, keys: readonly GroupKey[]): Found[][] {
    const out: Found[][] = keys.map(() => []);
    for (const { part, set } of found) {
      const wanted = new Map<number, number>();
      keys.forEach((key, index) => {
        const group = this.groupOf(part, field, key);
        if (group !== null) wanted.set(group, index);
      });
      if (wanted.size === 0) continue;
      const lists: number[][] = keys.map(() => []);
      eachGroup(this.groupedIn(part, field).column, listOf(set), (doc, group) => {
        const index = wanted.get(group);
        if (index !== undefined) lists[index]?.push(doc);
      });
      lists.forEach((list, index) => {
        if (list.length > 0) out[index]?.push({ part, set: ofList(Uint32Array.from(list)) });
      });
    }
    return out;
  }
}

/** How often each value is said, by its number. */
function counted(column: Column, set: DocSet): { readonly number: number; readonly count: number }[] {
  const values = column.kind === 'numbers' ? column.values.length : column.textStarts.length - 1;
  const counts = new Uint32Array(values + 1);
  addUp(column, listOf(set), counts);
  return Array.from(counts.subarray(1), (count, number) => ({ number, count })).filter(({ count }) => count > 0);
}

/** The first number from `low` up to `high` of which something no longer holds. */
function firstNot(holds: (at: number) => boolean, low: number, high: number): number {
  while (low < high) {
    const middle = (low + high) >>> 1;
    if (holds(middle)) low = middle + 1;
    else high = middle;
  }
  return low;
}

const nameOf = ({ rank, key }: GroupKey): string => `${rank} ${key}`;

function groupedOf(column: Column | undefined, field: RegisteredField, documents: number): Grouped {
  if (!column)
    return {
      count: 0,
      firsts: null,
      column: { numbers: new Uint8Array(documents), starts: null, items: null },
      keys: new Map(),
    };
  if (column.kind === 'texts') {
    const { groups } = column;
    return groups
      ? regrouped(column, groups.length, (at) => groups[at] === groups[at - 1])
      : { count: column.textStarts.length - 1, firsts: null, column, keys: new Map() };
  }
  const { values } = column;
  return regrouped(column, values.length, (at) => sameGroup(field, values[at - 1] as number, values[at] as number));
}

/** A column of groups made of a column of values, so that counting is one step for each document. */
function regrouped(column: GroupColumn, values: number, isLikeLast: (at: number) => boolean): Grouped {
  const of = new Uint32Array(values);
  const firsts = new Uint32Array(values);
  let count = 0;
  for (let at = 0; at < values; at += 1) {
    if (at === 0 || !isLikeLast(at)) firsts[count++] = at;
    of[at] = count;
  }
  if (count === values) return { count, firsts: null, column, keys: new Map() };
  const found = { count, firsts: firsts.slice(0, count), keys: new Map<number, GroupKey>() };
  if (column.starts) {
    const items = sharedNarrow(column.items.length, count - 1);
    column.items.forEach((item, at) => (items[at] = (of[item] as number) - 1));
    return { ...found, column: { numbers: null, starts: column.starts, items } };
  }
  const numbers = sharedNarrow(column.numbers.length, count);
  column.numbers.forEach((number, doc) => (numbers[doc] = number === 0 ? 0 : (of[number - 1] as number)));
  return { ...found, column: { numbers, starts: null, items: null } };
}

const firstOf = ({ firsts }: Grouped, group: number): number => (firsts ? (firsts[group - 1] as number) : group - 1);

/** The value that a group is called by. */
function valueOf(part: Part, { id }: { readonly id: FieldId }, grouped: Grouped, group: number): number | string {
  const column = part.finder.column(id) as Column;
  const first = firstOf(grouped, group);
  return column.kind === 'numbers' ? (column.values[first] as number) : part.finder.textsOf(id).at(first);
}

function keyOf(part: Part, field: RegisteredField, grouped: Grouped, group: number): GroupKey {
  let key = grouped.keys.get(group);
  if (!key) {
    [key = NO_GROUP] = groupsOf(field, valueOf(part, field, grouped, group));
    if (grouped.keys.size < MOST_KEYS) grouped.keys.set(group, key);
  }
  return key;
}

function complement(bits: Uint32Array, universe: number, count: number): Uint32Array {
  const out = new Uint32Array(count);
  let n = 0;
  for (let i = 0; i < bits.length; i += 1) {
    let word = ~(bits[i] as number);
    if (i === bits.length - 1 && universe & 31) word &= (1 << (universe & 31)) - 1;
    for (; word !== 0; word &= word - 1) out[n++] = (i << 5) + 31 - Math.clz32(word & -word);
  }
  return out;
}

/** What was counted of the largest part, all of it or as it is asked for. */
type BaseCounts =
  | { readonly counts: Uint32Array; readonly lists: null; readonly found: null }
  | { readonly counts: null; readonly lists: GroupLists; readonly found: Bits };

interface CountedGroup {
  readonly key: GroupKey;
  readonly count: number;
}

/** Groups with how often each is said. */
export class Counted {
  constructor(
    private readonly field: RegisteredField,
    private readonly base: { readonly part: Part; readonly grouped: Grouped; readonly of: BaseCounts } | null,
    /** What smaller parts say of the groups of the largest, where it is not in its counts, and of others. */
    private readonly more: ReadonlyMap<number, number>,
    private readonly beside: readonly CountedGroup[],
  ) {}

  private get groups(): number {
    return this.base?.grouped.count ?? 0;
  }

  private countAt(group: number): number {
    const of = this.base?.of;
    if (!of) return 0;
    if (of.counts) return of.counts[group] as number;
    return of.lists.count(of.found, group) + (this.more.get(group) ?? 0);
  }

  private isSaid(group: number): boolean {
    const of = this.base?.of;
    if (!of) return false;
    if (of.counts) return of.counts[group] !== 0;
    return this.more.has(group) || of.lists.has(of.found, group);
  }

  /** All of them in the order of a list that is cut into groups. */
  all(): CountedGroup[] {
    const all = [...this.beside];
    for (let group = 0; this.base && group <= this.groups; group += 1) {
      const count = this.countAt(group);
      if (count > 0) all.push({ key: this.keyAt(group), count });
    }
    return all.sort((a, b) => byGroup(a.key, b.key));
  }

  /**
   * The first of what was counted, and of the rest those that are asked for; beside them how many there are. What has an order of its
   * own stands in it, days with the newest first; all else with the most frequent first, and what says nothing last.
   */
  offered(limit: number, asked: readonly FieldTest[]): { readonly groups: Group[]; readonly more: number } {
    const { first, found } = this.first(limit);
    const before = orderIn(this.field);
    const beyond = asked.flatMap((test) => {
      const group = this.groupAsking(test);
      return group && !first.some(({ key }) => nameOf(key) === nameOf(group.key)) ? [group] : [];
    });
    const groups = [...first, ...beyond.sort(before)].map(({ key: { label, test }, count }) => ({
      label,
      test,
      count,
    }));
    return { groups, more: found - groups.length };
  }

  private first(limit: number): { readonly first: CountedGroup[]; readonly found: number } {
    const before = orderIn(this.field);
    const silent = this.base ? this.countAt(0) : 0;
    const { chosen, found } = isOrdered(this.field) ? this.firstInOrder(limit) : this.mostFrequent(limit);
    const all = chosen.map(([group, count]) => ({ key: this.keyAt(group), count }));
    if (silent > 0) all.push({ key: NO_GROUP, count: silent });
    const first = [...all, ...this.beside].sort(before).slice(0, limit);
    return { first, found: found + this.beside.length + (silent > 0 ? 1 : 0) };
  }

  /** Days from the newest on, as many as are shown; of choices and steps, which are few, all. */
  private firstInOrder(limit: number): { readonly chosen: [group: number, count: number][]; readonly found: number } {
    const most = this.field.type === 'dateMs' ? limit : Infinity;
    const chosen: [number, number][] = [];
    let found = 0;
    for (let group = this.groups; group > 0; group -= 1) {
      if (!this.isSaid(group)) continue;
      found += 1;
      if (chosen.length < most) chosen.push([group, this.countAt(group)]);
    }
    return { chosen, found };
  }

  private mostFrequent(limit: number): { readonly chosen: [group: number, count: number][]; readonly found: number } {
    const top = new Top(limit);
    let found = 0;
    const { counts, lists } = this.base?.of ?? { counts: new Uint32Array(0), lists: null };
    if (counts) {
      for (let group = 1; group < counts.length; group += 1) {
        const count = counts[group] as number;
        if (count === 0) continue;
        found += 1;
        top.take(group, count);
      }
      return { chosen: top.chosen, found };
    }
    const mostMore = [...this.more.values()].reduce((most, count) => Math.max(most, count), 0);
    for (const group of lists.bySize) {
      // Those that follow are no larger, and cannot be among the first.
      if (lists.most(group) + mostMore < top.least) {
        if (this.isSaid(group)) found += 1;
        continue;
      }
      const count = this.countAt(group);
      if (count === 0) continue;
      found += 1;
      top.take(group, count);
    }
    return { chosen: top.chosen, found };
  }

  private keyAt(group: number): GroupKey {
    const { part, grouped } = this.base as NonNullable<typeof this.base>;
    return group === 0 ? NO_GROUP : keyOf(part, this.field, grouped, group);
  }

  private groupAsking(test: FieldTest): CountedGroup | null {
    const beside = this.beside.find(({ key }) => key.test !== null && sameTest(key.test, test));
    if (beside) return beside;
    for (const group of this.candidatesFor(test)) {
      const count = this.countAt(group);
      if (count === 0) continue;
      const key = this.keyAt(group);
      if (key.test !== null && sameTest(key.test, test)) return { key, count };
    }
    return null;
  }

  /** Groups that a test could ask for, without reading all of them. */
  private candidatesFor(test: FieldTest): number[] {
    const { base } = this;
    if (!base) return [];
    if (test.op === 'presence') return [0];
    if (test.op === 'text' || test.op === 'whole') {
      const [wanted] = groupsOf(this.field, test.text);
      return this.around((group) => this.keyAt(group).key < (wanted?.key ?? ''));
    }
    if (test.op !== 'span') return [];
    const { from } = test;
    if (from === null) return this.groups > 0 ? [1] : [];
    return this.around((group) => (valueOf(base.part, this.field, base.grouped, group) as number) < from);
  }

  private around(isBefore: (group: number) => boolean): number[] {
    const low = firstNot(isBefore, 1, this.groups + 1);
    return [low, low - 1].filter((group) => group > 0 && group <= this.groups);
  }
}

/** The most frequent of what comes by; of equal ones the lower numbers, which stand first in the order of their keys. */
class Top {
  private readonly taken: [group: number, count: number][] = [];
  /** What is less frequent is none of them. */
  least = 0;

  constructor(private readonly limit: number) {}

  take(group: number, count: number): void {
    if (count < this.least) return;
    this.taken.push([group, count]);
    if (this.taken.length >= this.limit + 8) this.prune();
  }

  private prune(): void {
    this.taken.sort((a, b) => b[1] - a[1] || a[0] - b[0]);
    this.taken.length = Math.min(this.taken.length, this.limit);
    this.least = this.taken.length < this.limit ? 0 : (this.taken.at(-1)?.[1] ?? 0);
  }

  get chosen(): [group: number, count: number][] {
    this.prune();
    return this.taken;
  }
}

/** Fields whose groups have an order of their own. */
const isOrdered = ({ type, choices }: RegisteredField): boolean =>
  choices !== undefined || type in STEPS || type === 'dateMs';

function orderIn(field: RegisteredField) {
  return (a: CountedGroup, b: CountedGroup): number => {
    // What says nothing is no answer.
    if (a.key === NO_GROUP || b.key === NO_GROUP) return a.key === b.key ? 0 : a.key === NO_GROUP ? 1 : -1;
    if (field.type === 'dateMs') return byGroup(b.key, a.key);
    return (isOrdered(field) ? 0 : b.count - a.count) || byGroup(a.key, b.key);
  };
}
