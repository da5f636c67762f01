import fc from 'fast-check';
import MiniSearch from 'minisearch';
import { FIELDS, fold, BUILT_IN, words, type FieldId, type FieldValues } from '@larder/core/fields';
import { metresBetween, readPosition } from '@larder/core/position';
import {
  choiceIn,
  EVERYTHING,
  isOfWords,
  parseQuery,
  stemOf,
  stemsOf,
  withChoice,
  type Choice,
  type Query,
  type WordsTest,
} from '@larder/core/query';
import { LibraryIndex, sortKey, type SearchDocument, type SortBy } from '@larder/core/search';
import { paragraphsOfTheBook } from './book';

const tree = (text: string): Query => {
  const { tree: parsed, issues } = parseQuery(text);
  if (issues.length > 0) throw new Error(JSON.stringify(issues));
  return parsed;
};
const find = (index: LibraryIndex, text: string, sort: FieldId = 'name', descending = false): readonly number[] =>
  index.search({ tree: tree(text), sort: { field: sort, descending }, offset: 0, limit: 1_000_000 }).ids;

/** A naive reading of the same tree, document by document, written without the index's means. */
function answers(query: Query, { values }: SearchDocument): boolean {
  const inText = (field: FieldId, test: WordsTest) => {
    const value = values[field];
    const texts = value === undefined ? [] : Array.isArray(value) ? (value as string[]) : [String(value)];
    if (test.op === 'part')
      return texts.some((each) => new RegExp(test.ends ? `${test.text}( |$)` : test.text).test(words(each).join(' ')));
    const { text } = test;
    const prefix = test.op === 'text' && test.prefix;
    const likes = (word: string, other: string | undefined) =>
      test.op === 'forms' ? other !== undefined && stemsOf(word).includes(stemOf(other)) : other === word;
    const wanted = text.split(' ');
    return texts.some((each) => {
      const have = words(each);
      return have.some((_word, start) =>
        wanted.every((word, k) =>
          prefix && k === wanted.length - 1 ? have[start + k]?.startsWith(word) : likes(word, have[start + k]),
        ),
      );
    });
  };
  switch (query.kind) {
    case 'all':
      return query.of.every((part) => answers(part, { id: 0, values }));
    case 'any':
      return query.of.some((part) => answers(part, { id: 0, values }));
    case 'not':
      return !answers(query.of, { id: 0, values });
    case 'words':
      return BUILT_IN.plain.some((field) => inText(field, query.test));
    case 'field': {
      const value = values[query.field];
      if (query.test.op !== 'whole' && isOfWords(query.test)) return inText(query.field, query.test);
      if (query.test.op === 'whole') {
        const { text } = query.test;
        const texts = value === undefined ? [] : Array.isArray(value) ? (value as string[]) : [String(value)];
        return texts.some((each) => words(each).join(' ') === text);
      }
      if (
        query.test.op === 'calendar' ||
        query.test.op === 'age' ||
        query.test.op === 'around' ||
        query.test.op === 'heard'
      )
        throw new Error('what depends on the present, or on other assets, has tests of its own');
      if (query.test.op === 'presence')
        return (
          (value !== undefined && value !== '' && (!Array.isArray(value) || value.length > 0)) === query.test.present
        );
      if (query.test.op === 'near') {
        const place = typeof value === 'string' ? readPosition(value) : null;
        return place !== null && metresBetween(place, query.test) <= query.test.metres;
      }
      return (
        typeof value === 'number' &&
        (query.test.from === null || value >= query.test.from) &&
        (query.test.to === null || value < query.test.to)
      );
    }
    default:
      return query satisfies never;
  }
}

