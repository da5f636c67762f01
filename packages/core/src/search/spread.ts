import type { RegisteredField } from '../fields';
import { beginningOfSpan, type CalendarUnit } from '../query';
import { LABEL_SECOND } from '../timecode';
import { STEPS } from './grouping';

/** How many there are of what lies from one value up to another. */
export interface Bar {
  readonly from: number;
  readonly to: number;
  readonly count: number;
}

/** How numbers, dates or lengths are spread: bars side by side, empty ones among them. */
export interface Spread {
  /** Of dates, what a bar is; null for all else. */
  readonly unit: CalendarUnit | null;
  readonly bars: readonly Bar[];
}

/** More could not be told apart in a narrow column. */
const MOST_BARS = 60;
/** Numbers without steps of their own are gathered into about so many. */
const AIM = 30;
const NO_BARS: Spread = { unit: null, bars: [] };

const SECOND = 1000;
const [MINUTE, HOUR] = [60 * SECOND, 3600 * SECOND];
const LENGTHS: readonly number[] = [
  ...[0, 1, 2, 5, 10, 15, 30].map((count) => count * SECOND),
  ...[1, 2, 5, 10, 15, 30].map((count) => count * MINUTE),
  ...[1, 2, 4, 8, 24].map((count) => count * HOUR),
];

/** Each about twice the one before. */
function* decades(): Generator<number> {
  for (let unit = 1; ; unit *= 10) yield* [unit, 2 * unit, 5 * unit];
}

/** 1, 2 or 5 times a power of ten, no smaller than asked. */
function niceStep(least: number): number {
  const unit = 10 ** Math.floor(Math.log10(least));
  return unit * ([1, 2, 5, 10].find((times) => unit * times >= least * (1 - 1e-9)) as number);
}

/** Edges of bars, up to the first that is above `max`. */
function edgesOf(field: RegisteredField, min: number, max: number): number[] {
  switch (field.type) {
    case 'durationMs':
      return upTo(max, [...LENGTHS, ...Array.from({ length: 40 }, (_unused, at) => 24 * HOUR * 2 ** (at + 1))]);
    case 'bytes':
      return upTo(max, [0, ...until(max, decades())]);
    case 'timecodeLabel':
      return upTo(max, [...(STEPS.timecodeLabel ?? []).map(([from]) => from), 24 * 3600 * LABEL_SECOND]);
    default: {
      const step = Math.max(niceStep(Math.max((max - min) / AIM, 1e-3)), field.decimals ? 1e-3 : 1);
      const first = Math.floor(min / step);
      return Array.from({ length: Math.floor(max / step) - first + 2 }, (_unused, at) =>
        // Thousandths, as they are kept.
        Number(((first + at) * step).toFixed(3)),
      );
    }
  }
}

const upTo = (max: number, edges: readonly number[]): number[] =>
  edges.slice(0, edges.findIndex((edge) => edge > max) + 1);

function until(max: number, edges: Iterable<number>): number[] {
  const all: number[] = [];
  for (const edge of edges) {
    all.push(edge);
    if (edge > max) return all;
  }
  return all;
}

const UNITS: readonly CalendarUnit[] = ['day', 'week', 'month', 'year'];

/** Edges of days, weeks, months or years in UTC, the finest of which there are not too many. */
function datesOf(min: number, max: number): { readonly unit: CalendarUnit; readonly edges: number[] } {
  let best: { unit: CalendarUnit; edges: number[] } = { unit: 'year', edges: [] };
  for (const unit of UNITS) {
    const edges = [beginningOfSpan(unit, min, 0)];
    while ((edges.at(-1) as number) <= max && (unit === 'year' || edges.length <= MOST_BARS))
      edges.push(beginningOfSpan(unit, edges.at(-1) as number, -1));
    best = { unit, edges };
    if ((edges.at(-1) as number) > max) break;
  }
  // Of centuries not every year is a bar.
  const each = Math.ceil((best.edges.length - 1) / MOST_BARS);
  const edges = best.edges.filter((_edge, at) => at % each === 0);
  const last = best.edges.at(-1) as number;
  return { unit: best.unit, edges: edges.at(-1) === last ? edges : [...edges, last] };
}

/** @param said numbers and how often each is said, in any order */
export function spreadOf(
  field: RegisteredField,
  said: readonly { readonly value: number; readonly count: number }[],
): Spread {
  if (said.length === 0) return NO_BARS;
  let [min, max] = [Infinity, -Infinity];
  for (const { value } of said) [min, max] = [Math.min(min, value), Math.max(max, value)];
  const { unit, edges } = field.type === 'dateMs' ? datesOf(min, max) : { unit: null, edges: edgesOf(field, min, max) };
  const counts = new Float64Array(Math.max(0, edges.length - 1));
  const barOf = (value: number): number => {
    let [low, high] = [0, edges.length - 1];
    while (low < high) {
      const middle = (low + high) >> 1;
      if ((edges[middle] as number) <= value) low = middle + 1;
      else high = middle;
    }
    return Math.max(0, low - 1);
  };
  for (const { value, count } of said) counts[barOf(value)] = (counts[barOf(value)] as number) + count;
  const bars = [...counts].map((count, at) => ({ from: edges[at] as number, to: edges[at + 1] as number, count }));
  const first = bars.findIndex(({ count }) => count > 0);
  return { unit, bars: bars.slice(first, bars.findLastIndex(({ count }) => count > 0) + 1) };
}
