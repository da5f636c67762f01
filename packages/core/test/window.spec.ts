import fc from 'fast-check';
import { parseQuery } from '@larder/core/query';
import { LibraryIndex, RELEVANCE, type SearchDocument, type SortBy } from '@larder/core/search';
import { numbers } from './numbers';

/** Many of one kind and a few of another, several of which say the same or nothing. */
function libraryOf(seed: number): LibraryIndex {
  const below = numbers(seed);
  const words = ['bell', 'lock', 'dawn', 'weir', 'oar'];
  const index = new LibraryIndex();
  const documents = Array.from({ length: 40_000 }, (_unused, at): SearchDocument => {
    const title = Array.from({ length: below(4) }, () => words[below(5)]).join(' ');
    return {
      id: at + 1,
      values: {
        title,
        kind: below(50) === 0 ? 'audio' : 'video',
        ...(below(3) > 0 ? { duration: below(seed % 2 ? 9 : 30_000) } : {}),
        ...(below(2) > 0 ? { width: below(4) } : {}),
      },
    };
  });
  const filling = index.fill();
  filling.add(documents);
  filling.done();
  return index;
}

describe('the first of a list', () => {
  const libraries = [1, 2].map(libraryOf);
  const by = fc.record({
    field: fc.constantFrom<SortBy['field']>('duration', 'width', 'title', RELEVANCE),
    descending: fc.boolean(),
  });
  const asked = fc.record({
    library: fc.constantFrom(0, 1),
    query: fc.constantFrom(
      'bell',
      'lock dawn',
      'bell or weir',
      'kind:audio',
      'kind:audio bell',
      '-bell',
      'has:duration',
    ),
    by: fc.array(by, { minLength: 1, maxLength: 2 }),
    offset: fc.constantFrom(0, 5),
    limit: fc.constantFrom(1, 20, 300),
  });

  it('are those that come first when all of it is sorted, however they were chosen', () =>
    fc.assert(
      fc.property(asked, ({ library: which, query, by: [first, ...then], offset, limit }) => {
        const library = libraries[which] as LibraryIndex;
        const { tree } = parseQuery(query);
        const sort = { ...(first as SortBy), then };
        const all = library.search({ tree, sort, offset: 0, limit: 1e6 }).ids;
        expect(library.search({ tree, sort, offset, limit }).ids).toEqual(all.slice(offset, offset + limit));
      }),
      { numRuns: 200 },
    ));
});