const vocabulary = [
  'boat',
  'boats',
  'boated',
  'boathouse',
  'lock',
  'bell',
  'dawn',
  'dusk',
  'water',
  'écluse',
  'A10',
  'A2',
];
const sentence = fc.array(fc.constantFrom(...vocabulary), { minLength: 1, maxLength: 6 }).map((list) => list.join(' '));
const values: fc.Arbitrary<FieldValues> = fc.record(
  {
    name: sentence,
    description: sentence,
    tag: fc.array(fc.constantFrom('dawn', 'golden hour', 'bell'), { minLength: 1 }),
    kind: fc.constantFrom('video', 'audio'),
    duration: fc.integer({ min: 0, max: 30_000 }),
    verdict: fc.constantFrom('circled', 'ng'),
    shot: fc.integer({ min: 0, max: 5 * 86_400_000 }),
    position: fc.constantFrom('50.4120, -3.5180', '50.4207, -3.5022', '51.0000, -3.5000'),
  },
  { requiredKeys: ['name'] },
);
const queries = fc.constantFrom(
  'boat',
  'boat*',
  '"boat"',
  'boats',
  'boating',
  '"boats"',
  'bell-boats',
  'name:boats',
  'tag:"dawn"',
  'tag:bells',
  '"low water"',
  '"lock bell"',
  'lock or bell',
  '-boat',
  'lock (dawn or dusk) -bell',
  'tag:dawn',
  'tag:"golden hour"',
  'tag:gold*',
  'kind:video duration>10s',
  'duration:5s..20s',
  'no:tag',
  'has:verdict -verdict:ng',
  'ecluse',
  '',
  'name:"boat lock"',
  'dawn dusk or water',
  'name:(boat or bell)',
  'lock-be*',
  '*oat*',
  '*oat',
  'name:*k-b*',
  '-*house',
  'tag:*ell*',
  'no:duration',
  'near:50.412,-3.518,2km',
  'name=boat',
  'name="boat lock"',
  '-tag="golden hour"',
  'tag=golden',
  '-near:50.412,-3.518,500m dawn',
  'has:position',
);

describe('against a naive reading of every document', () => {
  it('gives the same answers, through changes and removals', () => {
    fc.assert(
      fc.property(
        fc.array(values, { minLength: 1, maxLength: 40 }),
        fc.array(fc.tuple(fc.nat(60), values), { maxLength: 30 }),
        fc.array(fc.nat(40), { maxLength: 10 }),
        queries,
        (first, changes, gone, text) => {
          const index = new LibraryIndex();
          const oracle = new Map<number, SearchDocument>();
          const put = (id: number, given: FieldValues) => {
            index.upsert([{ id, values: given }]);
            oracle.set(id, { id, values: given });
          };
          first.forEach((given, id) => put(id + 1, given));
          changes.forEach(([id, given]) => put(id + 1, given));
          index.remove(gone);
          gone.forEach((id) => oracle.delete(id));
          const expected = [...oracle.values()]
            .filter((document) => answers(tree(text), document))
            .map((document) => document.id);
          expect([...find(index, text)].sort((a, b) => a - b)).toEqual(expected.sort((a, b) => a - b));
          expect(index.count(tree(text))).toBe(expected.length);
        },
      ),
      { numRuns: 400 },
    );
  });
});

