import { LABEL_SECOND, printLabel, readLabel } from '../timecode';
import { isNumericType, type Field, type NumericType } from '../fields';
import { EXPECTED_HEARD, isHeardField } from './heard';
import { EXPECTED_NEAR } from './near';
import type { Comparison, SpanTest } from './tree';

type Span = { readonly from: number; readonly to: number };

const DURATION_MS: Record<string, number> = { h: 3_600_000, m: 60_000, s: 1000, ms: 1 };
// Prefixes of IEC 80000-13: k, M, G and T are powers of a thousand, as makers of disks mean them, Ki, Mi, Gi and Ti of 1,024.
const BYTES: Record<string, number> = {
  ...{ '': 1, b: 1, kb: 1e3, mb: 1e6, gb: 1e9, tb: 1e12 },
  ...{ kib: 2 ** 10, mib: 2 ** 20, gib: 2 ** 30, tib: 2 ** 40 },
};

function durationMs(text: string): Span | null {
  if (!/^(\d+(\.\d+)?(h|ms|m|s))+$|^\d+(\.\d+)?$/i.test(text)) return null;
  let total = 0;
  for (const [, amount, unit] of text.toLowerCase().matchAll(/(\d+(?:\.\d+)?)(h|ms|m|s)?/g))
    total += Number(amount) * (DURATION_MS[unit ?? 's'] ?? 1000);
  const ms = Math.round(total);
  return { from: ms, to: ms + 1 };
}

function bytes(text: string): Span | null {
  const match = /^(\d+(?:\.\d+)?)([kmgt]?b|[kmgt]ib|)$/i.exec(text);
  if (!match) return null;
  const value = Math.round(Number(match[1]) * (BYTES[(match[2] ?? '').toLowerCase()] ?? 1));
  return Number.isSafeInteger(value) ? { from: value, to: value + 1 } : null;
}

/** A year, a month or a day (ISO 8601) as the whole span it names, in UTC. */
function dateMs(text: string): Span | null {
  const match = /^(\d{4})(?:-(\d{2})(?:-(\d{2}))?)?$/.exec(text);
  if (!match) return null;
  const [year, month, day] = [Number(match[1]), match[2] ? Number(match[2]) : null, match[3] ? Number(match[3]) : null];
  if (
    (month !== null && (month < 1 || month > 12)) ||
    (day !== null && (day < 1 || new Date(Date.UTC(year, (month ?? 1) - 1, day)).getUTCDate() !== day))
  )
    return null;
  const from = Date.UTC(year, (month ?? 1) - 1, day ?? 1);
  const to =
    day !== null
      ? Date.UTC(year, (month ?? 1) - 1, day + 1)
      : month !== null
        ? Date.UTC(year, month, 1)
        : Date.UTC(year + 1, 0, 1);
  return { from, to };
}

function integer(text: string): Span | null {
  return /^\d{1,15}$/.test(text) ? { from: Number(text), to: Number(text) + 1 } : null;
}

function decimal(text: string): Span | null {
  if (!/^-?\d{1,12}(\.\d{1,3})?$/.test(text)) return null;
  return { from: Number(text), to: thousandths(Number(text) + DECIMAL_STEP) };
}

/** As fine as numbers with decimals are kept. */
const DECIMAL_STEP = 0.001;
const thousandths = (value: number): number => Math.round(value * 1000) / 1000;

const READERS: Readonly<Record<NumericType, { read: (text: string) => Span | null; expected: string }>> = {
  durationMs: { read: durationMs, expected: 'a duration such as 10s, 1m30s or 2h' },
  bytes: { read: bytes, expected: 'a size such as 500MB or 2GB' },
  dateMs: {
    read: dateMs,
    expected: 'a date such as 2026, 2026-05-12, today or last-week, or after < or > an age such as 1h or 3d',
  },
  number: { read: integer, expected: 'a whole number' },
  timecodeLabel: { read: readLabel, expected: 'a timecode such as 10:04 or 10:04:00:12' },
};

