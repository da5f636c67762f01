import type { Field, FieldValue } from '@larder/core/fields';
import { sameTest, type FieldTest } from '@larder/core/query';
import { byGroup, DAY_MS, groupsOf, NO_GROUP, STEPS, type Group, type GroupKey } from '../../src/search/grouping';
import type { Ordinals } from './postings';

/** In a document's place stands the number of its group, or with this bit where in the pool its several stand, their count first. */
const SEVERAL = 0x8000_0000;

/**
 * What documents say in one field, as numbers of groups: read once when it is first asked for, so that counting a list is adding up
 * numbers. Ordinals only ever grow, and what one says never changes.
 */
export class GroupColumn {
  private readonly groups: GroupKey[] = [];
  private readonly numbers = new Map<string, number>();
  /** Reading a value takes long beside counting it, and libraries say few different things. */
  private readonly known = new Map<string | number, number>();
  private column = new Uint32Array(1024);
  private filled = 0;
  private pool = new Uint32Array(1024);
  private pooled = 0;

  constructor(private readonly field: Field) {}

  /** Reads the documents that came since. */
  extend(to: number, valueAt: (ordinal: number) => FieldValue | undefined): void {
    if (to > this.column.length) this.column = grown(this.column, to);
    for (; this.filled < to; this.filled += 1) this.column[this.filled] = this.placeOf(valueAt(this.filled));
  }

  /** How many of the documents stand in each group, by its number. */
  count(hits: Ordinals): Uint32Array {
    const { column, pool } = this;
    const counts = new Uint32Array(this.groups.length);
    for (const ordinal of hits) {
      const place = column[ordinal] as number;
      if (place < SEVERAL) {
        counts[place] = (counts[place] as number) + 1;
        continue;
      }
      const at = place - SEVERAL;
      for (let last = at + (pool[at] as number), next = at + 1; next <= last; next += 1) {
        const group = pool[next] as number;
        counts[group] = (counts[group] as number) + 1;
      }
    }
    return counts;
  }

  /**
   * The first of what was counted, and of the rest those that are asked for; beside them how many there are. What has an order of its
   * own stands in it, days with the newest first; all else with the most frequent first, and what says nothing last.
   */
  offered(
    counts: Uint32Array,
    limit: number,
    asked: readonly FieldTest[],
  ): { readonly groups: Group[]; readonly more: number } {
    const before = this.order(counts);
    const first: number[] = [];
    let found = 0;
    for (let group = 0; group < counts.length; group += 1) {
      if (counts[group] === 0) continue;
      found += 1;
      if (first.length === limit && before(group, first[limit - 1] as number) >= 0) continue;
      const at = first.findIndex((each) => before(group, each) < 0);
      first.splice(at < 0 ? first.length : at, 0, group);
      if (first.length > limit) first.pop();
    }
    const beyond = asked.flatMap((test) => {
      const group = this.groups.findIndex((key) => key.test !== null && sameTest(key.test, test));
      return group >= 0 && counts[group] !== 0 && !first.includes(group) ? [group] : [];
    });
    const groups = [...first, ...beyond.sort(before)].map((group) => {
      const { label, test } = this.groups[group] as GroupKey;
      return { label, test, count: counts[group] as number };
    });
    return { groups, more: found - groups.length };
  }

  private order(counts: Uint32Array): (a: number, b: number) => number {
    const { type, choices } = this.field;
    const ordered = choices !== undefined || type in STEPS;
    return (a, b) => {
      const [keyA, keyB] = [this.groups[a] as GroupKey, this.groups[b] as GroupKey];
      // What says nothing is no answer.
      if (keyA === NO_GROUP || keyB === NO_GROUP) return keyA === keyB ? 0 : keyA === NO_GROUP ? 1 : -1;
      if (type === 'dateMs') return byGroup(keyB, keyA);
      return (ordered ? 0 : (counts[b] as number) - (counts[a] as number)) || byGroup(keyA, keyB);
    };
  }

  private placeOf(value: FieldValue | undefined): number {
    if (typeof value !== 'object') return this.numberOf(value);
    if (value.length < 2) return this.numberOf(value[0]);
    const groups = [...new Set(value.map((text) => this.numberOf(text)))];
    const [at, end] = [this.pooled, this.pooled + groups.length + 1];
    if (end > this.pool.length) this.pool = grown(this.pool, end);
    this.pool.set([groups.length, ...groups], at);
    this.pooled = end;
    return SEVERAL + at;
  }

  private numberOf(value: string | number | undefined): number {
    const said = value ?? '';
    // Of days each moment is another value, and few days are.
    const at = typeof said === 'number' && this.field.type === 'dateMs' ? Math.floor(said / DAY_MS) : said;
    let number = this.known.get(at);
    if (number === undefined) {
      const [key = NO_GROUP] = groupsOf(this.field, said);
      const name = `${key.rank} ${key.key}`;
      number = this.numbers.get(name) ?? this.groups.push(key) - 1;
      this.numbers.set(name, number);
      this.known.set(at, number);
    }
    return number;
  }
}

function grown(array: Uint32Array<ArrayBuffer>, least: number): Uint32Array<ArrayBuffer> {
  const larger = new Uint32Array(Math.max(least, array.length * 2));
  larger.set(array);
  return larger;
}
