import type { FieldId, FieldType } from '../fields';
import { hasBit, type Bits } from './bits';
import { groupedDataOf } from './grouped';
import { mergeColumns } from './merge-columns';
import { orderOf } from './ordering';
import { denseOf, wholeOf } from './segment-builder';
import {
  asShared,
  NOWHERE,
  SEGMENT_VERSION,
  sharedBytes,
  sharedNumbers,
  sharedPlaces,
  type Column,
  type SegmentData,
} from './segment';
import { compareBytes } from './strings';
import { trigramsOf } from './trigrams';

/** A segment and which of its documents are gone. */
export interface MergePart {
  readonly data: SegmentData;
  readonly dead: Bits;
}

/** Of what type fields are; one that is not in it is of words. */
export type FieldTypes = Readonly<Partial<Record<FieldId, FieldType>>>;

/**
 * One segment out of several without what is gone from them; no id may live in two. Of some fields the order or
 * the groups are made at once, so that no question has to wait for them.
 */
export function mergeSegments(
  parts: readonly MergePart[],
  types: FieldTypes,
  ordered: readonly FieldId[] = [],
  counted: readonly FieldId[] = [],
): SegmentData {
  // Small ones first, so that what is large is gone through once.
  const [first, ...rest] = parts.toSorted((a, b) => a.data.ids.length - b.data.ids.length);
  if (!first) throw new Error('nothing to merge');
  const none = (data: SegmentData): MergePart => ({ data, dead: new Uint32Array(0) });
  let merged = first;
  // One by itself is merged with nothing, which drops what is gone.
  if (rest.length === 0) merged = none(mergeTwo(first, null, types));
  for (const part of rest) merged = none(mergeTwo(part, merged, types));
  const { data } = merged;
  const made = <T>(wanted: readonly FieldId[], make: (column: Column, field: FieldId) => T) =>
    Object.fromEntries(
      wanted.flatMap((field) => {
        const column = data.columns[field];
        return column ? [[field, make(column, field)]] : [];
      }),
    );
  return {
    ...data,
    orders: made(ordered, (column) => asShared(orderOf(column, data.ids.length).order)),
    grouped: made(counted, (column, field) => groupedDataOf(column, types[field], data.ids.length)),
  };
}

/** Both, the documents in the order of their ids. */
function mergeTwo(a: MergePart, b: MergePart | null, types: FieldTypes): SegmentData {
  const { ids, ofA, ofB } = mergeIds(a, b);
  const worded = [...a.data.worded, ...(b?.data.worded.filter((field) => !a.data.worded.includes(field)) ?? [])];
  const lengths = worded.map((field) => {
    const out = sharedBytes(ids.length);
    copyLengths(a.data, field, ofA, out);
    if (b) copyLengths(b.data, field, ofB, out);
    return out;
  });
  const said = new Set([...Object.keys(a.data.columns), ...Object.keys(b?.data.columns ?? {})] as FieldId[]);
  const columns: Partial<Record<FieldId, Column>> = {};
  for (const field of said) {
    const column = mergeColumns([a.data.columns[field], ofA], [b?.data.columns[field], ofB], ids.length, types[field]);
    if (column) columns[field] = column;
  }
  const words = mergeWords(a.data, ofA, b?.data ?? null, ofB, worded);
  return {
    version: SEGMENT_VERSION,
    ids,
    worded,
    ...words,
    ...denseOf(words.postingsOf, words.docs, ids.length),
    ...wholeOf(words.postingsOf, words.places),
    ...trigramsOf(words.termBytes, words.termStarts),
    lengths,
    columns,
    orders: {},
    grouped: {},
  };
}

function mergeIds(a: MergePart, b: MergePart | null) {
  const [idsA, idsB] = [a.data.ids, b?.data.ids ?? new Uint32Array(0)];
  const ids = sharedNumbers(idsA.length + idsB.length);
  const [ofA, ofB] = [new Uint32Array(idsA.length), new Uint32Array(idsB.length)];
  let n = 0;
  for (let i = 0, j = 0; i < idsA.length || j < idsB.length;) {
    const fromA = j === idsB.length || (i < idsA.length && (idsA[i] as number) <= (idsB[j] as number));
    const part = (fromA ? a : b) as MergePart;
    const at = fromA ? i++ : j++;
    const gone = part.dead.length > 0 && hasBit(part.dead, at);
    (fromA ? ofA : ofB)[at] = gone ? NOWHERE : n;
    if (!gone) ids[n++] = part.data.ids[at] as number;
  }
  return { ids: ids.slice(0, n), ofA, ofB };
}

function copyLengths(data: SegmentData, field: FieldId, places: Uint32Array, out: Uint8Array): void {
  const lengths = data.lengths[data.worded.indexOf(field)];
  if (!lengths) return;
  for (let doc = 0; doc < places.length; doc += 1)
    if (places[doc] !== NOWHERE) out[places[doc] as number] = lengths[doc] as number;
}

/** Words, entries and postings of both. */
class WordMerger {
  readonly termBytes: Uint8Array;
  readonly termStarts: Uint32Array;
  readonly entriesOf: Uint32Array;
  readonly entryFields: Uint16Array;
  readonly postingsOf: Uint32Array;
  readonly docs: Uint32Array;
  readonly places: Uint16Array;
  private terms = 0;
  private bytes = 0;
  private entries = 0;
  private postings = 0;

