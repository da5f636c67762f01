import { LRUCache } from 'lru-cache';
import type { FieldId, RegisteredField } from '../fields';
import { sameTest, type FieldTest } from '../query';
import type { Bits } from './bits';
import { countOf, everyDoc, listOf, ofList, without, type DocSet } from './doc-set';
import { firstNot } from './first-not';
import type { GroupLists } from './group-lists';
import { Grouped, groupedDataOf } from './grouped';
import { byGroup, groupsOf, NO_GROUP, sameGroup, STEPS, type Group, type GroupKey } from './grouping';
import type { Part } from './part';
import { addUp, eachGroup } from './add-up';
import { placeIn } from './column-draft';
import { placeOf } from './merge-columns';
import type { Column } from './segment';
import { valueKey } from './sort-key';
import type { Found } from './window';

const MOST_KEYS = 10_000;
/** There are seldom more parts. */
const LEFT_KEPT = 16;
const NOT_THERE = 0xffff_ffff;

/** What parts say in a field in groups, worked out once for each part. */
export class Tally {
  private readonly grouped = new WeakMap<Part, Map<FieldId, Grouped>>();
  /** What was left out of what was found of each part; the facets of an answer all ask for the same. */
  private readonly left = new LRUCache<DocSet, DocSet>({ max: LEFT_KEPT });
  private readonly places = new WeakMap<Part, { readonly base: Part; readonly byField: Map<FieldId, Uint32Array> }>();

  /**
   * What is said in the field by what was found, group by group; what says nothing is a group too.
   * @param shown how many groups will be asked for; without it all are counted
   */
  groups(found: readonly Found[], field: RegisteredField, shown = Infinity): Counted {
    const [base, ...others] = found.toSorted((a, b) => b.part.data.ids.length - a.part.data.ids.length);
    if (!base) return new Counted(field, null, []);
    const grouped = this.groupedIn(base.part, field);
    const of = this.baseCounts(base, field, shown);
    const beside = new Map<string, CountedGroup>();
    for (const each of others) {
      const grouped = this.groupedIn(each.part, field);
      const places = this.placesIn(base.part, each.part, field);
      this.eachCount(each, field, (group, count) => {
        const there = places[group] as number;
        if (there !== NOT_THERE) of.counts[there] = (of.counts[there] as number) + count;
        else {
          const key = keyOf(each.part, field, grouped, group);
          beside.set(nameOf(key), { key, count: count + (beside.get(nameOf(key))?.count ?? 0) });
        }
      });
    }
    return new Counted(field, { part: base.part, grouped, of }, [...beside.values()]);
  }

  /** For each group of a part its number in the largest one. */
  private placesIn(base: Part, part: Part, field: RegisteredField): Uint32Array {
    const known = this.places.get(part);
    const byField = known?.base === base ? known.byField : new Map<FieldId, Uint32Array>();
    if (known?.base !== base) this.places.set(part, { base, byField });
    let places = byField.get(field.id);
    if (!places) {
      const grouped = this.groupedIn(part, field);
      const known = this.groupedIn(base, field).byText(() => namesIn(base, field, this.groupedIn(base, field)));
      places = Uint32Array.from({ length: grouped.count + 1 }, (_unused, group) => {
        if (group === 0) return 0;
        // Mostly the same is said as elsewhere, letter by letter.
        const same = known?.get(String(valueOf(part, field, grouped, group)));
        return same ?? this.groupOf(base, field, keyOf(part, field, grouped, group)) ?? NOT_THERE;
      });
      byField.set(field.id, places);
    }
    return places;
  }

  private baseCounts(base: Found, field: RegisteredField, shown: number): BaseCounts {
    const { part, set } = base;
    const { lists } = this.groupedIn(part, field);
    const mayBeListed = set.bits && lists && shown < Infinity && !isMost(base);
    if (mayBeListed && (isOrdered(field) || lists.isSooner(countOf(set), shown)))
      return { counts: new Uint32Array(lists.bySize.length + 1), lists, found: set.bits };
    return { counts: this.count(base, field), lists: null, found: null };
  }

  /** Each group that is said, with how often: what was found may be little, and groups many. */
  private eachCount(found: Found, field: RegisteredField, visit: (group: number, count: number) => void): void {
    const { part, set } = found;
    if (countOf(set) === 0) return;
    const { column, count: groups } = this.groupedIn(part, field);
    if (!set.list || set.list.length * 8 > groups || !part.finder.column(field.id)) {
      const counts = this.count(found, field);
      for (let group = 0; group < counts.length; group += 1)
        if (counts[group] !== 0) visit(group, counts[group] as number);
      return;
    }
    const few = new Map<number, number>();
    eachGroup(column, set.list, (_doc, group) => few.set(group, (few.get(group) ?? 0) + 1));
    few.forEach((count, group) => visit(group, count));
  }

