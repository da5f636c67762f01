import fc from 'fast-check';
import bm25 from 'okapibm25';
import { BUILT_IN, words, type FieldId, type FieldValues } from '@larder/core/fields';
import { answersQuery, parseQuery, stemOf, stemsOf } from '@larder/core/query';
import {
  LibraryIndex,
  mergeOf,
  rarityOf,
  RELEVANCE,
  shareOf,
  weightOf,
  worthOf,
  type SearchDocument,
  type SegmentSizes,
} from '@larder/core/search';
import { paragraphsOfTheBook } from './book';

const BEST_FIRST = { field: RELEVANCE, descending: true } as const;
const best = (index: LibraryIndex, text: string, limit = 1e6): readonly number[] =>
  index.search({ tree: parseQuery(text).tree, sort: BEST_FIRST, offset: 0, limit }).ids;

describe('the formula', () => {
  // W. B. Croft, D. Metzler, T. Strohman: Search Engines: Information Retrieval in Practice (2009), section 7.2.2, "president
  // lincoln"; figures of table 7.2 from memory. There a mention counts (k1 + 1) times as much, and what a word weighs is
  // ln((N - n + 1/2) / (n + 1/2)), which here has one added before the logarithm is taken.
  const [documents, president, lincoln] = [500_000, 40_000, 300];
  const weight = (saying: number) => Math.log((documents - saying + 0.5) / (saying + 0.5));
  it.each([
    [15, 25, 20.66],
    [15, 1, 12.74],
    [15, 0, 5.0],
    [1, 25, 18.2],
    [0, 25, 15.66],
  ])('of %d and %d mentions makes %d', (first, second, score) => {
    const worth = (mentions: number) => 2.2 * worthOf(mentions * shareOf(0.9, 1));
    const total = weight(president) * worth(first) + weight(lincoln) * worth(second);
    expect(Math.abs(total - score)).toBeLessThan(0.05);
    expect(Math.exp(rarityOf(documents, lincoln))).toBeCloseTo(1 + Math.exp(weight(lincoln)), 6);
  });
  it('has a mention count less in a long field, and never makes a common word count against', () => {
    expect(shareOf(200, 20)).toBeLessThan(shareOf(20, 20));
    expect(shareOf(20, 20)).toBe(1);
    expect(rarityOf(10, 10)).toBeGreaterThan(0);
  });
});

describe('against a package for it', () => {
  // Peer: okapibm25 1.4.
  const paragraphs = paragraphsOfTheBook()
    .map((text) => words(text))
    // Lengths are kept up to 255 words.
    .filter(({ length }) => length > 0 && length < 255);
  // Apart by two spaces, so that a word between spaces is found as often as it is there.
  const texts = paragraphs.map((each) => `  ${each.join('  ')}  `);
  const index = new LibraryIndex();
  index.upsert(paragraphs.map((each, at) => ({ id: at + 1, values: { description: each.join(' ') } })));

  it.each(['"whale"', '"white" "whale"', '"captain" or "ahab" or "leg"', '"harpoon" or "sea"'])('%s', (text) => {
    const asked = [...text.matchAll(/"(\w+)"/g)].map(([, word]) => ` ${word as string} `);
    const scores = bm25(texts, asked, { k1: 1.2, b: 0.75 }) as number[];
    const found = best(index, text);
    expect(found.length).toBeGreaterThan(5);
    found.forEach((id, at) => {
      const [before, now] = [scores[(found[at - 1] ?? id) - 1] as number, scores[id - 1] as number];
      expect([text, at, now > before + 1e-4]).toEqual([text, at, false]);
    });
  });
});

/** As the formula is written, document by document. */
function scoreOf(text: string, document: SearchDocument, all: readonly SearchDocument[], fields: readonly FieldId[]) {
  const wordsIn = ({ values, also }: SearchDocument, field: FieldId): string[] => {
    const value = values[field];
    const said = value === undefined ? [] : Array.isArray(value) ? (value as string[]) : [String(value)];
    return [...said, ...(also?.[field] ?? [])].flatMap(words);
  };
  return [...text.matchAll(/"?([a-z]+)("?)/g)].reduce((score, [, word = '', quote]) => {
    const likes = (other: string) => (quote ? other === word : stemsOf(word).includes(stemOf(other)));
    const says = (each: SearchDocument) => fields.some((field) => wordsIn(each, field).some(likes));
    const much = fields.reduce((sum, field) => {
      const own = wordsIn(document, field);
      const average = all.reduce((total, each) => total + wordsIn(each, field).length, 0) / all.length;
      return sum + own.filter(likes).length * weightOf(field) * shareOf(own.length, average);
    }, 0);
    return score + rarityOf(all.length, all.filter(says).length) * worthOf(much);
  }, 0);
}

