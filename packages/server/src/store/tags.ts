import { QueryTypes, type Sequelize, type Transaction } from 'sequelize';
import { fold } from '@larder/core/fields';
import { select } from './database';
import { TagRow } from './models';

/** Spelled the same but for case, accents and gaps, two tags are one. */
export const foldTag = (name: string): string => fold(name).replace(/\s+/g, ' ').trim();

/** The ids of tags by folded name; those that are new are made, spelled as first written. */
export async function tagIds(
  names: readonly string[],
  transaction: Transaction,
): Promise<Map<string, { id: number; name: string }>> {
  const wanted = new Map(names.map((name) => [foldTag(name), name.trim().replace(/\s+/g, ' ')]));
  if (wanted.size === 0) return new Map();
  await TagRow.bulkCreate(
    [...wanted].map(([folded, name]) => ({ folded, name })),
    { transaction, ignoreDuplicates: true },
  );
  const rows = await TagRow.findAll({ where: { folded: [...wanted.keys()] }, transaction });
  return new Map(rows.map((row) => [row.folded, { id: row.id, name: row.name }]));
}

/** Puts tags on assets within a write that is under way. */
export async function putTags(
  db: Sequelize,
  assetIds: readonly number[],
  tags: readonly { readonly id: number }[],
  transaction: Transaction,
): Promise<void> {
  if (tags.length === 0 || assetIds.length === 0) return;
  await db.query(
    'INSERT IGNORE INTO asset_tag (asset_id, tag_id) SELECT a.id, t.id FROM asset a JOIN tag t ON t.id IN (:tags) WHERE a.id IN (:assetIds)',
    { replacements: { assetIds, tags: tags.map(({ id }) => id) }, transaction, type: QueryTypes.INSERT },
  );
}

export const allTags = (db: Sequelize): Promise<{ name: string; uses: number }[]> =>
  select(
    db,
    'SELECT t.name, COUNT(x.asset_id) AS uses FROM tag t LEFT JOIN asset_tag x ON x.tag_id = t.id GROUP BY t.id HAVING uses > 0 ORDER BY uses DESC, t.folded LIMIT 5000',
  );
