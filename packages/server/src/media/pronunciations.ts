import { readFile } from 'node:fs/promises';
import {
  customKey,
  Dictionary,
  phonesOfIpa,
  soundsOfWay,
  type CustomWord,
  type Phones,
  type Pronouncer,
} from '@larder/core/dialogue';
import { LRUCache } from 'lru-cache';
import { MODEL_DICTIONARY } from './recogniser';
import { run } from './run';

const TIMEOUT_MS = 60_000;
const AT_ONCE = 200;
/** No word that is said has more letters; what has is something else. */
const LONGEST = 60;
const KEPT = 100_000;

/**
 * How words are said: by the dictionary of the recogniser, and where that has none, by rules of how letters are spoken. What those say is
 * asked for beforehand, with `learn`.
 */
export class Pronunciations implements Pronouncer {
  private readonly learnt = new LRUCache<string, readonly Phones[]>({ max: KEPT });

  private custom: ReadonlyMap<string, readonly Phones[]> = new Map();

  private constructor(private readonly dictionary: Dictionary) {}

  /** Without a dictionary every word is said by rule. */
  static async read(path = MODEL_DICTIONARY): Promise<Pronunciations> {
    return new Pronunciations(new Dictionary(await readFile(path, 'utf8').catch(() => '')));
  }

  /** Takes other words of the production than before: as somebody says that they are said, before all else. */
  setCustom(words: readonly CustomWord[]): void {
    this.custom = new Map(
      words.map(({ says, text }) => [customKey(text) ?? '', says.flatMap((way) => soundsOfWay(way) ?? [])]),
    );
  }

  ways(word: string): readonly Phones[] {
    const custom = this.custom.get(word);
    if (custom && custom.length > 0) return custom;
    const known = this.dictionary.ways(word);
    return known.length > 0 ? known : (this.learnt.get(word) ?? []);
  }

  isHeard(word: string): boolean {
    return this.dictionary.isHeard(word);
  }

  /** Finds out how words are said; where that fails they are found as they are spelled. */
  async learn(words: Iterable<string>): Promise<void> {
    const unknown = [...new Set(words)].filter(
      (word) => word.length <= LONGEST && !this.dictionary.isHeard(word) && !this.learnt.has(word),
    );
    for (let start = 0; start < unknown.length; start += AT_ONCE) {
      const some = unknown.slice(start, start + AT_ONCE);
      const said = await byRule(some);
      some.forEach((word, at) => this.learnt.set(word, said[at]?.length ? [said[at]] : []));
    }
  }
}

const NOT_KNOWN: Phones = new Uint8Array(0);

/** How words are spoken by their letters, each: nothing for those of which that is not told. */
async function byRule(words: readonly string[]): Promise<readonly Phones[]> {
  // A gap between paragraphs keeps them apart; the words are letters, digits and apostrophes.
  const asked = run('espeak-ng', ['-q', '--ipa', '-v', 'en-us', words.join('\n\n')], { timeoutMs: TIMEOUT_MS });
  const said = await asked.then(String, () => null);
  if (said === null) return words.map(() => NOT_KNOWN);
  const lines = said.trim().split('\n');
  if (lines.length === words.length) return lines.map(phonesOfIpa);
  // One of them is not told of, or in two lines: it is found among ever fewer.
  if (words.length === 1) return [NOT_KNOWN];
  const half = words.length >> 1;
  return [...(await byRule(words.slice(0, half))), ...(await byRule(words.slice(half)))];
}
