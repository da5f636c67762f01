import { eng } from 'stopword';
import { stemOf } from '../query';
import { Names } from './names';
import type { SpokenIndex } from './spoken-index';

/** Said while thinking, and to keep a talk going: it says nothing of what is talked about. Common practice, no source. */
const FILLERS =
  'ah er could may might must shall will would going gonna had just know kind let like lot mean oh okay ok one really right say see so something sort than thing think uh um want yeah yes no not';
const SHORTEST = 3;
/** One sign of these is a word, or most of one. */
const SIGNS = /[\p{Script=Han}\p{Script=Hiragana}\p{Script=Katakana}\p{Script=Hangul}]/u;

/** The stems of words, by number: what is said in another form is the same. It only ever grows, as a vocabulary does. */
export class Stems {
  private readonly names = new Names();
  private readonly ofWord: number[] = [];
  private readonly ofStem: number[][] = [];
  private readonly empty: boolean[] = [];
  /** @param words the words of a vocabulary, by number: those that were taken before, and what came since */
  grow(words: readonly string[]): void {
    for (let word = this.ofWord.length; word < words.length; word += 1) {
      const stem = stemmed(words[word] as string);
      const id = this.names.add(stem);
      this.ofWord.push(id);
      (this.ofStem[id] ??= []).push(word);
      this.empty[id] ??= isCommon(stem);
    }
  }

  get size(): number {
    return this.empty.length;
  }

  of(word: number): number {
    return this.ofWord[word] as number;
  }

  /** The words that have a stem, by their numbers. */
  wordsOf(stem: number): readonly number[] {
    return this.ofStem[stem] as number[];
  }

  /** Whether it says nothing by itself: “the”, “it”, numbers. */
  saysNothing(stem: number): boolean {
    return this.empty[stem] as boolean;
  }

  /** The stems of some words; null if one of them is said nowhere. */
  find(words: readonly string[]): readonly number[] | null {
    const stems = words.flatMap((word) => this.names.find(stemmed(word)) ?? []);
    return stems.length === words.length ? stems : null;
  }
}

/** Those of an index are kept: to find all of them takes a moment. */
const known = new WeakMap<SpokenIndex, Stems>();
export function stemsIn(index: SpokenIndex): Stems {
  let stems = known.get(index);
  if (!stems) known.set(index, (stems = new Stems()));
  stems.grow(index.words);
  return stems;
}

const NEGATED = /n't$/;

/** “The lock's” is about the lock; but “won't” is not about what was won. */
const stemmed = (word: string): string => (NEGATED.test(word) ? word : stemOf(word.split("'")[0] as string));

const common = new Set([...eng, ...FILLERS.split(' ')].map((word) => stemmed(word)));
const isCommon = (stem: string): boolean => common.has(stem) || isEmpty(stem);
/** As `Stems.saysNothing`, of any word. */
export const saysNothing = (word: string): boolean => isCommon(stemmed(word));

const isEmpty = (stem: string): boolean =>
  NEGATED.test(stem) || /^\p{N}*$/u.test(stem) || (stem.length < SHORTEST && !SIGNS.test(stem));
