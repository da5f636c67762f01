import { fromMercator, paddedBox, placeInWords, roundMetres, toMercator } from './mercator';

describe('Mercator’s map', () => {
  it.each([
    [0, 0],
    [50.412, -3.518],
    [-85, 179],
  ])('there and back: %s, %s', (latitude, longitude) => {
    const [x, y] = fromMercator(toMercator([longitude, latitude]));
    expect(x).toBeCloseTo(longitude, 9);
    expect(y).toBeCloseTo(latitude, 9);
  });
  // The world is a square on screens: the usual cut lies as high as the map is wide; EPSG 3857, the figure from memory.
  it('is cut to a square', () => expect(toMercator([0, 90])[1]).toBeCloseTo(-180, 2));
  it('opens on somewhat more than all there is, and never closer than a few kilometres', () => {
    expect(paddedBox({ south: 50, west: -4, north: 52, east: -2 })).toEqual({
      ...{ south: 49.3, north: 52.7, west: -4.7, east: -1.3 },
    });
    const one = paddedBox({ south: 50, west: 10, north: 50, east: 10 });
    expect(one.north - one.south).toBeCloseTo(0.06, 9);
    expect(paddedBox({ south: -90, west: -180, north: 90, east: 180 })).toMatchObject({ west: -180, east: 180 });
  });
  it('searches by round numbers that are never too small', () =>
    expect([1, 10, 14, 99, 101, 2345].map(roundMetres)).toEqual([10, 10, 20, 100, 200, 3000]));
  it('says a place in words', () => expect(placeInWords(50.412, -3.518)).toBe('50.4120° N, 3.5180° W'));
});
