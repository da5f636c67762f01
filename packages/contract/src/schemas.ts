import { trimmed } from '@larder/core/fields';
import { number } from 'yup';

/** Parts that many requests are made of. */
export const id = number().integer().positive();
export const LONGEST_NAME = 120;
/** Where something has a name anyhow. */
export const nameIfAny = trimmed()
  .max(LONGEST_NAME, `A name has at most ${LONGEST_NAME} characters.`)
  .matches(/^[^\n\r\t]*$/, 'A name is one line.')
  .default('');
export const name = nameIfAny.required('A name is needed.').default(undefined);
