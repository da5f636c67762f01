import { atOf } from './spoken-hits';
import type { SpokenFound, SpokenIndex } from './spoken-index';
import { speakerIn } from './spoken-passages';

/** How much was found in files that have something in common. */
export interface SpokenTotal {
  readonly hits: number;
  readonly files: number;
}
export interface NamedTotal extends SpokenTotal {
  /** Empty where nobody says. */
  readonly name: string;
}

/** How much was found on each day, in each reel, and by whom it was said. */
export interface SpokenTotals {
  /** The days as milliseconds since 1970, ascending; null last, for files that do not say when they were shot. */
  readonly days: readonly (SpokenTotal & { readonly dayMs: number | null })[];
  /** Those with the most hits first. */
  readonly reels: readonly NamedTotal[];
  readonly speakers: readonly NamedTotal[];
  /** How many more reels and speakers there are. */
  readonly more: { readonly reels: number; readonly speakers: number };
}

/** What is to be known of a file. */
export interface SpokenAbout {
  readonly shotMs: number | null;
  readonly reel: string;
}

const DAY_MS = 86_400_000;
/** More bars nobody reads. */
const MOST = { reels: 40, speakers: 40 } as const;

/** Adds up what was found, at the notch that was asked for. */
export function spokenTotals(
  index: SpokenIndex,
  { files }: SpokenFound,
  about: (id: number) => SpokenAbout,
): SpokenTotals {
  const [days, reels, speakers] = [new Totals<number | null>(), new Totals<string>(), new Totals<string>()];
  for (const file of files) {
    const { count, id, segment } = file;
    const { reel, shotMs } = about(id);
    days.add(shotMs === null ? null : Math.floor(shotMs / DAY_MS) * DAY_MS, count);
    reels.add(reel, count);
    const said = new Map<string, number>();
    for (const hit of file.hits()) {
      const name = speakerIn(index, segment, atOf(hit));
      said.set(name, (said.get(name) ?? 0) + 1);
    }
    for (const [name, some] of said) speakers.add(name, some);
  }
  const named = (totals: Totals<string>, most: number): NamedTotal[] =>
    totals
      .all()
      .map(([name, total]) => ({ name, ...total }))
      .sort((a, b) => b.hits - a.hits || b.files - a.files || (a.name < b.name ? -1 : 1))
      .slice(0, most);
  return {
    days: days
      .all()
      .map(([dayMs, total]) => ({ dayMs, ...total }))
      .sort((a, b) => (a.dayMs ?? Infinity) - (b.dayMs ?? Infinity)),
    reels: named(reels, MOST.reels),
    speakers: named(speakers, MOST.speakers),
    more: {
      reels: Math.max(0, reels.size - MOST.reels),
      speakers: Math.max(0, speakers.size - MOST.speakers),
    },
  };
}

class Totals<Key> {
  private readonly of = new Map<Key, { hits: number; files: number }>();

  get size(): number {
    return this.of.size;
  }

  /** Takes in a file with so many hits. */
  add(key: Key, hits: number): void {
    const total = this.of.get(key);
    if (total) {
      total.hits += hits;
      total.files += 1;
    } else this.of.set(key, { hits, files: 1 });
  }

  all(): [Key, SpokenTotal][] {
    return [...this.of];
  }
}
