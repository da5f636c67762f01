import { execFileSync } from 'node:child_process';
import { mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import fc from 'fast-check';
import Timecode from 'smpte-timecode';
import {
  COUNTINGS,
  countingById,
  countingForRate,
  formatDuration,
  formatTimecode,
  framesPerDay,
  framesToSeconds,
  intersectRanges,
  parseRational,
  parseTimecode,
  rational,
  rescaleFrames,
  secondsToFrames,
  type Counting,
} from '@larder/core/timecode';

const counting = (id: string): Counting => {
  const found = countingById(id);
  if (!found) throw new Error(`no counting ${id}`);
  return found;
};
const framesOf = (text: string, id: string): number => {
  const result = parseTimecode(text, counting(id));
  if ('issue' in result) throw new Error(JSON.stringify(result.issue));
  return result.frames;
};

describe('SMPTE ST 12-1: counting facts', () => {
  // Source: SMPTE ST 12-1 "Time and Control Code", drop-frame: labels 00 and 01 of each minute except 0, 10, 20, 30, 40, 50 are omitted.
  it('ten minutes of 29.97 drop-frame are 17,982 frames', () =>
    expect(framesOf('00:10:00;00', '29.97df')).toBe(17_982));
  it('the frame after 00:00:59;29 is 00:01:00;02', () =>
    expect(formatTimecode(framesOf('00:00:59;29', '29.97df') + 1, counting('29.97df'))).toBe('00:01:00;02'));
  it('the tenth minute keeps its first two labels', () =>
    expect(formatTimecode(framesOf('00:09:59;29', '29.97df') + 1, counting('29.97df'))).toBe('00:10:00;00'));
  it('an hour of drop-frame is 107,892 frames, a day 2,589,408', () => {
    expect(framesOf('01:00:00;00', '29.97df')).toBe(107_892);
    expect(framesPerDay(counting('29.97df'))).toBe(2_589_408);
  });
  it('59.94 drop-frame leaves out four labels', () =>
    expect(formatTimecode(framesOf('00:00:59;59', '59.94df') + 1, counting('59.94df'))).toBe('00:01:00;04'));
  it('a dropped label is no timecode', () =>
    expect(parseTimecode('00:01:00;00', counting('29.97df'))).toEqual({ issue: { code: 'dropped-label', at: 9 } }));
  it('drop-frame is 3.6 ms short of the clock after an hour', () => {
    const seconds = framesToSeconds(framesOf('01:00:00;00', '29.97df'), counting('29.97df').rate);
    expect(rational(3600 * seconds.den - seconds.num, seconds.den)).toEqual(rational(36, 10_000));
  });
});

describe('against others', () => {
  it('agrees with the package smpte-timecode on every 97th frame of an hour, dropped and not', () => {
    for (const [id, rate, drop] of [
      ['29.97df', 29.97, true],
      ['59.94df', 59.94, true],
      ['25', 25, false],
      ['23.976', 23.976, false],
    ] as const)
      for (let frames = 0; frames < 110_000; frames += 97)
        expect(formatTimecode(frames, counting(id))).toBe(new Timecode(frames, rate, drop).toString());
  });

  it.each([
    ['29.97df', '30000/1001', '00:00:57;00'],
    ['29.97df', '30000/1001', '00:09:57;00'],
    ['25', '25', '09:59:57:00'],
  ])('agrees with the labels that ffmpeg puts on the frames: %s from %s, %s', (id, rate, start) => {
    // Every picture of this MPEG-2 stream opens a group, and ffmpeg's encoder writes each group's timecode.
    const dir = mkdtempSync(join(tmpdir(), 'larder-tc-'));
    try {
      const file = join(dir, 'groups.m2v');
      execFileSync('ffmpeg', [
        ...'-v error -f lavfi -i'.split(' '),
        `color=s=32x32:r=${rate}:d=10`,
        ...'-c:v mpeg2video -g 1 -gop_timecode'.split(' '),
        start,
        file,
      ]);
      const labels = execFileSync(
        'ffprobe',
        [...'-v error -show_entries frame_side_data=timecode -of csv=p=0'.split(' '), file],
        { encoding: 'utf8' },
      )
        .split('\n')
        .filter(Boolean);
      const first = framesOf(labels[0] ?? '', id);
      expect(labels.length).toBeGreaterThan(240);
      expect(labels).toEqual(labels.map((_label, index) => formatTimecode(first + index, counting(id))));
    } finally {
      rmSync(dir, { recursive: true });
    }
  });
});

describe('reading and printing', () => {
  it.each(COUNTINGS.map((each) => [each.id, each as Counting] as const))(
    '%s: print then read is the same frame',
    (_id, each) => {
      fc.assert(
        fc.property(fc.integer({ min: 0, max: framesPerDay(each) - 1 }), (frames) => {
          expect(parseTimecode(formatTimecode(frames, each), each)).toEqual({ frames });
        }),
      );
    },
  );
  it('names the part that is out of range', () => {
    expect(parseTimecode('10:61:00:00', counting('25'))).toEqual({
      issue: { code: 'out-of-range', at: 3, part: 'minutes', limit: 59 },
    });
    expect(parseTimecode('10:00:00:25', counting('25'))).toEqual({
      issue: { code: 'out-of-range', at: 9, part: 'frames', limit: 24 },
    });
    expect(parseTimecode('ten o clock', counting('25'))).toEqual({ issue: { code: 'not-a-timecode', at: 0 } });
  });
  it('wraps at midnight in both directions', () => {
    expect(formatTimecode(-1, counting('25'))).toBe('23:59:59:24');
    expect(formatTimecode(framesPerDay(counting('25')), counting('25'))).toBe('00:00:00:00');
  });
  it('prints durations for reading', () => {
    expect(formatDuration(25 * 3723, rational(25))).toBe('1:02:03');
    expect(formatDuration(149, rational(25))).toBe('0:05');
  });
});

describe('exact time', () => {
  it('there and back through seconds loses nothing', () => {
    fc.assert(
      fc.property(fc.integer({ min: 0, max: 10_000_000 }), fc.constantFrom(...COUNTINGS), (frames, each) => {
        expect(secondsToFrames(framesToSeconds(frames, each.rate), each.rate, 'floor')).toBe(frames);
      }),
    );
  });
  it('rescaling rounds as asked', () => {
    expect(rescaleFrames(1, rational(50), rational(25), 'floor')).toBe(0);
    expect(rescaleFrames(1, rational(50), rational(25), 'nearest')).toBe(1);
    expect(rescaleFrames(-1, rational(50), rational(25), 'floor')).toBe(-1);
    expect(rescaleFrames(1001, rational(30_000, 1001), rational(30), 'ceil')).toBe(1003);
  });
  it('knows 30000/1001 and refuses nonsense', () => {
    expect(countingForRate(rational(60_000, 2002)).id).toBe('29.97');
    expect(countingForRate(rational(12)).nominal).toBe(12);
    expect(parseRational('0/0')).toBeNull();
    expect(parseRational('30000/1001')).toEqual({ num: 30_000, den: 1001 });
    expect(() => rational(1, 0)).toThrow(RangeError);
  });
  it('ranges that touch do not overlap', () => {
    expect(intersectRanges({ start: 0, end: 10 }, { start: 10, end: 20 })).toBeNull();
    expect(intersectRanges({ start: 0, end: 10 }, { start: 4, end: 20 })).toEqual({ start: 4, end: 10 });
  });
});
