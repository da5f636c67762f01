import type { FieldId, FieldRegistry } from '../fields';
import { readPosition, within } from '../position';
import type { FieldTest, NearTest, PartTest, Query, SpanTest, TextTest, WholeTest } from '../query';
import { placeIn } from './column-draft';
import { bitsFor, listBits, setBit, type Bits } from './bits';
import {
  both,
  bothLists,
  countOf,
  either,
  everyDoc,
  isDense,
  listOf,
  NONE,
  ofBits,
  ofList,
  without,
  type DocSet,
} from './doc-set';
import { firstOfRank, orderOf, type Ordering } from './ordering';
import { phraseIn, type Slots } from './phrases';
import { PLACE, type Column, type SegmentData } from './segment';
import { Strings, utf8 } from './strings';
import { termsHolding } from './trigrams';

/** Answers of whole searches that are kept, and of what costs most in them. */
const KEPT_ANSWERS = 64;
/** Fewer documents than this are gone through one by one sooner than put in order. */
const FEW_DOCS = 4096;

/** Which documents of a segment answer a search; those that are gone among them. */
export class Finder {
  readonly terms: Strings;
  private readonly dense = new Map<number, Bits>();
  private readonly orderings = new Map<FieldId, Ordering>();
  private readonly answers = new Map<string, DocSet>();
  private readonly texts = new Map<FieldId, Strings>();
  private readonly present = new Map<FieldId, DocSet>();

  constructor(
    readonly data: SegmentData,
    private fields: FieldRegistry,
  ) {
    this.terms = new Strings(data.termBytes, data.termStarts);
    const size = bitsFor(this.count).length;
    data.denseEntries.forEach((entry, at) =>
      this.dense.set(entry, data.denseBits.subarray(at * size, (at + 1) * size)),
    );
  }

  get count(): number {
    return this.data.ids.length;
  }

  setFields(fields: FieldRegistry): void {
    this.fields = fields;
    this.answers.clear();
  }

  column(field: FieldId): Column | undefined {
    return this.data.columns[field];
  }

  textsOf(field: FieldId): Strings {
    let texts = this.texts.get(field);
    const column = this.column(field);
    if (!texts) {
      texts = column?.kind === 'texts' ? new Strings(column.bytes, column.textStarts) : EMPTY;
      this.texts.set(field, texts);
    }
    return texts;
  }

  ordering(field: FieldId): Ordering | null {
    const column = this.column(field);
    if (!column) return null;
    let ordering = this.orderings.get(field);
    if (!ordering) this.orderings.set(field, (ordering = orderOf(column, this.count, this.data.orders[field])));
    return ordering;
  }

  /** Fields whose order was asked for. */
  get ordered(): readonly FieldId[] {
    return [...this.orderings.keys()];
  }

  /** `tree` has nothing in it that depends on the present. */
  find(tree: Query): DocSet {
    if (tree.kind === 'all' && tree.of.length === 0) return everyDoc(this.count);
    return this.kept(JSON.stringify(tree), () => this.match(tree));
  }

  private kept(key: string, make: () => DocSet): DocSet {
    let set = this.answers.get(key);
    if (set) this.answers.delete(key);
    else set = make();
    // What was asked for last stands last.
    this.answers.set(key, set);
    if (this.answers.size > KEPT_ANSWERS) this.answers.delete(this.answers.keys().next().value as string);
    return set;
  }

  private match(tree: Query): DocSet {
    switch (tree.kind) {
      case 'all':
        return this.matchAll(tree.of);
      case 'any':
        return either(
          tree.of.map((part) => this.match(part)),
          this.count,
        );
      case 'not':
        return without(everyDoc(this.count), this.match(tree.of));
      case 'words':
        return either(
          [this.matchWords(this.loose, tree.test), ...this.listed.map((field) => this.matchField(field, tree.test))],
          this.count,
        );
      case 'field':
        return this.matchField(tree.field, tree.test);
      default:
        return tree satisfies never;
    }
  }

  /** The rarest first, so that what follows only goes through what is left. */
  private matchAll(parts: readonly Query[]): DocSet {
    const [first, ...rest] = parts
      .map((part) => ({ part, most: this.most(part) }))
      .sort((a, b) => a.most - b.most)
      .map(({ part }) => part);
    if (!first) return everyDoc(this.count);
    return rest.reduce((left, part) => this.narrow(left, part), this.match(first));
  }

