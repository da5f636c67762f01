import { codePoint, CODE_POINTS, wordCodePoint } from '@larder/core/colour';
import { unusual, wordUnusual, type ClipFacts, type ReelNeighbour } from '@larder/core/judge';
import { countingById, rational, type Counting } from '@larder/core/timecode';

const counting = countingById('25') as Counting;
const clip = (changes: Partial<ClipFacts> = {}): ClipFacts => ({
  hasPicture: true,
  counting,
  rates: { nominal: rational(25), average: rational(25) },
  startFrame: 90_000,
  durationFrames: 250,
  reel: 'A001',
  width: 1920,
  height: 1080,
  gaps: [],
  channelPeaksDb: null,
  ...changes,
});
const other = (startFrame: number, changes: Partial<ReelNeighbour> = {}): ReelNeighbour => ({
  name: 'A001C009.mov',
  counting,
  startFrame,
  durationFrames: 250,
  ...changes,
});
const said = (changes: Partial<ClipFacts>, neighbours: readonly ReelNeighbour[] = []) =>
  unusual(clip(changes), neighbours).map(wordUnusual);

describe('what is unusual', () => {
  it('about an ordinary clip is nothing, also where its neighbours touch it', () =>
    expect(
      said({}, [other(90_250), other(89_750), other(90_000, { counting: countingById('50') as Counting })]),
    ).toEqual([]));
  it.each([
    [{ startFrame: null }, 'It carries no timecode; it will be counted from zero.'],
    [{ width: 1919 }, 'Its size is odd: 1919 × 1080. Many codecs need even numbers.'],
    [
      { rates: { nominal: rational(30), average: rational(2871, 100) } },
      'Its frame rate varies: stamped for 30, 28.71 on average.',
    ],
    [{ channelPeaksDb: [-12, -Infinity, -90] }, 'Silent: channel 2, 3 of 3.'],
    [{ channelPeaksDb: [-Infinity] }, 'All of its sound is silent.'],
    [
      {
        gaps: [
          [4, 4],
          [9, 12],
        ] as const,
      },
      'Pictures are missing: 4, 9 to 12. The one before is held.',
    ],
  ])('%j: %s', (changes, words) => expect(said(changes)).toEqual([words]));
  it('a rate that containers merely rounded is not variable', () =>
    expect(said({ rates: { nominal: rational(30_000, 1001), average: rational(2997, 100) } })).toEqual([]));
  it('sound alone needs no timecode', () =>
    expect(said({ hasPicture: false, startFrame: null, width: null, height: null })).toEqual([]));
  it.each([
    [90_249, '01:00:09:24'],
    [89_751, '01:00:00:00'],
  ])('a clip of the same reel from %d on overlaps by a frame, from %s', (start, from) =>
    expect(said({}, [other(start)])[0]).toContain(`overlaps A001C009.mov of the same reel A001, from ${from} to `),
  );
  it('many gaps are told by the first few', () =>
    expect(said({ gaps: [1, 3, 5, 7, 9, 11].map((at) => [at, at] as const) })[0]).toBe(
      'Pictures are missing: 1, 3, 5, 7 and 2 more. The one before is held.',
    ));
});

// ITU-T H.273 (07/2021), tables 2 to 4, from memory; the names are checked against an encoder in the server's tests.
describe('code points', () => {
  it.each([
    ['primaries', 'bt709', 1],
    ['primaries', 'bt2020', 9],
    ['primaries', 'smpte432', 12],
    ['transfer', 'smpte2084', 16],
    ['transfer', 'arib-std-b67', 18],
    ['transfer', 'iec61966-2-1', 13],
    ['matrix', 'gbr', 0],
    ['matrix', 'bt2020nc', 9],
    ['matrix', 'ictcp', 14],
  ] as const)('%s %s is %d', (table, id, code) => expect(codePoint(table, id)?.code).toBe(code));
  it('are each there once, in order', () => {
    for (const table of Object.values(CODE_POINTS)) {
      const codes = table.map(({ code }) => code);
      expect(codes).toEqual([...new Set(codes)].sort((a, b) => a - b));
      // 2 is “unspecified” and 3 is reserved in each of them.
      expect(codes).not.toContain(2);
      expect(codes).not.toContain(3);
    }
  });
  it('are worded with their number, also where nothing is said', () =>
    expect([
      wordCodePoint('primaries', 'bt2020'),
      wordCodePoint('matrix', null),
      wordCodePoint('transfer', 'reserved'),
    ]).toEqual(['9, BT.2020, BT.2100', '2, not said', 'reserved']));
});
