import { firstOf } from '../search';
import { atOf, confidenceIn, isSpelled, wordsOf } from './spoken-hits';
import type { SpokenFile, SpokenFound, SpokenIndex } from './spoken-index';
import { lastAtMost, type SpokenSegment } from './spoken-segment';

/** How files are put in order: the likeliest hit first, the most hits, or what was catalogued last. */
export const SPOKEN_SORTS = ['best', 'most', 'newest'] as const;
export type SpokenSort = (typeof SPOKEN_SORTS)[number];

/** A hit with what is said around it. */
export interface SpokenPlace {
  readonly startMs: number;
  readonly endMs: number;
  /** How likely it is that what was looked for is said there, in percent. */
  readonly confidence: number;
  /** It is spelled as it was asked for; otherwise it may have been heard as something else. */
  readonly spelled: boolean;
  readonly before: string;
  readonly heard: string;
  readonly after: string;
}

/** What was found in one file. */
export interface SpokenInFile {
  readonly id: number;
  /** How many hits there are, and how likely the likeliest is. */
  readonly count: number;
  readonly best: number;
  readonly hits: readonly SpokenPlace[];
}

/** Words shown before and after a hit. */
const AROUND = 8;
/** Of one file no more are listed: a common word is said hundreds of times in an hour. */
export const MOST_PLACES = 200;

type Sorting = (a: SpokenFile, b: SpokenFile) => number;
const byBest: Sorting = (a, b) => b.best - a.best || b.count - a.count || a.id - b.id;
const SORTINGS: Readonly<Record<SpokenSort, Sorting>> = {
  best: byBest,
  most: (a, b) => b.count - a.count || byBest(a, b),
  newest: (a, b) => b.id - a.id,
};

/** A window of the files in which something was found. */
export function spokenWindow(
  index: SpokenIndex,
  { files }: SpokenFound,
  {
    limit,
    most = MOST_PLACES,
    offset,
    sort,
  }: { readonly sort: SpokenSort; readonly offset: number; readonly limit: number; readonly most?: number },
): SpokenInFile[] {
  const compare = SORTINGS[sort];
  const places = Uint32Array.from(files.keys());
  const first = firstOf(places, offset + limit, (a, b) => compare(files[a] as SpokenFile, files[b] as SpokenFile));
  return Array.from(first.subarray(offset), (place) => {
    const file = files[place] as SpokenFile;
    const { best, count, id, segment } = file;
    const hits = file.hits().slice(0, most);
    return { id, count, best, hits: hits.map((hit) => placeOf(index, segment, hit)) };
  });
}

function placeOf(index: SpokenIndex, segment: SpokenSegment, hit: number): SpokenPlace {
  const { lengthMs, startMs, starts } = segment;
  const from = atOf(hit);
  const to = from + wordsOf(hit);
  const doc = lastAtMost(starts, from);
  const [first, end] = [starts[doc] as number, starts[doc + 1] as number];
  return {
    startMs: startMs[from] as number,
    endMs: (startMs[to - 1] as number) + (lengthMs[to - 1] as number),
    confidence: confidenceIn(hit),
    spelled: isSpelled(hit),
    before: index.text(segment, Math.max(first, from - AROUND), from),
    heard: index.text(segment, from, to),
    after: index.text(segment, to, Math.min(end, to + AROUND)),
  };
}
