import { customKey, MOST_WAYS, phonesText, writtenWords, type CustomWord } from '@larder/core/dialogue';
import { Pronunciations } from '../media/pronunciations';
import { POCKETSPHINX } from '../media/recogniser';
import { addCustomWords, changeCustomWord, customWords, removeCustomWord } from '../store/custom-words';
import type { Services } from './handlers';
import { signedIn, type Handlers } from './router';

/** The words of a production, and how they are said. */
export function customWordHandlers(
  { db }: Services,
  told: <T>(work: Promise<T>) => Promise<T>,
): Pick<Handlers, 'customWords' | 'newCustomWords' | 'changeCustomWord' | 'removeCustomWord'> {
  return {
    customWords: async () => ({ words: await customWords(db) }),
    newCustomWords: async ({ body, person }) => {
      const { known, left, words } = await suggested(body.names);
      return { added: await told(addCustomWords(db, signedIn(person).id, words)), known, left };
    },
    changeCustomWord: async ({ body, id, person }) => {
      const says = body.says.map((way) => way.toUpperCase().split(/ +/).join(' '));
      await told(changeCustomWord(db, signedIn(person).id, id, says));
      return null;
    },
    removeCustomWord: async ({ id, person }) => {
      await told(removeCustomWord(db, signedIn(person).id, id));
      return null;
    },
  };
}

/** The words of names that the recogniser does not know, each with how it may be said; those that it does, and those that nobody can say. */
async function suggested(names: string): Promise<{
  readonly words: readonly Pick<CustomWord, 'text' | 'says'>[];
  readonly known: readonly string[];
  readonly left: readonly string[];
}> {
  const written = new Map<string, string>();
  const left: string[] = [];
  for (const text of writtenWords(names)) {
    const key = customKey(text);
    if (key === null || !/\p{L}/u.test(key)) left.push(text);
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
