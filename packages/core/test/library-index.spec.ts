import fc from 'fast-check';
import { BUILT_IN, FieldRegistry, fold, words as saidWords, type FieldId, type FieldValues } from '@larder/core/fields';
import { answersQuery, hasForms, type FieldTest, type Query, type WordsTest } from '@larder/core/query';
import { LibraryIndex, mergeOf, type SearchDocument, type SegmentSizes, type SortBy } from '@larder/core/search';
import { MemoryIndex } from './oracle/memory-index';

/** So small that a few dozen documents make many segments, and every kind of merge. */
const SMALL: SegmentSizes = { fresh: 2, fan: 2, quick: 6, besideShare: 0.4, besideLeast: 6, deadShare: 0.3 };
const DAY_MS = 86_400_000;

const vocabulary = [
  'boat',
  'boats',
  'boathouse',
  'lock',
  'bell',
  'dawn',
  'Dawn',
  'water',
  'woman',
  'died',
  'écluse',
  'A10',
  'A2',
  'A02',
  '夜明け',
  '—',
];
const sentence = fc.array(fc.constantFrom(...vocabulary), { minLength: 1, maxLength: 5 }).map((list) => list.join(' '));
const tags = ['dawn', 'Dawn', 'golden hour', 'bell', 'golden', 'écluse', 'ecluse'];
const values: fc.Arbitrary<FieldValues> = fc.record(
  {
    name: sentence,
    description: sentence,
    reel: fc.constantFrom('A1', 'A10', 'A2', 'a-2', ''),
    // Nobody has the same tag twice.
    tag: fc.uniqueArray(fc.constantFrom(...tags), { maxLength: 4, selector: fold }),
    people: fc.uniqueArray(fc.constantFrom('Ada Moor', 'Ben'), { maxLength: 2 }),
    kind: fc.constantFrom('video', 'audio'),
    framing: fc.constantFrom('medium', 'medium wide', 'wide'),
    duration: fc.integer({ min: 0, max: 70_000 }),
    size: fc.constantFrom(0, 999_999, 2e6, 5e9, 2 ** 50),
    rating: fc.integer({ min: 1, max: 5 }),
    shot: fc.integer({ min: -2 * DAY_MS, max: 5 * DAY_MS }),
    position: fc.constantFrom('50.4120, -3.5180', '50.4207, -3.5022', '51.0000, -3.5000', '50.4120, 3.5180'),
    place: fc.constantFrom('Upper lock', 'Foundry'),
  },
  { requiredKeys: [] },
);
const documents = (id: number): fc.Arbitrary<SearchDocument> =>
  fc.record(
    { id: fc.constant(id), values, also: fc.constantFrom({ tag: ['sunrise', 'early bird'] }, { tag: ['bell'] }) },
    { requiredKeys: ['id', 'values'] },
  );

const words = fc
  .array(
    fc.constantFrom(
      'boat',
      'boats',
      'dying',
      'women',
      'lock',
      'bell',
      'dawn',
      'golden',
      'hour',
      'ecluse',
      'a10',
      'a',
      '2',
      '02',
      'early',
      '夜',
      '明',
    ),
    {
      minLength: 1,
      maxLength: 3,
    },
  )
  .map((list) => list.join(' '));
const begun = fc.constantFrom('b', 'bo', 'daw', 'lock be', 'golden h', 'a 1', 'sun', '夜 明');
const inside = fc.constantFrom('oat', 'a', 'ell', 'k b', 'en hou', 't', '10', '明', 'oathous', 'n gol');
const wordsTest: fc.Arbitrary<WordsTest> = fc.oneof(
  words.filter(hasForms).map((text): WordsTest => ({ op: 'forms', text })),
  words.map((text): WordsTest => ({ op: 'text', text, prefix: false })),
  begun.map((text): WordsTest => ({ op: 'text', text, prefix: true })),
  fc.tuple(inside, fc.boolean()).map(([text, ends]): WordsTest => ({ op: 'part', text, ends })),
);
const bound = (max: number) => fc.option(fc.integer({ min: 0, max }), { nil: null });
const span = (max: number): fc.Arbitrary<FieldTest> =>
  fc.record({ op: fc.constant('span' as const), from: bound(max), to: bound(max) });
const asks = (field: FieldId, tests: fc.Arbitrary<FieldTest>) =>
  tests.map((test): Query => ({ kind: 'field', field, test }));
const whole = fc
  .constantFrom('dawn', 'golden hour', 'golden', 'a 2', 'a2', 'a02', 'bell', 'sunrise')
  .map((text): FieldTest => ({ op: 'whole', text }));
