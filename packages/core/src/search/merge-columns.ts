import type { FieldType } from '../fields';
import { firstNotNear } from './first-not';
import { groupsIn } from './column-draft';
import {
  NOWHERE,
  sharedBytes,
  sharedDoubles,
  sharedNarrow,
  sharedNumbers,
  type Column,
  type NumberColumn,
  type TextColumn,
} from './segment';
import { valueKey } from './sort-key';
import { Strings } from './strings';

/** A column, if the part has one, and where its documents stand now. */
type Source = readonly [column: Column | undefined, places: Uint32Array];

/** One column of two: `count` documents, and of the values those that any of them still says. Null if none says anything. */
export function mergeColumns(a: Source, b: Source, count: number, type: FieldType | undefined): Column | null {
  const kind = (a[0] ?? b[0])?.kind;
  const [usedA, usedB] = [usedIn(...a), usedIn(...b)];
  if (kind === 'numbers') return ofNumbers(a, usedA, b, usedB, count);
  return ofTexts(a, usedA, b, usedB, count, type);
}

const valuesIn = (column: Column | undefined): number =>
  column === undefined ? 0 : column.kind === 'numbers' ? column.values.length : column.textStarts.length - 1;

/** A one for each value that a living document says. */
function usedIn(column: Column | undefined, places: Uint32Array): Uint8Array {
  const used = new Uint8Array(valuesIn(column));
  if (!column) return used;
  for (let doc = 0; doc < places.length; doc += 1) {
    if (places[doc] === NOWHERE) continue;
    if (column.numbers) {
      const number = column.numbers[doc] as number;
      if (number > 0) used[number - 1] = 1;
    } else
      for (let i = column.starts[doc] as number; i < (column.starts[doc + 1] as number); i += 1)
        used[column.items[i] as number] = 1;
  }
  return used;
}

function ofNumbers(a: Source, usedA: Uint8Array, b: Source, usedB: Uint8Array, count: number): NumberColumn | null {
  const [inA, inB] = [(a[0] as NumberColumn | undefined)?.values, (b[0] as NumberColumn | undefined)?.values];
  const [numbersA, numbersB] = [new Uint32Array(usedA.length), new Uint32Array(usedB.length)];
  const values = sharedDoubles(usedA.length + usedB.length);
  let n = 0;
  for (let i = 0, j = 0; i < usedA.length || j < usedB.length;) {
    const [x, y] = [inA?.[i] ?? Infinity, inB?.[j] ?? Infinity];
    const [takeA, takeB] = [i < usedA.length && x <= y, j < usedB.length && y <= x];
    const used = (takeA && usedA[i] === 1) || (takeB && usedB[j] === 1);
    if (used) values[n] = takeA ? x : y;
    if (takeA) numbersA[i++] = n;
    if (takeB) numbersB[j++] = n;
    if (used) n += 1;
  }
  if (n === 0) return null;
  return { kind: 'numbers', values: values.slice(0, n), ...singles([a, numbersA], [b, numbersB], count, n) };
}

function ofTexts(
  a: Source,
  usedA: Uint8Array,
  b: Source,
  usedB: Uint8Array,
  count: number,
  type: FieldType | undefined,
): TextColumn | null {
  const [columnA, columnB] = [a[0] as TextColumn | undefined, b[0] as TextColumn | undefined];
  const [textsA, textsB] = [textsOf(columnA), textsOf(columnB)];
  const [numbersA, numbersB] = [new Uint32Array(usedA.length), new Uint32Array(usedB.length)];
  const out = new TextsOut(usedA.length + usedB.length, textsA.bytes.length + textsB.bytes.length, type);
  let i = 0;
  const takeUpTo = (end: number) => {
    for (; i < end; i += 1) if (usedA[i] === 1) numbersA[i] = out.push(textsA, i, columnA?.groups?.[i] ?? i);
  };
  // The second is the small one: each of its texts is looked for among the first's.
  for (let j = 0; j < usedB.length; j += 1) {
    if (usedB[j] === 0) continue;
    const text = textsB.at(j);
    const key = valueKey(text, type);
    takeUpTo(placeOf(textsA, key, text, i, type));
    const same = i < usedA.length && textsA.at(i) === text;
    numbersB[j] = out.push(textsB, j, null);
    if (same) numbersA[i++] = numbersB[j] as number;
  }
  takeUpTo(usedA.length);
  if (out.length === 0) return null;
  const shape = { kind: 'texts', ...out.finish() } as const;
  return columnA?.starts || columnB?.starts
    ? { ...shape, ...severals([a, numbersA], [b, numbersB], count, out.length) }
    : { ...shape, ...singles([a, numbersA], [b, numbersB], count, out.length) };
}

