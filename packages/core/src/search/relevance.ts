import { isNumericType, type FieldId, type FieldRegistry } from '../fields';
import { wordsAsked, type Query, type WordsTest } from '../query';
import { gallop } from './doc-set';
import type { Part } from './part';
import type { Found } from './window';

/**
 * BM25F, as in S. Robertson and H. Zaragoza, “The Probabilistic Relevance Framework: BM25 and Beyond” (2009), section 3.6, with the
 * usual parameters given there. What a word weighs by how rare it is, is taken so that it is never below nothing:
 * ln(1 + (N − n + ½) / (n + ½)).
 */
export const BM25F = { k1: 1.2, b: 0.75 } as const;

/** Being named so says more of an asset than a mention; by judgement, no source. */
const WEIGHTS: Readonly<Partial<Record<FieldId, number>>> = { title: 4, name: 3, tag: 3, people: 2, marker: 1.5 };

/** What a word weighs that so many of all documents say. */
export const rarityOf = (documents: number, saying: number): number =>
  Math.log(1 + (documents - saying + 0.5) / (saying + 0.5));

/** What one mention counts in a field of so many words, where fields have so many on average. */
export const shareOf = (words: number, average: number): number =>
  1 / (1 - BM25F.b + (BM25F.b * words) / (average || 1));

/** What mentions are worth together; never more than 1, however many there are. */
export const worthOf = (much: number): number => much / (BM25F.k1 + much);

export const weightOf = (field: FieldId): number => WEIGHTS[field] ?? 1;

/** Words that are asked for, and the fields in which they may be said. */
export interface Wanted {
  readonly fields: readonly FieldId[];
  readonly test: WordsTest;
}

/** What a search asks for that may be said more or less: not things as a whole, nor one of a list. */
export function wantedIn(tree: Query, fields: FieldRegistry): Wanted[] {
  const isWorded = (id: FieldId): boolean => {
    const field = fields.byId(id);
    return field !== undefined && !field.choices && !isNumericType(field.type) && field.type !== 'position';
  };
  return wordsAsked(tree).flatMap(({ field, test }) => {
    const worded = (field === null ? fields.plain : [field]).filter(isWorded);
    return test.op === 'whole' || worded.length === 0 ? [] : [{ fields: worded, test }];
  });
}

/** The scores of a part's documents; those of a search before until the next one. Above nothing where a word is said. */
interface Scores {
  readonly of: Float32Array;
  /** Of one word, before its fields together are worth no more than `BM25F` lets them. */
  readonly said: Float32Array;
}

const LENGTHS = 256;

/** Says how well documents fit a search. */
export class Relevance {
  private readonly scores = new WeakMap<Part, Scores>();

  /** Works out the scores of what was found; nothing if nothing is asked for that could be said more or less. */
  rank(wanted: readonly Wanted[], found: readonly Found[]): ReadonlyMap<Part, Float32Array> | null {
    if (wanted.length === 0) return null;
    const living = found.reduce((sum, { part }) => sum + part.live, 0);
    const out = new Map(found.map((each) => [each.part, this.cleared(each)]));
    for (const { fields, test } of wanted) {
      const shares = new Map(fields.map((field) => [field, sharesIn(field, found, living)]));
      const entries = found.map(({ part }) => part.finder.entriesOf(fields, test));
      test.text.split(' ').forEach((_word, at) => {
        const key = `${at} ${JSON.stringify([fields, test])}`;
        const saying = found.reduce((sum, { part }, n) => sum + part.saying(entries[n]?.[at] ?? [], key), 0);
        if (saying === 0) return;
        const rarity = rarityOf(living, saying);
        found.forEach((each, n) => addWord(each, entries[n]?.[at] ?? [], shares, rarity, out.get(each.part) as Scores));
      });
    }
    return new Map([...out].map(([part, { of }]) => [part, of]));
  }

  private cleared({ part, set }: Found): Scores {
    let scores = this.scores.get(part);
    if (!scores) {
      const count = part.data.ids.length;
      scores = { of: new Float32Array(count), said: new Float32Array(count) };
      this.scores.set(part, scores);
    }
    // Of few, only theirs are read.
    if (set.list) for (const doc of set.list) scores.of[doc] = 0;
    else scores.of.fill(0);
    return scores;
  }
}

