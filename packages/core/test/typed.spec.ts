import fc from 'fast-check';
import {
  COUNTINGS,
  formatSoundTime,
  formatTimecode,
  typedSoundTime,
  typedPlace,
  wordTimecodeIssue,
  type Counting,
} from '@larder/core/timecode';

const at = (id: string) => COUNTINGS.find((each) => each.id === id) as Counting;
const hour = 60 * 60 * 25;

/** A minute of 25 frames a second from 10:04:00:00, standing at 10:04:20:00. */
const clip = { start: 10 * hour + 4 * 60 * 25, length: 60 * 25, now: 20 * 25 };
/** The same from zero. */
const fromZero = { ...clip, start: 0 };

describe('a place as people type it (common practice, no source)', () => {
  it.each([
    ['10:04:00:00', clip, 0],
    ['10:04:30:12', clip, 30 * 25 + 12],
    ['10043012', clip, 30 * 25 + 12],
    ['10.04.30.12', clip, 30 * 25 + 12],
    [' 30:12 ', clip, 30 * 25 + 12],
    ['3012', clip, 30 * 25 + 12],
    ['1000', fromZero, 250],
    ['100', fromZero, 25],
    ['7', fromZero, 7],
    ['7', clip, 20 * 25 + 7],
    ['+10', clip, 510],
    ['-10', clip, 490],
    ['+100', clip, 525],
    ['+1:00', clip, 525],
    ['-5.', clip, 375],
    ['+59:00', clip, 1499],
    ['-1:00:00', clip, 0],
    ['11:00:00:00', clip, 1499],
    ['09:00:00:00', clip, 0],
  ])('%s', (text, place, frame) => expect(typedPlace(text, at('25'), place)).toEqual({ frame }));

  it.each([
    ['', 'not-a-timecode'],
    ['noon', 'not-a-timecode'],
    ['1:2:3:4:5', 'not-a-timecode'],
    ['10:04:61:00', 'out-of-range'],
    ['+1:25', 'out-of-range'],
  ])('%s is refused', (text, code) => {
    const place = typedPlace(text, at('25'), clip);
    expect(place).toMatchObject({ issue: { code } });
    if ('issue' in place) expect(wordTimecodeIssue(place.issue)).toMatch(/\.$/);
  });
  it('a label that drop-frame leaves out (SMPTE ST 12-1) is refused in words', () => {
    const place = typedPlace('00:01:00:00', at('29.97df'), { start: 0, length: 99_999, now: 0 });
    expect(place).toEqual({ issue: { code: 'dropped-label', at: 9 } });
    if ('issue' in place) expect(wordTimecodeIssue(place.issue)).toContain('Drop-frame');
  });

  it('the timecode of any frame, typed whole, goes to that frame, at every rate', () =>
    fc.assert(
      fc.property(
        fc.constantFrom(...COUNTINGS),
        fc.nat(2_000_000),
        fc.integer({ min: 1, max: 200_000 }),
        fc.double({ min: 0, max: 1, noNaN: true }),
        (counting, start, length, part) => {
          const frame = Math.floor(part * (length - 1));
          const text = formatTimecode(start + frame, counting);
          const place = { start, length, now: 0 };
          expect(typedPlace(text, counting, place)).toEqual({ frame });
          if (counting.nominal <= 100)
            expect(typedPlace(text.replace(/[:;]/g, ''), counting, place)).toEqual({ frame });
        },
      ),
    ));
  it('whatever is typed is a place within the clip, or refused', () =>
    fc.assert(
      fc.property(fc.oneof(fc.string({ maxLength: 14 }), fc.stringMatching(/^[+-]?[\d:;.]{0,12}$/)), (text) => {
        const place = typedPlace(text, at('59.94'), clip);
        if ('frame' in place) expect(place.frame >= 0 && place.frame < clip.length).toBe(true);
        else expect(wordTimecodeIssue(place.issue)).not.toBe('');
      }),
    ));
});

describe('a moment of a sound as people type it (common practice, no source)', () => {
  it.each([
    ['62', 62_000],
    ['62.345', 62_345],
    ['1:02.5', 62_500],
    [' 01:02,05 ', 62_050],
    ['1:00:00', 3_600_000],
    ['+0.5', 10_500],
    ['- 2', 8000],
    ['-1:00', 0],
    ['', null],
    ['noon', null],
    ['1:2:3:4', null],
    ['1.2345', null],
  ])('“%s”', (text, ms) => expect(typedSoundTime(text, 10_000)).toBe(ms));
  it('is read as it is written', () =>
    fc.assert(fc.property(fc.nat(400_000_000), (ms) => expect(typedSoundTime(formatSoundTime(ms), 5)).toBe(ms))));
});
