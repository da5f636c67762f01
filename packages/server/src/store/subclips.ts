import { isDeepStrictEqual } from 'node:util';
import { QueryTypes, type Sequelize, type Transaction } from 'sequelize';
import type { Asset, NewSubclip, SubclipRange, Written } from '@larder/contract';
import { enqueue } from '../jobs/queue';
import { assetsById } from './assets';
import { write, type Writing } from './change-feed';
import { select } from './database';
import { notFound, refused } from './errors';
import { hangingOn, putRow, type KeptRow } from './kept-rows';

const POSTER_PRIORITY = 20;

/** The subclips of an asset, in the order of their beginnings. */
export async function subclipsOf(db: Sequelize, assetId: number): Promise<Asset[]> {
  const rows = await select<{ id: number }>(
    db,
    'SELECT id FROM asset WHERE parent_id = :assetId ORDER BY in_place, id',
    { assetId },
  );
  return assetsById(
    db,
    rows.map(({ id }) => id),
  );
}

/** The whole that a range is of, the range counted in it: a subclip of a subclip is one of the whole. */
async function wholeOf(
  db: Sequelize,
  assetId: number,
  { in: start, out: end }: SubclipRange,
  transaction: Transaction,
): Promise<{ readonly whole: Asset; readonly in: number; readonly out: number }> {
  // Held until the subclip is there, or it could miss a move of all that stands in the asset.
  await select(
    db,
    'SELECT a.id FROM asset c JOIN asset a ON a.id = COALESCE(c.parent_id, c.id) WHERE c.id = :assetId FOR UPDATE',
    { assetId },
    transaction,
  );
  const [asset] = await assetsById(db, [assetId], transaction);
  if (!asset) throw notFound('asset');
  if (asset.parentId === null) return { whole: asset, in: start, out: end };
  const [whole] = await assetsById(db, [asset.parentId], transaction);
  if (!whole) throw notFound('asset');
  return { whole, in: asset.inPlace + start, out: asset.inPlace + end };
}

/** Of a stretch of an asset: its length in the columns that say so. */
function lengthOf({ rate, durationFrames, durationMs }: Asset, start: number, end: number) {
  const whole = durationFrames ?? durationMs;
  if (whole === null) throw refused('This asset has no length in time, so no part of it can be named.');
  if (end > whole) throw refused('The subclip would end after its asset does.');
  const length = end - start;
  return rate && durationFrames !== null
    ? { frames: length, ms: Math.round((length * 1000 * rate.den) / rate.num) }
    : { frames: null, ms: length };
}

/** Names a stretch of an asset. It begins with the reel, scene, take and place of the whole, and is logged by itself from then on. */
export async function addSubclip(
  db: Sequelize,
  personId: number,
  assetId: number,
  asked: NewSubclip,
): Promise<Written & { id: number }> {
  const { value, revision, group, changed } = await write(db, personId, (writing) =>
    insert(db, writing, assetId, asked),
  );
  return { revision, group, changed, id: value };
}

/** As `addSubclip`, of several, as one write. */
export async function addSubclips(
  db: Sequelize,
  personId: number,
  subclips: readonly (NewSubclip & { readonly assetId: number })[],
): Promise<Written> {
  const { revision, group, changed } = await write(db, personId, async (writing) => {
    for (const { assetId, ...asked } of subclips) await insert(db, writing, assetId, asked);
  });
  return { revision, group, changed };
}

async function insert(
  db: Sequelize,
  { log, transaction }: Writing,
  assetId: number,
  asked: NewSubclip,
): Promise<number> {
  const { whole, in: start, out: end } = await wholeOf(db, assetId, asked, transaction);
  const { frames, ms } = lengthOf(whole, start, end);
  const [id] = await db.query(
    `INSERT INTO asset (kind, name, title, reel, scene, take, place, shot_ms, added_ms, duration_frames, duration_ms, parent_id, in_place, path, path_hash, bytes, modified_ms, shelf_state, state_since_ms)
     SELECT kind, :name, :name, reel, scene, take, place, shot_ms, :now, :frames, :ms, id, :start, '', '', 0, modified_ms, 'online', :now FROM asset WHERE id = :whole`,
    {
      replacements: { name: asked.name, now: Date.now(), frames, ms, start, whole: whole.id },
      transaction,
      type: QueryTypes.INSERT,
    },
  );
  await enqueuePoster(id, asked.name, whole.kind, transaction);
  log({ action: 'subclip', entity: 'asset', entityId: id, after: { parentId: whole.id, in: start, out: end } });
  return id;
}

async function enqueuePoster(id: number, name: string, kind: string, transaction: Transaction): Promise<void> {
  if (kind !== 'video' && kind !== 'sequence') return;
  const poster = { kind: 'poster', subject: name, payload: { assetId: id }, assetId: id } as const;
  await enqueue([{ ...poster, unit: '', priority: POSTER_PRIORITY }], transaction);
}

interface Bounds {
  readonly parentId: number;
  readonly in: number;
  readonly out: number;
}

