import type { SpokenWord } from './transcript';

/** No line is longer, and no sound of a few seconds has more words. */
const [LONGEST_LINE, MOST_WORDS] = [1000, 20_000] as const;

export type CtmIssue = { readonly code: 'line' | 'too-many'; readonly line: number };

export const wordCtmIssue = ({ code, line }: CtmIssue): string =>
  code === 'line'
    ? `Line ${line} is not “sound channel start duration word”.`
    : `There are too many words at line ${line}.`;

/**
 * Reads words with times as NIST's scoring programs do (CTM, time-marked conversation; from memory): on each line a sound, a channel,
 * when the word begins and how long it is, in seconds, the word, and perhaps how sure it is. Lines that begin with `;;` are remarks; of
 * words between `<ALT_BEGIN>` and `<ALT_END>` the first choice is taken.
 * @param startMs where the sound begins within the whole
 */
export function readCtm(
  text: string,
  startMs: number,
): { readonly words: readonly SpokenWord[]; readonly issues: readonly CtmIssue[] } {
  const words: SpokenWord[] = [];
  const issues: CtmIssue[] = [];
  let isOther = false;
  for (const [at, line] of text.split('\n').entries()) {
    const written = line.slice(0, LONGEST_LINE).trim();
    if (written === '' || written.startsWith(';;')) continue;
    const [, , begin = '', long = '', word = '', sure] = written.split(/\s+/);
    if (/^<ALT(_BEGIN|_END)?>$/i.test(word)) {
      isOther = /^<ALT>$/i.test(word);
      continue;
    }
    if (isOther) continue;
    const [from, duration] = [Number(begin), Number(long)];
    if (word === '' || !isSeconds(from) || !isSeconds(duration)) issues.push({ code: 'line', line: at + 1 });
    else if (words.length >= MOST_WORDS) return { words, issues: [...issues, { code: 'too-many', line: at + 1 }] };
    else
      words.push({
        text: word,
        startMs: startMs + Math.round(from * 1000),
        endMs: startMs + Math.round((from + duration) * 1000),
        certainty: sure === undefined ? UNSAID : certaintyOf(Number(sure)),
      });
  }
  return { words: words.sort((a, b) => a.startMs - b.startMs), issues };
}

/** A day at most. */
const isSeconds = (value: number): boolean => value >= 0 && value <= 86_400;

/** Of a word of which nobody says how sure it is: a recogniser is never quite as sure as a person. */
const UNSAID = 0.5;
const certaintyOf = (sure: number): number => (Number.isFinite(sure) ? Math.min(1, Math.max(0, sure)) : UNSAID);

/** Writes words of a sound so that they are read as the same again. */
export const writeCtm = (sound: string, words: readonly SpokenWord[], startMs: number): string =>
  words
    .map(({ certainty, endMs, startMs: begins, text }) => {
      const seconds = (ms: number) => (ms / 1000).toFixed(3);
      const sure = (certainty ?? 1).toFixed(4);
      return `${sound} 1 ${seconds(begins - startMs)} ${seconds(endMs - begins)} ${text.replace(/\s+/g, '')} ${sure}\n`;
    })
    .join('');
