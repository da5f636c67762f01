import { QueryTypes, type Sequelize } from 'sequelize';
import type { FieldRegistry } from '@larder/core/fields';
import { loadQuery, withLiveBins, type Query, type SavedQuery } from '@larder/core/query';
import type { LiveBinWatch } from '@larder/contract';
import { write } from './change-feed';
import { fromJson, select } from './database';
import { notFound, refused } from './errors';
import { asAskedBy } from './flags';

/** More of them nobody follows; each is looked at with every change. */
const MOST_WATCHED = 20;
/** Rows of one statement. */
const BATCH = 1000;

/** A live bin that somebody wants to be told of, and what it asks for when they ask it. */
export interface WatchedBin {
  readonly personId: number;
  readonly liveBinId: number;
  readonly tree: Query;
}

interface BinRecord {
  readonly id: number;
  readonly name: string;
  readonly query: unknown;
  readonly shared: number;
  readonly personId: number | null;
}

/** All that are watched, by whomever. Without models: the index's thread has none. */
export async function watchedBins(db: Sequelize, fields: FieldRegistry): Promise<WatchedBin[]> {
  const watches = await select<{ personId: number; liveBinId: number }>(
    db,
    'SELECT person_id AS personId, live_bin_id AS liveBinId FROM live_bin_watch',
  );
  if (watches.length === 0) return [];
  const rows = await select<BinRecord>(
    db,
    'SELECT id, name, query, shared, person_id AS personId FROM live_bin ORDER BY name, id',
  );
  const named = rows.flatMap((row) => {
    const tree = readable(row.query, fields);
    const isSeenBy = (person: number) => Boolean(row.shared) || row.personId === person;
    return tree ? [{ id: row.id, name: row.name, tree, isSeenBy }] : [];
  });
  return watches.flatMap(({ personId, liveBinId }) => {
    const seen = named.filter((bin) => bin.isSeenBy(personId));
    const bin = seen.find(({ id }) => id === liveBinId);
    return bin
      ? [{ personId, liveBinId, tree: asAskedBy({ id: personId }, withLiveBins(bin.tree, seen, [liveBinId])) }]
      : [];
  });
}

/** Null for what this version cannot read: one such bin must not keep the index from going on. */
function readable(query: unknown, fields: FieldRegistry): Query | null {
  try {
    return loadQuery(fromJson<SavedQuery>(query), fields);
  } catch {
    return null;
  }
}

/** Notes what came into a watched bin with the changes up to a revision, and what is there no longer. */
export async function noteArrivals(
  db: Sequelize,
  { personId, liveBinId }: Pick<WatchedBin, 'personId' | 'liveBinId'>,
  {
    came,
    left,
    revision,
  }: { readonly came: readonly number[]; readonly left: readonly number[]; readonly revision: number },
): Promise<void> {
  for (let start = 0; start < came.length; start += BATCH)
    await db.query(
      // Who has stopped watching meanwhile is told of nothing. What came in while nobody looked counts from its last time.
      'INSERT IGNORE INTO live_bin_arrival (person_id, live_bin_id, asset_id, revision) VALUES :rows ON DUPLICATE KEY UPDATE revision = VALUES(revision)',
      {
        replacements: { rows: came.slice(start, start + BATCH).map((id) => [personId, liveBinId, id, revision]) },
        type: QueryTypes.INSERT,
      },
    );
  for (let start = 0; start < left.length; start += BATCH)
    await db.query(
      'DELETE FROM live_bin_arrival WHERE person_id = :personId AND live_bin_id = :liveBinId AND asset_id IN (:ids)',
      { replacements: { personId, liveBinId, ids: left.slice(start, start + BATCH) }, type: QueryTypes.DELETE },
    );
}