  private narrow(left: DocSet, part: Query): DocSet {
    if (!left.list) return part.kind === 'not' ? without(left, this.match(part.of)) : both(left, this.match(part));
    if (left.list.length === 0) return left;
    const { list } = left;
    switch (part.kind) {
      case 'all':
        return part.of.reduce<DocSet>((less, each) => this.narrow(less, each), left);
      case 'any':
        return either(
          part.of.map((each) => this.narrow(left, each)),
          this.count,
        );
      case 'not':
        return without(left, this.narrow(left, part.of));
      case 'words':
        if (part.test.op !== 'text' || part.test.prefix || part.test.text.includes(' ') || this.listed.length > 0)
          break;
        return this.narrowWord(list, this.loose, part.test.text);
      case 'field': {
        const { field, test } = part;
        if (test.op === 'span') return ofList(this.filterSpan(list, field, test));
        if (test.op === 'presence')
          return test.present ? both(left, this.saying(field)) : without(left, this.saying(field));
        if (!this.isOneEntry(field, test)) break;
        return this.narrowWord(list, [field], test.text);
      }
      default:
        return part satisfies never;
    }
    return both(left, this.match(part));
  }

  /** A test that one entry answers by itself. */
  private isOneEntry(field: FieldId, test: FieldTest): test is TextTest | WholeTest {
    if (test.op !== 'whole' && (test.op !== 'text' || test.prefix)) return false;
    if (test.text.includes(' ')) return false;
    if (test.op === 'text' && !this.fields.byId(field)?.choices) return true;
    return this.entriesOfWord(test.text, this.allowed([field])).every((entry) => this.data.wholeEntries[entry] === 1);
  }

  private narrowWord(list: Uint32Array, fields: readonly FieldId[], word: string): DocSet {
    const sets = this.entriesOfWord(word, this.allowed(fields)).map((entry) => {
      const bits = this.dense.get(entry);
      if (bits) return both(ofList(list), ofBits(bits));
      return ofList(bothLists(list, this.docsOf(entry)));
    });
    return either(sets, this.count);
  }

  private filterSpan(list: Uint32Array, field: FieldId, test: SpanTest): Uint32Array {
    const column = this.column(field);
    if (column?.kind !== 'numbers') return new Uint32Array(0);
    const [from, to] = numbersIn(column.values, test);
    const { numbers } = column;
    return list.filter((doc) => {
      const number = numbers[doc] as number;
      return number > from && number <= to;
    });
  }

  /** At most so many documents answer; cheap to tell. */
  private most(tree: Query): number {
    switch (tree.kind) {
      case 'all':
        return tree.of.reduce((least, part) => Math.min(least, this.most(part)), this.count);
      case 'any':
        return Math.min(
          this.count,
          tree.of.reduce((sum, part) => sum + this.most(part), 0),
        );
      // Without its own set nothing can be said; what is left out is left out of little.
      case 'not':
        return this.count + 1;
      case 'words':
        return this.mostOfWords(this.fields.plain, tree.test);
      case 'field': {
        const { field, test } = tree;
        if (test.op === 'text' || test.op === 'whole' || test.op === 'part') return this.mostOfWords([field], test);
        if (test.op === 'span') return this.mostInSpan(field, test);
        if (test.op !== 'presence') return this.count;
        const saying = countOf(this.saying(field));
        return test.present ? saying : this.count - saying;
      }
      default:
        return tree satisfies never;
    }
  }

  private mostOfWords(fields: readonly FieldId[], test: TextTest | PartTest | WholeTest): number {
    // To tell would be as long as to find.
    if (test.op === 'part') return this.count;
    const allowed = this.allowed(fields);
    const parts = test.text.split(' ');
    if (test.op === 'text' && test.prefix) parts.pop();
    return parts.reduce(
      (least, word) => Math.min(least, this.postingsIn(this.entriesOfWord(word, allowed))),
      this.count,
    );
  }

  private mostInSpan(field: FieldId, test: SpanTest): number {
    const column = this.column(field);
    if (column?.kind !== 'numbers') return 0;
    const [from, to] = numbersIn(column.values, test);
    if (to <= from) return 0;
    if (this.count < FEW_DOCS) return this.count;
    const ordering = this.ordering(field) as Ordering;
    return firstOfRank(ordering, to + 1) - firstOfRank(ordering, from + 1);
  }

  private matchField(field: FieldId, test: FieldTest): DocSet {
    switch (test.op) {
      case 'text':
        // One of a list is meant as a whole: `medium` is not `medium wide`.
        if (!test.prefix && this.fields.byId(field)?.choices) return this.matchWhole(field, test.text);
        return this.matchWords([field], test);
      case 'part':
        return this.matchWords([field], test);
      case 'whole':
        return this.matchWhole(field, test.text);
      case 'span':
        return this.matchSpan(field, test);
      case 'near':
        return this.matchNear(field, test);
      case 'presence': {
        const saying = this.saying(field);
        return test.present ? saying : without(everyDoc(this.count), saying);
      }
      case 'calendar':
      case 'age':
        throw new Error('what depends on the present is put as what it means now before it is looked for');
      default:
        return test satisfies never;
    }
  }

