import { isDeepStrictEqual } from 'node:util';
import { QueryTypes, type Sequelize, type Transaction } from 'sequelize';
import type { Asset, SubclipRange, Written } from '@larder/contract';
import { enqueue } from '../jobs/queue';
import { assetsById } from './assets';
import { write, type Writing } from './change-feed';
import { select } from './database';
import { notFound, refused } from './errors';

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
  asked: SubclipRange & { readonly name: string },
): Promise<Written & { id: number }> {
  const { value, revision, group, changed } = await write(db, personId, async ({ transaction, log }) => {
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
    if (whole.kind === 'video' || whole.kind === 'sequence')
      await enqueue(
        [
          {
            ...{ kind: 'poster', subject: asked.name, payload: { assetId: id }, assetId: id },
            ...{ unit: '', priority: POSTER_PRIORITY },
          },
        ],
        transaction,
      );
    log({ action: 'subclip', entity: 'asset', entityId: id, after: { parentId: whole.id, in: start, out: end } });
    return id;
  });
  return { revision, group, changed, id: value };
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

/** Takes subclips away. What was cut with them stays: cuts are of the whole. */
export async function removeSubclips(db: Sequelize, personId: number, ids: readonly number[]): Promise<Written> {
  const { revision, group, changed } = await write(db, personId, async ({ transaction, log }) => {
    for (const id of ids) {
      const before = await boundsOf(db, id, transaction);
      await db.query('DELETE FROM asset WHERE id = :id', { replacements: { id }, transaction });
      log({ action: 'remove-subclip', entity: 'asset', entityId: id, before: { ...before } });
    }
  });
  return { revision, group, changed };
}

/** One change of a subclip's ends, as the feed has it; without `before` it was made by it. */
export interface SubclipSides {
  readonly entityId: number;
  readonly before: Partial<Bounds>;
  readonly after: Partial<Bounds>;
}

/** Takes a change of ends back, or the making of a subclip that nobody has said anything of since. */
export async function putSubclipsBack(
  db: Sequelize,
  writing: Writing,
  changes: readonly SubclipSides[],
): Promise<void> {
  const { transaction, log } = writing;
  for (const { entityId, before, after } of changes) {
    const now = await boundsOf(db, entityId, transaction);
    if (!isDeepStrictEqual(now, after)) throw refused('The subclip was changed since. Nothing was undone.');
    if (before.in !== undefined && before.out !== undefined)
      await setBounds(db, writing, entityId, now, { in: before.in, out: before.out });
    else {
      const [later] = await select(
        db,
        `SELECT revision FROM change_feed WHERE entity = 'asset' AND entity_id = :entityId AND action NOT IN ('subclip', 'rendition') LIMIT 1`,
        { entityId },
        transaction,
      );
      if (later) throw refused('Something was said of the subclip since. Remove it, if it is not wanted.');
      await db.query('DELETE FROM asset WHERE id = :entityId', { replacements: { entityId }, transaction });
      log({ action: 'remove-subclip', entity: 'asset', entityId, before: { ...now } });
    }
  }
}
