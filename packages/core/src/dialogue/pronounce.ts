import { fold } from '../fields';
import { readPhones, type Phones } from './phones';

/** How words are said; several ways for some, none for what is not known. */
export interface Pronouncer {
  ways(word: string): readonly Phones[];
  /** Whether a recogniser can hear it as a word of its own. */
  isHeard(word: string): boolean;
}

/** The words of a text as they are written there. */
export const writtenWords = (text: string): string[] =>
  text.match(/[\p{L}\p{M}\p{N}]+(?:['’ʼ][\p{L}\p{M}\p{N}]+)*/gu) ?? [];

/** A pronouncing dictionary in the form of the CMU Pronouncing Dictionary: `word PH ON EH Z` a line, `word(2)` another way to say it. */
export class Dictionary implements Pronouncer {
  /** Phones as text, which takes a fraction of as many arrays. */
  private readonly lines = new Map<string, string>();

  /** Lines that are none are passed over. */
  constructor(text: string) {
    for (const line of text.split('\n')) {
      const gap = line.indexOf(' ');
      if (gap <= 0 || line.startsWith(';;;')) continue;
      const word = fold(line.slice(0, gap)).replace(/\(\d+\)$/, '');
      const phones = line.slice(gap + 1);
      const before = this.lines.get(word);
      this.lines.set(word, before === undefined ? phones : `${before}/${phones}`);
    }
  }

  isHeard(word: string): boolean {
    return this.lines.has(word);
  }

  ways(word: string): readonly Phones[] {
    const lines = this.lines.get(word);
    return lines === undefined ? [] : lines.split('/').flatMap((line) => readPhones(line) ?? []);
  }
}
