import {
  valueText,
  type FieldId,
  type RegisteredField,
  type FieldValue,
  type Kind,
  type FileState,
  type Verdict,
} from '@larder/core/fields';
import type { CalendarUnit } from '@larder/core/query';
import type { Asset } from '@larder/contract';
import { durationOf, startOf, formatBytes, formatDay, formatLength, formatMoment, formatStretch } from './format';
import { KIND_LABELS, STATE_LABELS, VERDICT_LABELS } from './icons';

/** Fields whose values have words of their own. */
const WORDS: Readonly<Partial<Record<FieldId, (value: string) => string | undefined>>> = {
  kind: (value) => KIND_LABELS[value as Kind]?.word,
  state: (value) => STATE_LABELS[value as FileState]?.word,
  verdict: (value) => VERDICT_LABELS[value as Verdict]?.word,
  part: (value) => (value === 'subclip' ? 'Subclip' : 'Whole clip'),
};

/** A heading for what is said in a field; where nothing is said, that. */
export function wordValue(field: FieldId, label: string): string {
  if (label === '') return 'Nothing said';
  const day = /^\d{4}-\d{2}-\d{2}$/.test(label) ? Date.parse(label) : NaN;
  return WORDS[field]?.(label) ?? (Number.isFinite(day) ? formatDay(day) : label);
}

/** What a bar of a field's spread stands for: a part of the calendar, or from one value up to another. */
export function barLabelOf({ type }: RegisteredField, unit: CalendarUnit | null): (from: number, to: number) => string {
  if (unit) return (from) => formatStretch(from, unit);
  const value = (each: number): string => {
    if (type === 'bytes') return formatBytes(each);
    return type === 'durationMs' ? formatLength(each) : valueText(each, type);
  };
  // Of whole numbers each may be a bar.
  return (from, to) => (type === 'number' && to - from === 1 ? value(from) : `${value(from)} to ${value(to)}`);
}

/** What an asset says in a field, as screens show it. */
export function shownValue({ id, type }: RegisteredField, value: FieldValue | undefined, asset: Asset): string {
  if (value === undefined) return '';
  if (id === 'duration') return durationOf(asset);
  if (id === 'start') return startOf(asset);
  if (id === 'added') return formatMoment(asset.addedMs);
  if (typeof value === 'number' && type === 'dateMs') return formatDay(value);
  if (typeof value === 'number' && type === 'bytes') return formatBytes(value);
  if (typeof value === 'string') return WORDS[id]?.(value) ?? value;
  return valueText(value, type);
}