describe('against a general-purpose search library', () => {
  // Peer: minisearch 7.2.
  const paragraphs = paragraphsOfTheBook().map((text, position) => ({ id: position + 1, text }));
  const index = new LibraryIndex();
  index.upsert(paragraphs.map(({ id, text }) => ({ id, values: { description: text } })));
  const peer = new MiniSearch<{ id: number; text: string }>({
    fields: ['text'],
    tokenize: (text) => words(text),
    processTerm: (term) => fold(term),
  });
  peer.addAll(paragraphs);
  const formed = new MiniSearch<{ id: number; text: string }>({
    fields: ['text'],
    tokenize: (text) => words(text),
    processTerm: (term) => stemOf(fold(term)),
  });
  formed.addAll(paragraphs);
  const ids = (results: { id: unknown }[]) => results.map((result) => Number(result.id)).sort((a, b) => a - b);
  const ours = (text: string) => [...find(index, text)].sort((a, b) => a - b);

  it('read the whole book', () => expect(paragraphs.length).toBeGreaterThan(2000));
  it.each(['whale', 'white whale', 'harpoon sea', 'Queequeg', 'captain ahab leg', 'nowhere whale', 'zzz'])(
    'all of the words: %s',
    (text) => {
      const exact = text.split(' ').map((word) => `"${word}"`);
      expect(ours(exact.join(' '))).toEqual(ids(peer.search(text, { combineWith: 'AND' })));
      expect(ours(text)).toEqual(ids(formed.search(text, { combineWith: 'AND' })));
    },
  );
  it.each([
    ['harpoon', 'lance'],
    ['pequod', 'rachel', 'town'],
  ])('any of the words: %s, %s', (...terms) => {
    const exact = terms.map((word) => `"${word}"`);
    expect(ours(exact.join(' or '))).toEqual(ids(peer.search(terms.join(' '), { combineWith: 'OR' })));
    expect(ours(terms.join(' or '))).toEqual(ids(formed.search(terms.join(' '), { combineWith: 'OR' })));
  });
  it.each(['harpoon', 'whal', 'q'])('begun words: %s*', (text) =>
    expect(ours(`${text}*`)).toEqual(ids(peer.search(text, { prefix: true }))),
  );
  it('without: whale -white', () =>
    expect(ours('"whale" -"white"')).toEqual(
      ids(peer.search({ combineWith: 'AND_NOT', queries: ['whale', 'white'] })),
    ));
  it('a phrase is found where the text, folded by hand, holds it', () => {
    const expected = paragraphs
      .filter(({ text }) => ` ${text.toLowerCase().replace(/[^a-z0-9]+/g, ' ')} `.includes(' the white whale '))
      .map(({ id }) => id);
    expect(expected.length).toBeGreaterThan(10);
    expect(ours('"the white whale"')).toEqual(expected);
  });
});

