import { words } from '../fields';
import type { FieldTest, WholeTest, WordsTest } from './tree';

/** Tests of words, which all fields but those of numbers and places answer. */
export const isOfWords = (test: FieldTest): test is WordsTest | WholeTest =>
  test.op === 'text' || test.op === 'part' || test.op === 'whole';

/** What is said, folded: each thing between spaces of its own, ` low water  dawn `, so that no phrase goes over two. Empty if it has no words. */
export function wordedText(texts: readonly string[]): string {
  const folded = texts.map((text) => words(text).join(' ')).filter(Boolean);
  return folded.length > 0 ? ` ${folded.join('  ')} ` : '';
}

/** Whether what is said, as `wordedText` gives it, answers a test. */
export function answersTest(said: string, test: WordsTest | WholeTest): boolean {
  switch (test.op) {
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
