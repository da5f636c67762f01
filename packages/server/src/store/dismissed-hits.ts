import { createHash } from 'node:crypto';
import { QueryTypes, type Sequelize } from 'sequelize';
import { type SpokenItem } from '@larder/core/dialogue';
import { select } from './database';
import { notFound } from './errors';

/** What is looked for, in whatever order and however strictly: what was dismissed stays so. */
const askedKey = (items: readonly SpokenItem[]): string =>
  createHash('sha256')
    .update(
      JSON.stringify(
        items
          .map(({ ways, without }) => {
            const said = ways.map(({ begun, words }) => `${words.join(' ')}\t${begun}`);
            return [...said.sort(), without].join('\t');
          })
          .sort(),
      ),
    )
    .digest('hex');

/** The moments, in milliseconds, at which a person dismissed hits of a search in some assets; each with its asset before it. */
export async function dismissedHits(
  db: Sequelize,
  personId: number,
  items: readonly SpokenItem[],
  assetIds: readonly number[],
): Promise<ReadonlySet<string>> {
  if (assetIds.length === 0) return new Set();
  const rows = await select<{ assetId: number; startMs: number }>(
    db,
    'SELECT asset_id AS assetId, start_ms AS startMs FROM dismissed_hit WHERE person_id = :personId AND asked = :asked AND asset_id IN (:assetIds)',
    { personId, asked: askedKey(items), assetIds },
  );
  return new Set(rows.map(({ assetId, startMs }) => hitKey(assetId, startMs)));
}

export const hitKey = (assetId: number, startMs: number): string => `${assetId} ${startMs}`;

/** A person's own, like what they searched for before: nobody else is told. */
export async function dismissHit(
  db: Sequelize,
  personId: number,
  items: readonly SpokenItem[],
  { assetId, dismissed, startMs }: { readonly assetId: number; readonly startMs: number; readonly dismissed: boolean },
): Promise<void> {
  const replacements = { personId, asked: askedKey(items), assetId, startMs };
  if (!dismissed) {
    await db.query(
      'DELETE FROM dismissed_hit WHERE person_id = :personId AND asked = :asked AND asset_id = :assetId AND start_ms = :startMs',
      { replacements, type: QueryTypes.DELETE },
    );
    return;
  }
  const [, inserted] = await db.query(
    `INSERT INTO dismissed_hit (person_id, asked, asset_id, start_ms) SELECT :personId, :asked, id, :startMs FROM asset WHERE id = :assetId
     ON DUPLICATE KEY UPDATE start_ms = VALUES(start_ms)`,
    { replacements, type: QueryTypes.INSERT },
  );
  if (inserted === 0 && (await select(db, 'SELECT id FROM asset WHERE id = :assetId', { assetId })).length === 0)
    throw notFound('asset');
}
