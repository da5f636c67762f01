import type { FieldType, FieldValue } from '../fields';
import { firstNot } from './first-not';
import { valueKey } from './sort-key';
import {
  sharedBytes,
  sharedDoubles,
  sharedNarrow,
  sharedNumbers,
  type Column,
  type NumberColumn,
  type TextColumn,
} from './segment';
import { GrowingNumbers, GrowingStrings } from './strings';

/** Whoever has said this much, mostly something else each time, is taken to go on so: what was said before is not looked for. */
const ENOUGH_SAID = 4096;
const MOST_KNOWN = 200_000;

/** What documents say in one field, while a segment is made: pairs of a document and the number of what it says. */
export class ColumnDraft {
  private readonly docs = new GrowingNumbers();
  private readonly said = new GrowingNumbers();
  private known: Map<string | number, number> | null = new Map();
  private readonly texts = new GrowingStrings();
  private readonly numbers: number[] = [];
  private several = false;

  constructor(
    private readonly type: FieldType | undefined,
    private readonly numeric: boolean,
  ) {}

  add(doc: number, value: FieldValue): void {
    if (typeof value !== 'object') return this.push(doc, value);
    if (value.length > 1) this.several = true;
    for (const each of value) this.push(doc, each);
  }

  private push(doc: number, value: string | number): void {
    const said = this.numeric ? Number(value) : String(value);
    if (said === '' || Number.isNaN(said)) return;
    this.docs.push(doc);
    this.said.push(this.numberOf(said));
  }

  private numberOf(said: string | number): number {
    const known = this.known?.get(said);
    if (known !== undefined) return known;
    const number = typeof said === 'number' ? this.numbers.push(said) - 1 : this.texts.length;
    if (typeof said === 'string') this.texts.push(said);
    this.known?.set(said, number);
    const different = this.known?.size ?? 0;
    if ((this.said.length > ENOUGH_SAID && different * 2 > this.said.length) || different > MOST_KNOWN)
      this.known = null;
    return number;
  }

  finish(count: number): Column {
    return this.numeric ? this.ofNumbers(count) : this.ofTexts(count);
  }

  private ofNumbers(count: number): NumberColumn {
    const sorted = Float64Array.from(this.numbers).sort();
    const distinct = sorted.filter((value, at) => at === 0 || value !== sorted[at - 1]);
    const values = sharedDoubles(distinct.length);
    values.set(distinct);
    const numberOf = (said: number) => placeIn(values, this.numbers[said] as number);
    return { kind: 'numbers', values, ...this.single(count, values.length, numberOf) };
  }

  private ofTexts(count: number): TextColumn {
    const keys = Array.from({ length: this.texts.length }, (_unused, index) =>
      valueKey(this.texts.at(index), this.type),
    );
    const order = Uint32Array.from(keys.keys()).sort((a, b) => {
      const [x, y] = [keys[a] as string, keys[b] as string];
      return x < y ? -1 : x > y ? 1 : this.bySpelling(a, b);
    });
    const numbers = new Uint32Array(order.length);
    const groups = new Uint32Array(order.length);
    let [kept, group] = [-1, -1];
    order.forEach((draft, place) => {
      const before = order[place - 1];
      const alike = before !== undefined && keys[before] === keys[draft];
      if (!alike) group += 1;
      if (!alike || this.texts.at(before) !== this.texts.at(draft)) order[(kept += 1)] = draft;
      numbers[draft] = kept;
      groups[kept] = group;
    });
    const picked = order.subarray(0, kept + 1);
    const { bytes, starts } = this.texts.pick(picked, sharedBytes, sharedNumbers);
    const shape = {
      kind: 'texts',
      bytes,
      textStarts: starts,
      groups: groupsIn(groups.subarray(0, kept + 1), group + 1),
    } as const;
    const numberOf = (said: number) => numbers[said] as number;
    return this.several
      ? { ...shape, ...this.severals(count, kept + 1, numberOf, groups) }
      : { ...shape, ...this.single(count, kept + 1, numberOf) };
  }

  private bySpelling(a: number, b: number): number {
    const [x, y] = [this.texts.at(a), this.texts.at(b)];
    return x < y ? -1 : x > y ? 1 : a - b;
  }

  private single(count: number, values: number, numberOf: (said: number) => number) {
    const numbers = sharedNarrow(count, values);
    // Of one who says a thing twice the last counts.
    for (let i = 0; i < this.docs.length; i += 1) numbers[this.docs.at(i)] = numberOf(this.said.at(i)) + 1;
    return { numbers, starts: null, items: null };
  }

  private severals(count: number, values: number, numberOf: (said: number) => number, groups: Uint32Array) {
    const starts = sharedNumbers(count + 1);
    const items = sharedNarrow(this.docs.length, values - 1);
    let used = 0;
    for (let i = 0, doc = 0; doc < count; doc += 1) {
      const start = used;
      next: for (; i < this.docs.length && this.docs.at(i) === doc; i += 1) {
        const number = numberOf(this.said.at(i));
        // The same words twice are said once.
        for (let k = start; k < used; k += 1) if (groups[items[k] as number] === groups[number]) continue next;
        items[used++] = number;
      }
      starts[doc + 1] = used;
    }
    return { numbers: null, starts, items: items.subarray(0, used) };
  }
}

/** The first place in an ascending list that is not below a value. */
export const placeIn = (sorted: ArrayLike<number>, value: number): number =>
  firstNot((at) => (sorted[at] as number) < value, 0, sorted.length);

/** Null where each is a group of its own, as mostly. */
export function groupsIn(groups: Uint32Array, count: number): Uint32Array | null {
  if (count === groups.length) return null;
  const out = sharedNumbers(groups.length);
  out.set(groups);
  return out;
}
