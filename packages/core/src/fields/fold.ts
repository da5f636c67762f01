/**
 * Case, accents and width folded together, so that `Écluse`, `ecluse` and `ＥＣＬＵＳＥ` are one word, and `Straße` and `STRASSE`, as in
 * the full case folding of the Unicode standard. The marks of voiced kana stay: が is another letter than か, not the same with an
 * accent.
 */
export const fold = (text: string): string =>
  // Most words need no more than this, and every word of the library goes through here.
  PLAIN.test(text)
    ? text.toLowerCase()
    : text
        .normalize('NFKD')
        .replace(/[^\P{M}\u3099\u309A]+/gu, '')
        .normalize('NFC')
        // Several small letters may have one capital, as the two sigmas do, and some capitals are two letters.
        .toLowerCase()
        .toUpperCase()
        .toLowerCase()
        .replaceAll('ς', 'σ');

// eslint-disable-next-line no-control-regex -- ASCII has control characters too
const PLAIN = /^[\u0000-\u007f]*$/;

/** Letters of scripts that put no gaps between words, and the signs that lengthen or repeat them. */
export const UNGAPPED = /[\p{Script=Han}\p{Script=Hiragana}\p{Script=Katakana}ー\u3031-\u3035]/u;
const UNGAPPED_OR_WORD = new RegExp(`${UNGAPPED.source}|(?:(?!${UNGAPPED.source})[\\p{L}\\p{N}])+`, 'gu');

/**
 * The words of a text, folded: runs of letters and digits. Chinese and Japanese signs are a word each, so that any part of what is
 * written with them is found as words next to each other.
 */
export function words(text: string): string[] {
  const folded = fold(text);
  return folded.match(UNGAPPED.test(folded) ? UNGAPPED_OR_WORD : /[\p{L}\p{N}]+/gu) ?? [];
}

/** Words as they are looked up in a dictionary: folded, and with the apostrophes within them. */
const SPOKEN = /[\p{L}\p{N}]+(?:'[\p{L}\p{N}]+)*/gu;

/** The words of something that is said, or looked for in what is said. */
export const spokenWords = (text: string): string[] => fold(text.replace(/[’ʼ]/g, "'")).match(SPOKEN) ?? [];