const presence = fc.boolean().map((present): FieldTest => ({ op: 'presence', present }));
const leaves: fc.Arbitrary<Query> = fc.oneof(
  wordsTest.map((test): Query => ({ kind: 'words', test })),
  ...(['tag', 'name', 'reel', 'people', 'framing'] as const).map((field) =>
    asks(field, fc.oneof(wordsTest, whole, presence)),
  ),
  asks('kind', fc.constantFrom<FieldTest>({ op: 'text', text: 'video', prefix: false })),
  asks('framing', fc.constantFrom<FieldTest>({ op: 'text', text: 'medium', prefix: false })),
  asks('duration', fc.oneof(span(70_000), presence)),
  asks('rating', fc.oneof(span(6), presence)),
  asks('shot', fc.oneof(span(5 * DAY_MS), presence)),
  asks('size', span(3e6)),
  asks(
    'position',
    fc.oneof(presence, fc.constantFrom<FieldTest>({ op: 'near', latitude: 50.412, longitude: -3.518, metres: 2000 })),
  ),
  asks('source', presence),
);
const trees: fc.Arbitrary<Query> = fc.letrec<{ tree: Query }>((tie) => ({
  tree: fc.oneof(
    { depthSize: 'small', withCrossShrink: true },
    leaves,
    fc.array(tie('tree'), { maxLength: 3 }).map((of): Query => ({ kind: 'all', of })),
    fc.array(tie('tree'), { maxLength: 3 }).map((of): Query => ({ kind: 'any', of })),
    tie('tree').map((of): Query => ({ kind: 'not', of })),
  ),
})).tree;

type Change =
  | { readonly do: 'put'; readonly documents: readonly SearchDocument[] }
  | { readonly do: 'remove'; readonly ids: readonly number[] }
  | { readonly do: 'plan' | 'adopt' | 'restart' };
const changes: fc.Arbitrary<Change> = fc.oneof(
  {
    weight: 5,
    arbitrary: fc
      .array(fc.nat(30).chain(documents), { minLength: 1, maxLength: 12 })
      .map((put): Change => ({ do: 'put', documents: put })),
  },
  { weight: 2, arbitrary: fc.array(fc.nat(30), { maxLength: 6 }).map((ids): Change => ({ do: 'remove', ids })) },
  { weight: 3, arbitrary: fc.constantFrom<Change>({ do: 'plan' }, { do: 'adopt' }, { do: 'restart' }) },
);

/** Both indexes through the same changes; a merge is done while others come in, as it is in another thread. */
function bothThrough(
  all: readonly Change[],
  fields = BUILT_IN,
  each: (index: LibraryIndex, oracle: MemoryIndex) => void = () => undefined,
): { index: LibraryIndex; oracle: MemoryIndex } {
  let index = new LibraryIndex(fields, () => 0, SMALL);
  const oracle = new MemoryIndex(fields, () => 0);
  let plan: ReturnType<LibraryIndex['mergeDue']> = null;
  for (const change of all) {
    switch (change.do) {
      case 'put':
        index.upsert(change.documents);
        oracle.upsert(change.documents);
        break;
      case 'remove':
        index.remove(change.ids);
        oracle.remove(change.ids);
        break;
      case 'plan':
        plan ??= index.mergeDue();
        break;
      case 'adopt':
        if (plan) index.adopt(plan, mergeOf(plan));
        plan = null;
        break;
      case 'restart': {
        const kept = index.keep();
        index = new LibraryIndex(fields, () => 0, SMALL);
        index.restore(kept);
        plan = null;
        break;
      }
      default:
        change satisfies never;
    }
    each(index, oracle);
  }
  return { index, oracle };
}

const lives = fc.array(changes, { minLength: 1, maxLength: 14 });
const sorts: fc.Arbitrary<SortBy[]> = fc.array(
  fc.record({
    field: fc.constantFrom<FieldId>('name', 'reel', 'tag', 'duration', 'shot', 'position', 'kind', 'source'),
    descending: fc.boolean(),
  }),
  { minLength: 1, maxLength: 3 },
);
const sorted = ([first, ...then]: readonly SortBy[]) => ({ ...(first as SortBy), then });
const groupFields = fc.constantFrom<FieldId>(
  ...([
    'tag',
    'people',
    'reel',
    'duration',
    'size',
    'shot',
    'rating',
    'description',
    'position',
    'framing',
    'source',
  ] as const),
);

