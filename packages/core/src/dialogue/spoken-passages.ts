import { PASSAGE_LENGTHS, type PassageLength } from './passages';
import { atOf, confidenceIn, isSpelled, wordsOf } from './spoken-hits';
import type { SpokenFile, SpokenFound, SpokenIndex } from './spoken-index';
import { lastAtMost, passagesIn, type SpokenSegment } from './spoken-segment';

/** Why a passage ends where it does: nothing more is said, somebody else speaks, nobody does for a while, a sentence ends, or it is long enough. */
export const PASSAGE_ENDS = ['all', 'speaker', 'pause', 'sentence', 'length'] as const;
export type PassageEnd = (typeof PASSAGE_ENDS)[number];

/** Some words of a passage: what was looked for, spelled so or heard as something else, or what stands between. */
export interface PassagePiece {
  readonly text: string;
  readonly is: 'between' | 'spelled' | 'alike';
}

/** A passage in which something was found. */
export interface SpokenPassage {
  readonly id: number;
  readonly startMs: number;
  readonly endMs: number;
  /** Empty where it is not known. */
  readonly speaker: string;
  readonly pieces: readonly PassagePiece[];
  /** How likely the likeliest hit in it is, in percent. */
  readonly best: number;
  readonly ends: PassageEnd;
  /** How long nobody speaks after it, where that ends it. */
  readonly pauseMs: number;
}

/** A passage by its places: its words are those from the one up to the other. */
export interface Stretch {
  readonly from: number;
  readonly to: number;
}

export const levelOf = (length: PassageLength): number => PASSAGE_LENGTHS.indexOf(length);

/** The passage of a length that a place lies in. */
export function passageAround({ levels, passages }: SpokenSegment, place: number, level: number): Stretch {
  let first = lastAtMost(passages, place);
  // The last of all is where the words end.
  first = Math.min(first, levels.length - 1);
  let next = first + 1;
  while (first > 0 && (levels[first] as number) > level) first -= 1;
  while (next < levels.length && (levels[next] as number) > level) next += 1;
  return { from: passages[first] as number, to: passages[next] as number };
}

/** The passages of an asset, one after the other. */
export function* passagesOfDoc(segment: SpokenSegment, doc: number, level: number): Generator<Stretch> {
  const { levels, passages, starts } = segment;
  const [first, end] = passagesIn(passages, starts[doc] as number, starts[doc + 1] as number);
  for (let from = first, to = first + 1; from < end; from = to, to += 1) {
    while (to < end && (levels[to] as number) > level) to += 1;
    yield { from: passages[from] as number, to: passages[to] as number };
  }
}

/** How passages are ranked, by Robertson and Zaragoza, The Probabilistic Relevance Framework: BM25 and Beyond (2009). */
const [K1, B] = [1.2, 0.75];

interface Scored extends Stretch {
  readonly id: number;
  readonly segment: SpokenSegment;
  /** Of each thing that was looked for how often it is said there, each time as much as it is likely. */
  readonly said: number[];
  readonly hits: number[];
}

/** Passages in which something was found, the most telling first, and how many there are. */
export function rankedPassages(
  index: SpokenIndex,
  { files }: SpokenFound,
  { length, limit }: { readonly length: PassageLength; readonly limit: number },
): { readonly count: number; readonly passages: SpokenPassage[] } {
  const level = levelOf(length);
  const found = files.flatMap((file) => scoredIn(file, level));
  const { count, words } = sizeOf(index, level);
  const holding = found[0]?.said.map((_said, n) => found.filter(({ said }) => (said[n] as number) > 0).length) ?? [];
  const rarity = holding.map((n) => Math.log(1 + (count - n + 0.5) / (n + 0.5)));
  const scoreOf = ({ from, said, to }: Scored): number => {
    const long = K1 * (1 - B + (B * (to - from) * count) / words);
    return said.reduce((sum, often, n) => sum + ((rarity[n] as number) * often * (K1 + 1)) / (often + long), 0);
  };
  const best = found
    .map((each) => [scoreOf(each), each] as const)
    .sort(([a, x], [b, y]) => b - a || x.id - y.id || x.from - y.from)
    .slice(0, limit);
  return { count: found.length, passages: best.map(([, each]) => passageOf(index, each, each.hits)) };
}

