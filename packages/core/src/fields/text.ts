import { printLabel } from '../timecode';
import { readPosition, writePosition } from '../position';
import type { Field } from './built-in';
import { DAY_MS, type SetValue } from './schema';

/** A value as a person reads and types it: names with commas between them, numbers by their digits, dates by their days in UTC. */
export const valueText = (value: SetValue | undefined, type?: Field['type']): string =>
  value === null || value === undefined
    ? ''
    : typeof value === 'object'
      ? value.join(', ')
      : type === 'dateMs' && typeof value === 'number'
        ? new Date(value).toISOString().slice(0, 10)
        : type === 'timecodeLabel' && typeof value === 'number'
          ? printLabel(value)
          : String(value);

const listed = (text: string): string[] =>
  text
    .split(',')
    .map((name) => name.trim())
    .filter(Boolean);

function dayMs(text: string): number | null {
  const ms = /^\d{4}-\d{2}-\d{2}$/.test(text) ? Date.parse(`${text}T00:00:00Z`) : NaN;
  // JavaScript reads 30 February as 2 March.
  return Number.isFinite(ms) && new Date(ms).toISOString().startsWith(text) ? ms - (ms % DAY_MS) : null;
}

/** What a person typed into a field, as it is kept; whether it may be kept is the schema's to say. */
export function typedValue({ type }: Pick<Field, 'type'>, text: string): SetValue {
  const clean = text.trim();
  if (clean === '') return null;
  switch (type) {
    case 'names':
    case 'choices':
      return listed(clean);
    // What is no number and no day stays a word, so that it is refused with what was typed still there.
    case 'number':
      return Number.isFinite(Number(clean)) ? Number(clean) : clean;
    case 'dateMs':
      return dayMs(clean) ?? clean;
    case 'position': {
      const position = readPosition(clean);
      return position ? writePosition(position) : clean;
    }
    default:
      return clean;
  }
}
