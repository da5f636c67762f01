import fc from 'fast-check';
import LatLon from 'geodesy/latlon-ellipsoidal-vincenty.js';
import {
  boxAround,
  clustersOf,
  metresBetween,
  metresOnSphere,
  readPosition,
  within,
  writePosition,
  type Position,
} from '@larder/core/position';

const positions: fc.Arbitrary<Position> = fc
  .tuple(fc.integer({ min: -90_000_000, max: 90_000_000 }), fc.integer({ min: -180_000_000, max: 180_000_000 }))
  .map(([latitude, longitude]) => ({ latitude: latitude / 1e6, longitude: longitude / 1e6 }));

describe('a position as people write it', () => {
  it.each([
    ['50.4120, -3.5180', 50.412, -3.518],
    ['50.4120 -3.5180', 50.412, -3.518],
    ['-33.5; 151', -33.5, 151],
    ['50°24′43.2″N 3°31′04.8″W', 50.412, -3.518],
    [`50°24'43.2"N, 3°31'04.8"W`, 50.412, -3.518],
    ['50°24.72′N 3°31.08′W', 50.412, -3.518],
    ['33.5S 151E', -33.5, 151],
    // ISO 6709:2008 Annex H.
    ['+50.4120-003.5180/', 50.412, -3.518],
    ['+502443.2-0033104.8/', 50.412, -3.518],
  ])('%s', (text, latitude, longitude) => {
    const read = readPosition(text);
    expect(read?.latitude).toBeCloseTo(latitude, 9);
    expect(read?.longitude).toBeCloseTo(longitude, 9);
  });
  it.each(['', 'Ottermouth', '91, 0', '50, 181', '50', '50,24,43', '50°61′N 3°W', '50°N', '50°24′43″N 3°31′60″W'])(
    'refuses %s',
    (text) => expect(readPosition(text)).toBeNull(),
  );
  it('is the same when it was written and read, to a tenth of a metre', () =>
    fc.assert(
      fc.property(positions, (position) => {
        const text = writePosition(position);
        expect(readPosition(text)).toEqual({ latitude: position.latitude + 0, longitude: position.longitude + 0 });
        expect(text).toMatch(/^-?\d+\.\d{4,6}, -?\d+\.\d{4,6}$/);
      }),
    ));
});

describe('distances on the ellipsoid', () => {
  // Flinders Peak to Buninyong on GRS 80: the worked example of Geoscience Australia's geodetic technical manual, 54,972.271 m;
  // the figure is from memory. GRS 80 and WGS 84 differ by less than its last place here.
  it('of a surveyor’s worked example', () => {
    const flinders = readPosition(`37°57'03.72030"S 144°25'29.52440"E`) as Position;
    const buninyong = readPosition(`37°39'10.15610"S 143°55'35.38390"E`) as Position;
    expect(metresBetween(flinders, buninyong)).toBeCloseTo(54_972.271, 2);
  });
  // Peer: geodesy 2.4, which works by Vincenty's formulae of 1975 (good to half a millimetre, but not near the antipode).
  it('are those of an independent implementation', () =>
    fc.assert(
      fc.property(positions, positions, (a, b) => {
        fc.pre(metresOnSphere(a, b) < 19_000_000);
        const peer = new LatLon(a.latitude, a.longitude).distanceTo(new LatLon(b.latitude, b.longitude));
        expect(Math.abs(metresBetween(a, b) - peer)).toBeLessThan(0.002);
      }),
    ));
  it('near ones too', () =>
    fc.assert(
      fc.property(positions, fc.integer({ min: -9000, max: 9000 }), (a, step) => {
        fc.pre(Math.abs(a.latitude) < 89);
        const b = { latitude: a.latitude + step / 1e6, longitude: a.longitude };
        const peer = new LatLon(a.latitude, a.longitude).distanceTo(new LatLon(b.latitude, b.longitude));
        expect(Math.abs(metresBetween(a, b) - peer)).toBeLessThan(0.002);
      }),
    ));
  it('tell what lies within as exactly, however it is found', () =>
    fc.assert(
      fc.property(positions, positions, fc.double({ min: 0.99, max: 1.01, noNaN: true }), (a, b, about) => {
        const metres = metresBetween(a, b) * about;
        expect(within(a, metres)(b)).toBe(metresBetween(a, b) <= metres);
      }),
    ));
});

describe('what lies together on a map', () => {
  const box = { south: -90, west: -180, north: 90, east: 180 };
  it('is every place once, and no further from the centre than it says', () =>
    fc.assert(
      fc.property(
        fc.array(fc.option(positions), { maxLength: 60 }),
        fc.integer({ min: 1, max: 40 }),
        (all, columns) => {
          const clusters = clustersOf(all, box, columns);
          const found = clusters.flatMap(({ of }) => of).sort((a, b) => a - b);
          expect(found).toEqual(all.flatMap((place, index) => (place ? [index] : [])));
          for (const { of, count, metres, ...centre } of clusters) {
            expect(count).toBe(of.length);
            for (const index of of)
              expect(metresBetween(centre, all[index] as Position)).toBeLessThanOrEqual(metres + 1);
          }
        },
      ),
    ));
  it('is one spot where the grid runs between what belongs together', () => {
    const clusters = clustersOf(
      [
        { latitude: 0.1, longitude: -0.1 },
        { latitude: -0.1, longitude: 0.1 },
        { latitude: 50, longitude: 50 },
      ],
      box,
      10,
    );
    expect(clusters.map(({ count, of }) => [count, of])).toEqual([
      [2, [0, 1]],
      [1, [2]],
    ]);
  });
  it('of a stretch over the date line', () => {
    const fiji = { latitude: -17, longitude: 179.5 };
    const clusters = clustersOf(
      [fiji, { latitude: -17, longitude: -179.5 }, { latitude: -17, longitude: 0 }],
      { south: -30, west: 170, north: 0, east: -170 },
      1,
    );
    expect(clusters).toHaveLength(1);
    expect(clusters[0]).toMatchObject({ count: 2, latitude: -17 });
    expect(Math.abs(clusters[0]?.longitude ?? 0)).toBeCloseTo(180, 6);
  });
  it('has the smallest box around', () => {
    expect(boxAround([null])).toBeNull();
    expect(boxAround([{ latitude: 1, longitude: 2 }, null, { latitude: -1, longitude: 5 }])).toEqual({
      ...{ south: -1, west: 2, north: 1, east: 5 },
    });
  });
});