function scoredIn(file: SpokenFile, level: number): Scored[] {
  const { id, segment } = file;
  const scored = new Map<number, Scored>();
  const items = file.hitsByItem();
  items.forEach((hits, n) => {
    let passage: Scored | undefined;
    for (const hit of hits) {
      const at = atOf(hit);
      if (!passage || at >= passage.to) {
        const stretch = passageAround(segment, at, level);
        passage = scored.get(stretch.from) ?? { ...stretch, id, segment, said: items.map(() => 0), hits: [] };
        scored.set(stretch.from, passage);
      }
      passage.said[n] = (passage.said[n] as number) + confidenceIn(hit) / 100;
      passage.hits.push(hit);
    }
  });
  return [...scored.values()];
}

/** All passages of a length, and their words. */
interface Size {
  readonly count: number;
  readonly words: number;
}

/** Kept until something else is said: to count them takes longer than to find most words. */
const sizes = new WeakMap<SpokenIndex, { changes: number; byLevel: (Size | undefined)[] }>();
function sizeOf(index: SpokenIndex, level: number): Size {
  let kept = sizes.get(index);
  if (kept?.changes !== index.changes) sizes.set(index, (kept = { changes: index.changes, byLevel: [] }));
  return (kept.byLevel[level] ??= countedIn(index, level));
}

function countedIn(index: SpokenIndex, level: number): Size {
  let [count, words] = [0, 0];
  for (const { doc, segment } of index.docs(null)) {
    const { levels, passages, starts } = segment;
    const [from, to] = [starts[doc] as number, starts[doc + 1] as number];
    const [first, end] = passagesIn(passages, from, to);
    for (let at = first; at < end; at += 1) count += (levels[at] as number) <= level ? 1 : 0;
    words += to - from;
  }
  return { count, words };
}

/** A passage with its words, those that were looked for told from the others; `hits` by place, and packed. */
export function passageOf(
  index: SpokenIndex,
  { from, id, segment, to }: Stretch & { readonly id: number; readonly segment: SpokenSegment },
  hits: readonly number[],
): SpokenPassage {
  const pieces: PassagePiece[] = [];
  let at = from;
  let best = 0;
  const say = (until: number, is: PassagePiece['is']): void => {
    const text = index.text(segment, at, until);
    if (text !== '') pieces.push({ text, is });
    at = Math.max(at, until);
  };
  for (const hit of hits.toSorted((a, b) => a - b)) {
    best = Math.max(best, confidenceIn(hit));
    say(atOf(hit), 'between');
    say(Math.min(to, atOf(hit) + wordsOf(hit)), isSpelled(hit) ? 'spelled' : 'alike');
  }
  say(to, 'between');
  return {
    ...{ id, pieces, best, startMs: segment.startMs[from] as number, endMs: endOf(segment, to - 1) },
    speaker: speakerIn(index, segment, from),
    ...endsOf(index, segment, to),
  };
}

const endOf = ({ lengthMs, startMs }: SpokenSegment, at: number): number =>
  (startMs[at] as number) + (lengthMs[at] as number);

/** Who speaks at a place; empty where nobody says. */
export function speakerIn(index: SpokenIndex, segment: SpokenSegment, place: number): string {
  const speaker = speakerAt(segment, place);
  return speaker === null ? '' : index.speakerOf(speaker);
}

const speakerAt = ({ passages, speakers }: SpokenSegment, place: number): number | null =>
  speakers[lastAtMost(passages, place)] ?? null;

/** Shorter than this nobody takes a pause for one; as for the shortest passages. */
const PAUSE_MS = 400;
/** Of the last word so much is looked at. */
const LETTERS = 40;
/** A stop, and what closes after it. */
const STOP = /\p{Sentence_Terminal}[^\p{L}\p{N}]{0,20}$/u;

/** Why a passage ends before a place. */
function endsOf(
  index: SpokenIndex,
  segment: SpokenSegment,
  to: number,
): { readonly ends: PassageEnd; readonly pauseMs: number } {
  const doc = lastAtMost(segment.starts, to - 1);
  if (to >= (segment.starts[doc + 1] as number)) return { ends: 'all', pauseMs: 0 };
  const pauseMs = Math.max(0, (segment.startMs[to] as number) - endOf(segment, to - 1));
  if (speakerAt(segment, to) !== speakerAt(segment, to - 1)) return { ends: 'speaker', pauseMs };
  if (pauseMs >= PAUSE_MS) return { ends: 'pause', pauseMs };
  return { ends: STOP.test(index.text(segment, to - 1, to).slice(-LETTERS)) ? 'sentence' : 'length', pauseMs };
}