/** What a person is to be told, by the live bins that they watch. */
export async function watchesOf(db: Sequelize, personId: number): Promise<ReadonlyMap<number, LiveBinWatch>> {
  const rows = await select<{ liveBinId: number } & LiveBinWatch>(
    db,
    `SELECT w.live_bin_id AS liveBinId, w.since_ms AS sinceMs, COUNT(a.id) AS cameIn, COALESCE(MAX(x.revision), 0) AS upTo FROM live_bin_watch w
     LEFT JOIN live_bin_arrival x ON x.person_id = w.person_id AND x.live_bin_id = w.live_bin_id LEFT JOIN asset a ON a.id = x.asset_id
     WHERE w.person_id = :personId GROUP BY w.live_bin_id, w.since_ms`,
    { personId },
  );
  return new Map(
    rows.map(({ liveBinId, sinceMs, cameIn, upTo }) => [
      liveBinId,
      { sinceMs, cameIn: Number(cameIn), upTo: Number(upTo) },
    ]),
  );
}

/** The newest first. */
export const cameInto = async (db: Sequelize, personId: number, liveBinId: number, limit: number): Promise<number[]> =>
  (
    await select<{ id: number }>(
      db,
      `SELECT a.id FROM live_bin_arrival x JOIN asset a ON a.id = x.asset_id
       WHERE x.person_id = :personId AND x.live_bin_id = :liveBinId ORDER BY x.revision DESC, a.id LIMIT :limit`,
      { personId, liveBinId, limit },
    )
  ).map(({ id }) => id);

/** Watches a live bin from now on, or no longer. */
export async function watchLiveBin(db: Sequelize, personId: number, liveBinId: number, on: boolean): Promise<void> {
  await write(db, personId, async ({ transaction, log }) => {
    const [bin] = await select<{ id: number }>(
      db,
      'SELECT id FROM live_bin WHERE id = :liveBinId AND (shared OR person_id = :personId) LOCK IN SHARE MODE',
      { liveBinId, personId },
      transaction,
    );
    if (!bin) throw notFound('live bin');
    const own = await select<{ liveBinId: number }>(
      db,
      'SELECT live_bin_id AS liveBinId FROM live_bin_watch WHERE person_id = :personId FOR UPDATE',
      { personId },
      transaction,
    );
    if (own.some((each) => each.liveBinId === liveBinId) === on) return;
    if (on && own.length >= MOST_WATCHED)
      throw refused(`You are told of ${MOST_WATCHED} live bins already. Leave one of them first.`);
    await db.query(
      on
        ? 'INSERT INTO live_bin_watch (person_id, live_bin_id, since_ms) VALUES (:personId, :liveBinId, :now)'
        : 'DELETE FROM live_bin_watch WHERE person_id = :personId AND live_bin_id = :liveBinId',
      { replacements: { personId, liveBinId, now: Date.now() }, transaction },
    );
    log({ action: on ? 'watch' : 'unwatch', entity: 'live-bin', entityId: liveBinId });
  });
}

/** What came in up to a revision was looked at. */
export async function sawArrivals(db: Sequelize, personId: number, liveBinId: number, revision: number): Promise<void> {
  const replacements = { personId, liveBinId, revision, now: Date.now() };
  await write(db, personId, async ({ transaction, log }) => {
    const [known] = await select<{ n: number }>(
      db,
      'SELECT 1 AS n FROM live_bin_watch WHERE person_id = :personId AND live_bin_id = :liveBinId FOR UPDATE',
      replacements,
      transaction,
    );
    if (!known) throw notFound('live bin');
    await db.query(
      'DELETE FROM live_bin_arrival WHERE person_id = :personId AND live_bin_id = :liveBinId AND revision <= :revision',
      { replacements, transaction },
    );
    await db.query(
      'UPDATE live_bin_watch SET since_ms = :now WHERE person_id = :personId AND live_bin_id = :liveBinId',
      { replacements, transaction },
    );
    log({ action: 'saw', entity: 'live-bin', entityId: liveBinId });
  });
}