describe('order by relevance', () => {
  const SMALL: SegmentSizes = { fresh: 2, fan: 2, quick: 6, besideShare: 0.4, besideLeast: 6, deadShare: 0.3 };
  const sentence = fc
    .array(fc.constantFrom('boat', 'boats', 'lock', 'bell', 'water'), { minLength: 1, maxLength: 6 })
    .map((list) => list.join(' '));
  const values: fc.Arbitrary<FieldValues> = fc.record(
    {
      name: sentence,
      description: sentence,
      tag: fc.uniqueArray(fc.constantFrom('boat', 'early bell', 'lock'), { maxLength: 3 }),
      kind: fc.constantFrom('video', 'audio'),
    },
    { requiredKeys: [] },
  );
  const worded = BUILT_IN.plain;

  it('is that of the scores, through changes, merges and restarts, and equal ones by what comes then', () =>
    fc.assert(
      fc.property(
        fc.array(fc.tuple(fc.nat(20), values), { minLength: 1, maxLength: 40 }),
        fc.array(fc.nat(20), { maxLength: 6 }),
        fc.constantFrom(
          'boat',
          '"boat"',
          'boat or bell',
          'boat -lock',
          '"lock" or water',
          'kind:video boat',
          'bell-lock',
        ),
        fc.nat(6),
        (puts, gone, text, at) => {
          let index = new LibraryIndex(BUILT_IN, () => 0, SMALL);
          const documents = new Map<number, SearchDocument>();
          puts.forEach(([id, given], n) => {
            index.upsert([{ id, values: given }]);
            documents.set(id, { id, values: given });
            const plan = n % 7 === 6 ? index.mergeDue() : null;
            if (plan) index.adopt(plan, mergeOf(plan));
          });
          index.remove(gone);
          gone.forEach((id) => documents.delete(id));
          const kept = index.keep();
          if (at % 2 === 1) {
            index = new LibraryIndex(BUILT_IN, () => 0, SMALL);
            index.restore(kept);
          }
          const all = [...documents.values()];
          const { tree } = parseQuery(text);
          const expected = all.filter((each) => answersQuery(tree, each, BUILT_IN, 0));
          const asked = text
            .replace('kind:video', '')
            .replace('-lock', text === 'bell-lock' ? ' lock' : '')
            .replace(/ or /g, ' ');
          const ids = index.search({
            tree,
            sort: { ...BEST_FIRST, then: [{ field: 'name', descending: false }] },
            offset: 0,
            limit: 100,
          }).ids;
          expect([...ids].sort((a, b) => a - b)).toEqual(expected.map(({ id }) => id).sort((a, b) => a - b));
          const scores = ids.map((id) => scoreOf(asked, documents.get(id) as SearchDocument, all, worded));
          scores.forEach((score, n) => expect(score).toBeLessThanOrEqual((scores[n - 1] ?? Infinity) + 1e-5));
          // A window is a cut of the whole.
          expect(
            index.search({
              tree,
              sort: { ...BEST_FIRST, then: [{ field: 'name', descending: false }] },
              offset: at,
              limit: 3,
            }).ids,
          ).toEqual(ids.slice(at, at + 3));
        },
      ),
      { numRuns: 600 },
    ));
  it('puts what is named so before a mention, and a short text before a long one', () => {
    const index = new LibraryIndex();
    index.upsert([
      {
        id: 1,
        values: { name: 'one', description: 'a long text in which the boat comes up between many other things' },
      },
      { id: 2, values: { name: 'two', description: 'the boat' } },
      { id: 3, values: { name: 'boat' } },
      { id: 4, values: { name: 'four', description: 'boats', tag: ['boat'] } },
    ]);
    expect(best(index, 'boat')).toEqual([4, 3, 2, 1]);
    // Nothing to be ordered by but their numbers.
    expect(best(index, '')).toEqual([1, 2, 3, 4]);
    expect(best(index, 'no:tag')).toEqual([1, 2, 3]);
  });
  it('takes what was found at ease, many and few', () => {
    const index = new LibraryIndex();
    index.upsert(
      Array.from({ length: 9000 }, (_unused, at) => ({
        id: at + 1,
        values: { name: `clip ${at}`, description: `lock ${'boat '.repeat(at % 5)}${at === 4321 ? 'bell boat' : ''}` },
      })),
    );
    const many = best(index, 'boat', 200);
    expect(many).toHaveLength(200);
    expect(many.every((id) => (id - 1) % 5 === 4)).toBe(true);
    expect(best(index, 'bell or boat', 1)).toEqual([4322]);
    expect(best(index, 'bell')).toEqual([4322]);
    // Words that are begun stand for thousands, of which few are in what was found; nothing of them is left for the next.
    const before = best(index, 'boat lock', 50);
    expect(best(index, 'bell *432* cl*')).toEqual([4322]);
    expect(best(index, 'bell 4* bo*')).toEqual([4322]);
    expect(best(index, 'boat lock', 50)).toEqual(before);
  });
});
