import fc from 'fast-check';
import { metresBetween } from '@larder/core/position';
import { parseQuery } from '@larder/core/query';
import { LibraryIndex, type SearchDocument } from '@larder/core/search';

const at = (id: number, latitude: number, longitude: number, place?: string): SearchDocument => ({
  id,
  values: { name: `clip ${id}`, position: `${latitude}, ${longitude}`, ...(place ? { place } : {}) },
});
const tree = (text: string) => parseQuery(text).tree;
const found = (index: LibraryIndex, text: string) =>
  [...index.search({ tree: tree(text), sort: { field: 'number', descending: false }, offset: 0, limit: 1e6 }).ids].sort(
    (a, b) => a - b,
  );

describe('near a place by its name', () => {
  const index = new LibraryIndex();
  index.upsert([
    at(1, 50.412, -3.518, 'Ottermouth, lower lock'),
    at(2, 50.42, -3.5),
    at(3, 50.6, -3.518),
    // Another of that name, on the other side of the Earth.
    at(4, -41.3, 174.8, 'Ottermouth'),
    at(5, -41.31, 174.81),
    { id: 6, values: { name: 'clip 6', place: 'Ottermouth' } },
  ]);

  it('finds what lies around what says that place, without saying it', () => {
    expect(found(index, 'near:ottermouth <5km')).toEqual([1, 2, 4, 5]);
    expect(found(index, 'near:"lower lock" <30km')).toEqual([1, 2, 3]);
    expect(found(index, 'near:ottermouth -place:ottermouth')).toEqual([]);
    expect(found(index, '-near:ottermouth <5km')).toEqual([3, 6]);
    expect(found(index, 'near:(ottermouth <1m or nowhere)')).toEqual([1, 4]);
    expect(found(index, 'near:nowhere <2000km')).toEqual([]);
    const counted = index.facets({ tree: tree('near:ottermouth <5km'), fields: ['place'], limit: 5 })[0];
    expect(counted?.groups.map(({ label, count }) => [label, count])).toEqual([
      ['Ottermouth', 1],
      ['Ottermouth, lower lock', 1],
      ['', 2],
    ]);
  });

  it('is counted anew when a place turns out to lie elsewhere', () => {
    const moving = new LibraryIndex();
    const asked = [tree('near:boatyard <1km'), tree('-near:boatyard <1km')];
    moving.upsert([at(1, 50, -3, 'Boatyard'), at(2, 50.001, -3), at(3, 51, -3)]);
    expect(moving.counts(asked)).toEqual([2, 1]);
    moving.upsert([at(1, 51.001, -3, 'Boatyard')]);
    expect(moving.counts(asked)).toEqual([2, 1]);
    expect(found(moving, 'near:boatyard <1km')).toEqual([1, 3]);
    moving.remove([1]);
    expect(moving.counts(asked)).toEqual([0, 2]);
  });

  // Distances: geographiclib, Karney's algorithms for the ellipsoid of WGS 84.
  it('of a place at one spot, is near that spot, however it was changed', () =>
    fc.assert(
      fc.property(
        fc.array(fc.tuple(fc.integer({ min: -600, max: 600 }), fc.integer({ min: -600, max: 600 })), { maxLength: 20 }),
        fc.integer({ min: 100, max: 60_000 }),
        (spots, metres) => {
          const lives = new LibraryIndex();
          const all = spots.map(([north, east], id) => at(id + 10, 50 + north / 1000, -3 + east / 1000));
          lives.upsert([at(1, 20, 20, 'Lock'), ...all]);
          lives.upsert([at(1, 50, -3, 'Lock')]);
          const near = spots.flatMap(([north, east], id) => {
            const far = metresBetween(
              { latitude: 50, longitude: -3 },
              { latitude: 50 + north / 1000, longitude: -3 + east / 1000 },
            );
            return far <= metres ? [id + 10] : [];
          });
          expect(found(lives, `near:lock <${metres}m`)).toEqual([1, ...near]);
        },
      ),
    ));
});
