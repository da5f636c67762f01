import { createHash } from 'node:crypto';
import { QueryTypes, type Sequelize } from 'sequelize';
import { select } from './database';

/** As many are remembered of each person; older ones are forgotten. */
const REMEMBERED = 50;

/** A person's own searches, the last one first. */
export const pastSearches = async (db: Sequelize, personId: number): Promise<string[]> =>
  (
    await select<{ query: string }>(
      db,
      'SELECT query FROM past_search WHERE person_id = :personId ORDER BY at_ms DESC, query_hash LIMIT :limit',
      { personId, limit: REMEMBERED },
    )
  ).map(({ query }) => query);

/** Remembers a search; like where somebody stopped logging, no change of the library, and nobody else's business. */
export async function rememberSearch(db: Sequelize, personId: number, query: string): Promise<void> {
  const hash = createHash('sha1').update(query).digest('hex');
  const write = (sql: string) =>
    db.query(sql, { replacements: { personId, hash, query, now: Date.now() }, type: QueryTypes.RAW });
  // Two within a millisecond have an order, too.
  await write(
    `INSERT INTO past_search (person_id, query_hash, query, at_ms)
     SELECT :personId, :hash, :query, GREATEST(:now, COALESCE(MAX(at_ms) + 1, 0)) FROM past_search WHERE person_id = :personId
     ON DUPLICATE KEY UPDATE at_ms = VALUES(at_ms)`,
  );
  await write(
    `DELETE FROM past_search WHERE person_id = :personId AND at_ms < (SELECT at_ms FROM (
       SELECT at_ms FROM past_search WHERE person_id = :personId ORDER BY at_ms DESC LIMIT 1 OFFSET ${REMEMBERED - 1}) oldest)`,
  );
}

export async function forgetSearches(db: Sequelize, personId: number): Promise<void> {
  await db.query('DELETE FROM past_search WHERE person_id = :personId', {
    replacements: { personId },
    type: QueryTypes.DELETE,
  });
}
