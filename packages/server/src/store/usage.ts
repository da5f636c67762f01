import type { Sequelize } from 'sequelize';
import { select } from './database';
import { StringOutRow } from './models';

/** How many frames of each asset, from its first, string-outs make use of. */
export async function neededFrames(): Promise<Map<number, number>> {
  const needed = new Map<number, number>();
  for (const { items } of await StringOutRow.findAll({ attributes: ['items'] }))
    for (const { assetId, out } of items) needed.set(assetId, Math.max(needed.get(assetId) ?? 0, out));
  return needed;
}

/** Those of the assets that nobody has logged, tagged, pulled or cut with: as the scan left them. */
export async function untouchedAssets(db: Sequelize, ids: readonly number[]): Promise<Set<number>> {
  if (ids.length === 0) return new Set();
  const used = await neededFrames();
  const rows = await select<{ id: number }>(
    db,
    `SELECT a.id FROM asset a WHERE a.id IN (:ids) AND a.title IS NULL AND a.description IS NULL AND a.notes IS NULL AND a.verdict IS NULL
     AND NOT EXISTS (SELECT 1 FROM asset_tag x WHERE x.asset_id = a.id) AND NOT EXISTS (SELECT 1 FROM pull p WHERE p.asset_id = a.id)
     AND NOT EXISTS (SELECT 1 FROM bin_asset b WHERE b.asset_id = a.id) AND NOT EXISTS (SELECT 1 FROM marker m WHERE m.asset_id = a.id)
     AND NOT EXISTS (SELECT 1 FROM asset c WHERE c.parent_id = a.id)`,
    { ids },
  );
  return new Set(rows.map((row) => row.id).filter((id) => !used.has(id)));
}
