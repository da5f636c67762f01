import { reach, type Schema } from 'yup';
import type { FieldRegistry, SettableField } from './registry';
import type { SetValue } from './schema';
import { typedValue } from './text';

/**
 * Reads texts as a field keeps them; throws Yup's `ValidationError` with the reason in words if the field does not take one. What was
 * read once is remembered: tables say the same in a column over and over.
 */
export function readerOf(field: SettableField, fields: FieldRegistry): (text: string) => SetValue {
  const schema = reach(fields.changes, field.id) as Schema<SetValue>;
  const choices = new Map(field.choices?.map((choice) => [choice.toLowerCase(), choice]));
  const known = new Map<string, SetValue>();
  return (text) => {
    const before = known.get(text);
    if (before !== undefined) return before;
    const typed = typedValue(field, text);
    // One of a list in whatever capitals it was typed.
    const inCase = (value: string): string => choices.get(value.toLowerCase()) ?? value;
    const meant =
      choices.size === 0
        ? typed
        : typeof typed === 'string'
          ? inCase(typed)
          : typeof typed === 'object' && typed !== null
            ? typed.map(inCase)
            : typed;
    const value = schema.validateSync(meant) ?? null;
    if (known.size < REMEMBERED) known.set(text, value);
    return value;
  };
}

const REMEMBERED = 10_000;
