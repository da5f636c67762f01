import { QueryTypes, type Sequelize, type Transaction } from 'sequelize';
import {
  UNDERWAY,
  type FixityCheck,
  type FixityOutcome,
  type FixitySummary,
  type Job,
  type Verify,
} from '@larder/contract';
import { pathHash } from '../jobs/catalogue';
import { enqueueOne } from '../jobs/queue';
import { select, selectByIds } from './database';
import { notFound } from './errors';
import { JobRow, StorageRow } from './models';

export interface FixityNote {
  readonly assetId: number;
  readonly storageId: number;
  readonly path: string;
  readonly outcome: FixityOutcome;
  readonly xxh64: string | null;
  readonly bytes: number | null;
  readonly personId: number | null;
}

/** Writes down one look at all bytes of a file. */
export async function noteFixity(db: Sequelize, note: FixityNote, transaction?: Transaction): Promise<void> {
  await db.query(
    `INSERT INTO fixity (asset_id, storage_id, path, path_hash, outcome, xxh64, bytes, person_id, at_ms)
     VALUES (:assetId, :storageId, :path, :hash, :outcome, :xxh64, :bytes, :personId, :now)`,
    {
      replacements: { ...note, hash: pathHash(note.path), now: Date.now() },
      type: QueryTypes.INSERT,
      ...(transaction ? { transaction } : {}),
    },
  );
}

/** The hash that a place was last found to have when it was as it should be. */
export async function lastHash(db: Sequelize, storageId: number, path: string): Promise<string | null> {
  const [row] = await select<{ xxh64: string }>(
    db,
    `SELECT xxh64 FROM fixity WHERE storage_id = :storageId AND path_hash = :hash AND outcome IN ('first', 'same') ORDER BY id DESC LIMIT 1`,
    { storageId, hash: pathHash(path) },
  );
  return row?.xxh64 ?? null;
}

/** The hash that an asset's file was last found to have when it was as it should be, wherever it was. */
export async function lastHashOf(db: Sequelize, assetId: number): Promise<string | null> {
  const [row] = await select<{ xxh64: string }>(
    db,
    `SELECT xxh64 FROM fixity WHERE asset_id = :assetId AND outcome IN ('first', 'same') ORDER BY id DESC LIMIT 1`,
    { assetId },
  );
  return row?.xxh64 ?? null;
}

/**
 * The hashes that files of assets were last found to have when they were as they should be; of most nobody knows any. Within a
 * transaction no other look is written down until its end.
 */
export async function goodHashes(
  db: Sequelize,
  assetIds: readonly number[],
  transaction?: Transaction,
): Promise<Map<number, string>> {
  const rows = await selectByIds<{ assetId: number; xxh64: string }>(
    db,
    `SELECT f.asset_id AS assetId, f.xxh64 FROM fixity f JOIN asset a ON a.id = f.asset_id AND a.storage_id = f.storage_id AND a.path_hash = f.path_hash
     WHERE f.asset_id IN (:ids) AND f.outcome IN ('first', 'same') AND f.xxh64 IS NOT NULL ORDER BY f.id${transaction ? ' LOCK IN SHARE MODE' : ''}`,
    assetIds,
    transaction,
  );
  return new Map(rows.map(({ assetId, xxh64 }) => [assetId, xxh64]));
}

/** The number of the last look at all bytes of a file. */
export async function lastLook(db: Sequelize): Promise<number> {
  const [row] = await select<{ id: number | null }>(db, 'SELECT MAX(id) AS id FROM fixity');
  return row?.id ?? 0;
}

/** Which assets were looked at since a look, and the number of the last look. */
export async function checkedSince(
  db: Sequelize,
  after: number,
): Promise<{ readonly last: number; readonly assetIds: readonly number[] }> {
  const rows = await select<{ id: number; assetId: number }>(
    db,
    'SELECT id, asset_id AS assetId FROM fixity WHERE id > :after ORDER BY id',
    { after },
  );
  return { last: rows.at(-1)?.id ?? after, assetIds: [...new Set(rows.map(({ assetId }) => assetId))] };
}

