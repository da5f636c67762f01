import { isNumericType, type FieldId, type FieldRegistry } from '../fields';
import { bitsFor, setBit } from './bits';
import { ColumnDraft } from './column-draft';
import { isDense } from './doc-set';
import {
  asShared,
  FEW_DOCS,
  PLACE,
  SEGMENT_VERSION,
  sharedBytes,
  sharedNumbers,
  sharedPlaces,
  type Column,
  type SegmentData,
} from './segment';
import { GrowingNumbers, Strings } from './strings';
import { TermTable } from './term-table';
import { trigramsOf } from './trigrams';
import type { SearchDocument } from './types';

/** The words of one field, while a segment is made: one after the other, and how many each document has. */
class WordsDraft {
  readonly terms = new GrowingNumbers();
  readonly places = new GrowingNumbers();
  readonly docs = new GrowingNumbers();
  readonly ends = new GrowingNumbers();
  /** The terms of texts that come again and again. */
  readonly known = new Map<string, Uint32Array>();

  constructor(readonly field: FieldId) {}
}

/** What is drafted of one field; numbers and positions have no words. */
interface FieldDraft {
  readonly column: ColumnDraft;
  readonly words: WordsDraft | null;
}

/** So many texts of a field are remembered with their words; longer ones are not said twice. */
const MOST_KNOWN = 20_000;
const LONGEST_KNOWN = 40;

/** Makes a segment of documents that are added in the order of their ids. */
export class SegmentBuilder {
  private readonly ids = new GrowingNumbers();
  private readonly terms = new TermTable();
  private readonly worded: WordsDraft[] = [];
  private readonly drafts = new Map<FieldId, FieldDraft>();

  constructor(private readonly fields: FieldRegistry) {}

  get count(): number {
    return this.ids.length;
  }

  add({ id, values, also }: SearchDocument): void {
    const doc = this.ids.length;
    if (doc > 0 && this.ids.at(doc - 1) >= id) throw new Error(`document ${id} is added after a later one`);
    this.ids.push(id);
    for (const name in values) {
      const field = name as FieldId;
      const value = values[field];
      if (value === undefined) continue;
      const { column, words } = this.drafts.get(field) ?? this.draft(field);
      column.add(doc, value);
      if (!words) continue;
      const texts = typeof value === 'object' ? value : [String(value)];
      const others = also?.[field];
      this.addWords(words, doc, others ? [...texts, ...others] : texts);
    }
  }

  private draft(field: FieldId): FieldDraft {
    const type = this.fields.byId(field)?.type;
    const numeric = type !== undefined && isNumericType(type);
    const words = numeric || type === 'position' ? null : new WordsDraft(field);
    const draft = { column: new ColumnDraft(type, numeric), words };
    this.drafts.set(field, draft);
    if (words) this.worded.push(words);
    return draft;
  }

  private addWords(draft: WordsDraft, doc: number, texts: readonly string[]): void {
    let place = 0;
    for (const text of texts) {
      const said = this.termsIn(draft, text);
      for (let i = 0; i < said.length; i += 1) {
        const marks = (i === 0 ? PLACE.first : 0) | (i === said.length - 1 ? PLACE.last : 0);
        draft.terms.push(said[i] as number);
        draft.places.push(Math.min(place, PLACE.number) | marks);
        place += 1;
      }
      // What comes next does not stand beside it.
      place += 1;
    }
    draft.docs.push(doc);
    draft.ends.push(draft.terms.length);
  }

  private termsIn({ known }: WordsDraft, text: string): ArrayLike<number> {
    const before = text.length <= LONGEST_KNOWN ? known.get(text) : undefined;
    if (before) return before;
    const said: number[] = [];
    this.terms.each(text, (term) => said.push(term));
    if (text.length <= LONGEST_KNOWN && known.size < MOST_KNOWN) known.set(text, Uint32Array.from(said));
    return said;
  }

  finish(): SegmentData {
    const count = this.ids.length;
    const columns: Partial<Record<FieldId, Column>> = {};
    for (const [field, { column }] of this.drafts) {
      columns[field] = column.finish(count);
      // What was drafted takes as much room as what comes of it.
      this.drafts.delete(field);
    }
    const words = this.words();
    return {
      version: SEGMENT_VERSION,
      ids: asShared(Array.from({ length: count }, (_unused, doc) => this.ids.at(doc))),
      worded: this.worded.map(({ field }) => field),
      ...words,
      ...denseOf(words.postingsOf, words.docs, count),
      ...wholeOf(words.postingsOf, words.places),
      ...trigramsOf(words.termBytes, words.termStarts),
      lengths: this.worded.map((draft) => lengthsOf(draft, count)),
      columns,
      orders: {},
      grouped: {},
    };
  }

