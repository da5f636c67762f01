import { QueryTypes, type Sequelize, type Transaction } from 'sequelize';
import type { Evidence, Likeness } from '@larder/core/relink';
import type { ShelfItem } from '@larder/core/shelf';
import { assetColumns, pathHash, renditionJobs } from '../jobs/catalogue';
import { enqueue } from '../jobs/queue';
import type { Probed } from '../media/probe';
import type { Writing } from './change-feed';
import { select } from './database';
import { notFound, refused } from './errors';
import { AssetRow, RenditionRow } from './models';
import { moveRanges, refuseMisfits, type Moved } from './moved-ranges';
import { untouchedAssets } from './usage';

/** A missing original with the file that it is pointed at, which has just been opened. */
export interface Link {
  readonly assetId: number;
  readonly storageId: number;
  readonly item: ShelfItem;
  readonly probed: Probed;
  readonly likeness: Likeness;
  readonly verified: readonly Evidence[];
  /** By how many frames everything in the asset is moved, so that it stays at its timecode. */
  readonly shift: number;
}

/** What a relink is carried out for; the feed keeps it, so that undo by a key goes by when people asked for what they did. */
interface Asked {
  /** Milliseconds since 1970; hours before, where files come from an archive. */
  readonly askedMs: number;
}

/** What is said of an asset's file; what undo puts back. */
type FileColumns = Readonly<Record<string, unknown>>;

/** An asset that a scan made of a file, as it was before it was folded into another. */
interface Folded {
  readonly row: FileColumns;
  /** Other places of its file, which went to the other asset. */
  readonly locations: readonly number[];
}

/**
 * Points missing assets at their files, all of them or none. Never makes an asset; may take away one that a scan made of the same file,
 * if nobody has made use of it. Gives those that it took away.
 */
export async function relink(
  db: Sequelize,
  writing: Writing,
  links: readonly Link[],
  { askedMs }: Asked,
): Promise<number[]> {
  const assets = await lockedAssets(
    links.map(({ assetId }) => assetId),
    writing.transaction,
  );
  await refuseMisfits(
    db,
    links.map(({ assetId, item, probed, shift }) => ({
      ...{ assetId, shift, name: assets.get(assetId)?.name ?? item.name, frames: probed.facts.durationFrames },
    })),
    'Nothing was relinked.',
    writing.transaction,
  );
  const folded = await foldTwins(db, writing, links);
  for (const link of links) {
    const asset = assets.get(link.assetId);
    if (!asset) throw notFound('asset');
    if (asset.shelfState === 'online')
      throw refused(`${asset.name} is not missing any more: somebody mended it meanwhile. Nothing was relinked.`);
    await pointAt(db, writing, asset, link, askedMs);
  }
  return folded;
}

async function lockedAssets(ids: readonly number[], transaction: Transaction): Promise<Map<number, AssetRow>> {
  const rows = new Map<number, AssetRow>();
  // In the order of their numbers, as everybody locks them.
  const sorted = ids.toSorted((a, b) => a - b);
  for (let start = 0; start < sorted.length; start += AT_ONCE)
    for (const row of await AssetRow.findAll({
      where: { id: sorted.slice(start, start + AT_ONCE) },
      order: ['id'],
      transaction,
      lock: true,
    }))
      rows.set(row.id, row);
  return rows;
}

const AT_ONCE = 500;

/** What the slate said stays known where the new file does not say it. */
const KEPT = ['reel', 'scene', 'take', 'shotMs', 'startFrame'] as const;

async function pointAt(db: Sequelize, writing: Writing, asset: AssetRow, link: Link, askedMs: number): Promise<void> {
  const { log, transaction } = writing;
  const { addedMs: _added, ...columns } = assetColumns(link.storageId, link.item, link.probed, Date.now());
  const kept = Object.fromEntries(
    KEPT.flatMap((key) => (asset[key] !== null && (columns as FileColumns)[key] == null ? [[key, asset[key]]] : [])),
  );
  const after: FileColumns = { reason: null, ...columns, ...kept };
  const before = pick(asset, Object.keys(after));
  await asset.update(after, { transaction });
  await remakeRenditions(asset, link.likeness !== 'lookalike', transaction);
  const moved = await moveRanges(db, writing, asset, link.shift);
  log({ action: 'relink', entity: 'asset', entityId: asset.id, before, after: { ...after, ...moved, askedMs } });
}

