import { LRUCache } from 'lru-cache';
import type { Query } from '../query';
import { countOf, ofBits, without, type DocSet } from './doc-set';
import type { Part } from './part';

/** How much of a part a search finds, as of so many deaths in it. */
interface Known {
  readonly count: number;
  readonly deaths: number;
}

/**
 * Counts of searches that are asked again and again, as those of live bins are. Parts are never changed but by deaths, so that a count
 * is told of each part once, and after an edit only what died and what came is looked at, however large the library.
 */
export class Watched {
  private readonly searches: LRUCache<string, Query>;
  /** By searches as text. Weak: merged segments are large, and go. */
  private readonly known = new WeakMap<Part, Map<string, Known>>();

  /** @param most searches; those that were not asked for the longest are forgotten beyond it */
  constructor(private readonly most: number) {
    this.searches = new LRUCache({ max: most });
  }

  counts(trees: readonly Query[], parts: readonly Part[]): number[] {
    const asked = trees.map((tree) => ({ tree, key: JSON.stringify(tree), count: 0 }));
    for (const { key, tree } of asked) this.searches.set(key, tree);
    for (const part of parts) {
      const counting = new Counting(part, this.knownIn(part));
      for (const each of asked) each.count += counting.count(each.key, each.tree);
    }
    return asked.map(({ count }) => count);
  }

  /** A part takes the place of others, with what lived in them: what was counted of all of these holds of it. */
  replaced(old: readonly Part[], by: Part): void {
    const counted = old.flatMap((part) => {
      const known = this.known.get(part);
      return known ? [{ known, counting: new Counting(part, known) }] : [];
    });
    if (counted.length < old.length) return;
    const known = this.knownIn(by);
    for (const [key, tree] of this.searches.entries()) {
      if (!counted.every((each) => each.known.has(key))) continue;
      const count = counted.reduce((sum, { counting }) => sum + counting.count(key, tree), 0);
      known.set(key, { count, deaths: by.buried.length });
    }
  }

  private knownIn(part: Part): Map<string, Known> {
    let known = this.known.get(part);
    if (!known) this.known.set(part, (known = new Map<string, Known>()));
    // Those among them that are not asked for any more are not told apart.
    if (known.size > this.most * 2) known.clear();
    return known;
  }
}

/** Counts of one part, as it is now. */
class Counting {
  /** Those that died, by how many had before: what is counted together was mostly counted together before. */
  private readonly died = new Map<number, Uint32Array>();

  constructor(
    private readonly part: Part,
    private readonly known: Map<string, Known>,
  ) {}

  count(key: string, tree: Query): number {
    const deaths = this.part.buried.length;
    const known = this.known.get(key);
    if (known?.deaths === deaths) return known.count;
    const count = known
      ? known.count - countOf(this.part.finder.among(this.diedSince(known.deaths), tree))
      : countOf(this.living(this.part.finder.among(null, tree)));
    this.known.set(key, { count, deaths });
    return count;
  }

  private diedSince(deaths: number): Uint32Array {
    let died = this.died.get(deaths);
    if (!died) this.died.set(deaths, (died = Uint32Array.from(this.part.buried.slice(deaths)).sort()));
    return died;
  }

  private living(set: DocSet): DocSet {
    const { dead, live, data } = this.part;
    return live === data.ids.length ? set : without(set, ofBits(dead));
  }
}