  /** By the number of its group, how many of a part's documents say it; at 0 those that say nothing. */
  private count(found: Found, field: RegisteredField): Uint32Array {
    const { part, set } = found;
    const grouped = this.groupedIn(part, field);
    if (!part.finder.column(field.id)) return Uint32Array.of(countOf(set));
    if (!isMost(found)) return countsOf(found, grouped);
    const counts = grouped.totals.slice();
    const left = countsOf({ part, set: this.leftOut(found) }, grouped);
    for (let group = 0; group < counts.length; group += 1)
      counts[group] = (counts[group] as number) - (left[group] as number);
    return counts;
  }

  /** What of a part was not found, and what is gone. */
  private leftOut({ part, set }: Found): DocSet {
    let left = this.left.get(set);
    if (!left) this.left.set(set, (left = without(everyDoc(part.data.ids.length), set)));
    return left;
  }

  /** Fields whose groups were asked for in a part. */
  askedIn(part: Part): readonly FieldId[] {
    return [...(this.grouped.get(part)?.keys() ?? [])];
  }

  groupedIn(part: Part, field: RegisteredField): Grouped {
    const known = this.grouped.get(part) ?? new Map<FieldId, Grouped>();
    this.grouped.set(part, known);
    let grouped = known.get(field.id);
    if (!grouped) {
      const column = part.finder.column(field.id);
      const documents = part.data.ids.length;
      const data = column ? (part.data.grouped[field.id] ?? groupedDataOf(column, field.type, documents)) : null;
      known.set(field.id, (grouped = new Grouped(column, data, documents, part.kernel)));
    }
    return grouped;
  }

  /** The number of a group in a part; null if nothing of it is said there. */
  private groupOf(part: Part, field: RegisteredField, key: GroupKey): number | null {
    if (key === NO_GROUP) return 0;
    const grouped = this.groupedIn(part, field);
    const numeric = part.finder.column(field.id)?.kind === 'numbers';
    const isBefore = (group: number): boolean => {
      const there = valueOf(part, field, grouped, group);
      if (typeof there === 'number') return there < key.rank && !sameGroup(field, there, key.rank);
      return keyOf(part, field, grouped, group).key < key.key;
    };
    const at = firstNot(isBefore, 1, grouped.count + 1);
    if (at > grouped.count) return null;
    const isIt = numeric
      ? sameGroup(field, valueOf(part, field, grouped, at) as number, key.rank)
      : nameOf(keyOf(part, field, grouped, at)) === nameOf(key);
    return isIt ? at : null;
  }