const pick = (asset: AssetRow, keys: readonly string[]): FileColumns =>
  Object.fromEntries(keys.map((key) => [key, asset.get(key) ?? null]));

/** What was made of the same stretch of the same pictures and sound still fits; everything else is made anew. */
async function remakeRenditions(asset: AssetRow, fits: boolean, transaction: Transaction): Promise<void> {
  if (fits && (await RenditionRow.count({ where: { assetId: asset.id }, transaction })) > 0) return;
  await RenditionRow.destroy({ where: { assetId: asset.id }, transaction });
  if (asset.shelfState === 'online') await enqueue(renditionJobs(asset), transaction);
}

/** Takes the entries away that a scan made of the very files that missing assets are pointed at, and gives what hung on them on. */
async function foldTwins(db: Sequelize, writing: Writing, links: readonly Link[]): Promise<number[]> {
  const twins = await twinsOf(db, links, writing.transaction);
  const untouched = await untouchedAssets(
    db,
    twins.map(({ twinId }) => twinId),
  );
  for (const { name, twinId } of twins)
    if (!untouched.has(twinId))
      throw refused(
        `${name} is already asset #${twinId}, which somebody has logged or used. Relinking would make two assets of one file.`,
      );
  for (const { assetId, twinId } of twins) await foldOne(db, writing, twinId, assetId);
  return twins.map(({ twinId }) => twinId);
}

/** What hangs on the file itself, its other places and what was read of it, goes on to the asset that it is folded into. */
async function foldOne(db: Sequelize, { log, transaction }: Writing, twinId: number, into: number): Promise<void> {
  const twin = await AssetRow.findByPk(twinId, { transaction, lock: true });
  if (!twin) return;
  const locations = await select<{ id: number }>(
    db,
    'SELECT id FROM asset_location WHERE asset_id = :twinId',
    { twinId },
    transaction,
  );
  for (const table of ['asset_location', 'fixity'])
    await db.query(`UPDATE ${table} SET asset_id = :into WHERE asset_id = :twinId`, {
      replacements: { into, twinId },
      transaction,
      type: QueryTypes.UPDATE,
    });
  const row = pick(twin, Object.keys(AssetRow.getAttributes()));
  await twin.destroy({ transaction });
  const before: Folded = { row, locations: locations.map(({ id }) => id) };
  log({ action: 'fold', entity: 'asset', entityId: twinId, before: { ...before }, after: { into } });
}

interface Twin {
  readonly assetId: number;
  readonly twinId: number;
  readonly name: string;
}

/** The other assets that have the files of some links, as their own; where it is another place of the asset itself, it is that no longer. */
async function twinsOf(db: Sequelize, links: readonly Link[], transaction: Transaction): Promise<Twin[]> {
  const twins: Twin[] = [];
  for (const { assetId, item, storageId } of links) {
    const place = { storageId, hash: pathHash(item.path) };
    const [location] = await select<{ id: number; assetId: number }>(
      db,
      'SELECT id, asset_id AS assetId FROM asset_location WHERE storage_id = :storageId AND path_hash = :hash',
      place,
      transaction,
    );
    if (location && location.assetId !== assetId)
      throw refused(`${item.name} is another place of asset #${location.assetId} already.`);
    if (location)
      await db.query('DELETE FROM asset_location WHERE id = :id', {
        replacements: { id: location.id },
        transaction,
        type: QueryTypes.DELETE,
      });
    const [twin] = await select<{ id: number }>(
      db,
      'SELECT id FROM asset WHERE storage_id = :storageId AND path_hash = :hash',
      place,
      transaction,
    );
    if (twin && twin.id !== assetId) twins.push({ assetId, twinId: twin.id, name: item.name });
  }
  return twins;
}

export interface RelinkSides {
  readonly entity: string;
  readonly entityId: number;
  readonly action: string;
  readonly before: object;
  readonly after: object;
}

/** What undo of a relink, and redo of it, write; both can be turned round again. */
export const RELINK_ACTIONS = ['relink', 'fold', 'unfold'] as const;

/**
 * Points assets back at where they were before a relink, and makes again what was folded in; or the other way round. Refuses, as a
 * whole, where an asset has been pointed elsewhere since.
 */
