import type { FieldRegistry } from '../fields';
import { matchesIn, type Query } from '../query';
import { saidText, type SpokenWord } from './transcript';

const SAID = 'said';

/** Words in which a search found something, one after the other. */
export interface SpokenHit {
  /** The first and the one after the last of them, among all. */
  readonly from: number;
  readonly to: number;
  readonly startMs: number;
  readonly endMs: number;
}

/** Where in what was said a search found its words. */
export function spokenHits(tree: Query, words: readonly SpokenWord[], fields: FieldRegistry): SpokenHit[] {
  const [matched] = matchesIn(tree, { said: saidText(words) }, fields).filter(({ field }) => field === SAID);
  if (!matched) return [];
  const hits: SpokenHit[] = [];
  let [at, letters] = [0, 0];
  for (const [start, end] of matched.spans) {
    const wordAt = (place: number): number => {
      while (at < words.length - 1 && letters + (words[at] as SpokenWord).text.length <= place) {
        letters += (words[at] as SpokenWord).text.length + 1;
        at += 1;
      }
      return at;
    };
    const from = wordAt(start);
    const last = wordAt(end - 1);
    hits.push({
      ...{ from, to: last + 1 },
      startMs: (words[from] as SpokenWord).startMs,
      endMs: (words[last] as SpokenWord).endMs,
    });
  }
  return hits;
}
