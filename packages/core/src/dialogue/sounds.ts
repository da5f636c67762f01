import { PHONES, readPhones, type Phones } from './phones';
import type { HeardSegment } from './lattice';
import type { SpokenWord } from './transcript';

/** Each phone is one letter, from this one on by its place in `PHONES`: none of them has to be escaped in JSON. */
const FIRST_LETTER = '0'.charCodeAt(0);

/** Phones as one letter each, as they are kept with words. */
export const writeSounds = (phones: Phones): string =>
  String.fromCharCode(...phones.map((phone) => FIRST_LETTER + phone));

/** Adds the phones of a word to others, so many at most; letters that are no phones are passed over. */
export function addSounds(text: string, phones: number[], most: number): void {
  const end = phones.length + most;
  for (let at = 0; at < text.length && phones.length < end; at += 1) {
    const place = text.charCodeAt(at) - FIRST_LETTER;
    if (place >= 0 && place < PHONES.length) phones.push(place);
  }
}

export function readSounds(text: string): Phones {
  const phones: number[] = [];
  addSounds(text, phones, Infinity);
  return Uint8Array.from(phones);
}

/**
 * Gives each word the phones that were heard while it was said, whatever words they make: those whose middle lies before the next word
 * begins. What is heard before the first word is the first's.
 * @param segments phones in seconds, ascending; what is none is passed over
 * @param fromMs where in the sound the seconds begin
 */
export function withSounds(
  words: readonly SpokenWord[],
  segments: readonly HeardSegment[],
  fromMs: number,
): SpokenWord[] {
  let next = 0;
  return words.map((word, at) => {
    const untilMs = words[at + 1]?.startMs ?? Infinity;
    let sounds = '';
    for (; next < segments.length; next += 1) {
      const { from, text, to } = segments[next] as HeardSegment;
      if (fromMs + ((from + to) / 2) * 1000 >= untilMs) break;
      const phones = readPhones(text);
      if (phones) sounds += writeSounds(phones);
    }
    return sounds === '' ? word : { ...word, sounds };
  });
}
