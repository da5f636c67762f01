import {
  array,
  lazy,
  number,
  object,
  string,
  type InferType,
  type ObjectSchema,
  type Schema,
  type StringSchema,
} from 'yup';
import type { Field, SettableFieldId } from './built-in';
import { readPosition } from '../position';
import type { FieldRegistry } from './registry';

export const TITLE_LIMIT = 200;
/** Of a line of text other than the title. */
export const LINE_LIMIT = 100;
export const NAME_LIMIT = 100;
export const TEXT_LIMIT = 20_000;
export const TAG_LIMIT = 60;

/**
 * A text without the spaces around it. Yup's own `trim` throws on a list in place of a text, which a hostile body may hold.
 */
export const trimmed = (): StringSchema =>
  string().transform((value: unknown) => (typeof value === 'string' ? value.trim() : value));

/** A tag: one line, no commas or quotes, since lists of tags are typed with commas and searched in quotes. */
export const tagSchema = trimmed()
  .min(1, 'A tag needs at least one character.')
  .max(TAG_LIMIT, `A tag has at most ${TAG_LIMIT} characters.`)
  .matches(/^[^",\n\r\t]*$/, { message: 'A tag is one line without commas or quotes.', excludeEmptyString: true })
  .required();

/** A name in a list of names, typed with commas between them. */
const nameSchema = trimmed()
  .min(1, 'A name needs at least one character.')
  .max(NAME_LIMIT, `A name has at most ${NAME_LIMIT} characters.`)
  .matches(/^[^,\n\r\t]*$/, 'A name is one line without commas.')
  .required();
const NAMES_LIMIT = 100;

const oneLine = (label: string, limit: number): StringSchema<string | null | undefined> =>
  trimmed()
    .max(limit, `${label} has at most ${limit} characters.`)
    .matches(/^[^\n\r]*$/, `${label} is one line.`)
    .nullable();

const URL_LIMIT = 2000;
export const DAY_MS = 86_400_000;
/** The last day that a date of this platform can name. */
const LAST_DAY_MS = 8.64e15;

function isWebAddress(text: string): boolean {
  try {
    return /^https?:$/.test(new URL(text).protocol) && !/\s/.test(text);
  } catch {
    return false;
  }
}

/** What a number may be. Three decimals are kept, which is as fine as searches tell numbers apart. */
function numberSchema(label: string, [least, most]: readonly [number, number], decimals: boolean): Schema {
  const words = `${label} is a ${decimals ? '' : 'whole '}number from ${least} to ${most}${decimals ? ', with three decimals at most' : ''}.`;
  const range = number().typeError(words).min(least, words).max(most, words).nullable();
  return decimals
    ? range.test('decimals', words, (value) => value == null || Number(value.toFixed(3)) === value)
    : range.integer(words);
}

/** What each type of field takes, in words that a person can act on. */
function schemaOf({ id, label, type, choices = [], range, decimals }: Field): Schema {
  switch (type) {
    case 'text':
      return oneLine(label, id === 'title' ? TITLE_LIMIT : LINE_LIMIT);
    case 'longText':
      return string()
        .max(TEXT_LIMIT, `${label} has at most ${TEXT_LIMIT.toLocaleString('en')} characters.`)
        .nullable();
    case 'choice':
    case 'yesNo':
      return string()
        .oneOf([...choices, ''], `${label} is one of: ${choices.join(', ')}.`)
        .nullable();
    case 'names':
      return array(nameSchema).max(NAMES_LIMIT, `${label} has at most ${NAMES_LIMIT} names.`).nullable();
    case 'choices':
      return array(
        string()
          .oneOf(choices, `${label} takes of: ${choices.join(', ')}.`)
          .required(),
      )
        .max(choices.length, `${label} says each choice once.`)
        .nullable();
    case 'number':
      return numberSchema(label, range ?? [0, Number.MAX_SAFE_INTEGER], decimals === true);
    case 'timecode':
      return trimmed()
        .matches(/^(\d{2}:[0-5]\d:[0-5]\d[:;]\d{2,3})?$/, `${label} is a timecode such as 10:04:00:00.`)
        .nullable();
    case 'position':
      return trimmed()
        .max(LINE_LIMIT)
        .test(
          'position',
          `${label} is a place in degrees such as 50.4120, -3.5180 or 50°24′43″N 3°31′05″W.`,
          (text) => !text || readPosition(text) !== null,
        )
        .nullable();
    case 'url':
      return trimmed()
        .max(URL_LIMIT, `${label} has at most ${URL_LIMIT.toLocaleString('en')} characters.`)
        .test(
          'url',
          `${label} is a web address such as https://example.org/page.`,
          (text) => !text || isWebAddress(text),
        )
        .nullable();
    case 'dateMs': {
      const words = `${label} is a day such as 2026-05-12.`;
      return number()
        .typeError(words)
        .test('day', words, (ms) => ms == null || (ms % DAY_MS === 0 && Math.abs(ms) <= LAST_DAY_MS))
        .nullable();
    }
    case 'tags':
    case 'durationMs':
    case 'bytes':
    case 'timecodeLabel':
      throw new Error(`${id} cannot be set as a whole`);
    default:
      return type satisfies never;
  }
}

/** What a person may say in a field; null and an empty text or list clear it. */
export type SetValue = string | number | readonly string[] | null;
export type FieldChanges = Partial<Record<SettableFieldId, SetValue>>;

/** What may be said in some fields, each on its own optional. */
export const changesSchemaOf = (fields: readonly Field[]): ObjectSchema<FieldChanges> =>
  object(Object.fromEntries(fields.map((field) => [field.id, schemaOf(field)]))).noUnknown(
    'There is no such field to change.',
  ) as unknown as ObjectSchema<FieldChanges>;

/** Schemas that depend on the library's fields are told them by Yup's context. */
export interface FieldContext {
  readonly fields: FieldRegistry;
}

export const fieldsOf = (context: unknown): FieldRegistry => {
  const { fields } = (context ?? {}) as Partial<FieldContext>;
  if (!fields) throw new Error('this schema has to be told of the fields by its context');
  return fields;
};

/**
 * The changes that were sent, read by the schemas of their own fields and no others: to say one note, the forty that were not
 * said need not be looked at.
 */
export const saidChanges = lazy((value: unknown, { context }: { context?: unknown }) => {
  const { changes } = fieldsOf(context);
  const said = typeof value === 'object' && value !== null ? value : {};
  const named = Object.keys(changes.fields).filter((field) => Object.hasOwn(said, field));
  return changes.pick(named as SettableFieldId[]).default({});
});

/** What is kept of what was said: nothing is null, whatever its type. */
export const keptValue = (value: SetValue | undefined): SetValue =>
  value === undefined || value === '' || (typeof value === 'object' && value?.length === 0) ? null : value;

export const sameValue = (a: SetValue | undefined, b: SetValue | undefined): boolean =>
  a === b || JSON.stringify(keptValue(a)) === JSON.stringify(keptValue(b));

/**
 * One edit of one or many assets, used by the browser before it asks and by the server before it writes.
 * `seenRevision` is the change feed's revision that the person was looking at: what somebody else changed since is a conflict.
 */
export const assetEditSchema = object({
  assetIds: array(number().integer().positive().required())
    .min(1, 'Select at least one asset.')
    .max(100_000, 'At most 100,000 assets at once.')
    .required(),
  seenRevision: number().integer().min(0).required(),
  set: saidChanges,
  addTags: array(tagSchema).max(100).default([]),
  removeTags: array(tagSchema).max(100).default([]),
}).noUnknown();

export type AssetEdit = InferType<typeof assetEditSchema>;
