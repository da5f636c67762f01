/** So many words of a sound are kept. */
const WORDS = 32;
/** Below this there is no telling one sound from another: each word of Chromaprint is of 2.6 s. */
const LEAST_WORDS = 6;

/**
 * Of all words that Chromaprint makes of a sound (L. Lalinský; after Y. Ke, D. Hoiem and R. Sukthankar, “Computer vision for music
 * identification”, 2005), those at evenly spread moments; null where it is too short.
 */
export function spreadWords(words: Uint32Array): Uint32Array | null {
  if (words.length < LEAST_WORDS) return null;
  return Uint32Array.from(
    { length: WORDS },
    (_word, at) => words[Math.floor(((at + 0.5) * words.length) / WORDS)] as number,
  );
}
