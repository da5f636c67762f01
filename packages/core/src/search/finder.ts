import { LRUCache } from 'lru-cache';
import type { FieldId, FieldRegistry } from '../fields';
import { readPosition, within } from '../position';
import {
  askedOf,
  isOfWords,
  type FieldTest,
  type HeardTest,
  type NearTest,
  type Query,
  type SpanTest,
  type WholeTest,
  type WordsTest,
} from '../query';
import { bitsFor, listBits, setBit } from './bits';
import { placeIn } from './column-draft';
import {
  both,
  countOf,
  either,
  everyDoc,
  gallop,
  gathered,
  isDense,
  NONE,
  ofList,
  without,
  type DocSet,
} from './doc-set';
import { firstOfRank, orderOf, type Ordering } from './ordering';
import { FEW_DOCS, type Column, type SegmentData } from './segment';
import { Strings } from './strings';
import { WordFinder } from './word-finder';

/** Answers of whole searches are kept, and of what costs most in them, up to so many bytes for each document, or in all. */
const KEPT_BYTES = { each: 32, least: 1_000_000 } as const;

/** The numbers of the assets, ascending, in which words were said as they sound. */
export type Hears = (test: HeardTest) => Uint32Array;

/** Which documents of a segment answer a search; those that are gone among them. */
export class Finder {
  private readonly words: WordFinder;
  private readonly orderings = new Map<FieldId, Ordering>();
  private readonly answers: LRUCache<string, DocSet>;
  private readonly texts = new Map<FieldId, Strings>();
  private readonly present = new Map<FieldId, DocSet>();
  private plain: PlainFields;
  private every: DocSet | null = null;

  /** @param hears which assets what sounds so is said in, ascending */
  constructor(
    readonly data: SegmentData,
    private fields: FieldRegistry,
    private readonly hears: Hears,
  ) {
    this.words = new WordFinder(data);
    this.plain = plainOf(fields);
    this.answers = new LRUCache({
      maxSize: Math.max(KEPT_BYTES.least, KEPT_BYTES.each * data.ids.length),
      sizeCalculation: bytesOf,
    });
  }

  get count(): number {
    return this.data.ids.length;
  }

