import type { SpokenWord } from './transcript';

/** The rules of Unicode Standard Annex #29 for the ends of sentences. */
const SENTENCES = new Intl.Segmenter('en', { granularity: 'sentence' });
const MAY_END = /\p{Sentence_Terminal}/u;
/** Whether a stop ends a sentence is told by what comes after it: by the next word that begins with a letter. */
const AHEAD = 6;
/** Of a word so much tells: what is longer is none. */
const LETTERS = 100;

/**
 * After which words a sentence ends: 1 for each that it does. Words are told apart by single spaces. Each is looked at with those right
 * after it, as going through a long text as a whole takes as long as its length squared.
 */
export function sentenceEnds(words: readonly Pick<SpokenWord, 'text'>[]): Uint8Array {
  return Uint8Array.from(words, ({ text }, at) => {
    if (!MAY_END.test(text)) return 0;
    if (at === words.length - 1) return 1;
    const said = text.slice(-LETTERS);
    let ahead = said;
    for (let next = at + 1; next < words.length && next <= at + AHEAD; next += 1)
      ahead += ` ${(words[next] as SpokenWord).text.slice(0, LETTERS)}`;
    return SENTENCES.segment(ahead).containing(said.length + 1)?.index === said.length + 1 ? 1 : 0;
  });
}