describe('order and windows', () => {
  const index = new LibraryIndex();
  index.upsert([
    { id: 1, values: { name: 'A10', duration: 5 } },
    { id: 2, values: { name: 'a2' } },
    { id: 3, values: { name: 'B1', duration: 1, tag: ['dawn', 'bell'] } },
    { id: 4, values: { name: 'a2', duration: 9, tag: ['dawn'] } },
  ]);
  it('numbers in names count as numbers, equal names by id', () => expect(find(index, '')).toEqual([2, 4, 1, 3]));
  it('what says nothing comes last in both directions', () => {
    expect(find(index, '', 'duration')).toEqual([3, 1, 4, 2]);
    expect(find(index, '', 'duration', true)).toEqual([4, 1, 3, 2]);
  });
  it('a window is a cut of the whole', () =>
    expect(index.search({ tree: tree(''), sort: { field: 'name', descending: false }, offset: 1, limit: 2 })).toEqual({
      total: 4,
      assets: 4,
      groups: null,
      ids: [4, 1],
    }));
  it('counts values of a field', () =>
    expect(index.facet(tree(''), 'tag', 10)).toEqual([
      { value: 'dawn', count: 2 },
      { value: 'bell', count: 1 },
    ]));
  it('finds by other words for what is said, which are neither counted nor shown', () => {
    const other = new LibraryIndex();
    other.upsert([
      { id: 1, values: { tag: ['first light', 'boat'] }, also: { tag: ['sunrise', 'early bird'] } },
      { id: 2, values: { tag: ['dusk'] } },
    ]);
    for (const query of ['tag:sunrise', 'sunri*', '"early bird"', 'early', 'tag:"first light"'])
      expect([query, find(other, query)]).toEqual([query, [1]]);
    // Words of two tags do not make a phrase.
    expect(find(other, '"boat sunrise"')).toEqual([]);
    expect(other.facet(tree(''), 'tag', 10).map(({ value }) => value)).toEqual(['boat', 'dusk', 'first light']);
    other.upsert([{ id: 1, values: { tag: ['first light'] } }]);
    expect(find(other, 'sunrise')).toEqual([]);
  });
  it('any part of what is written without gaps is found, and nothing that is merely like it', () => {
    const other = new LibraryIndex();
    other.upsert([
      { id: 1, values: { name: 'a', description: '船が閘門から出てくる、夜明けの川' } },
      { id: 2, values: { name: 'b', tag: ['夜明け', 'かき'] } },
      { id: 3, values: { name: 'c', description: '明るい夜' } },
    ]);
    const queries = {
      夜明け: [1, 2],
      閘門: [1],
      夜: [1, 2, 3],
      'tag:夜明け': [2],
      '門から出*': [1],
      がき: [],
      かき: [2],
    };
    for (const [query, wanted] of Object.entries(queries)) expect([query, find(other, query)]).toEqual([query, wanted]);
  });
  it('keeps answering right after it was compacted', () => {
    const busy = new LibraryIndex();
    for (let round = 0; round < 3000; round += 1)
      busy.upsert([{ id: (round % 10) + 1, values: { name: `boat ${round}` } }]);
    expect(busy.size).toBe(10);
    expect(find(busy, 'boat')).toHaveLength(10);
    expect(find(busy, '5')).toEqual([]);
    expect(find(busy, '2995')).toEqual([6]);
  });
  it('a sort key orders digits by value', () => expect(sortKey('Reel 2') < sortKey('reel 10')).toBe(true));
  it('by several fields, each its own way: as sorting a list by all of them at once', () =>
    fc.assert(
      fc.property(
        fc.array(
          fc.record(
            {
              reel: fc.constantFrom('A1', 'A2', 'A10'),
              take: fc.constantFrom('1', '2'),
              duration: fc.integer({ min: 1, max: 3 }),
            },
            { requiredKeys: [] },
          ),
          { maxLength: 12 },
        ),
        fc.array(fc.record({ field: fc.constantFrom('reel', 'take', 'duration'), descending: fc.boolean() }), {
          minLength: 1,
          maxLength: 4,
        }),
        (all, by) => {
          const index = new LibraryIndex();
          index.upsert(all.map((values, id) => ({ id: id + 1, values })));
          const order = ['A1', 'A2', 'A10', '1', '2', 1, 2, 3];
          const naive = all
            .map((values, id) => ({ id: id + 1, values: values }))
            .sort((a, b) => {
              for (const { field, descending } of by) {
                const [x, y] = [a.values[field], b.values[field]];
                if (x === y) continue;
                if (x === undefined) return 1;
                if (y === undefined) return -1;
                return (order.indexOf(x) - order.indexOf(y)) * (descending ? -1 : 1);
              }
              return a.id - b.id;
            });
          const [first, ...then] = by as [SortBy, ...SortBy[]];
          const { ids } = index.search({ tree: tree(''), sort: { ...first, then }, offset: 0, limit: 100 });
          expect(ids).toEqual(naive.map(({ id }) => id));
        },
      ),
    ));
  it('every field of the registry can be sorted by', () => {
    for (const field of FIELDS) expect(find(index, '', field.id)).toHaveLength(4);
  });
});

describe('fields that say one of a list', () => {
  it('are meant as a whole, and by their beginning only where that is asked for', () => {
    const index = new LibraryIndex();
    index.upsert(
      (['medium', 'medium wide', 'medium close-up', 'close-up', 'extreme close-up'] as const).map((framing, id) => ({
        id,
        values: { name: `clip ${id}`, framing },
      })),
    );
    expect(find(index, 'framing:medium')).toEqual([0]);
    expect(find(index, 'framing:"medium close-up"')).toEqual([2]);
    expect(find(index, 'shotsize:close-up')).toEqual([3]);
    expect(find(index, 'framing:med*')).toEqual([0, 1, 2]);
    expect(find(index, '-framing:medium')).toEqual([1, 2, 3, 4]);
    expect(parseQuery('framing:huge').issues).toMatchObject([{ code: 'bad-value', field: 'framing' }]);
  });
});

