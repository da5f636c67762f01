import { array, number, object, string, type InferType, type StringSchema } from 'yup';
import { VERDICTS } from './registry';

export const TITLE_LIMIT = 200;
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

/** The fields that are set as a whole, each on its own optional. An empty text or null clears the field. */
export const fieldChangesSchema = object({
  title: trimmed()
    .max(TITLE_LIMIT, `A title has at most ${TITLE_LIMIT} characters.`)
    .matches(/^[^\n\r]*$/, 'A title is one line.')
    .nullable(),
  description: string().max(TEXT_LIMIT, `A description has at most ${TEXT_LIMIT} characters.`).nullable(),
  notes: string().max(TEXT_LIMIT, `Notes have at most ${TEXT_LIMIT} characters.`).nullable(),
  verdict: string().oneOf(VERDICTS, 'A verdict is circled, hold or ng.').nullable(),
}).noUnknown('There is no such field to change.');

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
  set: fieldChangesSchema.default({}),
  addTags: array(tagSchema).max(100).default([]),
  removeTags: array(tagSchema).max(100).default([]),
}).noUnknown();

export type AssetEdit = InferType<typeof assetEditSchema>;
export type FieldChanges = InferType<typeof fieldChangesSchema>;
export const SETTABLE_FIELDS = [
  'title',
  'description',
  'notes',
  'verdict',
] as const satisfies readonly (keyof FieldChanges)[];
