import { isDeepStrictEqual } from 'node:util';
import { QueryTypes, type Sequelize, type Transaction } from 'sequelize';
import type { Evidence, Likeness } from '@larder/core/relink';
import type { ShelfItem } from '@larder/core/shelf';
import { assetColumns, pathHash, recognitionsOn, renditionJobs, saidColumns } from '../jobs/catalogue';
import { enqueue } from '../jobs/queue';
import type { Probed } from '../media/probe';
import type { Writing } from './change-feed';
import { select } from './database';
import { notFound, refused } from './errors';
import { fold, foldedOf, release, settle, unfold, type Fold } from './fold';
import { AssetRow, RenditionRow, StorageRow } from './models';
import { moveRanges, refuseMisfits, type Moved } from './moved-ranges';
import { AWAY_STORAGES } from './relink-plans';
import { forgetSemblance } from './semblances';
import { addLocation } from './locations';
import { readFields } from './shop-fields';
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
  /** The asset of the same file that whoever accepted it knows to be taken in, used or not; null for none. */
  readonly takesIn: number | null;
}

/** What a relink is carried out for; the feed keeps it, so that undo by a key goes by when people asked for what they did. */
interface Asked {
  /** Milliseconds since 1970; hours before, where files come from an archive. */
  readonly askedMs: number;
}

/** What is said of an asset's file; what undo puts back. */
type FileColumns = Readonly<Record<string, unknown>>;

/**
 * Points missing assets at their files, all of them or none. Never makes an asset; where one was made of the same file meanwhile, it is
 * taken in with all that is said of it. Gives those that were taken in.
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
  const twins = await twinsOf(db, links, writing.transaction);
  await refuseOthers(db, links, twins);
  for (const { twinId } of twins) await release(db, twinId, writing.transaction);
  const away = await awayStorages(db, writing.transaction);
  for (const link of links) {
    const asset = assets.get(link.assetId);
    if (!asset) throw notFound('asset');
    if (asset.shelfState === 'online' && !away.has(asset.storageId ?? 0))
      throw refused(`${asset.name} is not missing any more: somebody mended it meanwhile. Nothing was relinked.`);
    await pointAt(db, writing, asset, link, askedMs);
  }
  await foldAll(
    db,
    writing,
    twins.map(({ assetId, hash, twinId }) => ({ id: twinId, into: assetId, staysAPlace: false, askedMs, hash })),
  );
  return twins.map(({ twinId }) => twinId);
}

async function awayStorages(db: Sequelize, transaction: Transaction): Promise<ReadonlySet<number>> {
  const rows = await select<{ id: number }>(db, AWAY_STORAGES, {}, transaction);
  return new Set(rows.map(({ id }) => id));
}

/** What is used is only taken in where somebody who knew of it said so: it may have been made of that file since, or mended to it. */
async function refuseOthers(db: Sequelize, links: readonly Link[], twins: readonly Twin[]): Promise<void> {
  const known = new Set(links.map(({ takesIn }) => takesIn));
  const others = twins.filter(({ twinId }) => !known.has(twinId));
  const untouched = await untouchedAssets(
    db,
    others.map(({ twinId }) => twinId),
  );
  for (const { name, twinId } of others)
    if (!untouched.has(twinId))
      throw refused(
        `${name} is already asset #${twinId}, which somebody has logged or used. Look for it again to have that merged. Nothing was relinked.`,
      );
}