async function boundsOf(db: Sequelize, id: number, transaction: Transaction): Promise<Bounds> {
  const [row] = await select<{ parentId: number | null; start: number; length: number }>(
    db,
    'SELECT parent_id AS parentId, in_place AS start, COALESCE(duration_frames, duration_ms) AS length FROM asset WHERE id = :id FOR UPDATE',
    { id },
    transaction,
  );
  if (!row || row.parentId === null) throw notFound('subclip');
  return { parentId: row.parentId, in: row.start, out: row.start + row.length };
}

async function setBounds(
  db: Sequelize,
  writing: Writing,
  id: number,
  before: Bounds,
  range: SubclipRange,
): Promise<void> {
  const { transaction, log } = writing;
  const [whole] = await assetsById(db, [before.parentId], transaction);
  if (!whole) throw notFound('asset');
  const { frames, ms } = lengthOf(whole, range.in, range.out);
  await db.query('UPDATE asset SET in_place = :start, duration_frames = :frames, duration_ms = :ms WHERE id = :id', {
    replacements: { id, start: range.in, frames, ms },
    transaction,
    type: QueryTypes.UPDATE,
  });
  log({ action: 'subclip', entity: 'asset', entityId: id, before: { ...before }, after: { ...before, ...range } });
}

/** Moves the ends of a subclip. Both count in the whole that it is of. */
export async function changeSubclip(
  db: Sequelize,
  personId: number,
  id: number,
  range: SubclipRange,
): Promise<Written> {
  const { revision, group, changed } = await write(db, personId, async (writing) =>
    setBounds(db, writing, id, await boundsOf(db, id, writing.transaction), range),
  );
  return { revision, group, changed };
}

/** What hangs on a subclip and goes with it. */
const HANGING = ['asset_tag', 'bin_asset', 'marker'] as const;

/** All that a subclip was, so that it can be put back. */
interface KeptSubclip extends Bounds {
  readonly row: KeptRow;
  readonly hanging: Readonly<Record<(typeof HANGING)[number], readonly KeptRow[]>>;
}

async function removeOne(db: Sequelize, { transaction, log }: Writing, id: number): Promise<void> {
  const bounds = await boundsOf(db, id, transaction);
  const [row] = await select<KeptRow>(db, 'SELECT * FROM asset WHERE id = :id', { id }, transaction);
  const hanging: Partial<Record<(typeof HANGING)[number], readonly KeptRow[]>> = {};
  for (const table of HANGING) hanging[table] = await hangingOn(db, table, id, transaction);
  await db.query('DELETE FROM asset WHERE id = :id', { replacements: { id }, transaction });
  log({ action: 'remove-subclip', entity: 'asset', entityId: id, before: { ...bounds, row, hanging } });
}

/** Puts a subclip back as it was, but for tags and bins that are gone by now. */
async function restoreOne(db: Sequelize, { transaction, log }: Writing, id: number, kept: KeptSubclip): Promise<void> {
  const [whole] = await select(db, 'SELECT id FROM asset WHERE id = :id', { id: kept.parentId }, transaction);
  if (!whole) throw refused('What the subclip was of is gone.');
  await putRow(db, 'asset', kept.row, transaction);
  for (const table of HANGING) for (const row of kept.hanging[table]) await putRow(db, table, row, transaction);
  await enqueuePoster(id, String(kept.row['name']), String(kept.row['kind']), transaction);
  const { parentId, in: start, out } = kept;
  log({ action: 'restore-subclip', entity: 'asset', entityId: id, after: { parentId, in: start, out } });
}

/** Takes subclips away. What was cut with them stays: cuts are of the whole. */
export async function removeSubclips(db: Sequelize, personId: number, ids: readonly number[]): Promise<Written> {
  const { revision, group, changed } = await write(db, personId, async (writing) => {
    for (const id of ids) await removeOne(db, writing, id);
  });
  return { revision, group, changed };
}

/** One change of a subclip, as the feed has it; without `before` it was made by it, without `after` it was taken away. */
export interface SubclipSides {
  readonly action: string;
  readonly entityId: number;
  readonly before: Partial<KeptSubclip>;
  readonly after: Partial<Bounds>;
}

/** Takes a change of ends back, the making of a subclip that nobody has said anything of since, or its removal. */
export async function putSubclipsBack(
  db: Sequelize,
  writing: Writing,
  changes: readonly SubclipSides[],
): Promise<void> {
  for (const { action, entityId, before, after } of changes) {
    if (action === 'restore-subclip') await removeOne(db, writing, entityId);
    else if (after.in === undefined) await restoreOne(db, writing, entityId, before as KeptSubclip);
    else {
      const now = await boundsOf(db, entityId, writing.transaction);
      if (!isDeepStrictEqual(now, after)) throw refused('The subclip was changed since. Nothing was undone.');
      if (before.in !== undefined && before.out !== undefined)
        await setBounds(db, writing, entityId, now, { in: before.in, out: before.out });
      else await unmake(db, writing, entityId);
    }
  }
}

async function unmake(db: Sequelize, writing: Writing, id: number): Promise<void> {
  const [later] = await select(
    db,
    `SELECT revision FROM change_feed WHERE entity = 'asset' AND entity_id = :id AND action NOT IN ('subclip', 'remove-subclip', 'restore-subclip', 'rendition') LIMIT 1`,
    { id },
    writing.transaction,
  );
  if (later) throw refused('Something was said of the subclip since. Remove it, if it is not wanted.');
  await removeOne(db, writing, id);
}
