import { trimmed } from '@larder/core/fields';
import { number } from 'yup';

/** Parts that many requests are made of. */
export const id = number().integer().positive();
export const name = trimmed()
  .max(120, 'A name has at most 120 characters.')
  .matches(/^[^\n\r\t]*$/, 'A name is one line.')
  .required('A name is needed.');
