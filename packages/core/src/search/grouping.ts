import { isNumericType, valueText, words, type Field, type FieldValue } from '../fields';
import type { FieldTest } from '../query';
import { LABEL_SECOND } from '../timecode';
import { valueKey } from './sort-key';

/** One heading of a grouped list, and what a search that finds its assets asks of the field; null where none does. */
export interface Group {
  readonly label: string;
  /** How many places of the list stand beneath it. */
  readonly count: number;
  readonly test: FieldTest | null;
}

/** Where a value belongs: equal keys are one group, and groups stand in the order of `rank`, then of `key`. */
export interface GroupKey {
  readonly rank: number;
  readonly key: string;
  readonly label: string;
  readonly test: FieldTest | null;
}

/** What says nothing in the field comes last. */
export const NO_GROUP: GroupKey = {
  rank: Infinity,
  key: '',
  label: '',
  test: { op: 'presence', present: false },
};

export const DAY_MS = 86_400_000;
/** Lengths and sizes are gathered in steps, each up to the next; the last has no end. */
export const STEPS: Readonly<Partial<Record<Field['type'], readonly (readonly [from: number, label: string])[]>>> = {
  durationMs: [
    [0, 'Under 5 seconds'],
    [5000, '5 to 15 seconds'],
    [15_000, '15 to 60 seconds'],
    [60_000, '1 to 5 minutes'],
    [300_000, '5 to 30 minutes'],
    [1_800_000, '30 minutes and more'],
  ],
  bytes: [
    [0, 'Under 1 MB'],
    [1e6, '1 to 10 MB'],
    [1e7, '10 to 100 MB'],
    [1e8, '100 MB to 1 GB'],
    [1e9, '1 to 10 GB'],
    [1e10, '10 GB and more'],
  ],
  // By the hour: as reels are numbered, and days go.
  timecodeLabel: Array.from({ length: 24 }, (_unused, hour): [number, string] => [
    hour * 3600 * LABEL_SECOND,
    `${String(hour).padStart(2, '0')}:00 to ${String(hour).padStart(2, '0')}:59`,
  ]),
};

const stepOf = (steps: readonly (readonly [from: number, label: string])[], value: number): number =>
  Math.max(
    0,
    steps.findLastIndex(([from]) => value >= from),
  );

/** Whether two numbers stand in one group. */
export function sameGroup({ type }: Pick<Field, 'type'>, a: number, b: number): boolean {
  const steps = STEPS[type];
  if (steps) return stepOf(steps, a) === stepOf(steps, b);
  return type === 'dateMs' ? Math.floor(a / DAY_MS) === Math.floor(b / DAY_MS) : a === b;
}

function ofNumber(field: Field, value: number): GroupKey {
  const steps = STEPS[field.type];
  if (steps) {
    const at = stepOf(steps, value);
    const [from, label] = steps[at] ?? [0, ''];
    const to = steps[at + 1]?.[0] ?? null;
    return { rank: from, key: '', label, test: { op: 'span', from: at === 0 ? null : from, to } };
  }
  if (field.type === 'dateMs') {
    const day = Math.floor(value / DAY_MS) * DAY_MS;
    return { rank: day, key: '', label: valueText(day, 'dateMs'), test: { op: 'span', from: day, to: day + DAY_MS } };
  }
  const to = field.decimals ? Math.round(value * 1000 + 1) / 1000 : value + 1;
  return { rank: value, key: '', label: String(value), test: { op: 'span', from: value, to } };
}

function ofWords(field: Field, text: string): GroupKey {
  const at = field.choices?.indexOf(text) ?? -1;
  const clean = words(text).join(' ');
  // One of a list is meant as a whole anyway; what was said before the list lost it is not on it.
  const op = at >= 0 ? ({ op: 'text', prefix: false } as const) : ({ op: 'whole' } as const);
  // A text of nothing but signs, and a position, cannot be asked for by words.
  const askable = clean !== '' && field.type !== 'position';
  return {
    rank: at < 0 ? Number.MAX_VALUE : at,
    key: valueKey(text, field.type),
    label: text,
    test: askable ? { ...op, text: clean } : null,
  };
}

/**
 * The groups that an asset stands in by what it says in a field: several where it says several things, one that says that it says
 * nothing otherwise. Texts of the same words are one: they differ in case, accents and signs, which no search tells apart.
 */
export function groupsOf(field: Field, value: FieldValue | undefined): readonly GroupKey[] {
  if (value === undefined || value === '' || (typeof value === 'object' && value.length === 0)) return [NO_GROUP];
  if (isNumericType(field.type)) return [ofNumber(field, Number(value))];
  const texts = typeof value === 'object' ? value : [String(value)];
  return [...new Map(texts.map((text) => ofWords(field, text)).map((group) => [group.key, group])).values()];
}

export const byGroup = (a: GroupKey, b: GroupKey): number =>
  a.rank === b.rank ? (a.key < b.key ? -1 : a.key > b.key ? 1 : 0) : a.rank < b.rank ? -1 : 1;
