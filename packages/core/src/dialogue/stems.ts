import { eng } from 'stopword';
import { stemOf } from '../query';
import { Names } from './names';

/** Said while thinking, and to keep a talk going: it says nothing of what is talked about. Common practice, no source. */
const FILLERS =
  'ah er going gonna had just know kind let like lot mean oh okay ok one really right say see so something sort than thing think uh um want yeah yes no not';
const SHORTEST = 3;
/** One sign of these is a word, or most of one. */
const SIGNS = /[\p{Script=Han}\p{Script=Hiragana}\p{Script=Katakana}\p{Script=Hangul}]/u;

/** The stems of words, by number: what is said in another form is the same. */
export class Stems {
  private readonly names = new Names();
  private readonly ofWord: Uint32Array;
  private readonly empty: Uint8Array;

  /** @param words the words of a vocabulary, by number */
  constructor(words: readonly string[]) {
    this.ofWord = Uint32Array.from(words, (word) => this.names.add(stemmed(word)));
    const common = new Set([...eng, ...FILLERS.split(' ')].map((word) => stemmed(word)));
    this.empty = Uint8Array.from(this.names.all(), (stem) => (common.has(stem) || isEmpty(stem) ? 1 : 0));
  }

  get size(): number {
    return this.empty.length;
  }

  of(word: number): number {
    return this.ofWord[word] as number;
  }

  /** Whether it says nothing by itself: “the”, “it”, numbers. */
  saysNothing(stem: number): boolean {
    return this.empty[stem] === 1;
  }

  /** The stems of some words; null if one of them is said nowhere. */
  find(words: readonly string[]): readonly number[] | null {
    const stems = words.flatMap((word) => this.names.find(stemmed(word)) ?? []);
    return stems.length === words.length ? stems : null;
  }
}

const NEGATED = /n't$/;

/** “The lock's” is about the lock; but “won't” is not about what was won. */
const stemmed = (word: string): string => (NEGATED.test(word) ? word : stemOf(word.split("'")[0] as string));

const isEmpty = (stem: string): boolean =>
  NEGATED.test(stem) || /^\p{N}*$/u.test(stem) || (stem.length < SHORTEST && !SIGNS.test(stem));