  /** Those that say anything in a field. */
  private saying(field: FieldId): DocSet {
    let set = this.present.get(field);
    if (!set) {
      const column = this.column(field);
      set = column ? this.docsWhere((doc) => says(column, doc)) : NONE;
      this.present.set(field, set);
    }
    return set;
  }

  private docsWhere(passes: (doc: number) => boolean): DocSet {
    const bits = bitsFor(this.count);
    let count = 0;
    for (let doc = 0; doc < this.count; doc += 1)
      if (passes(doc)) {
        setBit(bits, doc);
        count += 1;
      }
    return isDense(count, this.count) ? { list: null, bits, count } : ofList(listBits(bits, count));
  }

  private matchSpan(field: FieldId, test: SpanTest): DocSet {
    const column = this.column(field);
    if (column?.kind !== 'numbers') return NONE;
    const [from, to] = numbersIn(column.values, test);
    if (to <= from) return NONE;
    const { numbers } = column;
    if (this.count < FEW_DOCS)
      return this.docsWhere((doc) => (numbers[doc] as number) > from && (numbers[doc] as number) <= to);
    const ordering = this.ordering(field) as Ordering;
    const docs = ordering.order.subarray(firstOfRank(ordering, from + 1), firstOfRank(ordering, to + 1));
    return this.gathered([docs], docs.length);
  }

  private matchNear(field: FieldId, { metres, ...centre }: NearTest): DocSet {
    const column = this.column(field);
    if (column?.kind !== 'texts' || !column.numbers) return NONE;
    const near = within(centre, metres);
    const texts = this.textsOf(field);
    const fits = Uint8Array.from({ length: texts.length + 1 }, (_unused, number) => {
      const position = number === 0 ? null : readPosition(texts.at(number - 1));
      return position !== null && near(position) ? 1 : 0;
    });
    const { numbers } = column;
    return this.docsWhere((doc) => fits[numbers[doc] as number] === 1);
  }

  /** Fields that plain words look into: those in which a word may stand anywhere, and those that say one of a list. */
  private get loose(): readonly FieldId[] {
    return this.fields.plain.filter((field) => !this.fields.byId(field)?.choices);
  }

  private get listed(): readonly FieldId[] {
    return this.fields.plain.filter((field) => this.fields.byId(field)?.choices);
  }

  /** By a field's number, whether it is looked into. */
  private allowed(fields: readonly FieldId[]): Uint8Array {
    return Uint8Array.from(this.data.worded, (field) => (fields.includes(field) ? 1 : 0));
  }

  private matchWords(fields: readonly FieldId[], test: TextTest | PartTest): DocSet {
    const parts = test.text.split(' ');
    const allowed = this.allowed(fields);
    if (parts.length === 1) {
      if (test.op === 'text' && !test.prefix) return this.union(this.entriesOfWord(test.text, allowed));
      return this.kept(`${test.op} ${fields.join()} ${test.text} ${test.op === 'part' && test.ends}`, () =>
        this.union(this.entriesOfTerms(this.termsAt(test, 0, parts), allowed)),
      );
    }
    const terms = parts.map((_part, at) => this.termsAt(test, at, parts));
    return either(
      fields.map((field) => {
        const one = this.allowed([field]);
        return ofList(phraseIn(terms.map((each) => this.slotsOf(this.entriesOfTerms(each, one)))));
      }),
      this.count,
    );
  }

  private matchWhole(field: FieldId, text: string): DocSet {
    const allowed = this.allowed([field]);
    if (!text.includes(' ')) {
      const [entry] = this.entriesOfWord(text, allowed);
      if (entry === undefined) return NONE;
      if (this.data.wholeEntries[entry] === 1) return this.union([entry]);
    }
    const slots = text.split(' ').map((word) => this.slotsOf(this.entriesOfWord(word, allowed)));
    return ofList(phraseIn(slots, true));
  }

  /** The words that a part of a test stands for: itself, or where it is begun or ended by anything, all such. */
  private termsAt(test: TextTest | PartTest, at: number, parts: readonly string[]): Uint32Array | readonly number[] {
    const word = parts[at] as string;
    const [first, last] = [at === 0, at === parts.length - 1];
    if (test.op === 'part' && first) return termsHolding(this.terms, this.data, utf8(word), !last || test.ends);
    const open = last && (test.op === 'part' ? !test.ends : test.prefix);
    return open ? this.termsFrom(word) : this.termsOf(word);
  }

  private termsOf(word: string): number[] {
    const bytes = utf8(word);
    const at = this.terms.firstAtLeast(bytes);
    return at < this.terms.length && this.terms.compare(at, bytes) === 0 ? [at] : [];
  }

