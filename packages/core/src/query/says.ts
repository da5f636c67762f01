import { words } from '../fields';
import { stemOf, stemsOf } from './forms';
import type { FieldTest, WholeTest, WordsTest } from './tree';

/** Tests of words, which all fields but those of numbers and places answer. */
export const isOfWords = (test: FieldTest): test is WordsTest | WholeTest =>
  test.op === 'forms' || test.op === 'text' || test.op === 'part' || test.op === 'whole';

/** What is said, folded: each thing between spaces of its own, ` low water  dawn `, so that no phrase goes over two. Empty if it has no words. */
export function wordedText(texts: readonly string[]): string {
  const folded = texts.map((text) => words(text).join(' ')).filter(Boolean);
  return folded.length > 0 ? ` ${folded.join('  ')} ` : '';
}

/** Whether what is said, as `wordedText` gives it, answers a test. */
export function answersTest(said: string, test: WordsTest | WholeTest): boolean {
  switch (test.op) {
    case 'forms':
      return saysForms(said.split(' '), test.text.split(' ').map(stemsOf));
    case 'text':
      return said.includes(test.prefix ? ` ${test.text}` : ` ${test.text} `);
    case 'part':
      return said.includes(test.ends ? `${test.text} ` : test.text);
    case 'whole':
      return ` ${said} `.includes(`  ${test.text}  `);
    default:
      return test satisfies never;
  }
}

/** Whether words stand somewhere that are forms of some, in order. */
function saysForms(said: readonly string[], wanted: readonly (readonly string[])[]): boolean {
  const stems = said.map(stemOf);
  return stems.some((_stem, from) => wanted.every((some, n) => some.includes(stems[from + n] ?? '')));
}

/**
 * What is asked of a field that has a list: one of that is meant as a whole without being asked to be, as `medium` is not
 * `medium wide`.
 */
export const askedOf = (
  field: { readonly choices?: readonly string[] | undefined } | undefined,
  test: WordsTest | WholeTest,
): WordsTest | WholeTest =>
  field?.choices && (test.op === 'forms' || (test.op === 'text' && !test.prefix))
    ? { op: 'whole', text: test.text }
    : test;
