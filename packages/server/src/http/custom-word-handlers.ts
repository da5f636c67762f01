import { suggestedWords } from '../media/suggested-words';
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
      const { known, left, words } = await suggestedWords(body.names);
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