async function foldAll(
  db: Sequelize,
  writing: Writing,
  folds: readonly (Fold & { readonly hash: string })[],
): Promise<void> {
  if (folds.length === 0) return;
  const fields = await readFields(db);
  for (const { hash, ...each } of folds) await fold(db, writing, fields, each, hash);
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
const KEPT = ['reel', 'scene', 'take', 'shotMs'] as const;

async function pointAt(db: Sequelize, writing: Writing, asset: AssetRow, link: Link, askedMs: number): Promise<void> {
  const { log, transaction } = writing;
  const { addedMs: _added, ...columns } = assetColumns(link.storageId, link.item, link.probed, Date.now());
  const kept = Object.fromEntries(
    // Where a clip begins that is known from a list only, is where the list makes use of it first.
    [...KEPT, ...(asset.listed ? [] : (['startFrame'] as const))].flatMap((key) =>
      asset[key] !== null && (columns as FileColumns)[key] == null ? [[key, asset[key]]] : [],
    ),
  );
  const isFirst = asset.listed;
  const after: FileColumns = {
    reason: null,
    listed: false,
    ...columns,
    ...kept,
    ...(isFirst ? saidFirst(asset, link) : {}),
  };
  const before = pick(asset, Object.keys(after));
  const left = leftPlace(asset);
  await asset.update(after, { transaction });
  if (left) await addLocation(db, asset.id, left.storageId, left, transaction);
  await remakeRenditions(asset, link.likeness !== 'lookalike', transaction);
  if (isFirst)
    await enqueue(recognitionsOn(await StorageRow.findByPk(link.storageId, { transaction }), [asset]), transaction);
  const moved = await moveRanges(db, writing, asset, link.shift);
  const leavesPlace = left !== null;
  log({
    ...{ action: 'relink', entity: 'asset', entityId: asset.id, before },
    after: { ...after, ...moved, askedMs, leavesPlace },
  });
}

/** What a file that was never seen before says in the fields that people fill in, where nobody has said anything yet. */
function saidFirst(asset: AssetRow, { probed }: Link): FileColumns {
  const { logged, ...said } = saidColumns(probed.facts);
  const fresh = Object.entries(said).filter(([key]) => asset.get(key) === null);
  return { ...Object.fromEntries(fresh), logged: { ...logged, ...asset.logged } };
}

/** Where a file is that is not lost, but on a storage that is away: another place of the asset from then on, so that it is no second one. */
const leftPlace = ({ bytes, files, modifiedMs, path, shelfState, storageId }: AssetRow): LeftPlace | null =>
  shelfState === 'online' && storageId !== null ? { storageId, path: path ?? '', files, bytes, modifiedMs } : null;

interface LeftPlace {
  readonly storageId: number;
  readonly path: string;
  readonly files: number;
  readonly bytes: number;
  readonly modifiedMs: number;
}

/** Told with a relink that left a place, and with what takes it back, so that each can be turned round. */
interface Leaving {
  readonly leavesPlace?: boolean;
}

const pick = (asset: AssetRow, keys: readonly string[]): FileColumns =>
  Object.fromEntries(keys.map((key) => [key, asset.get(key) ?? null]));

/** What was made of the same stretch of the same pictures and sound still fits; everything else is made anew. */
async function remakeRenditions(asset: AssetRow, fits: boolean, transaction: Transaction): Promise<void> {
  if (fits && (await RenditionRow.count({ where: { assetId: asset.id }, transaction })) > 0) return;
  await RenditionRow.destroy({ where: { assetId: asset.id }, transaction });
  await forgetSemblance(asset.sequelize, asset.id, transaction);
  if (asset.shelfState === 'online') await enqueue(renditionJobs(asset), transaction);
}

interface Twin {
  readonly assetId: number;
  readonly twinId: number;
  readonly name: string;
  /** Of its path. */
  readonly hash: string;
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
    if (twin && twin.id !== assetId) twins.push({ assetId, twinId: twin.id, name: item.name, hash: place.hash });
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
export const RELINK_ACTIONS = ['relink', 'fold', 'unfold', 'merge'] as const;

/**
 * Points assets back at where they were before a relink, and makes again what was folded in; or the other way round. Refuses, as a
 * whole, where an asset has been pointed elsewhere since.
 */
export async function putRelinksBack(db: Sequelize, writing: Writing, changes: readonly RelinkSides[]): Promise<void> {
  const { log, transaction } = writing;
  const of = (action: string) => changes.filter((change) => change.action === action);
  // String-outs go with the assets that they are cut from.
  const moved = of('relink').filter(({ entity }) => entity === 'asset');
  const movedIds = moved.map(({ entityId }) => entityId);
  await lockedAssets(movedIds, transaction);
  // What was taken in is out again before what took it in is moved; each waits until its place is free.
  for (const { entityId, before, after } of of('fold').toReversed())
    await unfold(db, writing, entityId, foldedOf(before), after as Fold);
  const again: (Fold & { hash: string })[] = [];
  for (const { entityId: id, before } of of('unfold')) {
    const asset = await AssetRow.findByPk(id, { transaction, lock: true });
    if (!asset) throw refused('One of these has been taken away since. Nothing was changed.');
    again.push({ ...(before as Pick<Fold, 'into' | 'staysAPlace'>), id, askedMs: Date.now(), hash: asset.pathHash });
    await release(db, id, transaction);
  }
  // Read again: what they took of reel, scene and take from what was taken in is gone from them by now.
  const assets = await lockedAssets(movedIds, transaction);
  await refuseMisfits(
    db,
    moved.map(({ entityId, before, after }) => ({
      ...{ assetId: entityId, name: assets.get(entityId)?.name ?? '', shift: -((after as Partial<Moved>).shift ?? 0) },
      frames: (before as FileColumns)['durationFrames'] as number | null,
    })),
    'Nothing was undone.',
    transaction,
  );
  for (const { entityId, before, after } of moved) {
    const asset = assets.get(entityId);
    const { leavesPlace: leaves = false, ...all } = before as FileColumns & Leaving;
    const is = after as FileColumns & Leaving;
    if (!asset || asset.storageId !== is['storageId'] || asset.pathHash !== is['pathHash'])
      throw refused('One of these has been relinked or taken away since. Nothing was undone.');
    const was = unlessSaidSince(asset, all, is);
    await refuseTaken(db, entityId, was, transaction);
    const { lostWords = [], shift = 0 } = after as Partial<Moved>;
    const now = { ...pick(asset, Object.keys(was)), leavesPlace: is.leavesPlace ?? false };
    const left = leaves ? leftPlace(asset) : null;
    if (is.leavesPlace)
      await db.query(
        'DELETE FROM asset_location WHERE asset_id = :id AND storage_id = :storageId AND path_hash = :hash',
        {
          replacements: { id: entityId, storageId: was['storageId'], hash: was['pathHash'] },
          transaction,
          type: QueryTypes.DELETE,
        },
      );
    await asset.update({ ...was }, { transaction });
    if (left) await addLocation(db, entityId, left.storageId, left, transaction);
    await remakeRenditions(asset, was['fingerprint'] === is['fingerprint'] || sameTime(was, is), transaction);
    const moved = await moveRanges(db, writing, asset, -shift, lostWords);
    log({
      action: 'relink',
      entity: 'asset',
      entityId,
      before: now,
      after: { ...was, ...moved, leavesPlace: left !== null },
    });
  }
  for (const { entityId, before } of of('fold')) {
    const folded = foldedOf(before);
    const place = { storageId: folded.row['storage_id'], pathHash: folded.row['path_hash'] };
    await refuseTaken(db, entityId, place, transaction);
    await settle(db, entityId, folded, transaction);
  }
  await foldAll(db, writing, again);
}

/** What people fill in, and a file that was seen for the first time said too. */
const SAID: ReadonlySet<string> = new Set(['description', 'notes', 'verdict', 'logged']);

/** Without what somebody has said anew after it was written. */
const unlessSaidSince = (asset: AssetRow, columns: FileColumns, written: FileColumns): FileColumns =>
  Object.fromEntries(
    Object.entries(columns).filter(
      ([key]) => !SAID.has(key) || isDeepStrictEqual(asset.get(key) ?? null, written[key] ?? null),
    ),
  );

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