describe('an index of segments, against one that goes through every document', () => {
  it('finds the same in the same order, window by window, through changes, merges and restarts', () =>
    fc.assert(
      fc.property(
        lives,
        fc.array(trees, { minLength: 1, maxLength: 6 }),
        sorts,
        fc.nat(8),
        fc.nat(12),
        fc.uniqueArray(fc.nat(30), { maxLength: 5 }),
        (all, asked, by, offset, limit, byHand) => {
          const { index, oracle } = bothThrough(all);
          expect(index.size).toBe(oracle.size);
          for (const tree of asked) {
            for (const order of [undefined, byHand]) {
              const request = { tree, sort: sorted(by), order, offset, limit };
              expect([tree, index.search(request)]).toEqual([tree, oracle.search(request)]);
            }
            expect(index.count(tree)).toBe(oracle.count(tree));
            expect(oracle.documents().filter((each) => answersQuery(tree, each, BUILT_IN, 0))).toHaveLength(
              oracle.count(tree),
            );
          }
        },
      ),
      { numRuns: 2500 },
    ));

  it('counts the same, group by group, and cuts the same lists', () =>
    fc.assert(
      fc.property(
        lives,
        trees,
        groupFields,
        sorts,
        fc.nat(6),
        fc.integer({ min: 1, max: 9 }),
        (all, tree, by, order, offset, limit) => {
          const { index, oracle } = bothThrough(all);
          // Texts of the same words go by one of them; which, is nobody's concern.
          const plain = (groups: readonly { label: string }[] | null) =>
            groups?.map((group) => ({
              ...group,
              label: saidWords(group.label).join(' '),
            }));
          const request = { tree, sort: sorted(order), by, offset, limit };
          const [ours, theirs] = [index.search(request), oracle.search(request)];
          expect({ ...ours, groups: plain(ours.groups) }).toEqual({ ...theirs, groups: plain(theirs.groups) });
          const facets = { tree, fields: [by, 'kind'] as const, limit };
          const counted = (from: readonly { field: string; more: number; groups: readonly { label: string }[] }[]) =>
            from.map((facet) => ({ ...facet, groups: plain(facet.groups) }));
          expect(counted(index.facets(facets))).toEqual(counted(oracle.facets(facets)));
          expect(index.facet(tree, by, limit)).toEqual(
            oracle
              .facet(tree, by, 60)
              .filter(({ value }) => value !== '')
              .slice(0, limit),
          );
          expect(index.days(tree, 'shot')).toEqual(oracle.days(tree, 'shot'));
          const { clusters, ...map } = index.map({ tree, box: null, columns: 8 });
          const { clusters: known, ...oracles } = oracle.map({ tree, box: null, columns: 8 });
          expect(map).toEqual(oracles);
          expect(clusters.map(({ count }) => count).sort()).toEqual(known.map(({ count }) => count).sort());
        },
      ),
      { numRuns: 1500 },
    ));

  it('keeps the counts of searches that are asked after every change', () =>
    fc.assert(
      fc.property(
        lives,
        fc.array(trees, { minLength: 1, maxLength: 6 }),
        fc.integer({ min: 1, max: 3 }),
        (all, asked, often) => {
          let step = 0;
          bothThrough(all, BUILT_IN, (index, oracle) => {
            step += 1;
            if (step % often === 0) expect([asked, index.counts(asked)]).toEqual([asked, oracle.counts(asked)]);
          });
        },
      ),
      { numRuns: 800 },
    ));

  it('learns of other fields while it runs', () =>
    fc.assert(
      fc.property(lives, trees, (all, tree) => {
        const { index, oracle } = bothThrough(all);
        const field = {
          key: 'permit',
          label: 'Permit',
          type: 'text',
          group: 'own',
          help: '',
          plain: true,
        } as const;
        const fields = new FieldRegistry([
          { ...field, range: null, unit: '', retired: false, standard: '', choices: [] },
        ]);
        const put = [{ id: 7, values: { shop_permit: 'boat lock' } as FieldValues }];
        for (const each of [index, oracle]) {
          each.count(tree);
          each.setFields(fields);
          each.upsert(put);
        }
        expect(index.count(tree)).toBe(oracle.count(tree));
      }),
      { numRuns: 200 },
    ));

  it('finds and counts the same where much is found, by bits, orders and lists made once', () => {
    // Enough documents that everything made for large segments is used, and as many again beside them.
    const some = fc.sample(values, { numRuns: 9000, seed: 5 });
    const index = new LibraryIndex(BUILT_IN, () => 0);
    const oracle = new MemoryIndex(BUILT_IN, () => 0);
    const put = (each: FieldValues, at: number) => ({ id: at + 1, values: { ...each, source: `tape ${at % 300}` } });
    const first = some.slice(0, 7000).map(put);
    index.upsert(first);
    oracle.upsert(first);
    const later = some.slice(7000).map((each, at) => put(each, at * 4));
    for (let at = 0; at < later.length; at += 50) {
      index.upsert(later.slice(at, at + 50));
      oracle.upsert(later.slice(at, at + 50));
    }
    fc.assert(
      fc.property(
        trees,
        sorts,
        fc.nat(9000),
        fc.constantFrom(1, 30, 200),
        fc.integer({ min: 1, max: 20 }),
        (tree, by, offset, limit, shown) => {
          const request = { tree, sort: sorted(by), offset, limit };
          expect([tree, index.search(request)]).toEqual([tree, oracle.search(request)]);
          const asked = {
            tree,
            fields: ['tag', 'source', 'kind', 'shot', 'rating', 'duration'] as const,
            limit: shown,
          };
          const counted = (from: ReturnType<LibraryIndex['facets']>) =>
            from.map(({ groups, ...facet }) => ({
              ...facet,
              groups: groups.map((group) => ({ ...group, label: saidWords(group.label).join(' ') })),
            }));
          expect([tree, counted(index.facets(asked))]).toEqual([tree, counted(oracle.facets(asked) as never)]);
        },
      ),
      { numRuns: 250 },
    );
  }, 300_000);
});