describe('what a list offers to narrow it by', () => {
  const fields = ['tag', 'verdict', 'duration', 'shot', 'description', 'kind'] as const;
  const asked = fc.constantFrom(
    '',
    'boat*',
    'tag=dawn',
    'tag=(dawn or bell)',
    'tag=dawn tag=bell lock',
    '-tag=bell',
    'kind:audio',
  );
  it('counts what each would find, chosen instead of or beside what is', () =>
    fc.assert(
      fc.property(fc.array(values, { minLength: 1, maxLength: 40 }), asked, fc.nat(40), (documents, text, cut) => {
        const index = new LibraryIndex();
        const put = (given: readonly FieldValues[]) =>
          index.upsert(given.map((each, id) => ({ id: id + 1, values: each })));
        put(documents);
        // What was counted before is changed, and some of it gone.
        index.facets({ tree: EVERYTHING, fields, limit: 100 });
        put(documents.slice(0, cut).reverse());
        index.remove([cut, cut + 1]);
        const facets = index.facets({ tree: tree(text), fields, limit: 100 });
        expect(facets.map(({ field }) => field)).toEqual(fields);
        for (const { field, groups, more } of facets) {
          expect(more).toBe(0);
          const { mode, chosen, refused } = choiceIn(tree(text), field);
          for (const { test, count } of groups) {
            if (!test) throw new Error(`${field} offers what cannot be asked for`);
            const taken: Choice = { mode, chosen: mode === 'any' ? [test] : [...chosen, test], refused };
            expect([text, field, test, count]).toEqual([
              text,
              field,
              test,
              index.count(withChoice(tree(text), field, taken)),
            ]);
          }
        }
      }),
      { numRuns: 300 },
    ));
  it('gives the most frequent, what says nothing last, what is chosen beyond them, and how many more there are', () => {
    const index = new LibraryIndex();
    const tags = ['bell', 'dawn', 'dusk', 'lock', 'noon'];
    index.upsert(
      tags.flatMap((tag, n) =>
        Array.from({ length: n + 1 }, (_unused, k) => ({ id: n * 10 + k + 1, values: { tag: [tag] } })),
      ),
    );
    index.upsert(Array.from({ length: 20 }, (_unused, n) => ({ id: 100 + n, values: { name: 'plain' } })));
    const offer = (text: string, limit: number) =>
      index.facets({ tree: tree(text), fields: ['tag'], limit }).map(({ groups, more }) => ({
        ...{ said: groups.map(({ label, count }) => `${label} ${count}`), more },
      }));
    expect(offer('', 2)).toEqual([{ said: ['noon 5', 'lock 4'], more: 4 }]);
    expect(offer('tag=bell', 2)).toEqual([{ said: ['noon 5', 'lock 4', 'bell 1'], more: 3 }]);
    expect(offer('-tag=noon', 9)).toEqual([{ said: ['lock 4', 'dusk 3', 'dawn 2', 'bell 1', ' 20'], more: 0 }]);
    index.upsert(
      [3, 1, 2, 2].map((day, n) => ({ id: 200 + n, values: { shot: day * 86_400_000, duration: 30_000 - n * 9000 } })),
    );
    const offered = index.facets({ tree: tree('has:shot'), fields: ['shot', 'duration'], limit: 2 });
    expect(offered.map(({ groups, more }) => [...groups.map(({ label, count }) => `${label} ${count}`), more])).toEqual(
      [
        ['1970-01-04 1', '1970-01-03 2', 1],
        ['Under 5 seconds 1', '5 to 15 seconds 1', 1],
      ],
    );
    expect(index.facets({ tree: tree(''), fields: ['no-such'] as never, limit: 2 })).toEqual([]);
  });
});