  setFields(fields: FieldRegistry): void {
    this.fields = fields;
    this.plain = plainOf(fields);
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

  /** `tree` has nothing in it that depends on the present; `key` is the same as text. */
  find(tree: Query, key: string): DocSet {
    if (tree.kind === 'all' && tree.of.length === 0) return (this.every ??= everyDoc(this.count));
    return this.kept(key, () => this.match(tree));
  }

  /** The entries that each word of a test stands for. */
  entriesOf(fields: readonly FieldId[], test: WordsTest): number[][] {
    return this.words.entriesOf(fields, test);
  }

  /** Those in which any of some entries are said, which are those of a test's word. */
  sayingAny(entries: readonly number[], key: string): DocSet {
    return this.kept(`said ${key}`, () => this.words.saying(entries));
  }

  /** As `find`, of a few documents, and nothing of it is kept. */
  among(list: Uint32Array | null, tree: Query): DocSet {
    return list ? this.narrow(ofList(list), tree) : this.match(tree);
  }

  private kept(key: string, make: () => DocSet): DocSet {
    let set = this.answers.get(key);
    if (!set) this.answers.set(key, (set = make()));
    return set;
  }

  private match(tree: Query): DocSet {
    switch (tree.kind) {
      case 'all':
        return this.matchAll(tree.of);
      case 'any':
        // A field's own facet puts that field's part of the search aside and asks for the rest again.
        return this.kept(`any ${JSON.stringify(tree.of)}`, () =>
          either(
            tree.of.map((part) => this.match(part)),
            this.count,
          ),
        );
      case 'not':
        return without(everyDoc(this.count), this.match(tree.of));
      case 'words':
        return this.matchWords(tree.test, null);
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
        return this.matchWords(part.test, list);
      case 'field': {
        const { field, test } = part;
        if (isOfWords(test)) return this.matchWorded(field, test, list);
        if (test.op === 'span') return ofList(this.filterSpan(list, field, test));
        if (test.op === 'presence')
          return test.present ? both(left, this.saying(field)) : without(left, this.saying(field));
        return both(left, this.match(part));
      }
      default:
        return part satisfies never;
    }
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
        if (isOfWords(test)) return this.mostOfWords(this.words.alone(field), test);
        if (test.op === 'span') return this.mostInSpan(field, test);
        if (test.op !== 'presence') return this.count;
        const saying = countOf(this.saying(field));
        return test.present ? saying : this.count - saying;
      }
      default:
        return tree satisfies never;
    }
  }

  private mostOfWords(fields: readonly FieldId[], test: WordsTest | WholeTest): number {
    // To tell would be as long as to find.
    return test.op === 'part' ? this.count : this.words.most(fields, test);
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
      case 'forms':
      case 'text':
      case 'part':
      case 'whole':
        return this.matchWorded(field, test, null);
      case 'span':
        return this.matchSpan(field, test);
      case 'near':
        return this.matchNear(field, test);
      case 'presence': {
        const saying = this.saying(field);
        return test.present ? saying : without(everyDoc(this.count), saying);
      }
      case 'heard':
        return ofList(this.docsOf(this.hears(test)));
      case 'around':
        throw new Error('the name of a place is put as where it lies before it is looked for');
      case 'calendar':
      case 'age':
        throw new Error('what depends on the present is put as what it means now before it is looked for');
      default:
        return test satisfies never;
    }
  }

  /** The documents of some assets; both ascend. */
  private docsOf(ids: Uint32Array): Uint32Array {
    let at = 0;
    const docs = ids.map((id) => {
      at = gallop(this.data.ids, id, at);
      return this.data.ids[at] === id ? at : this.count;
    });
    return docs.filter((doc) => doc < this.count);
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

  /** In any of the fields that plain words look in; `list`: of these documents. */
  private matchWords(test: WordsTest, list: Uint32Array | null): DocSet {
    const { loose, listed } = this.plain;
    return either(
      [this.found(loose, test, list), ...listed.map((field) => this.matchWorded(field, test, list))],
      this.count,
    );
  }

  private matchWorded(field: FieldId, test: WordsTest | WholeTest, list: Uint32Array | null): DocSet {
    const asked = askedOf(this.fields.byId(field), test);
    return asked.op === 'whole'
      ? this.words.findWhole(field, asked.text, list)
      : this.found(this.words.alone(field), asked, list);
  }

  private found(fields: readonly FieldId[], test: WordsTest, list: Uint32Array | null): DocSet {
    if (test.op === 'forms' || (test.op === 'text' && !test.prefix)) return this.words.find(fields, test, list);
    // What many words answer takes long even of few documents, and is mostly asked for again.
    const key = `${test.op} ${fields.join()} ${test.text} ${test.op === 'part' && test.ends}`;
    const all = this.kept(key, () => this.words.find(fields, test, null));
    return list ? both(ofList(list), all) : all;
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
    return this.kept(`span ${field} ${from} ${to}`, () => {
      const ordering = this.ordering(field) as Ordering;
      const { order } = ordering;
      const [first, end] = [firstOfRank(ordering, from + 1), firstOfRank(ordering, to + 1)];
      // Of most it is shorter to leave out the rest.
      if ((end - first) * 2 > order.length) {
        const rest = [order.subarray(0, first), order.subarray(end)];
        return without(this.saying(field), gathered(rest, this.count));
      }
      return gathered([order.subarray(first, end)], this.count);
    });
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
}

/** Fields that plain words look into: those in which a word may stand anywhere, and those that say one of a list. */
interface PlainFields {
  readonly loose: readonly FieldId[];
  readonly listed: readonly FieldId[];
}

const plainOf = (fields: FieldRegistry): PlainFields => ({
  loose: fields.plain.filter((field) => !fields.byId(field)?.choices),
  listed: fields.plain.filter((field) => fields.byId(field)?.choices),
});

const bytesOf = ({ list, bits }: DocSet): number => 100 + (list ?? bits).byteLength;

const EMPTY = new Strings(new Uint8Array(0), new Uint32Array(1));

/** Whether a document says anything in a column. */
export const says = (column: Column, doc: number): boolean =>
  column.numbers ? column.numbers[doc] !== 0 : column.starts[doc] !== column.starts[doc + 1];

/** Numbers of the values in a span: above the first and up to the second. */
function numbersIn(values: Float64Array, { from, to }: SpanTest): [from: number, to: number] {
  return [from === null ? 0 : placeIn(values, from), to === null ? values.length : placeIn(values, to)];
}