  constructor(parts: readonly SegmentData[]) {
    const sum = (of: (data: SegmentData) => number) => parts.reduce((total, data) => total + of(data), 0);
    this.termBytes = sharedBytes(sum(({ termBytes }) => termBytes.length));
    this.termStarts = sharedNumbers(sum(({ termStarts }) => termStarts.length - 1) + 1);
    this.entriesOf = sharedNumbers(this.termStarts.length);
    this.entryFields = sharedPlaces(sum(({ entryFields }) => entryFields.length));
    this.postingsOf = sharedNumbers(this.entryFields.length + 1);
    this.docs = sharedNumbers(sum(({ docs }) => docs.length));
    this.places = sharedPlaces(this.docs.length);
  }

  /** An entry of one or both, given as the part, its entry and where its documents stand now. */
  entry(field: number, a: Source | null, b: Source | null): void {
    const before = this.postings;
    if (a && b) this.both(a, b);
    else this.one((a ?? b) as Source);
    if (this.postings === before) return;
    this.entryFields[this.entries] = field;
    this.entries += 1;
    this.postingsOf[this.entries] = this.postings;
  }

  /** Closes the word that the last entries were of, unless all of them are gone. */
  term(data: SegmentData, term: number): void {
    if (this.entries === (this.entriesOf[this.terms] as number)) return;
    const [from, to] = [data.termStarts[term] as number, data.termStarts[term + 1] as number];
    this.termBytes.set(data.termBytes.subarray(from, to), this.bytes);
    this.bytes += to - from;
    this.terms += 1;
    this.termStarts[this.terms] = this.bytes;
    this.entriesOf[this.terms] = this.entries;
  }

  private one({ data, from, to, places }: Source): void {
    for (let i = from; i < to; i += 1) this.post(data, i, places);
  }

  private both(a: Source, b: Source): void {
    let [i, j] = [a.from, b.from];
    while (i < a.to && j < b.to) {
      const [x, y] = [a.places[a.data.docs[i] as number] as number, b.places[b.data.docs[j] as number] as number];
      if (x === NOWHERE) i += 1;
      else if (y === NOWHERE) j += 1;
      else if (x <= y) this.post(a.data, i++, a.places);
      else this.post(b.data, j++, b.places);
    }
    this.one({ ...a, from: i });
    this.one({ ...b, from: j });
  }

  private post(data: SegmentData, at: number, places: Uint32Array): void {
    const doc = places[data.docs[at] as number] as number;
    if (doc === NOWHERE) return;
    this.docs[this.postings] = doc;
    this.places[this.postings] = data.places[at] as number;
    this.postings += 1;
  }

  finish() {
    return {
      termBytes: this.termBytes.subarray(0, this.bytes),
      termStarts: this.termStarts.subarray(0, this.terms + 1),
      entriesOf: this.entriesOf.subarray(0, this.terms + 1),
      entryFields: this.entryFields.subarray(0, this.entries),
      postingsOf: this.postingsOf.subarray(0, this.entries + 1),
      docs: this.docs.subarray(0, this.postings),
      places: this.places.subarray(0, this.postings),
    };
  }
}

/** An entry's postings, and where each document of its part stands now. */
interface Source {
  readonly data: SegmentData;
  readonly from: number;
  readonly to: number;
  readonly places: Uint32Array;
}

function mergeWords(
  a: SegmentData,
  ofA: Uint32Array,
  b: SegmentData | null,
  ofB: Uint32Array,
  worded: readonly FieldId[],
) {
  const out = new WordMerger(b ? [a, b] : [a]);
  const fieldsOfB = b?.worded.map((field) => worded.indexOf(field)) ?? [];
  const sources = (data: SegmentData, term: number, places: Uint32Array, numbers: readonly number[] | null) => {
    const [first, end] = [data.entriesOf[term] as number, data.entriesOf[term + 1] as number];
    const found: (Source & { field: number })[] = [];
    for (let entry = first; entry < end; entry += 1) {
      const own = data.entryFields[entry] as number;
      const [from, to] = [data.postingsOf[entry] as number, data.postingsOf[entry + 1] as number];
      found.push({ data, from, to, places, field: numbers ? (numbers[own] as number) : own });
    }
    return numbers ? found.sort((x, y) => x.field - y.field) : found;
  };
  const [countA, countB] = [a.termStarts.length - 1, b ? b.termStarts.length - 1 : 0];
  for (let i = 0, j = 0; i < countA || j < countB;) {
    const apart = i === countA ? 1 : j === countB ? -1 : compareTerms(a, i, b as SegmentData, j);
    const inA = apart <= 0 ? sources(a, i, ofA, null) : [];
    const inB = apart >= 0 ? sources(b as SegmentData, j, ofB, fieldsOfB) : [];
    for (let x = 0, y = 0; x < inA.length || y < inB.length;) {
      const [left, right] = [inA[x], inB[y]];
      const field = Math.min(left?.field ?? Infinity, right?.field ?? Infinity);
      const [ofLeft, ofRight] = [left?.field === field ? left : null, right?.field === field ? right : null];
      out.entry(field, ofLeft, ofRight);
      if (ofLeft) x += 1;
      if (ofRight) y += 1;
    }
    if (apart <= 0) out.term(a, i);
    else out.term(b as SegmentData, j);
    if (apart <= 0) i += 1;
    if (apart >= 0) j += 1;
  }
  return out.finish();
}

function compareTerms(a: SegmentData, i: number, b: SegmentData, j: number): number {
  const [fromA, toA] = [a.termStarts[i] as number, a.termStarts[i + 1] as number];
  const [fromB, toB] = [b.termStarts[j] as number, b.termStarts[j + 1] as number];
  return compareBytes(a.termBytes, fromA, toA, b.termBytes, fromB, toB);
}
