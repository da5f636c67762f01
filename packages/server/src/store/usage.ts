import type { Sequelize } from 'sequelize';
import { select, selectByIds } from './database';

/** How many frames of each asset, from its first, string-outs make use of. */
export async function neededFrames(db: Sequelize): Promise<Map<number, number>> {
  const rows = await select<{ assetId: number; frames: number }>(
    db,
    `SELECT i.asset_id AS assetId, MAX(i.out_frame) AS frames
     FROM string_out o, JSON_TABLE(o.items, '$[*]' COLUMNS (asset_id BIGINT PATH '$.assetId', out_frame BIGINT PATH '$.out')) i GROUP BY i.asset_id`,
  );
  return new Map(rows.map(({ assetId, frames }) => [Number(assetId), Number(frames)]));
}

/** The projects in whose string-outs an asset is, by their names. */
export async function projectsCutFrom(db: Sequelize): Promise<Map<number, string[]>> {
  const rows = await select<{ assetId: number; name: string }>(
    db,
    `SELECT DISTINCT i.asset_id AS assetId, p.name
     FROM string_out o JOIN project p ON p.id = o.project_id, JSON_TABLE(o.items, '$[*]' COLUMNS (asset_id BIGINT PATH '$.assetId')) i
     ORDER BY p.name`,
  );
  const projects = new Map<number, string[]>();
  for (const { assetId, name } of rows) projects.set(Number(assetId), [...(projects.get(Number(assetId)) ?? []), name]);
  return projects;
}

/** Those of the assets that nobody has logged, tagged, pulled or cut with: as the scan left them. */
export async function untouchedAssets(db: Sequelize, ids: readonly number[]): Promise<Set<number>> {
  if (ids.length === 0) return new Set();
  const used = await neededFrames(db);
  const rows = await selectByIds<{ id: number }>(
    db,
    `SELECT a.id FROM asset a WHERE a.id IN (:ids) AND a.title IS NULL AND a.description IS NULL AND a.notes IS NULL AND a.verdict IS NULL
     AND NOT EXISTS (SELECT 1 FROM asset_tag x WHERE x.asset_id = a.id) AND NOT EXISTS (SELECT 1 FROM pull p WHERE p.asset_id = a.id)
     AND NOT EXISTS (SELECT 1 FROM bin_asset b WHERE b.asset_id = a.id) AND NOT EXISTS (SELECT 1 FROM marker m WHERE m.asset_id = a.id)
     AND NOT EXISTS (SELECT 1 FROM transcript t WHERE t.asset_id = a.id AND t.source <> 'recognised')
     AND NOT EXISTS (SELECT 1 FROM asset c WHERE c.parent_id = a.id)`,
    ids,
  );
  return new Set(rows.map((row) => row.id).filter((id) => !used.has(id)));
}

/** Who has said anything of assets, by their names. */
export async function loggedBy(db: Sequelize, ids: readonly number[]): Promise<Map<number, string[]>> {
  const names = new Map<number, string[]>();
  if (ids.length === 0) return names;
  const rows = await select<{ id: number; name: string }>(
    db,
    `SELECT DISTINCT c.entity_id AS id, p.name FROM change_feed c JOIN person p ON p.id = c.person_id
     WHERE c.entity = 'asset' AND c.entity_id IN (:ids) AND c.action IN ('edit', 'marker', 'subclip', 'correct') ORDER BY p.name`,
    { ids },
  );
  for (const { id, name } of rows) names.set(id, [...(names.get(id) ?? []), name]);
  return names;
}
