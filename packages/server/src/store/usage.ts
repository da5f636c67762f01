import type { Sequelize, Transaction } from 'sequelize';
import { gathered } from '@larder/core/gather';
import type { UsedRange } from '@larder/core/relink';
import { ASSETS_BY_PARENT, select, selectByIds } from './database';

interface RangeRow {
  readonly assetId: number;
  readonly start: number;
  readonly end: number;
}

/** Within a transaction what is read is what holds now, and stays so until its end. */
const held = (transaction?: Transaction): string => (transaction ? ' LOCK IN SHARE MODE' : '');

type Ranges = Map<number, UsedRange[]>;

/** What string-outs and subclips are cut from some assets, each cut by itself, in frames from the first. */
export async function cutsOf(db: Sequelize, ids: readonly number[], transaction?: Transaction): Promise<Ranges> {
  const wanted = new Set(ids);
  const cuts = await select<RangeRow>(
    db,
    `SELECT DISTINCT i.asset_id AS assetId, i.in_frame AS start, i.out_frame AS end
     FROM string_out o, JSON_TABLE(o.items, '$[*]' COLUMNS (asset_id BIGINT PATH '$.assetId', in_frame BIGINT PATH '$.in', out_frame BIGINT PATH '$.out')) i${held(transaction)}`,
    {},
    transaction,
  );
  const subclips = await selectByIds<RangeRow>(
    db,
    `SELECT parent_id AS assetId, in_place AS start, in_place + duration_frames AS end FROM ${ASSETS_BY_PARENT} WHERE parent_id IN (:ids) AND duration_frames IS NOT NULL${held(transaction)}`,
    ids,
    transaction,
  );
  return rangesIn([...cuts.filter(({ assetId }) => wanted.has(Number(assetId))), ...subclips]);
}

const rangesIn = (rows: readonly RangeRow[]): Ranges =>
  new Map(
    [...gathered(rows, ({ assetId }) => Number(assetId))].map(([id, of]) => [
      id,
      of.map(({ end, start }) => ({ from: Number(start), to: Number(end) })),
    ]),
  );

const markedOf = async (db: Sequelize, ids: readonly number[], transaction?: Transaction): Promise<Ranges> =>
  rangesIn(
    await selectByIds<RangeRow>(
      db,
      `SELECT m.asset_id AS assetId, m.start_at AS start, COALESCE(m.end_at, m.start_at + 1) AS end FROM marker m JOIN asset a ON a.id = m.asset_id
       WHERE m.asset_id IN (:ids) AND a.duration_frames IS NOT NULL${held(transaction)}`,
      ids,
      transaction,
    ),
  );

/** The range of each of some assets that string-outs, subclips and markers make use of, in frames; none for what nobody uses. */
export async function usedRanges(
  db: Sequelize,
  ids: readonly number[],
  transaction?: Transaction,
): Promise<Map<number, UsedRange>> {
  // One after the other: a transaction has one connection.
  const cut = await cutsOf(db, ids, transaction);
  const marked = await markedOf(db, ids, transaction);
  const used = new Map<number, UsedRange>();
  for (const [id, ranges] of [...cut, ...marked])
    used.set(
      id,
      ranges.reduce(
        (all, { from, to }) => ({ from: Math.min(all.from, from), to: Math.max(all.to, to) }),
        used.get(id) ?? { from: Infinity, to: 0 },
      ),
    );
  return used;
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

/** Those of the assets that nobody has logged, tagged, pulled, cut with or relinked: as the scan left them. */
export async function untouchedAssets(
  db: Sequelize,
  ids: readonly number[],
  transaction?: Transaction,
): Promise<Set<number>> {
  if (ids.length === 0) return new Set();
  const cut = await cutsOf(db, ids, transaction);
  const rows = await selectByIds<{ id: number }>(
    db,
    `SELECT a.id FROM asset a WHERE a.id IN (:ids) AND a.title IS NULL AND a.description IS NULL AND a.notes IS NULL AND a.verdict IS NULL
     AND NOT EXISTS (SELECT 1 FROM asset_tag x WHERE x.asset_id = a.id) AND NOT EXISTS (SELECT 1 FROM pull p WHERE p.asset_id = a.id)
     AND NOT EXISTS (SELECT 1 FROM bin_asset b WHERE b.asset_id = a.id) AND NOT EXISTS (SELECT 1 FROM marker m WHERE m.asset_id = a.id)
     AND NOT EXISTS (SELECT 1 FROM transcript t WHERE t.asset_id = a.id AND t.source <> 'recognised')
     AND NOT EXISTS (SELECT 1 FROM asset c WHERE c.parent_id = a.id)
     AND NOT EXISTS (SELECT 1 FROM change_feed f WHERE f.entity = 'asset' AND f.entity_id = a.id AND f.action = 'relink')`,
    ids,
    transaction,
  );
  return new Set(rows.map((row) => row.id).filter((id) => !cut.has(id)));
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
