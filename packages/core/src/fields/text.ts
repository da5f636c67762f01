import type { Field } from './registry';
import type { SetValue } from './schema';

/** A value as a person reads and types it: names with commas between them, numbers by their digits. */
export const valueText = (value: SetValue | undefined): string =>
  value === null || value === undefined ? '' : typeof value === 'object' ? value.join(', ') : String(value);

/** What a person typed into a field, as it is kept; whether it may be kept is the schema's to say. */
export function typedValue({ type }: Pick<Field, 'type'>, text: string): SetValue {
  const clean = text.trim();
  if (clean === '') return null;
  switch (type) {
    case 'names':
      return clean
        .split(',')
        .map((name) => name.trim())
        .filter(Boolean);
    case 'number':
      // What is no number stays a word, so that it is refused with what was typed still there.
      return Number.isFinite(Number(clean)) ? Number(clean) : clean;
    default:
      return clean;
  }
}