describe('a list in groups', () => {
  const fields = fc.constantFrom<FieldId>('tag', 'verdict', 'duration', 'shot', 'description', 'position', 'kind');
  it('has every asset beneath each thing that it says, and every heading finds what stands beneath it', () =>
    fc.assert(
      fc.property(fc.array(values, { minLength: 1, maxLength: 30 }), fields, (documents, by) => {
        const index = new LibraryIndex();
        index.upsert(documents.map((given, id) => ({ id: id + 1, values: given })));
        const sort = { field: 'name' as const, descending: false };
        const asked = { tree: EVERYTHING, sort, offset: 0, limit: 1000 };
        const plain = index.search(asked).ids;
        const { total, assets, ids, groups } = index.search({ ...asked, by });
        expect(assets).toBe(documents.length);
        expect(ids).toHaveLength(total);
        let first = 0;
        for (const { count, test } of groups ?? []) {
          const beneath = ids.slice(first, (first += count));
          // In the order of the list that is not cut.
          expect(beneath).toEqual(plain.filter((id) => beneath.includes(id)));
          if (!test) continue;
          const found = index.search({ ...asked, tree: { kind: 'field', field: by, test } }).ids;
          expect(found).toEqual(beneath);
        }
        expect(first).toBe(total);
        const said = documents.map((given) => (Array.isArray(given[by]) ? new Set(given[by]).size : 1));
        expect(total).toBe(said.reduce((sum, count) => sum + count, 0));
      }),
    ));
  it('stands in the order of the choices, then of days and lengths, with nothing said last', () => {
    const index = new LibraryIndex();
    const day = 86_400_000;
    index.upsert([
      { id: 1, values: { verdict: 'ng', shot: 3 * day + 5, duration: 4000 } },
      { id: 2, values: { verdict: 'circled', shot: 3 * day + 7, duration: 61_000 } },
      { id: 3, values: { shot: day, duration: 5000 } },
    ]);
    const headings = (by: FieldId) =>
      index
        .search({ tree: EVERYTHING, sort: { field: 'name', descending: false }, by, offset: 0, limit: 0 })
        .groups?.map(({ label, count }) => `${label}: ${count}`);
    expect(headings('verdict')).toEqual(['circled: 1', 'ng: 1', ': 1']);
    expect(headings('shot')).toEqual(['1970-01-02: 1', '1970-01-04: 2']);
    expect(headings('duration')).toEqual(['Under 5 seconds: 1', '5 to 15 seconds: 1', '1 to 5 minutes: 1']);
    index.upsert([{ id: 4, values: {} }]);
    expect(index.days(EVERYTHING, 'shot')).toEqual({
      days: [
        { dayMs: day, count: 1 },
        { dayMs: 3 * day, count: 2 },
      ],
      dated: 3,
      total: 4,
    });
  });
  it('gives a map what lies in a stretch of it, and where all of it lies', () => {
    const index = new LibraryIndex();
    index.upsert([
      { id: 1, values: { position: '50.4120, -3.5180', place: 'Upper lock' } },
      { id: 2, values: { position: '50.4121, -3.5181', place: 'Upper lock' } },
      { id: 3, values: { position: '60.0000, 10.0000' } },
      { id: 4, values: {} },
    ]);
    const box = { south: 50, west: -4, north: 51, east: -3 };
    const answer = index.map({ tree: EVERYTHING, box, columns: 10 });
    expect(answer).toMatchObject({
      placed: 3,
      total: 4,
      around: { south: 50.412, north: 60, west: -3.5181, east: 10 },
    });
    expect(answer.clusters).toHaveLength(1);
    expect(answer.clusters[0]).toMatchObject({ id: 1, count: 2, places: ['Upper lock'] });
    expect(index.map({ tree: EVERYTHING, box: null, columns: 10 }).clusters).toHaveLength(2);
  });
});