  /** Words in order, their entries, and the postings of these. */
  private words() {
    const strings = this.terms.strings();
    const order = this.terms.sorted();
    const rank = new Uint32Array(order.length);
    order.forEach((term, at) => (rank[term] = at));
    const counts = this.worded.map(({ terms }) => {
      const count = new Uint32Array(order.length);
      for (let i = 0; i < terms.length; i += 1) {
        const at = rank[terms.at(i)] as number;
        count[at] = (count[at] as number) + 1;
      }
      return count;
    });
    const entriesOf = sharedNumbers(order.length + 1);
    for (const count of counts)
      for (let at = 0; at < count.length; at += 1)
        if (count[at] !== 0) entriesOf[at + 1] = (entriesOf[at + 1] as number) + 1;
    for (let at = 1; at < entriesOf.length; at += 1)
      entriesOf[at] = (entriesOf[at] as number) + (entriesOf[at - 1] as number);
    const entries = entriesOf[order.length] as number;
    const entryFields = sharedPlaces(entries);
    const postingsOf = sharedNumbers(entries + 1);
    for (let at = 0, entry = 0; at < order.length; at += 1)
      counts.forEach((count, field) => {
        if (count[at] === 0) return;
        entryFields[entry] = field;
        postingsOf[entry + 1] = (postingsOf[entry] as number) + (count[at] as number);
        // From here on where the next posting of the word goes.
        count[at] = postingsOf[entry] as number;
        entry += 1;
      });
    const total = postingsOf[entries] as number;
    const [docs, places] = [sharedNumbers(total), sharedPlaces(total)];
    this.worded.forEach((draft, field) => {
      const next = counts[field] as Uint32Array;
      for (let i = 0, said = 0; said < draft.docs.length; said += 1)
        for (; i < draft.ends.at(said); i += 1) {
          const term = rank[draft.terms.at(i)] as number;
          const at = next[term] as number;
          docs[at] = draft.docs.at(said);
          places[at] = draft.places.at(i);
          next[term] = at + 1;
        }
    });
    const { bytes, starts } = picked(strings, order);
    return { termBytes: bytes, termStarts: starts, entriesOf, entryFields, postingsOf, docs, places };
  }
}

function picked({ bytes, starts }: Strings, order: Uint32Array): Strings {
  const out = new Strings(sharedBytes(bytes.length), sharedNumbers(order.length + 1));
  let used = 0;
  order.forEach((term, at) => {
    const piece = bytes.subarray(starts[term], starts[term + 1]);
    out.bytes.set(piece, used);
    used += piece.length;
    out.starts[at + 1] = used;
  });
  return out;
}

function lengthsOf({ docs, ends }: WordsDraft, count: number): Uint8Array {
  const out = sharedBytes(count);
  for (let said = 0; said < docs.length; said += 1) {
    const begin = said === 0 ? 0 : ends.at(said - 1);
    out[docs.at(said)] = Math.min(255, ends.at(said) - begin);
  }
  return out;
}

/** Entries whose word is all of what is said, wherever it is said: 1 for each of those. */
export function wholeOf(postingsOf: Uint32Array, places: Uint16Array): Pick<SegmentData, 'wholeEntries'> {
  const wholeEntries = sharedBytes(postingsOf.length - 1);
  const both = PLACE.first | PLACE.last;
  for (let entry = 0; entry < wholeEntries.length; entry += 1) {
    let at = postingsOf[entry] as number;
    while (at < (postingsOf[entry + 1] as number) && ((places[at] as number) & both) === both) at += 1;
    if (at === postingsOf[entry + 1]) wholeEntries[entry] = 1;
  }
  return { wholeEntries };
}

/** The bits of what is found in many documents, so that no question has to wait for them. */
export function denseOf(
  postingsOf: Uint32Array,
  docs: Uint32Array,
  universe: number,
): Pick<SegmentData, 'denseEntries' | 'denseBits'> {
  const dense: number[] = [];
  // In small segments nothing is gained.
  if (universe > FEW_DOCS)
    for (let entry = 0; entry < postingsOf.length - 1; entry += 1)
      if (isDense((postingsOf[entry + 1] as number) - (postingsOf[entry] as number), universe)) dense.push(entry);
  const size = bitsFor(universe).length;
  const denseBits = sharedNumbers(dense.length * size);
  dense.forEach((entry, at) => {
    const bits = denseBits.subarray(at * size, (at + 1) * size);
    for (let i = postingsOf[entry] as number; i < (postingsOf[entry + 1] as number); i += 1)
      setBit(bits, docs[i] as number);
  });
  return { denseEntries: asShared(dense), denseBits };
}