  private termsFrom(prefix: string): number[] {
    const bytes = utf8(prefix);
    const from = this.terms.firstAtLeast(bytes);
    const beyond = this.terms.firstBeyond(bytes, from);
    return Array.from({ length: beyond - from }, (_unused, at) => from + at);
  }

  private entriesOfWord(word: string, allowed: Uint8Array): number[] {
    return this.entriesOfTerms(this.termsOf(word), allowed);
  }

  private entriesOfTerms(terms: Uint32Array | readonly number[], allowed: Uint8Array): number[] {
    const { entriesOf, entryFields } = this.data;
    const entries: number[] = [];
    for (const term of terms)
      for (let entry = entriesOf[term] as number; entry < (entriesOf[term + 1] as number); entry += 1)
        if (allowed[entryFields[entry] as number] === 1) entries.push(entry);
    return entries;
  }

  private postingsIn(entries: readonly number[]): number {
    const { postingsOf } = this.data;
    return entries.reduce((sum, entry) => sum + (postingsOf[entry + 1] as number) - (postingsOf[entry] as number), 0);
  }

  private docsOf(entry: number): Uint32Array {
    const { docs, postingsOf } = this.data;
    return docs.subarray(postingsOf[entry], postingsOf[entry + 1]);
  }

  /** All documents of some entries. */
  private union(entries: readonly number[]): DocSet {
    const [only] = entries;
    if (only === undefined) return NONE;
    if (entries.length === 1) {
      const bits = this.dense.get(only);
      return bits ? ofBits(bits) : ofList(once(this.docsOf(only)));
    }
    const dense = entries.flatMap((entry) => this.dense.get(entry) ?? []);
    const rest = entries.filter((entry) => !this.dense.has(entry));
    const lists = rest.map((entry) => this.docsOf(entry));
    const gathered = this.gathered(lists, this.postingsIn(rest));
    return dense.length === 0 ? gathered : either([...dense.map(ofBits), gathered], this.count);
  }

  /** Documents of several lists, in any order. */
  private gathered(lists: readonly Uint32Array[], total: number): DocSet {
    if (total === 0) return NONE;
    if (total < 256 || this.count < FEW_DOCS) {
      const all = new Uint32Array(total);
      let used = 0;
      for (const list of lists) {
        all.set(list, used);
        used += list.length;
      }
      return ofList(once(all.sort()));
    }
    const bits = bitsFor(this.count);
    for (const list of lists) for (const doc of list) setBit(bits, doc);
    const set: DocSet = ofBits(bits);
    return isDense(countOf(set), this.count) ? set : ofList(listOf(set));
  }

  /** Where the words of some entries of one field stand. */
  private slotsOf(entries: readonly number[]): Slots {
    const { docs, places, postingsOf } = this.data;
    const slices = entries.map((entry) => {
      const [from, to] = [postingsOf[entry] as number, postingsOf[entry + 1] as number];
      return { docs: docs.subarray(from, to), places: places.subarray(from, to) };
    });
    const [only] = slices;
    if (slices.length === 1 && only) return only;
    return mergedSlots(slices);
  }
}

const EMPTY = new Strings(new Uint8Array(0), new Uint32Array(1));

/** Whether a document says anything in a column. */
export const says = (column: Column, doc: number): boolean =>
  column.numbers ? column.numbers[doc] !== 0 : column.starts[doc] !== column.starts[doc + 1];

/** An ascending list with each document once. */
function once(list: Uint32Array): Uint32Array {
  const out = new Uint32Array(list.length);
  let n = 0;
  for (const doc of list) if (n === 0 || out[n - 1] !== doc) out[n++] = doc;
  return out.subarray(0, n);
}

/** Numbers of the values in a span: above the first and up to the second. */
function numbersIn(values: Float64Array, { from, to }: SpanTest): [from: number, to: number] {
  return [from === null ? 0 : placeIn(values, from), to === null ? values.length : placeIn(values, to)];
}

/** All of several, in the order of documents, then of places. */
function mergedSlots(slices: readonly Slots[]): Slots {
  const total = slices.reduce((sum, { docs }) => sum + docs.length, 0);
  const keys = new Float64Array(total);
  let used = 0;
  for (const { docs, places } of slices)
    for (let i = 0; i < docs.length; i += 1) {
      const place = places[i] as number;
      // The marks go last, so that they do not order anything.
      keys[used++] = (docs[i] as number) * 0x1_0000 + (place & PLACE.number) * 4 + (place >>> 14);
    }
  keys.sort();
  const out = { docs: new Uint32Array(total), places: new Uint16Array(total) };
  keys.forEach((key, i) => {
    const low = key % 0x1_0000;
    out.docs[i] = Math.floor(key / 0x1_0000);
    out.places[i] = (low >>> 2) | ((low & 3) << 14);
  });
  return out;
}
