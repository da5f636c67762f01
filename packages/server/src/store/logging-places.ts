import { createHash } from 'node:crypto';
import { QueryTypes, type Sequelize } from 'sequelize';
import type { LoggingPlace, LoggingPlaceAt } from '@larder/contract';
import { select } from './database';
import { notFound } from './errors';

/** As many are remembered of each person; older ones are forgotten. */
const REMEMBERED = 20;

export const loggingPlaces = (db: Sequelize, personId: number): Promise<LoggingPlace[]> =>
  select<LoggingPlace>(
    db,
    'SELECT query, asset_id AS assetId, done, total, at_ms AS atMs FROM logging_place WHERE person_id = :personId ORDER BY at_ms DESC LIMIT :limit',
    { personId, limit: REMEMBERED },
  );

/**
 * Remembers where a person is; the last of what they walk through. Not a change of the library: it leaves no row in the feed and is
 * nobody else's business.
 */
export async function setLoggingPlace(db: Sequelize, personId: number, place: LoggingPlaceAt): Promise<void> {
  const [asset] = await select(db, 'SELECT id FROM asset WHERE id = :assetId', { assetId: place.assetId });
  if (!asset) throw notFound('asset');
  await db.query(
    `INSERT INTO logging_place (person_id, query_hash, query, asset_id, done, total, at_ms) VALUES (:personId, :hash, :query, :assetId, :done, :total, :now)
     ON DUPLICATE KEY UPDATE asset_id = :assetId, done = :done, total = :total, at_ms = :now`,
    {
      replacements: {
        ...place,
        personId,
        hash: createHash('sha1').update(place.query).digest('hex'),
        now: Date.now(),
      },
      type: QueryTypes.INSERT,
    },
  );
}