export const isNumeric = ({ type }: Field): boolean => isNumericType(type);
export const expectedValue = ({ id, type, decimals }: Field): string =>
  isHeardField({ id })
    ? EXPECTED_HEARD
    : decimals
      ? 'a number such as 12 or 2.5'
      : isNumericType(type)
        ? READERS[type].expected
        : type === 'position'
          ? EXPECTED_NEAR
          : 'a word';

/** Reads `value`, `from..to`, `from..` or `..to`, or a value after a comparison, as a span in the field's unit; null if it is none. */
export function readSpan(field: Field, comparison: Comparison | null, text: string): SpanTest | null {
  if (!isNumericType(field.type)) return null;
  const read = field.decimals ? decimal : READERS[field.type].read;
  if (comparison) {
    const span = read(text);
    if (!span) return null;
    switch (comparison) {
      case '<':
        return { op: 'span', from: null, to: span.from };
      case '<=':
        return { op: 'span', from: null, to: span.to };
      case '>':
        return { op: 'span', from: span.to, to: null };
      case '>=':
        return { op: 'span', from: span.from, to: null };
      default:
        return comparison satisfies never;
    }
  }
  const [first = '', second] = text.split('..', 2);
  const from = first === '' ? null : read(first);
  if (second === undefined) return from && { op: 'span', ...from };
  const to = second === '' ? null : read(second);
  if ((first !== '' && !from) || (second !== '' && !to) || (!from && !to)) return null;
  return { op: 'span', from: from?.from ?? null, to: to?.to ?? null };
}

const DAY_MS = 86_400_000;

const printSeconds = (seconds: number): string => {
  const parts = [
    [Math.floor(seconds / 3600), 'h'],
    [Math.floor(seconds / 60) % 60, 'm'],
    [seconds % 60, 's'],
  ] as const;
  return (
    parts
      .filter(([amount]) => amount > 0)
      .map(([amount, unit]) => `${amount}${unit}`)
      .join('') || '0s'
  );
};

type NumberField = Pick<Field, 'type' | 'decimals'>;

function printBound(field: NumberField, value: number): string {
  if (field.type === 'timecodeLabel') return printLabel(value);
  if (field.type === 'dateMs') return new Date(value).toISOString().slice(0, 10);
  if (field.type === 'durationMs') {
    if (value % 1000 === 0) return printSeconds(value / 1000);
    return value < 1000 ? `${value}ms` : `${value / 1000}s`;
  }
  return String(field.decimals ? thousandths(value) : value);
}

/** One second of timecode, or one minute, is written as such. */
const isWhole = (from: number, to: number): boolean =>
  [LABEL_SECOND, LABEL_SECOND * 60].some((length) => to - from === length && from % length === 0);

/** Prints a span, its operator with it, so that it reads back as the same span: `:10s`, `>10s`, `:2026-05-01..2026-05-31`. */
export function printSpan(field: NumberField, { from, to }: SpanTest): string {
  const step = field.type === 'dateMs' ? DAY_MS : field.decimals ? DECIMAL_STEP : 1;
  const shorter = (inside: number, outside: number) =>
    printBound(field, outside).length < printBound(field, inside).length;
  if (from !== null && to !== null) {
    if (field.type === 'timecodeLabel' && isWhole(from, to))
      return `:${printLabel(from).slice(0, to - from === LABEL_SECOND ? 8 : 5)}`;
    const [first, last] = [printBound(field, from), printBound(field, to - step)];
    return first === last ? `:${first}` : `:${first}..${last}`;
  }
  if (from !== null)
    return shorter(from, from - step) ? `>${printBound(field, from - step)}` : `>=${printBound(field, from)}`;
  if (to !== null) return shorter(to, to - step) ? `<=${printBound(field, to - step)}` : `<${printBound(field, to)}`;
  return ':..';
}
