import pluralize from 'pluralize';
import { stem } from 'porter2';
import { KEYWORDS } from './lex';

// Taken for the plural of a word otherwise; and no other is said more often of footage.
pluralize.addIrregularRule('lens', 'lenses');

/** English words: shorter ones and what has digits or other signs in it have no forms but themselves. */
const LETTERS = /^[a-z]{3,}$/;

/** What would join others without quotes has none, so that it is written in them. */
const isFormed = (word: string): boolean => LETTERS.test(word) && !KEYWORDS.has(word);

/** Whether any of some folded words has other forms. */
export const hasForms = (text: string): boolean => text.split(' ').some(isFormed);

/** What all simple forms of a folded word have in common (the English stemmer of the Snowball project, as of Debian's `snowball-data`). */
export const stemOf = (word: string): string => (isFormed(word) ? stem(word) : word);

/** What a word is one of the forms of: its own stem, and where it is made otherwise those of its plural and singular (`women`, `mice`). */
export const stemsOf = (word: string): readonly string[] =>
  isFormed(word)
    ? [...new Set([word, pluralize.plural(word), pluralize.singular(word)].map((form) => stemOf(form)))]
    : [word];

/** All words with a stem begin so, but for `IRREGULAR`: stemming changes nothing before the last letter that it leaves. */
export const beginningOf = (stem: string): string => stem.slice(0, Math.max(1, stem.length - 1));

export const IRREGULAR: readonly string[] = ['dying', 'lying', 'tying'];
