import type { FieldId } from '../fields';
import { LRUCache } from 'lru-cache';
import { beginningOf, irregularOf, LONGEST_ENDING, stemOf, stemsOf, type WholeTest, type WordsTest } from '../query';
import { bitsFor, type Bits } from './bits';
import {
  bothLists,
  either,
  gathered,
  markBits,
  marked,
  markList,
  NONE,
  ofBits,
  ofList,
  once,
  type DocSet,
} from './doc-set';
import { mergedSlots, phraseIn, slotsAmong, type Slots } from './phrases';
import type { SegmentData } from './segment';
import { Strings, utf8 } from './strings';
import { termsHolding } from './trigrams';

/** Where some documents are looked through instead of all, so that what follows a rare word costs little; null for all. */
type Within = Uint32Array | null;
type Terms = Uint32Array | readonly number[];

/** Of so many words their forms are kept at hand. */
const KEPT_FORMS = 5000;

/** Which documents of a segment say which words. */
export class WordFinder {
  private readonly terms: Strings;
  private readonly dense = new Map<number, Bits>();
  private readonly ofOne = new Map<FieldId, readonly FieldId[]>();
  /** By lists of fields, whether the field with a number is looked into. */
  private readonly looked = new WeakMap<readonly FieldId[], Uint8Array>();
  /** Made with the first: most segments are small and soon gone. */
  private forms: LRUCache<string, readonly number[]> | null = null;

  constructor(private readonly data: SegmentData) {
    this.terms = new Strings(data.termBytes, data.termStarts);
    const size = bitsFor(this.count).length;
    data.denseEntries.forEach((entry, at) =>
      this.dense.set(entry, data.denseBits.subarray(at * size, (at + 1) * size)),
    );
  }

  private get count(): number {
    return this.data.ids.length;
  }

  /** Those that say it in any of some fields. */
  find(fields: readonly FieldId[], test: WordsTest, within: Within): DocSet {
    const parts = test.text.split(' ');
    const terms = parts.map((_part, at) => this.termsAt(test, at, parts));
    if (terms.length === 1) return this.union(this.entriesIn(terms[0] as Terms, fields), within);
    return either(
      fields.map((field) => this.phrase(terms, field, false, within)),
      this.count,
    );
  }

  /** Those of which one thing said in a field is these words and no more. */
  findWhole(field: FieldId, text: string, within: Within): DocSet {
    const terms = text.split(' ').map((word) => this.termsOf(word));
    const [entry, ...others] = terms.length === 1 ? this.entriesIn(terms[0] as Terms, this.alone(field)) : [];
    // Wherever such a word is said, it is all that is.
    if (entry !== undefined && others.length === 0 && this.data.wholeEntries[entry] === 1)
      return this.union([entry], within);
    return this.phrase(terms, field, true, within);
  }

  private phrase(terms: readonly Terms[], field: FieldId, whole: boolean, within: Within): DocSet {
    const found = phraseIn(this.slots(terms, field, within), whole);
    // The words may have been looked for in all documents, where that is shorter.
    return ofList(within ? bothLists(found, within) : found);
  }

  /** The entries that each word of a test stands for. */
  entriesOf(fields: readonly FieldId[], test: WordsTest): number[][] {
    const parts = test.text.split(' ');
    return parts.map((_part, at) => this.entriesIn(this.termsAt(test, at, parts), fields));
  }

  /** Those in which any of some entries are said. */
  saying(entries: readonly number[]): DocSet {
    return this.union(entries, null);
  }

  /** At most so many answer; cheap to tell. */
  most(fields: readonly FieldId[], test: Exclude<WordsTest, { op: 'part' }> | WholeTest): number {
    const parts = test.text.split(' ');
    if (test.op === 'text' && test.prefix) parts.pop();
    const terms = (word: string): Terms => (test.op === 'forms' ? this.termsLike(word) : this.termsOf(word));
    return parts.reduce(
      (least, word) => Math.min(least, this.postingsIn(this.entriesIn(terms(word), fields))),
      this.count,
    );
  }

