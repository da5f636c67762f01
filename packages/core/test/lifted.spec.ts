import fc from 'fast-check';
import type { FieldId } from '@larder/core/fields';
import { EVERYTHING, parseQuery, type Query } from '@larder/core/query';
import { LibraryIndex, RELEVANCE, type SearchDocument, type SortBy } from '@larder/core/search';

const tree = (text: string): Query => parseQuery(text).tree;
const words = fc.constantFrom('bell', 'lock', 'dawn', 'weir');
const documents = fc
  .array(fc.record({ title: fc.array(words, { maxLength: 3 }), tag: fc.uniqueArray(words, { maxLength: 3 }) }), {
    minLength: 1,
    maxLength: 40,
  })
  .map((all) =>
    all.map(({ title, tag }, at): SearchDocument => ({
      id: at + 1,
      values: { name: `clip ${(at * 7) % 11}`, title: title.join(' '), ...(tag.length > 0 ? { tag } : {}) },
    })),
  );
const lists = fc.record({
  documents,
  tree: fc.constantFrom('', 'tag:lock', '-bell'),
  lift: fc.constantFrom('bell', 'dawn or weir', 'tag:dawn', 'no:tag', 'nowhere'),
  field: fc.constantFrom<SortBy['field']>('name', 'title', RELEVANCE),
  descending: fc.boolean(),
  by: fc.constantFrom<FieldId | undefined>(undefined, 'tag'),
  order: fc.constantFrom(undefined, [3, 1, 9]),
  from: fc.nat(45),
});

describe('what is lifted in a list', () => {
  it('is what its search finds there, and is stepped through place by place', () =>
    fc.assert(
      fc.property(lists, ({ documents: all, tree: text, lift, field, descending, by, order, from }) => {
        const index = new LibraryIndex();
        // Some of them beside the others, and some of these changed.
        index.upsert(all);
        index.upsert(all.slice(0, 5));
        const asked = { tree: tree(text), lift: tree(lift), sort: { field, descending }, by, order };
        const { ids, lifted, total } = index.search({ ...asked, offset: 0, limit: 1000 });
        const those = new Set(index.search({ tree: tree(lift), sort: asked.sort, offset: 0, limit: 1000 }).ids);
        expect(lifted?.ids).toEqual(ids.filter((id) => those.has(id)));
        expect(lifted?.count).toBe(new Set(lifted?.ids).size);
        // The list is the one that it is without.
        const plain = index.search({ ...asked, lift: undefined, offset: 0, limit: 1000 });
        expect([total, plain.lifted]).toEqual([plain.total, undefined]);
        if (field !== RELEVANCE) expect(ids).toEqual(plain.ids);
        const places = ids.flatMap((id, place) => (those.has(id) ? [place] : []));
        expect([
          index.step({ ...asked, from, backwards: false }),
          index.step({ ...asked, from, backwards: true }),
        ]).toEqual([places.find((place) => place >= from) ?? null, places.findLast((place) => place < from) ?? null]);
      }),
      { numRuns: 300 },
    ));

  it('is told of some assets as a search of all of them would', () =>
    fc.assert(
      fc.property(documents, fc.constantFrom('bell', 'no:tag', '-tag:lock'), fc.array(fc.nat(50)), (all, text, ids) => {
        const index = new LibraryIndex();
        index.upsert(all);
        index.remove([2]);
        const found = index.search({
          ...{ tree: tree(text), sort: { field: 'number', descending: false }, offset: 0, limit: 1000 },
        }).ids;
        const asked = [...new Set(ids)];
        expect(index.which(tree(text), asked).sort((a, b) => a - b)).toEqual(
          asked.filter((id) => found.includes(id)).sort((a, b) => a - b),
        );
      }),
    ));

  it('comes first by best fit, though the list asks for everything', () => {
    const index = new LibraryIndex();
    index.upsert([
      { id: 1, values: { name: 'a' } },
      { id: 2, values: { name: 'b', notes: 'bell' } },
      { id: 3, values: { name: 'c', title: 'bell' } },
    ]);
    const sort = { field: RELEVANCE, descending: true } as const;
    const { ids } = index.search({ tree: EVERYTHING, lift: tree('bell'), sort, offset: 0, limit: 9 });
    expect(ids).toEqual([3, 2, 1]);
    expect(
      index.step({ tree: EVERYTHING, lift: tree('bell'), sort, by: 'no-such' as never, from: 0, backwards: false }),
    ).toBeNull();
  });
});
