import { fold, words, type FieldType } from '../fields';

/** Folded, and each run of digits led by how many it has, so that `A2` comes before `A10`. */
export const sortKey = (text: string): string => counted(fold(text));

const counted = (folded: string): string =>
  DIGIT.test(folded) ? folded.replace(RUN, (_run, digits: string) => lengthMark(digits.length) + digits) : folded;
const DIGIT = /\d/;
/** Noughts before a number do not count, unless it is nothing else. */
const RUN = /0*(\d+?)(?!\d)/g;
/** `1` and what follows it in Unicode, all before letters; longer numbers than there are such signs are of one length. */
const lengthMark = (digits: number): string => String.fromCharCode(48 + Math.min(digits, 15));

/**
 * Where a thing said stands among all that is said in its field: in the order of its words, numbers by their value. Equal keys mean
 * the same words, which no search tells apart. A text of nothing but signs, and a position, stands as it is written.
 */
export function valueKey(text: string, type?: FieldType): string {
  const said = type === 'position' ? '' : words(text).join(' ');
  const clean = said === '' ? fold(text) : said;
  // Numbers with and without noughts before them stand at one place and are not the same words.
  return `${counted(clean)}\u0000${clean}`;
}
