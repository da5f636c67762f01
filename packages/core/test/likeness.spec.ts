import fc from 'fast-check';
import { parseQuery, type Query } from '@larder/core/query';
import { LibraryIndex, RELEVANCE, type SearchDocument } from '@larder/core/search';

const tree = (text: string): Query => parseQuery(text).tree;
const best = (index: LibraryIndex, text: string): readonly number[] =>
  index.search({ tree: tree(text), sort: { field: RELEVANCE, descending: true }, offset: 0, limit: 1000 }).ids;

/** Others that say nothing of the kind: what few say is rare only among many. */
const others = (count: number): SearchDocument[] =>
  Array.from({ length: count }, (_unused, at) => ({
    id: 1000 + at,
    values: { name: `c${at}`, title: `plain take ${at}` },
  }));

/** As the server tells of assets, with their numbers. */
const put = (index: LibraryIndex, documents: readonly SearchDocument[]): void =>
  index.upsert(documents.map(({ id, values }) => ({ id, values: { ...values, number: id } })));

describe('what is like an asset', () => {
  it('shares two things with it, more and rarer ones first, and is not itself', () => {
    const index = new LibraryIndex();
    put(index, [
      {
        id: 1,
        values: { title: 'Foundry at dawn', tag: ['bell', 'interior'], people: ['Ada Lock'], place: 'Upper weir' },
      },
      { id: 2, values: { title: 'Pouring', tag: ['bell'], people: ['Ada Lock'] } },
      { id: 3, values: { title: 'The foundry, dawn', tag: ['bell'], people: ['Ada Lock'], place: 'Upper weir' } },
      { id: 4, values: { title: 'Somewhere else', tag: ['bell'] } },
      { id: 5, values: { title: 'Foundries', place: 'Upper weir' } },
      ...others(100),
    ]);
    expect([...best(index, 'like:1')].sort()).toEqual([2, 3, 5]);
    expect(best(index, 'like:1')[0]).toBe(3);
    expect([...best(index, 'like:1 tag:bell')].sort()).toEqual([2, 3]);
    expect(best(index, '-like:1')).toHaveLength(102);
    // Nothing tells it from others, or it is not there: then nothing is like it.
    for (const text of ['like:1000', 'like:77', 'like>1']) expect([text, best(index, text)]).toEqual([text, []]);
    // What is said of it now counts, and what is said of others.
    put(index, [{ id: 4, values: { tag: ['bell'], people: ['Ada Lock'] } }]);
    expect([...best(index, 'like:4')].sort()).toEqual([1, 2, 3]);
    expect(index.counts([tree('like:4')])).toEqual([3]);
    index.remove([2]);
    expect(index.counts([tree('like:4')])).toEqual([2]);
  });

  it('always shares at least two of what is rare, and the other way around', () => {
    const tags = ['bell', 'lock', 'dawn', 'weir', 'oar'];
    fc.assert(
      fc.property(fc.array(fc.uniqueArray(fc.constantFrom(...tags), { maxLength: 4 }), { maxLength: 12 }), (all) => {
        const index = new LibraryIndex();
        put(index, [...all.map((tag, at) => ({ id: at + 1, values: { tag } })), ...others(80)]);
        const rare = tags.filter((tag) => all.filter((each) => each.includes(tag)).length > 1);
        all.forEach((own, at) => {
          const telling = own.filter((tag) => rare.includes(tag));
          const wanted = all.flatMap((each, other) => {
            const shared = telling.filter((tag) => each.includes(tag)).length;
            return other !== at && shared > 0 && shared >= Math.min(2, telling.length) ? [other + 1] : [];
          });
          expect([...best(index, `like:${at + 1}`)].sort((a, b) => a - b)).toEqual(wanted);
        });
      }),
    );
  });
});
