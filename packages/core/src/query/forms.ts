import { LRUCache } from 'lru-cache';
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

/** The same words are asked for again and again, of every part of the index. */
const KEPT = 5000;
const known = new LRUCache<string, readonly string[]>({ max: KEPT });

/** What a word is one of the forms of: its own stem, and where it is made otherwise those of its plural and singular (`women`, `mice`). */
export function stemsOf(word: string): readonly string[] {
  if (!isFormed(word)) return [word];
  let stems = known.get(word);
  if (!stems) {
    stems = [...new Set([word, pluralize.plural(word), pluralize.singular(word)].map((form) => stemOf(form)))];
    known.set(word, stems);
  }
  return stems;
}

/** All words with a stem begin so, but for `IRREGULAR`: stemming changes nothing before the last letter that it leaves. */
export const beginningOf = (stem: string): string => stem.slice(0, Math.max(1, stem.length - 1));

export const IRREGULAR: readonly string[] = ['dying', 'lying', 'tying'];
const irregularStems = new Map(IRREGULAR.map((word) => [stemOf(word), word]));
export const irregularOf = (stem: string): string | undefined => irregularStems.get(stem);

/** No word is longer than its stem by more letters: none of Snowball's published vocabulary is by more than ten. */
export const LONGEST_ENDING = 16;
