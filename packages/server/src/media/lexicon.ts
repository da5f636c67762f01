import { readFile } from 'node:fs/promises';
import { join } from 'node:path';
import { WORD_CLASSES, WordNet, type WordClass, type WordNetFiles } from '@larder/core/dialogue';
import { refused } from '../store/errors';

/** Where Debian's `wordnet-base` puts the files. */
export const WORDNET_HOME = '/usr/share/wordnet';

const read = new Map<string, Promise<WordNet>>();

/** The lexical database: read once, when it is first asked for, and kept (28 MB). Refused where it is not installed. */
export function lexicon(home = WORDNET_HOME): Promise<WordNet> {
  let known = read.get(home);
  if (!known) {
    read.set(home, (known = readFiles(home)));
    // It may have been installed by then.
    known.catch(() => read.delete(home));
  }
  return known;
}

async function readFiles(home: string): Promise<WordNet> {
  const filesOf = async (of: WordClass): Promise<readonly [WordClass, WordNetFiles]> => {
    const [index, data, exceptions] = await Promise.all(
      [`index.${of}`, `data.${of}`, `${of}.exc`].map((name) => readFile(join(home, name))),
    );
    return [of, { index, data, exceptions } as WordNetFiles];
  };
  try {
    const files = await Promise.all(WORD_CLASSES.map(filesOf));
    return new WordNet(Object.fromEntries(files) as Record<WordClass, WordNetFiles>);
  } catch (error) {
    const { code } = error as NodeJS.ErrnoException;
    if (code !== 'ENOENT') throw error;
    throw refused(`Related words come from WordNet, which is not in ${home}. Install Debian’s package wordnet-base.`);
  }
}