export async function putRelinksBack(db: Sequelize, writing: Writing, changes: readonly RelinkSides[]): Promise<void> {
  const { log, transaction } = writing;
  const of = (action: string) => changes.filter((change) => change.action === action);
  // String-outs go with the assets that they are cut from.
  const moved = of('relink').filter(({ entity }) => entity === 'asset');
  const assets = await lockedAssets(
    moved.map(({ entityId }) => entityId),
    transaction,
  );
  await refuseMisfits(
    db,
    moved.map(({ entityId, before, after }) => ({
      ...{ assetId: entityId, name: assets.get(entityId)?.name ?? '', shift: -((after as Partial<Moved>).shift ?? 0) },
      frames: (before as FileColumns)['durationFrames'] as number | null,
    })),
    'Nothing was undone.',
    transaction,
  );
  // Taken away before their place is needed, and made again after it is free.
  for (const { entityId, before } of of('unfold')) await foldAgain(db, writing, entityId, before as { into: number });
  for (const { entityId, before, after } of moved) {
    const asset = assets.get(entityId);
    const [was, is] = [before as FileColumns, after as FileColumns];
    if (!asset || asset.storageId !== is['storageId'] || asset.pathHash !== is['pathHash'])
      throw refused('One of these has been relinked or taken away since. Nothing was undone.');
    await refuseTaken(db, entityId, was, transaction);
    const { lostWords = [], shift = 0 } = after as Partial<Moved>;
    const now = pick(asset, Object.keys(was));
    await asset.update({ ...was }, { transaction });
    await remakeRenditions(asset, was['fingerprint'] === is['fingerprint'] || sameTime(was, is), transaction);
    const moved = await moveRanges(db, writing, asset, -shift, lostWords);
    log({ action: 'relink', entity: 'asset', entityId, before: now, after: { ...was, ...moved } });
  }
  for (const { entityId, before, after } of of('fold'))
    await unfold(db, writing, entityId, before as Folded, after as { into: number });
}

/** Refuses to point an asset at a place that has become another's. */
async function refuseTaken(db: Sequelize, id: number, place: FileColumns, transaction: Transaction): Promise<void> {
  const [taken] = await select<{ id: number; name: string }>(
    db,
    'SELECT id, name FROM asset WHERE storage_id = :storageId AND path_hash = :pathHash AND id <> :id',
    { storageId: place['storageId'], pathHash: place['pathHash'], id },
    transaction,
  );
  if (taken)
    throw refused(
      `Where one of these was, ${taken.name} has been catalogued since as asset #${taken.id}. Nothing was undone.`,
    );
}

const sameTime = (a: FileColumns, b: FileColumns): boolean =>
  (['startFrame', 'durationFrames', 'rateNum', 'rateDen'] as const).every((key) => a[key] === b[key]);

async function unfold(
  db: Sequelize,
  { log, transaction }: Writing,
  id: number,
  { locations, row }: Folded,
  { into }: { readonly into: number },
): Promise<void> {
  await refuseTaken(db, id, row, transaction);
  const asset = await AssetRow.create({ ...row, id } as never, { transaction });
  if (locations.length > 0)
    await db.query('UPDATE asset_location SET asset_id = :id WHERE id IN (:locations) AND asset_id = :into', {
      replacements: { id, locations, into },
      transaction,
      type: QueryTypes.UPDATE,
    });
  await db.query(
    'UPDATE fixity SET asset_id = :id WHERE asset_id = :into AND storage_id = :storageId AND path_hash = :hash',
    {
      replacements: { id, into, storageId: asset.storageId, hash: asset.pathHash },
      transaction,
      type: QueryTypes.UPDATE,
    },
  );
  await enqueue(renditionJobs(asset), transaction);
  log({ action: 'unfold', entity: 'asset', entityId: id, before: { into }, after: { path: asset.path } });
}

async function foldAgain(
  db: Sequelize,
  writing: Writing,
  twinId: number,
  { into }: { readonly into: number },
): Promise<void> {
  if (!(await untouchedAssets(db, [twinId])).has(twinId))
    throw refused('Somebody has logged or used what would be folded in again. Nothing was changed.');
  await foldOne(db, writing, twinId, into);
}
