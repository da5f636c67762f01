import { PHONES, readPhones, type Phones } from './phones';
import { spokenWords } from '../fields';

/** A word of a production that no recogniser knows: a name of somebody, of a place, of a thing. */
export interface CustomWord {
  readonly id: number;
  /** As it is written. */
  readonly text: string;
  /** How it is said, in the ways that it may be, each as the dictionary of Carnegie Mellon writes it: `AA T ER M AW TH`. */
  readonly says: readonly string[];
}

/** No word has more letters, or more sounds; what has is something else. */
export const LONGEST_WORD = 60;
export const MOST_WORD_SOUNDS = 40;
export const MOST_WAYS = 5;

/** How a word is known to a dictionary; null for what is none, or more than one. */
export function customKey(text: string): string | null {
  const [word, ...more] = spokenWords(text);
  return word === undefined || more.length > 0 || word.length > LONGEST_WORD ? null : word;
}

/** The sounds of a way to say a word; null where they are none, or too many. */
export function soundsOfWay(way: string): Phones | null {
  const sounds = readPhones(way.toUpperCase());
  return sounds && sounds.length <= MOST_WORD_SOUNDS ? sounds : null;
}

/** The sounds as `espeak-ng` writes those of American English (its `phsource`), by `PHONES`. */
const SPOKEN_AS: Readonly<Record<(typeof PHONES)[number], string>> = {
  ...{ AA: 'A:', AE: 'a', AH: 'V', AO: 'O:', AW: 'aU', AY: 'aI', EH: 'E', ER: '3:', EY: 'eI', IH: 'I', IY: 'i:' },
  ...{ OW: 'oU', OY: 'OI', UH: 'U', UW: 'u:', B: 'b', CH: 'tS', D: 'd', DH: 'D', F: 'f', G: 'g', HH: 'h', JH: 'dZ' },
  ...{ K: 'k', L: 'l', M: 'm', N: 'n', NG: 'N', P: 'p', R: 'r', S: 's', SH: 'S', T: 't', TH: 'T', V: 'v', W: 'w' },
  ...{ Y: 'j', Z: 'z', ZH: 'Z' },
};

/** Some sounds, to be spoken by a synthesiser. */
export const speakable = (sounds: Phones): string =>
  `[[${Array.from(sounds, (sound) => SPOKEN_AS[PHONES[sound] as (typeof PHONES)[number]]).join('|')}]]`;
