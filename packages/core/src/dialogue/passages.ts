import { sentenceEnds } from './sentences';
import { speakerAt, type Spoken, type SpokenWord } from './transcript';

/** How long passages are: until somebody else speaks or a long silence; a whole thought; a sentence. Shorter ones lie within longer ones. */
export const PASSAGE_LENGTHS = ['talk', 'thought', 'sentence'] as const;
export type PassageLength = (typeof PASSAGE_LENGTHS)[number];

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
  /** The longest length at which a passage begins here too, by its place in `PASSAGE_LENGTHS`. */
  readonly level: number;
}

/** What cuts passages of a length; by judgement, no source. */
interface Measure {
  /** A pause of at least so long. */
  readonly pauseMs: number;
  /** The end of a sentence, after so many words: shorter sentences go together. */
  readonly sentenceWords: number;
  /** What has no end of its own is cut at the longest pause of its middle half. */
  readonly mostWords: number;
}
const MEASURES: Readonly<Record<PassageLength, Measure>> = {
  talk: { pauseMs: 2000, sentenceWords: Infinity, mostWords: 300 },
  thought: { pauseMs: 700, sentenceWords: 8, mostWords: 80 },
  sentence: { pauseMs: 400, sentenceWords: 1, mostWords: 40 },
};

type Piece = Pick<Passage, 'from' | 'to' | 'level'>;

/** Speech as passages of a length: cut where somebody else begins to speak, at pauses, and at the ends of sentences; never within a word. */
export function passagesOf({ words, speakers }: Spoken, length: PassageLength = 'thought'): Passage[] {
  if (words.length === 0) return [];
  const isEnd = sentenceEnds(words);
  const names = words.map(({ startMs }) => speakerAt(speakers, startMs));
  let pieces: readonly Piece[] = [{ from: 0, to: words.length, level: 0 }];
  for (let level = 0; level <= PASSAGE_LENGTHS.indexOf(length); level += 1) {
    const { mostWords, pauseMs, sentenceWords } = MEASURES[PASSAGE_LENGTHS[level] as PassageLength];
    const isCut = (at: number, count: number): boolean =>
      names[at] !== names[at + 1] ||
      pauseBefore(words, at + 1) >= pauseMs ||
      (isEnd[at] === 1 && count >= sentenceWords);
    pieces = pieces.flatMap((piece) =>
      cut(piece, level, isCut).flatMap((each) => shortened(words, each, level, mostWords)),
    );
  }
  return pieces.map(({ from, to, level }) => ({
    ...{ from, to, level, words: words.slice(from, to), speaker: names[from] as string },
    startMs: (words[from] as SpokenWord).startMs,
    endMs: (words[to - 1] as SpokenWord).endMs,
  }));
}

const pauseBefore = (words: readonly SpokenWord[], at: number): number =>
  (words[at] as SpokenWord).startMs - (words[at - 1] as SpokenWord).endMs;

/** Cuts a piece after each word that ends one; `isCut` is told how many words it would have. */
function cut(piece: Piece, level: number, isCut: (at: number, count: number) => boolean): Piece[] {
  const pieces: Piece[] = [];
  let begun = piece;
  for (let at = piece.from; at < piece.to - 1; at += 1) {
    if (!isCut(at, at + 1 - begun.from)) continue;
    pieces.push({ ...begun, to: at + 1 });
    begun = { from: at + 1, to: piece.to, level };
  }
  return [...pieces, begun];
}

function shortened(words: readonly SpokenWord[], piece: Piece, level: number, mostWords: number): readonly Piece[] {
  const { from, to } = piece;
  if (to - from <= mostWords) return [piece];
  // In the middle half, so that no few words are left by themselves, and of pauses that are alike the one nearest the middle.
  const quarter = Math.floor((to - from) / 4);
  const middle = (from + to) / 2;
  let best = from + quarter;
  for (let at = best; at <= to - quarter; at += 1) {
    const longer = pauseBefore(words, at) - pauseBefore(words, best);
    if (longer > 0 || (longer === 0 && Math.abs(at - middle) < Math.abs(best - middle))) best = at;
  }
  return [
    ...shortened(words, { ...piece, to: best }, level, mostWords),
    ...shortened(words, { ...piece, from: best, level }, level, mostWords),
  ];
}
