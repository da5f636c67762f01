import { QueryTypes, type Sequelize, type Transaction } from 'sequelize';
import type { ShelfItem } from '@larder/core/shelf';
import { INGEST_STATES, type IngestItem, type IngestReport, type IngestState } from '@larder/contract';
import { pathHash } from '../jobs/catalogue';
import { fromJson, retried, select } from './database';

/** One file that was copied, with the hash that its copy was compared by. */
export interface HashedFile {
  readonly to: string;
  readonly bytes: number;
  readonly modifiedMs: number;
  readonly xxh64: string;
  readonly atMs: number;
}

export interface IngestRow {
  readonly id: number;
  readonly path: string;
  readonly state: IngestState;
  readonly toPath: string | null;
  readonly bytes: number;
}

const INSERT_BATCH = 500;
const SHOWN = 500;

/** Notes what an ingest is to bring in; what it knows of already keeps its state. */
export async function noteItems(db: Sequelize, jobId: number, items: readonly ShelfItem[]): Promise<void> {
  const now = Date.now();
  for (let start = 0; start < items.length; start += INSERT_BATCH) {
    const rows = items
      .slice(start, start + INSERT_BATCH)
      .map(({ path, files, bytes }) => [jobId, path, pathHash(path), 'waiting', files, bytes, now]);
    await retried(() =>
      db.query(
        'INSERT IGNORE INTO ingest_item (job_id, path, path_hash, state, files, bytes, updated_ms) VALUES :rows',
        { replacements: { rows }, type: QueryTypes.INSERT },
      ),
    );
  }
}

export const ingestRows = (db: Sequelize, jobId: number): Promise<IngestRow[]> =>
  select<IngestRow>(
    db,
    'SELECT id, path, state, to_path AS toPath, bytes FROM ingest_item WHERE job_id = :jobId ORDER BY id',
    { jobId },
  );

export interface IngestChange {
  readonly state: IngestState;
  readonly toPath?: string;
  readonly hashes?: readonly HashedFile[];
  readonly assetId?: number;
  readonly message?: string | null;
}

/** Writes down what became of an item; what is in stays in, whatever a worker that lost the job thinks of it. Within a transaction it becomes true together with the catalogue's entry. */
export async function changeItem(
  db: Sequelize,
  id: number,
  { state, toPath, hashes, assetId, message = null }: IngestChange,
  transaction?: Transaction,
): Promise<void> {
  const write = () =>
    db.query(
      `UPDATE ingest_item SET state = :state, message = :message, updated_ms = :now,
         to_path = COALESCE(:toPath, to_path), hashes = COALESCE(:hashes, hashes), asset_id = COALESCE(:assetId, asset_id) WHERE id = :id AND state <> 'done'`,
      {
        replacements: {
          id,
          state,
          message: message?.slice(0, 1000) ?? null,
          now: Date.now(),
          toPath: toPath ?? null,
          hashes: hashes ? JSON.stringify(hashes) : null,
          assetId: assetId ?? null,
        },
        type: QueryTypes.UPDATE,
        ...(transaction ? { transaction } : {}),
      },
    );
  await (transaction ? write() : retried(write));
}

/** The files that an ingest copied, for its hash list. */
export async function hashedFiles(db: Sequelize, jobId: number): Promise<HashedFile[]> {
  const rows = await select<{ hashes: unknown }>(
    db,
    `SELECT hashes FROM ingest_item WHERE job_id = :jobId AND state = 'done' AND hashes IS NOT NULL ORDER BY id`,
    { jobId },
  );
  return rows.flatMap(({ hashes }) => fromJson<HashedFile[]>(hashes));
}

/** What became of everything; what went wrong first. */
export async function ingestReport(db: Sequelize, jobId: number): Promise<IngestReport> {
  const counts = await select<{ state: IngestState; n: number }>(
    db,
    'SELECT state, COUNT(*) AS n FROM ingest_item WHERE job_id = :jobId GROUP BY state',
    { jobId },
  );
  const rows = await select<Omit<IngestItem, 'xxh64'> & { hashes: unknown }>(
    db,
    `SELECT path, state, bytes, asset_id AS assetId, to_path AS toPath, hashes, message FROM ingest_item WHERE job_id = :jobId
     ORDER BY FIELD(state, 'failed', 'working', 'skipped', 'waiting', 'done'), id LIMIT ${SHOWN}`,
    { jobId },
  );
  return {
    counts: Object.fromEntries(
      INGEST_STATES.map((state) => [state, Number(counts.find((count) => count.state === state)?.n ?? 0)]),
    ) as IngestReport['counts'],
    items: rows.map(({ hashes, ...row }) => ({
      ...row,
      xxh64: fromJson<HashedFile[] | null>(hashes)?.[0]?.xxh64 ?? null,
    })),
  };
}
