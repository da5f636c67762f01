import { join } from 'node:path';
import type { Sequelize, Transaction } from 'sequelize';
import type { Asset, Location, StorageState } from '@larder/contract';
import type { KnownState, ShelfItem } from '@larder/core/shelf';
import { pathHash } from '../jobs/catalogue';
import { QueryTypes } from 'sequelize';
import { select } from './database';
import { refused } from './errors';

interface Place {
  readonly rootPath: string;
  readonly storage: string;
  readonly storageId: number;
  readonly storageState: StorageState;
  readonly path: string;
  readonly shelfState: KnownState;
}

const placesOf = (db: Sequelize, assetId: number): Promise<Place[]> =>
  select<Place>(
    db,
    `SELECT s.root_path AS rootPath, s.name AS storage, s.id AS storageId, s.state AS storageState, p.path, p.shelf_state AS shelfState FROM (
       SELECT 0 AS n, storage_id, path, shelf_state FROM asset WHERE id = (SELECT COALESCE(parent_id, id) FROM asset WHERE id = :assetId)
       UNION ALL SELECT id, storage_id, path, shelf_state FROM asset_location WHERE asset_id = (SELECT COALESCE(parent_id, id) FROM asset WHERE id = :assetId)
     ) p JOIN storage s ON s.id = p.storage_id ORDER BY p.n`,
    { assetId },
  );

const isThere = ({ storageState, shelfState }: Place): boolean => storageState === 'online' && shelfState !== 'missing';

/** The path at which an asset's original can be read now: its own, or another place where the same file lies. */
export async function originalPath(db: Sequelize, asset: Pick<Asset, 'id' | 'name'>): Promise<string> {
  const places = await placesOf(db, asset.id);
  const place = places.find(isThere);
  if (!place)
    throw refused(
      `${asset.name} is not there: ${places.map(({ storage, path }) => `${storage}/${path}`).join(', ')}. Mount its storage or relink it.`,
    );
  return join(place.rootPath, place.path);
}

/** Where else an asset's file lies. */
export async function otherLocations(db: Sequelize, assetId: number): Promise<Location[]> {
  const [, ...others] = await placesOf(db, assetId);
  return others.map(({ storageId, storage, path, shelfState, storageState }) => ({
    storageId,
    storage,
    path,
    state: storageState === 'offline' ? 'offline' : shelfState,
  }));
}

/** Notes that an asset's file lies at another place too; does nothing where that is known. */
export async function addLocation(
  db: Sequelize,
  assetId: number,
  storageId: number,
  { path, files, bytes, modifiedMs }: Pick<ShelfItem, 'path' | 'files' | 'bytes' | 'modifiedMs'>,
  transaction: Transaction,
): Promise<void> {
  await db.query(
    `INSERT IGNORE INTO asset_location (asset_id, storage_id, path, path_hash, files, bytes, modified_ms, shelf_state, state_since_ms)
     VALUES (:assetId, :storageId, :path, :hash, :files, :bytes, :modifiedMs, 'online', :now)`,
    {
      replacements: { assetId, storageId, path, hash: pathHash(path), files, bytes, modifiedMs, now: Date.now() },
      type: QueryTypes.INSERT,
      transaction,
    },
  );
}