export const checksOf = (db: Sequelize, assetId: number): Promise<FixityCheck[]> =>
  select<FixityCheck>(
    db,
    `SELECT f.at_ms AS atMs, CONCAT(s.name, '/', f.path) AS path, f.outcome, f.xxh64, p.name AS \`by\` FROM fixity f
     JOIN storage s ON s.id = f.storage_id LEFT JOIN person p ON p.id = f.person_id WHERE f.asset_id = :assetId ORDER BY f.id DESC LIMIT 100`,
    { assetId },
  );

const BAD_SHOWN = 100;

export async function fixitySummary(db: Sequelize): Promise<FixitySummary> {
  const newest = 'SELECT MAX(id) AS id FROM fixity GROUP BY storage_id, path_hash';
  const [[counts], bad] = await Promise.all([
    select<{ checked: number; everything: number; oldestMs: number | null }>(
      db,
      `SELECT (SELECT COUNT(DISTINCT asset_id) FROM fixity) AS checked, (SELECT COUNT(*) FROM asset WHERE parent_id IS NULL) AS everything,
         (SELECT MIN(f.at_ms) FROM fixity f JOIN (${newest}) n ON n.id = f.id) AS oldestMs`,
    ),
    select<FixitySummary['bad'][number]>(
      db,
      `SELECT f.asset_id AS assetId, a.name, f.outcome, f.at_ms AS atMs FROM fixity f JOIN (${newest}) n ON n.id = f.id JOIN asset a ON a.id = f.asset_id
       WHERE f.outcome NOT IN ('first', 'same') ORDER BY f.id DESC LIMIT ${BAD_SHOWN}`,
    ),
  ]);
  const checked = Number(counts?.checked ?? 0);
  return { checked, never: Number(counts?.everything ?? 0) - checked, oldestMs: counts?.oldestMs ?? null, bad };
}

const VERIFY_PRIORITY = -10;

/**
 * Queues a look at all bytes of assets, or of everything on a storage. Files that have `moved` are held against what the assets were
 * found to have where they were before.
 */
export async function queueVerify(
  personId: number | null,
  { assetIds = [], storageId = null }: Partial<Verify>,
  { dueBeforeMs = null, moved = false }: { readonly dueBeforeMs?: number | null; readonly moved?: boolean } = {},
): Promise<Job> {
  const storage = storageId === null ? null : await StorageRow.findByPk(storageId);
  if (storageId !== null && !storage) throw notFound('storage');
  return enqueueOne({
    kind: 'verify',
    subject: storage?.name ?? (assetIds.length === 1 ? '1 asset' : `${assetIds.length} assets`),
    payload: { assetIds, storageId, dueBeforeMs, moved },
    unit: 'bytes',
    priority: VERIFY_PRIORITY,
    personId,
    storageId,
  });
}

const DAY_MS = 24 * 3600 * 1000;

/** Queues the checks that are due by the storages' own schedules. */
export async function queueDueChecks(db: Sequelize, now: number): Promise<void> {
  const storages = await StorageRow.findAll({ where: { state: 'online' } });
  for (const { id, verifyDays } of storages) {
    if (verifyDays === null) continue;
    if (await JobRow.findOne({ where: { kind: 'verify', storageId: id, state: [...UNDERWAY] } })) continue;
    const dueBeforeMs = now - verifyDays * DAY_MS;
    const [due] = await select(
      db,
      `SELECT a.id FROM asset a WHERE a.storage_id = :id AND a.shelf_state = 'online'
         AND NOT EXISTS (SELECT 1 FROM fixity f WHERE f.asset_id = a.id AND f.at_ms >= :dueBeforeMs) LIMIT 1`,
      { id, dueBeforeMs },
    );
    if (due) await queueVerify(null, { storageId: id }, { dueBeforeMs });
  }
}
