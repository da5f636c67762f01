import { stat } from 'node:fs/promises';
import { join } from 'node:path';
import { Op, type Sequelize } from 'sequelize';
import type { RootLook } from '@larder/contract';
import { volumeAt } from '../media/volume';
import { write } from './change-feed';
import { select } from './database';
import { notFound, refused } from './errors';
import { JobRow, StorageRow } from './models';
import { queueScan } from './scans';
import { lookAtStorage, overlap, rootOf } from './storages';

/** Files that are looked for: enough to tell a storage from another, few enough for a slow volume. */
const LOOKED_FOR = 500;
const AT_ONCE = 16;

interface Kept {
  readonly path: string;
  readonly bytes: number;
  /** Parts of an image sequence; its path is that of the first. */
  readonly files: number;
}

/** Some of what was there when a storage was seen last, from all over it. */
const sample = (db: Sequelize, storageId: number): Promise<Kept[]> =>
  select<Kept>(
    db,
    `SELECT x.path, x.bytes, x.files FROM (SELECT path, bytes, files, ROW_NUMBER() OVER (ORDER BY id) AS n, COUNT(*) OVER () AS c FROM asset WHERE storage_id = :storageId AND shelf_state = 'online') x
     WHERE x.n % GREATEST(1, CEIL(x.c / ${LOOKED_FOR})) = 0 LIMIT ${LOOKED_FOR}`,
    { storageId },
  );

/** Whether a folder holds what a storage holds: of some of its files, how many lie there with their sizes. Changes nothing. */
export async function lookAtRoot(db: Sequelize, storageId: number, rootPath: string): Promise<RootLook> {
  if (!(await StorageRow.findByPk(storageId))) throw notFound('storage');
  const root = rootOf(rootPath);
  if ((await lookAtStorage(root, false)) === 'offline')
    throw refused(`${root} cannot be read on the server. Is it mounted, and written as the server sees it?`);
  const kept = await sample(db, storageId);
  const look = { looked: kept.length, same: 0, changed: 0, missing: 0 };
  for (let start = 0; start < kept.length; start += AT_ONCE)
    for (const how of await Promise.all(kept.slice(start, start + AT_ONCE).map((each) => howIs(root, each))))
      look[how] += 1;
  return look;
}

async function howIs(root: string, { bytes, files, path }: Kept): Promise<'same' | 'changed' | 'missing'> {
  const facts = await stat(join(root, path)).catch(() => null);
  if (!facts?.isFile()) return 'missing';
  return files > 1 || facts.size === bytes ? 'same' : 'changed';
}

/**
 * Says that a storage lies in another folder now, with all that is catalogued of it, and has it scanned there. Refuses where nothing of
 * it is. Done the other way round it is undone.
 */
export async function moveStorage(db: Sequelize, personId: number, id: number, rootPath: string): Promise<void> {
  const root = rootOf(rootPath);
  const { looked, same } = await lookAtRoot(db, id, root);
  if (looked > 0 && same === 0)
    throw refused(`Of ${looked} files that were looked for, none lies in ${root}. The storage stays where it was.`);
  const volume = await volumeAt(root);
  await write(db, personId, async ({ log, transaction }) => {
    const row = await StorageRow.findByPk(id, { transaction, lock: true });
    if (!row) throw notFound('storage');
    for (const other of await StorageRow.findAll({ transaction }))
      if (other.id !== id && overlap(root, other.rootPath))
        throw refused(
          `${root} overlaps the storage “${other.name}” (${other.rootPath}). The storage stays where it was.`,
        );
      else if (other.id !== id && volume !== null && other.volume === volume)
        throw refused(`That volume is the storage “${other.name}”. The storage stays where it was.`);
    // What they say of the storage they would say of the old folder; whatever else is at work reads there what it began to read.
    const busy = await JobRow.findOne({
      where: {
        ...{ state: 'running', kind: ['scan', 'presence', 'ingest', 'verify', 'find-missing', 'mend', 'restore'] },
        // Some are of all storages.
        storageId: { [Op.or]: [id, null] },
      },
      transaction,
    });
    if (busy)
      throw refused(`Something is at work there just now (${busy.subject}). Wait for it, or cancel it in Jobs.`);
    const before = { rootPath: row.rootPath, volume: row.volume, state: row.state };
    const after = { rootPath: root, volume, state: 'online' as const };
    await row.update({ ...after, ...(row.state === 'online' ? {} : { stateSinceMs: Date.now() }) }, { transaction });
    log({ action: 'move', entity: 'storage', entityId: id, before, after });
  });
  await queueScan(id, personId);
}
