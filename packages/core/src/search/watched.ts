import { LRUCache } from 'lru-cache';
import type { Query } from '../query';
import { hasBit } from './bits';
import { countOf, listOf } from './doc-set';
import type { Part } from './part';

/** How much of a part a search finds, as of so many deaths in it. */
interface Known {
  readonly count: number;
  readonly deaths: number;
}

/** Searches whose counts are kept; those that were not asked for the longest are forgotten beyond it. */
const MOST_WATCHED = 5000;

/**
 * Counts of searches that are asked again and again, as those of live bins are. Parts are never changed but by deaths, so that a count
 * is told of each part once, and after an edit only what died and what came is looked at, however large the library.
 */
export class Watched {
  private readonly searches = new LRUCache<string, WeakMap<Part, Known>>({ max: MOST_WATCHED });

  /** @param key the search as text */
  count(key: string, tree: Query, parts: readonly Part[]): number {
    let known = this.searches.get(key);
    if (!known) this.searches.set(key, (known = new WeakMap()));
    let count = 0;
    for (const part of parts) count += countIn(known, tree, part);
    return count;
  }

  /** A part takes the place of others, with what lived in them: what was counted of all of these holds of it. */
  replaced(old: readonly Part[], by: Part): void {
    for (const [key, known] of this.searches) {
      if (!old.every((part) => known.has(part))) continue;
      const tree = JSON.parse(key) as Query;
      const count = old.reduce((sum, part) => sum + countIn(known, tree, part), 0);
      known.set(by, { count, deaths: by.buried.length });
    }
  }
}

function countIn(all: WeakMap<Part, Known>, tree: Query, part: Part): number {
  const { finder, buried, dead } = part;
  const known = all.get(part);
  if (known?.deaths === buried.length) return known.count;
  const count = known
    ? known.count - countOf(finder.among(Uint32Array.from(buried.slice(known.deaths)).sort(), tree))
    : part.live === part.data.ids.length
      ? countOf(finder.among(null, tree))
      : listOf(finder.among(null, tree)).reduce((living, doc) => living + (hasBit(dead, doc) ? 0 : 1), 0);
  all.set(part, { count, deaths: buried.length });
  return count;
}
