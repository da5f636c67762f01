import { fold } from '../fields';

/** Folded, with runs of digits padded so that `A2` comes before `A10`. */
export const sortKey = (text: string): string => fold(text).replace(/\d+/g, (digits) => digits.padStart(12, '0'));
