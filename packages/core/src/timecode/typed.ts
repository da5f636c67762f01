import type { Counting } from './rates';
import { formatTimecode, framesPerDay, parseTimecode, type TimecodeIssue } from './timecode';

/** Where somebody who typed a place in a clip wants to go. */
export type TypedPlace = { readonly frame: number } | { readonly issue: TimecodeIssue };

/** Of a clip: the timecode of its first frame as a count, its length, and the frame that is shown now; all in frames. */
export interface PlaceIn {
  readonly start: number;
  readonly length: number;
  readonly now: number;
}

/** Pairs of digits from the right: `1000` is ten seconds, `100` one. Parts that are not typed are null. */
function pairs(text: string): (string | null)[] | null {
  const digits = /[:;.]/.test(text)
    ? text.split(/[:;.]/)
    : (text.padStart(text.length + (text.length % 2), '0').match(/\d\d/g) ?? []);
  if (digits.length === 0 || digits.length > 4 || digits.some((part) => !/^\d{0,3}$/.test(part))) return null;
  return [...Array.from({ length: 4 - digits.length }, () => null), ...digits];
}

const label = (parts: readonly (string | null)[], rest: readonly string[], counting: Counting): string => {
  const whole = parts.map((part, index) =>
    (part === null || part === '' ? (rest[index] ?? '00') : part).padStart(2, '0'),
  );
  return `${whole.slice(0, 3).join(':')}${counting.dropFrame ? ';' : ':'}${whole[3] ?? '00'}`;
};

const NOTHING = ['00', '00', '00', '00'];

/**
 * Reads a place in a clip as people type it, with or without separators: `10:04:00:00`, `1000` for ten seconds, `+10` and `-1.00`
 * from where the clip stands. Digits fill from the right; what is left out at the left is zero if the clip has that place, and
 * else as in the timecode that is shown. Common practice, no source. The frame counts from the clip's first and lies within it.
 */
export function typedPlace(text: string, counting: Counting, { start, length, now }: PlaceIn): TypedPlace {
  const clean = text.trim();
  const sign = /^[+-]/.test(clean) ? (clean[0] as '+' | '-') : null;
  const body = sign ? clean.slice(1).trim() : clean;
  const inside = (frame: number) => ({ frame: Math.min(Math.max(0, frame), Math.max(0, length - 1)) });
  // Up to two digits after a sign are frames, however many a second there are.
  if (sign && /^\d{1,2}$/.test(body)) return inside(now + Number(`${sign}${body}`));
  const parts = pairs(body);
  if (!parts) return { issue: { code: 'not-a-timecode', at: Math.max(0, text.search(/[^\d:;.\s+-]/)) } };
  const plain = parseTimecode(label(parts, NOTHING, counting), counting);
  if (sign) return 'issue' in plain ? plain : inside(now + (sign === '+' ? plain.frames : -plain.frames));
  // Timecode starts again at midnight, also in the middle of a clip.
  const day = framesPerDay(counting);
  const into = (frames: number) => (((frames - start) % day) + day) % day;
  if ('frames' in plain && into(plain.frames) < length) return inside(into(plain.frames));
  const shown = formatTimecode(start + now, counting).split(/[:;]/);
  const filled = parseTimecode(label(parts, shown, counting), counting);
  if ('issue' in filled) return filled;
  return inside(into(filled.frames) < length ? into(filled.frames) : filled.frames - start);
}

const MOMENT = /^(?:(?:(\d+):)?(\d{1,3}):)?(\d+)(?:[.,](\d{1,3}))?$/;

/**
 * Reads a place in sound without frames as people type it: `1:02.5`, `62.345` or `1:00:00` from its beginning, `+0.5` and `-2` from
 * `now`. All in milliseconds, never below zero; null if it is none.
 */
export function typedSoundTime(text: string, now: number): number | null {
  const [, sign = '', body = ''] = /^\s*([+-]?)\s*(.*?)\s*$/.exec(text) ?? [];
  const [, hours = '0', minutes = '0', seconds, part = ''] = MOMENT.exec(body) ?? [];
  if (seconds === undefined) return null;
  const ms = ((Number(hours) * 60 + Number(minutes)) * 60 + Number(seconds)) * 1000 + Number(part.padEnd(3, '0'));
  return Math.max(0, sign === '' ? ms : sign === '+' ? now + ms : now - ms);
}

/** A place in sound to the millisecond, in the form that `typedSoundTime` reads: `01:02.345`. */
export function formatSoundTime(ms: number): string {
  const two = (value: number) => String(value).padStart(2, '0');
  const seconds = Math.floor(ms / 1000);
  const hours = Math.floor(seconds / 3600);
  return `${hours > 0 ? `${hours}:` : ''}${two(Math.floor(seconds / 60) % 60)}:${two(seconds % 60)}.${String(ms % 1000).padStart(3, '0')}`;
}

/** What is wrong with what was typed, in words. */
export function wordTimecodeIssue(issue: TimecodeIssue): string {
  switch (issue.code) {
    case 'not-a-timecode':
      return 'That is no timecode. Write 10:04:00:00, 1000 for ten seconds, or +10 for ten frames on.';
    case 'out-of-range':
      return `There are ${issue.part} up to ${issue.limit}.`;
    case 'dropped-label':
      return 'Drop-frame timecode leaves that frame out.';
    default:
      return issue satisfies never;
  }
}