  /** What is said most in a field, letter by letter; of equal ones what stands first in order. Numbers as their digits. */
  mostSaid(found: readonly Found[], field: RegisteredField, limit: number): { value: string; count: number }[] {
    const [base, ...others] = found.toSorted((a, b) => b.part.data.ids.length - a.part.data.ids.length);
    const column = base?.part.finder.column(field.id);
    const beside = new Map<string | number, number>();
    for (const { part, set } of others) {
      const own = part.finder.column(field.id);
      if (!own) continue;
      for (const { number, count } of counted(own, set)) {
        const value = valueIn(part, own, field.id, number);
        beside.set(value, (beside.get(value) ?? 0) + count);
      }
    }
    const top = new Top(limit);
    if (base && column) {
      const counts = countsIn(column, base.set);
      for (const [value, count] of beside) {
        const number = numberIn(base.part, column, field, value);
        if (number === null) continue;
        counts[number + 1] = (counts[number + 1] as number) + count;
        beside.delete(value);
      }
      for (let number = 0; number + 1 < counts.length; number += 1)
        if (counts[number + 1] !== 0) top.take(number, counts[number + 1] as number);
    }
    const most = top.chosen.map(([number, count]) => ({
      value: valueIn((base as Found).part, column as Column, field.id, number),
      count,
    }));
    const place = (value: string | number) => (typeof value === 'number' ? value : valueKey(value, field.type));
    return [...most, ...Array.from(beside, ([value, count]) => ({ value, count }))]
      .sort((a, b) => {
        const [x, y] = [place(a.value), place(b.value)];
        return b.count - a.count || (x < y ? -1 : x > y ? 1 : a.value < b.value ? -1 : 1);
      })
      .slice(0, limit)
      .map(({ value, count }) => ({ value: String(value), count }));
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

/** Whether so much of a part was found that it is sooner told what was not. */
const isMost = ({ part, set }: Found): boolean =>
  set.bits !== null && (part.data.ids.length - countOf(set)) * 4 < part.data.ids.length;

/** By the number of its group, how many documents say it; at 0 those that say nothing. */
function countsOf({ part, set }: Found, { column, count }: Grouped): Uint32Array {
  if (set.bits && part.kernel) return part.kernel.addUp(column, set.bits, count);
  const counts = new Uint32Array(count + 1);
  addUp(column, listOf(set), counts);
  return counts;
}

/** How often each value is said, by one more than its number. */
function countsIn(column: Column, set: DocSet): Uint32Array {
  const values = column.kind === 'numbers' ? column.values.length : column.textStarts.length - 1;
  const counts = new Uint32Array(values + 1);
  addUp(column, listOf(set), counts);
  return counts;
}

/** The values that are said, by their numbers. */
const counted = (column: Column, set: DocSet): { readonly number: number; readonly count: number }[] =>
  Array.from(countsIn(column, set).subarray(1), (count, number) => ({ number, count })).filter(
    ({ count }) => count > 0,
  );

const valueIn = (part: Part, column: Column, field: FieldId, number: number): string | number =>
  column.kind === 'numbers' ? (column.values[number] as number) : part.finder.textsOf(field).at(number);

/** The number of a value; null if nobody says it. */
function numberIn(part: Part, column: Column, { id, type }: RegisteredField, value: string | number): number | null {
  if (column.kind === 'numbers') {
    const at = placeIn(column.values, Number(value));
    return column.values[at] === value ? at : null;
  }
  const [texts, text] = [part.finder.textsOf(id), String(value)];
  const at = placeOf(texts, valueKey(text, type), text, 0, type);
  return at < texts.length && texts.at(at) === text ? at : null;
}

const nameOf = ({ rank, key }: GroupKey): string => `${rank} ${key}`;

const firstOf = ({ firsts }: Grouped, group: number): number => (firsts ? (firsts[group - 1] as number) : group - 1);

/** Groups by what they are called, where they are words and few enough to be kept so. */
function namesIn(part: Part, field: RegisteredField, grouped: Grouped): ReadonlyMap<string, number> | null {
  if (part.finder.column(field.id)?.kind !== 'texts' || grouped.count > MOST_KEYS) return null;
  return new Map(
    Array.from({ length: grouped.count }, (_unused, at) => [String(valueOf(part, field, grouped, at + 1)), at + 1]),
  );
}

/** The value that a group is called by. */
function valueOf(part: Part, { id }: { readonly id: FieldId }, grouped: Grouped, group: number): number | string {
  return valueIn(part, part.finder.column(id) as Column, id, firstOf(grouped, group));
}

function keyOf(part: Part, field: RegisteredField, grouped: Grouped, group: number): GroupKey {
  let key = grouped.keys.get(group);
  if (!key) {
    [key = NO_GROUP] = groupsOf(field, valueOf(part, field, grouped, group));
    if (grouped.keys.size < MOST_KEYS) grouped.keys.set(group, key);
  }
  return key;
}

/**
 * By groups of the largest part, how often they are said; where there are `lists`, only by smaller parts, and what the largest says is
 * counted as it is asked for.
 */
type BaseCounts =
  | { readonly counts: Uint32Array; readonly lists: null; readonly found: null }
  | { readonly counts: Uint32Array; readonly lists: GroupLists; readonly found: Bits };

interface CountedGroup {
  readonly key: GroupKey;
  readonly count: number;
}

/** Groups with how often each is said. */
export class Counted {
  constructor(
    private readonly field: RegisteredField,
    private readonly base: { readonly part: Part; readonly grouped: Grouped; readonly of: BaseCounts } | null,
    /** What smaller parts say that the largest does not. */
    private readonly beside: readonly CountedGroup[],
  ) {}

  /** How many groups the largest part has. */
  get groups(): number {
    return this.base?.grouped.count ?? 0;
  }

  private countAt(group: number): number {
    const of = this.base?.of;
    if (!of) return 0;
    return (of.counts[group] as number) + (of.lists?.count(of.found, group) ?? 0);
  }

  private isSaid(group: number): boolean {
    const of = this.base?.of;
    if (!of) return false;
    return of.counts[group] !== 0 || (of.lists?.has(of.found, group) ?? false);
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
    if (!lists) {
      for (let group = 1; group < counts.length; group += 1) {
        const count = counts[group] as number;
        if (count === 0) continue;
        found += 1;
        top.take(group, count);
      }
      return { chosen: top.chosen, found };
    }
    const mostMore = counts.reduce((most, count) => Math.max(most, count), 0);
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
