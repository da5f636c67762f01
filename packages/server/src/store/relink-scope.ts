import type { Sequelize } from 'sequelize';
import type { LostOf, LostOriginals } from '@larder/contract';
import { select, selectByIds } from './database';
import { notFound, refused } from './errors';
import { IS_AWAY, IS_LOST_HERE } from './relink-plans';

/** Of a subclip the clip that it is of: that is what is lost. */
const OWN = 'COALESCE(c.parent_id, c.id)';

const cutFrom = (where: string): string =>
  `SELECT ${OWN} FROM string_out o JOIN JSON_TABLE(o.items, '$[*]' COLUMNS (asset_id BIGINT PATH '$.assetId')) i JOIN asset c ON c.id = i.asset_id WHERE ${where}`;

/** Which assets belong to what is asked for; null for all. */
const WITHIN: Readonly<Record<Exclude<LostOf, 'assets'>, string | null>> = {
  everything: null,
  storage: `SELECT c.id FROM asset c WHERE c.storage_id = :id AND (:folder = '' OR LEFT(c.path, CHAR_LENGTH(:folder) + 1) = CONCAT(:folder, '/'))`,
  bin: `SELECT ${OWN} FROM bin b JOIN bin w ON w.id = b.id OR LEFT(w.path, CHAR_LENGTH(b.path) + 1) = CONCAT(b.path, '/') JOIN bin_asset x ON x.bin_id = w.id JOIN asset c ON c.id = x.asset_id WHERE b.id = :id`,
  project: cutFrom('o.project_id = :id'),
  'string-out': cutFrom('o.id = :id'),
};

const TABLES = { storage: 'storage', bin: 'bin', project: 'project', 'string-out': 'string_out' } as const;

/** What somebody else took away has nothing lost in it, but to say that would sound as if all were well. */
async function isThere(db: Sequelize, of: keyof typeof TABLES, id: number | null): Promise<boolean> {
  const found = await select(db, `SELECT id FROM ${TABLES[of]} WHERE id = :id`, { id });
  return found.length > 0;
}

/**
 * The originals among those that are asked for that are missing, or are another file than they were, on storages that are there; with
 * `away` also all that are on storages that are not.
 */
export async function lostAmong(
  db: Sequelize,
  { assetIds, folder, id, of }: LostOriginals,
  { away = false } = {},
): Promise<number[]> {
  const isLost = away ? `(${IS_LOST_HERE} OR ${IS_AWAY})` : IS_LOST_HERE;
  if (of === 'assets')
    return (
      await selectByIds<{ id: number }>(
        db,
        `SELECT DISTINCT a.id FROM asset c JOIN asset a ON a.id = ${OWN} WHERE c.id IN (:ids) AND ${isLost}`,
        assetIds,
      )
    ).map((row) => row.id);
  const within = WITHIN[of];
  if (within !== null && id === null) throw refused('Say of what the missing originals are.');
  if (of !== 'everything' && !(await isThere(db, of, id))) throw notFound(of);
  const rows = await select<{ id: number }>(
    db,
    `SELECT a.id FROM asset a WHERE ${isLost} ${within === null ? '' : `AND a.id IN (${within})`}`,
    { id, folder },
  );
  return rows.map((row) => row.id);
}
