import {
  mapFields,
  type AgeTest,
  type CalendarTest,
  type CalendarUnit,
  type Comparison,
  type Query,
  type SpanTest,
} from './tree';

const MINUTE_MS = 60_000;
const DAY_MS = 86_400_000;

/** Stretches of the calendar by what they are called, the present one and the one before. */
const CALLED: ReadonlyMap<string, CalendarTest> = new Map([
  ['today', { op: 'calendar', unit: 'day', back: 0 }],
  ['yesterday', { op: 'calendar', unit: 'day', back: 1 }],
  ['this-week', { op: 'calendar', unit: 'week', back: 0 }],
  ['last-week', { op: 'calendar', unit: 'week', back: 1 }],
  ['this-month', { op: 'calendar', unit: 'month', back: 0 }],
  ['last-month', { op: 'calendar', unit: 'month', back: 1 }],
  ['this-year', { op: 'calendar', unit: 'year', back: 0 }],
  ['last-year', { op: 'calendar', unit: 'year', back: 1 }],
]);
export const CALENDAR_WORDS: readonly string[] = [...CALLED.keys()];

const AGE = /^(\d{1,4})(min|h|d|w|mo|y)$/i;
const FIXED_MS = { min: MINUTE_MS, h: 60 * MINUTE_MS, d: DAY_MS, w: 7 * DAY_MS } as const;

/** Reads `today` or `last-week`, or after `<` or `>` an age such as `1h`, `3d` or `2mo`; null if it is neither. */
export function readRelative(comparison: Comparison | null, text: string): CalendarTest | AgeTest | null {
  if (!comparison) return CALLED.get(text.toLowerCase().replace(/[\s_]+/g, '-')) ?? null;
  const [, count = '0', unit = ''] = AGE.exec(text) ?? [];
  if (Number(count) === 0) return null;
  return {
    op: 'age',
    younger: comparison.startsWith('<'),
    count: Number(count),
    unit: unit.toLowerCase() as AgeTest['unit'],
  };
}

/** Writes it with its operator, so that it is read as the same again. */
export function printRelative(test: CalendarTest | AgeTest): string {
  if (test.op === 'age') return `${test.younger ? '<' : '>'}${test.count}${test.unit}`;
  const called = [...CALLED].find(([, { unit, back }]) => unit === test.unit && back === test.back);
  return `:${called?.[0] ?? ''}`;
}

/**
 * The beginning of the stretch of the calendar (UTC, ISO 8601: weeks begin on Mondays) that lies so many before the one of a moment, or
 * after it where `back` is below zero.
 */
export function beginningOfSpan(unit: CalendarUnit, nowMs: number, back: number): number {
  const now = new Date(nowMs);
  const [year, month, day] = [now.getUTCFullYear(), now.getUTCMonth(), now.getUTCDate()];
  switch (unit) {
    case 'day':
      return Date.UTC(year, month, day - back);
    case 'week':
      return Date.UTC(year, month, day - ((now.getUTCDay() + 6) % 7) - 7 * back);
    case 'month':
      return Date.UTC(year, month - back, 1);
    case 'year':
      return Date.UTC(year - back, 0, 1);
    default:
      return unit satisfies never;
  }
}

/** The same day so many months before, or the last of a month that is shorter. */
function monthsBefore(nowMs: number, months: number): number {
  const now = new Date(nowMs);
  const [year, month] = [now.getUTCFullYear(), now.getUTCMonth() - months];
  const last = new Date(Date.UTC(year, month + 1, 0)).getUTCDate();
  return Date.UTC(year, month, Math.min(now.getUTCDate(), last)) + (nowMs % DAY_MS);
}

/** What a test means at a moment. Ages go by whole minutes, so that a list stays the same while it is scrolled through. */
export function spanAt(test: CalendarTest | AgeTest, nowMs: number): SpanTest {
  if (test.op === 'calendar')
    return {
      op: 'span',
      from: beginningOfSpan(test.unit, nowMs, test.back),
      to: beginningOfSpan(test.unit, nowMs, test.back - 1),
    };
  const minute = nowMs - (nowMs % MINUTE_MS);
  const { unit, count } = test;
  const then =
    unit === 'mo' || unit === 'y'
      ? monthsBefore(minute, unit === 'y' ? 12 * count : count)
      : minute - count * FIXED_MS[unit];
  return { op: 'span', from: test.younger ? then : null, to: test.younger ? null : then };
}

/** A search with what depends on the present put as what it means at a moment; itself, if nothing does. */
export const queryAt = (tree: Query, nowMs: number): Query =>
  mapFields(tree, (part) =>
    part.test.op === 'calendar' || part.test.op === 'age' ? { ...part, test: spanAt(part.test, nowMs) } : part,
  );
