import { distance, spokenWords } from '../fields';
import type { WrittenTurn } from './read-text';
import type { SpeakerFrom, Spoken, SpokenWord } from './transcript';

/**
 * A text without times gets them from what a recogniser heard of the same sound. Runs of words that stand once in either, and in the
 * same order, hold the two together, as in a patience difference; between them the words are aligned one by one, as likely as they are alike
 * in their letters.
 */

/** So many words in a row hold the two together, where they stand only once. */
const ANCHOR = 3;
/** So many pairs of words are compared in all: an hour that was heard badly has a tenth. What is left shares the time. */
const MOST_PAIRS = 1_000_000;
/** What a word costs that has no other, and the most for two that stand for each other; both in parts of a word. */
const [ALONE, DIFFERENT] = [1, 1.6] as const;

interface Word {
  readonly text: string;
  readonly key: string;
  readonly speaker: string;
}

/** How a text fits to what was heard. */
export interface Aligned extends Spoken {
  /** Words of the text of which the same was heard at their place. */
  readonly same: number;
}

/** Gives the words of a text the times of those that were heard. What was not heard shares the time between its neighbours. */
export function aligned(turns: readonly WrittenTurn[], heard: readonly SpokenWord[]): Aligned {
  const words = turns.flatMap(({ speaker, text }) =>
    text
      .split(/\s+/)
      .filter(Boolean)
      .map((word): Word => ({ text: word, key: spokenWords(word).join(' '), speaker })),
  );
  const keys = heard.map(({ text }) => spokenWords(text).join(' '));
  const partner = partnersOf(
    words.map(({ key }) => key),
    keys,
  );
  const timed = withTimes(words, partner, heard);
  const speakers: SpeakerFrom[] = [];
  words.forEach(({ speaker }, at) => {
    if ((speakers.at(-1)?.name ?? '') !== speaker) speakers.push({ fromMs: timed[at]?.startMs ?? 0, name: speaker });
  });
  const same = words.filter(
    ({ key }, at) => (partner[at] as number) >= 0 && keys[partner[at] as number] === key,
  ).length;
  return { words: timed, speakers, same };
}

/** Of each word of the one the word of the other that stands for it, ascending; -1 for none. */
export function partnersOf(text: readonly string[], heard: readonly string[]): Int32Array {
  const partner = new Int32Array(text.length).fill(-1);
  let [from, heardFrom, pairs] = [0, 0, MOST_PAIRS];
  for (const [at, heardAt] of [...anchors(text, heard), [text.length, heard.length] as const]) {
    const some = Math.max(0, at - from) * Math.max(0, heardAt - heardFrom);
    if (some <= pairs) between(text, heard, [from, at], [heardFrom, heardAt], partner);
    pairs -= Math.min(some, pairs);
    if (at < text.length) partner[at] = heardAt;
    [from, heardFrom] = [at + 1, heardAt + 1];
  }
  return partner;
}

type Pair = readonly [at: number, heardAt: number];
type Stretch = readonly [from: number, to: number];

/** Words that hold the two together: the first of each run that stands once in either, as far as they keep their order. */
function anchors(text: readonly string[], heard: readonly string[]): Pair[] {
  const [ours, theirs] = [onceIn(text), onceIn(heard)];
  const pairs = [...ours].flatMap(([run, at]): Pair[] => {
    const heardAt = theirs.get(run);
    return heardAt === undefined ? [] : [[at, heardAt]];
  });
  return longestAscending(pairs.sort((a, b) => a[0] - b[0]));
}

function onceIn(words: readonly string[]): Map<string, number> {
  const found = new Map<string, number>();
  const twice = new Set<string>();
  for (let at = 0; at + ANCHOR <= words.length; at += 1) {
    const run = words.slice(at, at + ANCHOR).join('\n');
    if (found.has(run)) twice.add(run);
    else found.set(run, at);
  }
  for (const run of twice) found.delete(run);
  return found;
}

/** The most pairs that ascend in both, by patience: the last of each length is the smallest that there is. */
function longestAscending(pairs: readonly Pair[]): Pair[] {
  const ends: number[] = [];
  const before = new Int32Array(pairs.length).fill(-1);
  pairs.forEach(([, heardAt], n) => {
    let [low, high] = [0, ends.length];
    while (low < high) {
      const middle = (low + high) >> 1;
      if ((pairs[ends[middle] as number] as Pair)[1] < heardAt) low = middle + 1;
      else high = middle;
    }
    before[n] = low > 0 ? (ends[low - 1] as number) : -1;
    ends[low] = n;
  });
  const chosen: Pair[] = [];
  for (let n = ends.at(-1) ?? -1; n >= 0; n = before[n] as number) chosen.push(pairs[n] as Pair);
  return chosen.reverse();
}

