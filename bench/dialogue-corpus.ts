import { readFileSync } from 'node:fs';
import { Dictionary, PHONES, writeSounds, type SpokenDocument, type SpokenWord } from '@larder/core/dialogue';
import { random } from './search-corpus';

const DICTIONARY = '/usr/share/pocketsphinx/model/en-us/cmudict-en-us.dict';
export const dictionary = new Dictionary(readFileSync(DICTIONARY, 'utf8'));

const VOCABULARY = 60_000;
export const WORDS_A_FILE = 600;
/** As lattices of recorded speech have them here. */
const OTHERS_A_WORD = 1.5;
/** So many phones are heard as others, and so many are heard with each word, as of spoken sentences here. */
const WRONG_PHONES = 0.34;
const PHONES_A_WORD = 3.51;

/** Words of the dictionary in an order of no meaning, the commonest first. */
const vocabulary = ((): readonly string[] => {
  const next = random(7);
  return [
    ...new Set(
      readFileSync(DICTIONARY, 'utf8')
        .split('\n')
        .map((line) => line.slice(0, line.indexOf(' ')))
        .filter((word) => /^[a-z]{2,}$/.test(word)),
    ),
  ]
    .map((word) => ({ word, at: next() }))
    .sort((a, b) => a.at - b.at)
    .slice(0, VOCABULARY)
    .map(({ word }) => word);
})();

/** By Zipf's law: the nth word is said 1/n as often as the first. */
export const someWord = (next: () => number): string =>
  vocabulary[Math.floor(Math.exp(next() * Math.log(VOCABULARY + 1))) - 1] as string;

/** What people look for is seldom one of the commonest words, which say nothing by themselves. */
const COMMONEST = 300;
export function content(next: () => number): string {
  for (;;) {
    const rank = Math.floor(Math.exp(next() * Math.log(VOCABULARY + 1))) - 1;
    if (rank >= COMMONEST) return vocabulary[rank] as string;
  }
}

/** Words of no meaning are longer than those that people say: of their phones only so large a share is heard. */
const heardShare = ((): number => {
  const next = random(9);
  const lengths = Array.from({ length: 5000 }, () => dictionary.ways(someWord(next))[0]?.length ?? 0);
  return Math.min(1, PHONES_A_WORD / (lengths.reduce((sum, length) => sum + length, 0) / lengths.length));
})();

/** The phones of a word, some of them heard as others. */
function soundsOf(word: string, next: () => number): string {
  const [phones = []] = dictionary.ways(word);
  const heard = [...phones].filter(() => next() < heardShare);
  return writeSounds(
    Uint8Array.from(heard, (phone) => (next() < WRONG_PHONES ? Math.floor(next() * PHONES.length) : phone)),
  );
}

export function spokenFile(id: number): SpokenDocument {
  const next = random(id);
  const words: SpokenWord[] = [];
  for (let at = 0, ms = 0; at < WORDS_A_FILE; at += 1) {
    const others = Array.from({ length: Math.floor(next() * (2 * OTHERS_A_WORD + 1)) }, () => ({
      text: someWord(next),
      certainty: next() * 0.4,
    }));
    const text = someWord(next);
    words.push({
      text,
      startMs: ms,
      endMs: ms + 250,
      certainty: 0.3 + 0.7 * next(),
      others,
      sounds: soundsOf(text, next),
    });
    ms += 300 + (at % 12 === 0 ? 800 : 0);
  }
  return { id, wholeId: 0, spoken: { words, speakers: [] } };
}
