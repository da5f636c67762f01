import { droppedPerMinute, type Counting } from './rates';
import { rational, scale, type Rational, type Rounding } from './rational';

/** Why a text is no timecode. `at` is the index of the character at fault. */
export type TimecodeIssue =
  | { readonly code: 'not-a-timecode'; readonly at: number }
  | {
      readonly code: 'out-of-range';
      readonly at: number;
      readonly part: 'hours' | 'minutes' | 'seconds' | 'frames';
      readonly limit: number;
    }
  | { readonly code: 'dropped-label'; readonly at: number };

export type TimecodeResult = { readonly frames: number } | { readonly issue: TimecodeIssue };

const pad = (value: number, width = 2): string => String(value).padStart(width, '0');

/** Frames in 24 hours of timecode; labels start again from zero there. */
export function framesPerDay(counting: Counting): number {
  return 24 * 60 * 60 * counting.nominal - droppedPerMinute(counting) * (24 * 60 - 24 * 6);
}

/** The frame label number: the frame count with the dropped labels put back in (ST 12-1, drop-frame compensated counting). */
function labelNumber(frames: number, counting: Counting): number {
  const dropped = droppedPerMinute(counting);
  if (dropped === 0) return frames;
  const perMinute = counting.nominal * 60 - dropped;
  const perTen = perMinute * 10 + dropped;
  const tens = Math.floor(frames / perTen);
  const rest = frames % perTen;
  const minutes = rest < counting.nominal * 60 ? 0 : 1 + Math.floor((rest - counting.nominal * 60) / perMinute);
  return frames + dropped * (9 * tens + minutes);
}

/** The label of a frame count in its parts; wraps at 24 hours, also for negative counts. */
export function labelParts(frames: number, counting: Counting): { readonly seconds: number; readonly ff: number } {
  const day = framesPerDay(counting);
  const label = labelNumber(((Math.trunc(frames) % day) + day) % day, counting);
  return { seconds: Math.floor(label / counting.nominal), ff: label % counting.nominal };
}

/** Whole seconds since midnight as `HH:MM:SS`. */
export const formatClock = (seconds: number): string =>
  [Math.floor(seconds / 3600), Math.floor(seconds / 60) % 60, seconds % 60].map((part) => pad(part)).join(':');

/**
 * Prints a frame count as `HH:MM:SS:FF`, with `;` before the frames in drop-frame. Wraps at 24 hours, also for negative counts.
 * @param frames whole frames since 00:00:00:00
 */
export function formatTimecode(frames: number, counting: Counting): string {
  const { seconds, ff } = labelParts(frames, counting);
  return `${formatClock(seconds)}${counting.dropFrame ? ';' : ':'}${pad(ff, counting.nominal > 100 ? 3 : 2)}`;
}

/**
 * Reads `HH:MM:SS:FF`; the last separator may be `:`, `;` or `.`, as written by different machines.
 * The counting, not the separator, decides whether labels are dropped. Labels that drop-frame leaves out are refused.
 */
export function parseTimecode(text: string, counting: Counting): TimecodeResult {
  const match = /^\s*(\d{1,2}):(\d{2}):(\d{2})[:;.](\d{2,3})\s*$/.exec(text);
  if (!match)
    return { issue: { code: 'not-a-timecode', at: text.search(/[^\d:;.\s]/) < 0 ? 0 : text.search(/[^\d:;.\s]/) } };
  const [hours, minutes, seconds, ff] = match.slice(1).map(Number) as [number, number, number, number];
  const limits = [
    ['hours', hours, 24],
    ['minutes', minutes, 60],
    ['seconds', seconds, 60],
    ['frames', ff, counting.nominal],
  ] as const;
  let at = 0;
  for (const [part, value, limit] of limits) {
    if (value >= limit) return { issue: { code: 'out-of-range', at, part, limit: limit - 1 } };
    at += 3;
  }
  const dropped = droppedPerMinute(counting);
  if (seconds === 0 && ff < dropped && minutes % 10 !== 0) return { issue: { code: 'dropped-label', at: 9 } };
  const totalMinutes = hours * 60 + minutes;
  const label = (totalMinutes * 60 + seconds) * counting.nominal + ff;
  return { frames: label - dropped * (totalMinutes - Math.floor(totalMinutes / 10)) };
}

/** The exact time at which a frame starts, in seconds. */
export const framesToSeconds = (frames: number, rate: Rational): Rational =>
  rational(BigInt(frames) * BigInt(rate.den), BigInt(rate.num));

/** The frame count that an exact number of seconds makes at a rate. */
export const secondsToFrames = (seconds: Rational, rate: Rational, rounding: Rounding): number =>
  scale(1, BigInt(seconds.num) * BigInt(rate.num), BigInt(seconds.den) * BigInt(rate.den), rounding);

/** The same stretch of time counted at another rate; nothing is lost on the way but the final rounding. */
export const rescaleFrames = (frames: number, from: Rational, to: Rational, rounding: Rounding = 'nearest'): number =>
  scale(frames, BigInt(from.den) * BigInt(to.num), BigInt(from.num) * BigInt(to.den), rounding);

/** A duration for reading, `1:02:03` or `2:03`, with frames dropped; for exact work use timecode. */
export function formatDuration(frames: number, rate: Rational): string {
  const whole = rescaleFrames(frames, rate, { num: 1, den: 1 }, 'floor');
  const [hours, minutes, seconds] = [Math.floor(whole / 3600), Math.floor(whole / 60) % 60, whole % 60];
  return hours > 0 ? `${hours}:${pad(minutes)}:${pad(seconds)}` : `${minutes}:${pad(seconds)}`;
}