const [NEITHER, OURS, THEIRS] = [0, 1, 2] as const;

/** Aligns two stretches word by word at the least cost, and notes which stand for each other. */
function between(
  text: readonly string[],
  heard: readonly string[],
  [from, to]: Stretch,
  [heardFrom, heardTo]: Stretch,
  partner: Int32Array,
): void {
  const [rows, columns] = [to - from, heardTo - heardFrom];
  if (rows <= 0 || columns <= 0) return;
  const way = new Uint8Array((rows + 1) * (columns + 1));
  let last = Float64Array.from({ length: columns + 1 }, (_unused, column) => column * ALONE);
  way.fill(THEIRS, 1, columns + 1);
  for (let row = 1; row <= rows; row += 1) {
    const next = new Float64Array(columns + 1);
    next[0] = row * ALONE;
    way[row * (columns + 1)] = OURS;
    for (let column = 1; column <= columns; column += 1) {
      const both =
        (last[column - 1] as number) +
        unlike(text[from + row - 1] as string, heard[heardFrom + column - 1] as string) * DIFFERENT;
      const ours = (last[column] as number) + ALONE;
      const theirs = (next[column - 1] as number) + ALONE;
      const least = Math.min(both, ours, theirs);
      next[column] = least;
      way[row * (columns + 1) + column] = least === both ? NEITHER : least === ours ? OURS : THEIRS;
    }
    last = next;
  }
  for (let [row, column] = [rows, columns]; row > 0 || column > 0;) {
    const step = way[row * (columns + 1) + column];
    if (step === NEITHER) partner[from + row - 1] = heardFrom + column - 1;
    if (step !== THEIRS) row -= 1;
    if (step !== OURS) column -= 1;
  }
}

/** Longer ones are no words, and would take long. */
const LONGEST = 40;

/** How unlike two words are in their letters, from 0 to 1. */
function unlike(a: string, b: string): number {
  if (a === b) return 0;
  const longest = Math.max(a.length, b.length);
  if (longest === 0 || longest > LONGEST) return 1;
  // So different in length that no letters need to be looked at.
  if (Math.abs(a.length - b.length) * 2 > longest) return 1;
  return distance(a, b) / longest;
}

/** Runs of words without a partner share what time lies between their neighbours; where there is none, that of the one before. */
function withTimes(words: readonly Word[], partner: Int32Array, heard: readonly SpokenWord[]): SpokenWord[] {
  const timed: SpokenWord[] = [];
  const end = heard.at(-1)?.endMs ?? 0;
  for (let at = 0; at < words.length;) {
    const own = heard[partner[at] as number];
    let to = at + 1;
    while (to < words.length && (partner[to] as number) < 0) to += 1;
    if (own && to === at + 1) timed.push(said(words[at] as Word, own.startMs, own.endMs));
    else {
      const next = heard[partner[to] as number]?.startMs ?? Math.max(end, own?.endMs ?? 0);
      const from = own?.startMs ?? timed.at(-1)?.endMs ?? Math.max(0, (next || 0) - (to - at) * ROOM_MS);
      // The one that was heard keeps its own time, where the others have room after it.
      const apart = own !== undefined && next - own.endMs >= (to - at - 1) * LEAST_ROOM_MS;
      if (own && apart) timed.push(said(words[at] as Word, own.startMs, own.endMs));
      const first = own && apart ? at + 1 : at;
      const begin = own && apart ? own.endMs : from;
      shareOut(
        words.slice(first, to),
        begin,
        Math.max(begin, Math.min(next, begin + (to - first) * MOST_ROOM_MS)),
      ).forEach((word) => timed.push(word));
    }
    at = to;
  }
  return timed;
}

/** How long a word takes that was not heard: usually, at least and at most. */
const [ROOM_MS, LEAST_ROOM_MS, MOST_ROOM_MS] = [350, 60, 1500] as const;

const said = ({ text }: Word, startMs: number, endMs: number): SpokenWord => ({
  text,
  startMs,
  endMs,
  certainty: null,
});

function shareOut(words: readonly Word[], startMs: number, endMs: number): SpokenWord[] {
  const letters = words.reduce((sum, { text }) => sum + text.length, 0);
  let before = 0;
  const moment = () => Math.round(startMs + ((endMs - startMs) * before) / Math.max(1, letters));
  return words.map((word) => {
    const from = moment();
    before += word.text.length;
    return said(word, from, Math.max(from, moment()));
  });
}