/** By the number of words in a field: what a word there counts. */
function sharesIn(field: FieldId, found: readonly Found[], living: number): Float64Array {
  const average = found.reduce((sum, { part }) => sum + part.wordsIn(field), 0) / Math.max(1, living);
  const weight = weightOf(field);
  return Float64Array.from({ length: LENGTHS }, (_unused, length) => weight * shareOf(length, average));
}

function addWord(
  { part, set }: Found,
  entries: readonly number[],
  shares: ReadonlyMap<FieldId, Float64Array>,
  rarity: number,
  { of, said }: Scores,
): void {
  const { docs, postingsOf, lengths, entryFields, worded } = part.data;
  const [only] = entries;
  if (only !== undefined && entries.length === 1 && !set.list) {
    const field = entryFields[only] as number;
    const share = shares.get(worded[field] as FieldId) as Float64Array;
    const postings = docs.subarray(postingsOf[only], postingsOf[only + 1]);
    return scoreAlone(postings, share, lengths[field] as Uint8Array, of, rarity);
  }
  /** Documents whose mentions were added up, though they may not have been found. */
  const walked: Uint32Array[] = [];
  let mentions = 0;
  for (const entry of entries) {
    const field = entryFields[entry] as number;
    const share = shares.get(worded[field] as FieldId) as Float64Array;
    const length = lengths[field] as Uint8Array;
    const postings = docs.subarray(postingsOf[entry], postingsOf[entry + 1]);
    // What begins a word stands for thousands, each of which few say: those are gone through, whoever is among them.
    if (!set.list || postings.length < set.list.length * 4) {
      addMentions(postings, share, length, said);
      walked.push(postings);
      mentions += postings.length;
    } else addMentionsAmong(set.list, postings, share, length, said);
  }
  if (set.list) {
    settle(set.list, said, of, rarity);
    for (const postings of walked) clear(postings, said);
  } else if (mentions * 4 < said.length) for (const postings of walked) settle(postings, said, of, rarity);
  else settleAll(said, of, rarity);
}

// Each a loop of its own over arrays that are handed in: called for every entry from within another, they took three times as long.

function addMentions(postings: Uint32Array, share: Float64Array, length: Uint8Array, said: Float32Array): void {
  for (let i = 0; i < postings.length; i += 1) {
    const doc = postings[i] as number;
    said[doc] = (said[doc] as number) + (share[length[doc] as number] as number);
  }
}

function addMentionsAmong(
  list: Uint32Array,
  postings: Uint32Array,
  share: Float64Array,
  length: Uint8Array,
  said: Float32Array,
): void {
  let at = 0;
  for (let i = 0; i < list.length; i += 1) {
    const doc = list[i] as number;
    for (at = gallop(postings, doc, at); postings[at] === doc; at += 1)
      said[doc] = (said[doc] as number) + (share[length[doc] as number] as number);
  }
}

/** What was said of a word by some documents becomes part of their scores. */
function settle(list: Uint32Array, said: Float32Array, of: Float32Array, rarity: number): void {
  for (let i = 0; i < list.length; i += 1) {
    const doc = list[i] as number;
    const much = said[doc] as number;
    if (much === 0) continue;
    of[doc] = (of[doc] as number) + rarity * worthOf(much);
    said[doc] = 0;
  }
}

/** As `settle`, of all documents in their order: the mentions of a frequent word would be gone through all over the library. */
function settleAll(said: Float32Array, of: Float32Array, rarity: number): void {
  // Of what is not said nothing comes: to go on without asking is sooner done than to guess wrong every other time.
  for (let doc = 0; doc < said.length; doc += 1) of[doc] = (of[doc] as number) + rarity * worthOf(said[doc] as number);
  said.fill(0);
}

/** All of a word that is said in one field: what one mention is worth there depends on nothing but how long the field is. */
function scoreAlone(
  postings: Uint32Array,
  share: Float64Array,
  length: Uint8Array,
  of: Float32Array,
  rarity: number,
): void {
  const once = share.map((each) => rarity * worthOf(each));
  const end = postings.length;
  for (let i = 0; i < end;) {
    const doc = postings[i] as number;
    let mentions = 1;
    for (i += 1; i < end && postings[i] === doc; i += 1) mentions += 1;
    const words = length[doc] as number;
    const worth = mentions === 1 ? (once[words] as number) : rarity * worthOf(mentions * (share[words] as number));
    of[doc] = (of[doc] as number) + worth;
  }
}

function clear(list: Uint32Array, said: Float32Array): void {
  for (let i = 0; i < list.length; i += 1) said[list[i] as number] = 0;
}
