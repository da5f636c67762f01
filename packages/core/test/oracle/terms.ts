import { Postings, unite, type Ordinals } from './postings';

/** The words of one field: which documents hold each, and the words in order for prefixes. */
export class Terms {
  private readonly postings = new Map<string, Postings>();
  private sorted: string[] | null = null;

  add(term: string, ordinal: number): void {
    let list = this.postings.get(term);
    if (!list) {
      list = new Postings();
      this.postings.set(term, list);
      this.sorted = null;
    }
    list.add(ordinal);
  }

  exact(term: string): Ordinals | null {
    return this.postings.get(term)?.view() ?? null;
  }

  startingWith(prefix: string, universe: number): Ordinals {
    this.sorted ??= [...this.postings.keys()].sort();
    const sets: Ordinals[] = [];
    for (let i = this.firstAtLeast(prefix); this.sorted[i]?.startsWith(prefix); i += 1) {
      const set = this.exact(this.sorted[i] as string);
      if (set) sets.push(set);
    }
    return unite(sets, universe);
  }

  private firstAtLeast(prefix: string): number {
    const sorted = this.sorted as string[];
    let [low, high] = [0, sorted.length];
    while (low < high) {
      const middle = (low + high) >>> 1;
      if ((sorted[middle] as string) < prefix) low = middle + 1;
      else high = middle;
    }
    return low;
  }
}
