import { array, number, object, string, type InferType } from 'yup';
import { tagSchema, trimmed } from '../fields';
import { LETTERS } from './letters';

/** How the slips of a set are told apart without colour. */
export const PATTERNS = ['plain', 'stripes', 'bars', 'dots', 'grid', 'double'] as const;
export type Pattern = (typeof PATTERNS)[number];
export const PATTERN_LABELS: Readonly<Record<Pattern, string>> = {
  plain: 'Plain',
  stripes: 'Stripes',
  bars: 'Bars',
  dots: 'Dots',
  grid: 'Grid',
  double: 'Double line',
};

const letter = string()
  .oneOf(['', ...LETTERS], 'A letter is one of a to z or 0 to 9.')
  .default('');
const description = trimmed().max(300, 'The description has at most 300 characters.').default('');

export const tagSetSchema = object({
  name: trimmed()
    .max(60, 'The name of a set has at most 60 characters.')
    .matches(/^[^\n\r\t]*$/, 'The name of a set is one line.')
    .required('The set needs a name.'),
  description,
  /** Chosen by a person; empty for the one that its name gives it. */
  letter,
  pattern: string<Pattern>().oneOf(PATTERNS, 'That is no pattern.').default('plain'),
}).noUnknown();
export type TagSetChange = InferType<typeof tagSetSchema>;

export const tagChangeSchema = object({
  name: tagSchema,
  /** Null for a tag of no set. */
  setId: number().integer().positive().nullable().default(null),
  description,
  letter,
  /** Other words that are read as this tag. */
  synonyms: array(tagSchema).max(50, 'At most 50 other words.').default([]),
}).noUnknown();
export type TagChange = InferType<typeof tagChangeSchema>;
