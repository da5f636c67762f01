import type { Sequelize } from 'sequelize';
import type { LibraryIndex } from '@larder/core/search';
import { noteArrivals, type WatchedBin } from '../store/arrivals';
import type { FeedRow } from '../store/change-feed';

interface Moved {
  readonly came: Set<number>;
  readonly left: Set<number>;
}

/** What a stretch of the feed brings into watched live bins: told by asking them of what changes, before and after it does. */
export class Arrivals {
  private readonly moved: readonly Moved[];
  /** By assets, who changed them; null for a worker. */
  private readonly changedBy = new Map<number, Set<number | null>>();

  constructor(
    private readonly watched: readonly WatchedBin[],
    private readonly rows: readonly FeedRow[],
  ) {
    this.moved = watched.map(() => ({ came: new Set<number>(), left: new Set<number>() }));
    if (watched.length === 0) return;
    for (const { entity, entityId, personId } of rows)
      if (entity === 'asset' || entity === 'flag')
        this.changedBy.set(entityId, (this.changedBy.get(entityId) ?? new Set()).add(personId));
  }

  /** Makes a change to some assets of the index. */
  around(index: LibraryIndex, ids: readonly number[], change: () => void): void {
    const found = () => this.watched.map(({ tree }) => new Set(index.which(tree, ids)));
    const before = found();
    change();
    found().forEach((after, at) => {
      const { came, left } = this.moved[at] as Moved;
      const move = (id: number, to: Set<number>, from: Set<number>): void => {
        to.add(id);
        from.delete(id);
      };
      for (const id of after) if (!before[at]?.has(id)) move(id, came, left);
      for (const id of before[at] ?? []) if (!after.has(id)) move(id, left, came);
    });
  }

  /** Tells everybody of what others, or workers, have brought in. */
  async note(db: Sequelize): Promise<void> {
    const revision = this.rows.at(-1)?.revision ?? 0;
    for (const [at, watched] of this.watched.entries()) {
      const { came, left } = this.moved[at] as Moved;
      const others = [...came].filter((id) => {
        const by = this.changedBy.get(id);
        return !by || [...by].some((person) => person !== watched.personId);
      });
      await noteArrivals(db, watched, { came: others, left: [...left], revision });
    }
  }
}
