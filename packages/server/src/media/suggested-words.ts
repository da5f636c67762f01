import { customKey, MOST_WAYS, phonesText, writtenWords, type CustomWord } from '@larder/core/dialogue';
import { Pronunciations } from './pronunciations';
import { POCKETSPHINX } from './recogniser';

/** With whatever marks stand on its letters. */
const LONGEST_WRITTEN = 120;

/** The words of names that the recogniser does not know, each with how it may be said; those that it does, and those that nobody can say. */
export async function suggestedWords(names: string): Promise<{
  readonly words: readonly Pick<CustomWord, 'text' | 'says'>[];
  readonly known: readonly string[];
  readonly left: readonly string[];
}> {
  const written = new Map<string, string>();
  const left: string[] = [];
  for (const text of writtenWords(names)) {
    const key = customKey(text);
    if (key === null || !/\p{L}/u.test(key) || text.length > LONGEST_WRITTEN) left.push(text);
    else if (!written.has(key)) written.set(key, text);
  }
  const [heard, pronunciations] = await Promise.all([POCKETSPHINX.knows(), Pronunciations.read()]);
  const known = [...written].filter(([key]) => heard.has(key)).map(([, text]) => text);
  const unknown = [...written].filter(([key]) => !heard.has(key));
  await pronunciations.learn(unknown.map(([key]) => key));
  const words = unknown.map(([key, text]) => ({
    text,
    says: pronunciations.ways(key).slice(0, MOST_WAYS).map(phonesText),
  }));
  return {
    words: words.filter(({ says }) => says.length > 0),
    known,
    left: [...left, ...words.filter(({ says }) => says.length === 0).map(({ text }) => text)],
  };
}
