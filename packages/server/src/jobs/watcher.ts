import type { Sequelize } from 'sequelize';
import type { ShelfItem } from '@larder/core/shelf';
import { walk, whereabouts } from '../media/walk';
import { select } from '../store/database';
import { queueDueChecks } from '../store/fixity';
import { queueIngest } from '../store/ingests';
import { PresetRow, StorageRow, WatchRow } from '../store/models';
import { queueDueLooks } from '../store/scans';
import { pathHash } from './catalogue';
import { IS_UNDERWAY } from './states';

interface Seen {
  readonly bytes: number;
  readonly modifiedMs: number;
  readonly files: number;
  readonly sinceMs: number;
}

/** Schedules are looked at this often. */
const SCHEDULE_MS = 60_000;
/** More at once would hold up the looks at storages. */
const MOST_AT_ONCE = 2000;

/**
 * Looks at watch folders by listing them, which network volumes allow too, and has what came and has stopped growing brought in
 * by the folder's preset. Several servers may look; whoever brings in holds the folder's row meanwhile.
 */
export class Watcher {
  private readonly seen = new Map<number, Map<string, Seen>>();
  private nextSchedule = 0;

  constructor(
    private readonly db: Sequelize,
    private readonly now: () => number = Date.now,
  ) {}

  async look(): Promise<void> {
    if (this.now() >= this.nextSchedule) {
      this.nextSchedule = this.now() + SCHEDULE_MS;
      await queueDueChecks(this.db, this.now());
      await queueDueLooks(this.db, this.now());
    }
    const watches = await WatchRow.findAll({ where: { active: true } });
    for (const id of [...this.seen.keys()]) if (!watches.some((watch) => watch.id === id)) this.seen.delete(id);
    for (const watch of watches) await this.lookAt(watch);
  }

  private async lookAt(watch: WatchRow): Promise<void> {
    const storage = await StorageRow.findByPk(watch.storageId);
    if (storage?.state !== 'online' || (await whereabouts(storage.rootPath, watch.folder)) !== 'inside') return;
    const before = this.seen.get(watch.id) ?? new Map<string, Seen>();
    const after = new Map<string, Seen>();
    const arrived: ShelfItem[] = [];
    for await (const items of walk(storage.rootPath, watch.folder, { onUnreadable: () => undefined }))
      for (const item of items) {
        const { path, bytes, modifiedMs, files } = item;
        const last = before.get(path);
        const still = last?.bytes === bytes && last.modifiedMs === modifiedMs && last.files === files;
        const sinceMs = still ? last.sinceMs : this.now();
        after.set(path, { bytes, modifiedMs, files, sinceMs });
        if (this.now() - sinceMs >= watch.quietSeconds * 1000) arrived.push(item);
      }
    this.seen.set(watch.id, after);
    await this.bringIn(watch, arrived);
  }

  private async bringIn({ id, storageId, presetId, personId }: WatchRow, arrived: readonly ShelfItem[]): Promise<void> {
    if ((await this.unknown(storageId, arrived)).length === 0) return;
    await this.db.transaction(async (transaction) => {
      const held = await WatchRow.findByPk(id, { transaction, lock: true });
      const fresh = await this.unknown(storageId, arrived);
      const preset = await PresetRow.findByPk(presetId);
      if (!held?.active || !preset || fresh.length === 0) return;
      const paths = fresh.slice(0, MOST_AT_ONCE).map(({ path }) => path);
      await queueIngest(storageId, personId, { paths, folders: [], settings: preset.settings, twins: [] });
    });
  }

  /** What neither the catalogue nor an ingest, open or ended, has with this size: what failed or was skipped is not tried for ever. */
  private async unknown(storageId: number, items: readonly ShelfItem[]): Promise<ShelfItem[]> {
    if (items.length === 0) return [];
    const hashes = items.map(({ path }) => pathHash(path));
    const known = await select<{ hash: string; bytes: number | null }>(
      this.db,
      `SELECT path_hash AS hash, NULL AS bytes FROM asset WHERE storage_id = :storageId AND path_hash IN (:hashes)
       UNION ALL SELECT path_hash, NULL FROM asset_location WHERE storage_id = :storageId AND path_hash IN (:hashes)
       UNION ALL SELECT i.path_hash, i.bytes FROM ingest_item i JOIN job j ON j.id = i.job_id WHERE j.storage_id = :storageId AND i.path_hash IN (:hashes)`,
      { storageId, hashes },
    );
    const waiting = await select<{ payload: string }>(
      this.db,
      `SELECT payload FROM job WHERE kind = 'ingest' AND storage_id = :storageId AND ${IS_UNDERWAY}`,
      { storageId },
    );
    return items.filter(({ path, bytes }) => {
      const hash = pathHash(path);
      return (
        !known.some((each) => each.hash === hash && (each.bytes === null || each.bytes === bytes)) &&
        !waiting.some(({ payload }) => payload.includes(JSON.stringify(path)))
      );
    });
  }
}
