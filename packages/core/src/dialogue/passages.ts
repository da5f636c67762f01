import { speakerAt, type Spoken, type SpokenWord } from './transcript';

/** A stretch of speech that is a whole thought. */
export interface Passage {
  /** Empty where it is not known. */
  readonly speaker: string;
  /** The first and the one after the last of its words, among all. */
  readonly from: number;
  readonly to: number;
  readonly startMs: number;
  readonly endMs: number;
  readonly words: readonly SpokenWord[];
}

/** A pause of this length ends a thought; by judgement, no source. */
const PAUSE_MS = 700;
/** Sentences shorter than this go together. */
const LEAST_WORDS = 8;
/** A thought that has no end of its own is cut at the longest pause of its middle half. */
const MOST_WORDS = 80;

const ENDS = /[.!?…。！？]["'”’»)]*$/u;

/** Speech as passages: cut where somebody else begins to speak, at pauses, and at the ends of sentences; never within a word. */
export function passagesOf({ words, speakers }: Spoken): Passage[] {
  const cuts = [0];
  words.forEach((word, at) => {
    const next = words[at + 1];
    if (!next) return;
    const isLong = at + 1 - (cuts.at(-1) as number) >= LEAST_WORDS;
    if (
      speakerAt(speakers, word.startMs) !== speakerAt(speakers, next.startMs) ||
      next.startMs - word.endMs >= PAUSE_MS ||
      (isLong && ENDS.test(word.text))
    )
      cuts.push(at + 1);
  });
  if (words.length > 0) cuts.push(words.length);
  return cuts
    .slice(1)
    .flatMap((to, at) => shortened(words, cuts[at] as number, to))
    .map(([from, to]) => {
      const [{ startMs }, { endMs }] = [words[from] as SpokenWord, words[to - 1] as SpokenWord];
      return { from, to, startMs, endMs, words: words.slice(from, to), speaker: speakerAt(speakers, startMs) };
    });
}

function shortened(words: readonly SpokenWord[], from: number, to: number): (readonly [number, number])[] {
  if (to - from <= MOST_WORDS) return [[from, to]];
  // In the middle half, so that no few words are left by themselves, and of pauses that are alike the one nearest the middle.
  const quarter = Math.floor((to - from) / 4);
  const middle = (from + to) / 2;
  const pauseBefore = (at: number) => (words[at] as SpokenWord).startMs - (words[at - 1] as SpokenWord).endMs;
  let best = from + quarter;
  for (let at = best; at <= to - quarter; at += 1) {
    const longer = pauseBefore(at) - pauseBefore(best);
    if (longer > 0 || (longer === 0 && Math.abs(at - middle) < Math.abs(best - middle))) best = at;
  }
  return [...shortened(words, from, best), ...shortened(words, best, to)];
}