  /** A field by itself; always the same list, by which is known what was worked out for it. */
  alone(field: FieldId): readonly FieldId[] {
    let alone = this.ofOne.get(field);
    if (!alone) this.ofOne.set(field, (alone = [field]));
    return alone;
  }

  private looksInto(fields: readonly FieldId[]): Uint8Array {
    let looked = this.looked.get(fields);
    if (!looked) {
      looked = Uint8Array.from(this.data.worded, (field) => (fields.includes(field) ? 1 : 0));
      this.looked.set(fields, looked);
    }
    return looked;
  }

  /** The words that a part of a test stands for: itself, or where it is begun or ended by anything, all such. */
  private termsAt(test: WordsTest, at: number, parts: readonly string[]): Terms {
    const word = parts[at] as string;
    if (test.op === 'forms') return this.termsLike(word);
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

  /** The words that are forms of one. */
  private termsLike(word: string): readonly number[] {
    this.forms ??= new LRUCache({ max: KEPT_FORMS });
    let terms = this.forms.get(word);
    if (!terms) {
      const stems = stemsOf(word);
      const begun = stems.flatMap((stem) => {
        const longest = utf8(stem).length + LONGEST_ENDING;
        return this.termsFrom(beginningOf(stem)).filter(
          (term) => this.terms.lengthAt(term) <= longest && stemOf(this.terms.at(term)) === stem,
        );
      });
      const irregular = stems.flatMap((stem) => this.termsOf(irregularOf(stem) ?? ''));
      terms = [...new Set([...begun, ...irregular])].sort((a, b) => a - b);
      this.forms.set(word, terms);
    }
    return terms;
  }

  private termsFrom(prefix: string): number[] {
    const bytes = utf8(prefix);
    const from = this.terms.firstAtLeast(bytes);
    const beyond = this.terms.firstBeyond(bytes, from);
    return Array.from({ length: beyond - from }, (_unused, at) => from + at);
  }

  private entriesIn(terms: Terms, fields: readonly FieldId[]): number[] {
    const { entriesOf, entryFields } = this.data;
    const looked = this.looksInto(fields);
    const entries: number[] = [];
    for (const term of terms)
      for (let entry = entriesOf[term] as number; entry < (entriesOf[term + 1] as number); entry += 1)
        if (looked[entryFields[entry] as number] === 1) entries.push(entry);
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
  private union(entries: readonly number[], within: Within): DocSet {
    const [only] = entries;
    if (only === undefined) return NONE;
    if (within) {
      const marks = new Uint8Array(within.length);
      for (const entry of entries) {
        const bits = this.dense.get(entry);
        if (bits) markBits(within, bits, marks);
        else markList(within, this.docsOf(entry), marks);
      }
      return ofList(marked(within, marks));
    }
    if (entries.length === 1) {
      const bits = this.dense.get(only);
      return bits ? ofBits(bits) : ofList(once(this.docsOf(only)));
    }
    const dense = entries.flatMap((entry) => this.dense.get(entry) ?? []);
    const rest = entries.filter((entry) => !this.dense.has(entry)).map((entry) => this.docsOf(entry));
    const others = gathered(rest, this.count);
    return dense.length === 0 ? others : either([...dense.map(ofBits), others], this.count);
  }

  /** Where in a field words stand, or one of several in the place of each. */
  private slots(terms: readonly Terms[], field: FieldId, within: Within): Slots[] {
    const { docs, places, postingsOf } = this.data;
    return terms.map((each) => {
      const entries = this.entriesIn(each, this.alone(field));
      // Looking for few documents in many lists takes longer than going through these.
      const few = within && within.length * entries.length < this.postingsIn(entries);
      const slices = entries.map((entry) => {
        const [from, to] = [postingsOf[entry] as number, postingsOf[entry + 1] as number];
        const all = { docs: docs.subarray(from, to), places: places.subarray(from, to) };
        return few ? slotsAmong(all, within) : all;
      });
      const [only] = slices;
      return only && slices.length === 1 ? only : mergedSlots(slices);
    });
  }
}