const textsOf = (column: TextColumn | undefined): Strings =>
  new Strings(column?.bytes ?? new Uint8Array(0), column?.textStarts ?? new Uint32Array(1));

/** Where a text, given with its key, belongs among others that are in order, looked for from a place on in steps that double. */
export function placeOf(texts: Strings, key: string, text: string, from: number, type: FieldType | undefined): number {
  const isBefore = (at: number): boolean => {
    const other = texts.at(at);
    const keyThere = valueKey(other, type);
    return keyThere < key || (keyThere === key && other < text);
  };
  return firstNotNear(isBefore, from, texts.length);
}

/** Texts put one after the other, with which of them are of the same words. */
class TextsOut {
  private readonly bytes: Uint8Array;
  private readonly starts: Uint32Array;
  private readonly groups: Uint32Array;
  private group = -1;
  private last: { readonly texts: Strings; readonly at: number; readonly group: number | null } | null = null;
  length = 0;

  constructor(
    texts: number,
    bytes: number,
    private readonly type: FieldType | undefined,
  ) {
    this.bytes = sharedBytes(bytes);
    this.starts = sharedNumbers(texts + 1);
    this.groups = new Uint32Array(texts);
  }

  /** `group` is its number where it comes from; without it, it is compared with what stands before it. */
  push(texts: Strings, at: number, group: number | null): number {
    const { last } = this;
    const alike =
      last !== null &&
      (group !== null && last.group !== null
        ? last.group === group
        : valueKey(last.texts.at(last.at), this.type) === valueKey(texts.at(at), this.type));
    if (!alike) this.group += 1;
    const start = this.starts[this.length] as number;
    const piece = texts.bytes.subarray(texts.starts[at], texts.starts[at + 1]);
    this.bytes.set(piece, start);
    this.groups[this.length] = this.group;
    this.last = { texts, at, group };
    this.length += 1;
    this.starts[this.length] = start + piece.length;
    return this.length - 1;
  }

  finish(): Pick<TextColumn, 'bytes' | 'textStarts' | 'groups'> {
    return {
      bytes: this.bytes.subarray(0, this.starts[this.length]),
      textStarts: this.starts.subarray(0, this.length + 1),
      groups: groupsIn(this.groups.subarray(0, this.length), this.group + 1),
    };
  }
}

type Renumbered = readonly [source: Source, numbers: Uint32Array];

function singles(a: Renumbered, b: Renumbered, count: number, values: number) {
  const numbers = sharedNarrow(count, values);
  for (const [[column, places], renumbered] of [a, b]) {
    if (!column?.numbers) continue;
    for (let doc = 0; doc < places.length; doc += 1) {
      const [place, number] = [places[doc] as number, column.numbers[doc] as number];
      if (place !== NOWHERE && number > 0) numbers[place] = (renumbered[number - 1] as number) + 1;
    }
  }
  return { numbers, starts: null, items: null };
}

function severals(a: Renumbered, b: Renumbered, count: number, values: number) {
  const starts = sharedNumbers(count + 1);
  const sources = [a, b] as const;
  for (const [[column, places]] of sources)
    for (let doc = 0; column && doc < places.length; doc += 1)
      if (places[doc] !== NOWHERE) starts[(places[doc] as number) + 1] = saidBy(column, doc);
  for (let doc = 0; doc < count; doc += 1) starts[doc + 1] = (starts[doc + 1] as number) + (starts[doc] as number);
  const items = sharedNarrow(starts[count] as number, values - 1);
  for (const [[column, places], renumbered] of sources)
    for (let doc = 0; column && doc < places.length; doc += 1) {
      const place = places[doc] as number;
      if (place === NOWHERE) continue;
      const from = starts[place] as number;
      if (column.numbers) {
        const number = column.numbers[doc] as number;
        if (number > 0) items[from] = renumbered[number - 1] as number;
        continue;
      }
      const first = column.starts[doc] as number;
      for (let i = first; i < (column.starts[doc + 1] as number); i += 1)
        items[from + i - first] = renumbered[column.items[i] as number] as number;
    }
  return { numbers: null, starts, items };
}

/** How many things a document says. */
const saidBy = (column: Column, doc: number): number =>
  column.numbers
    ? Math.min(1, column.numbers[doc] as number)
    : (column.starts[doc + 1] as number) - (column.starts[doc] as number);
