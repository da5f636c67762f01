import { hash } from 'node:crypto';
import type { Sequelize } from 'sequelize';
import type { KnownState, ShelfItem } from '@larder/core/shelf';
import { select } from './database';

/**
 * The files directly in one folder, condensed so that the disk and the catalogue can be compared without either list being held:
 * how many there are, and the first 60 bits of the MD5 sums of their paths, sizes and times, put together by exclusive or.
 */
export interface FolderDigest {
  readonly files: number;
  /** The upper 30 bits and the lower 30, so that either is a whole number to a database and to a script. */
  readonly high: number;
  readonly low: number;
}

export interface CatalogueDigest extends FolderDigest {
  /** Whether all of them stand as online: only then is there nothing to be said of a folder that looks the same. */
  readonly settled: boolean;
}

export interface KnownFile {
  readonly id: number;
  /** Where an asset's file lies a second time; null for its first place. */
  readonly locationId: number | null;
  readonly path: string;
  readonly bytes: number;
  readonly modifiedMs: number;
  readonly fingerprint: string | null;
  readonly shelfState: KnownState;
}

/** The digest of what a folder was found to hold. Must say what the one that the database reckons says. */
export function digestOf(items: readonly Pick<ShelfItem, 'path' | 'bytes' | 'modifiedMs'>[]): FolderDigest {
  let [high, low] = [0, 0];
  for (const { path, bytes, modifiedMs } of items) {
    const sum = hash('md5', `${path}\n${bytes}\n${modifiedMs}`, 'buffer');
    const first = sum.readUInt32BE(0);
    high ^= first >>> 2;
    low ^= ((first & 3) << 28) | (sum.readUInt32BE(4) >>> 4);
  }
  return { files: items.length, high, low };
}

export const sameDigest = (a: FolderDigest, b: FolderDigest): boolean =>
  a.files === b.files && a.high === b.high && a.low === b.low;

/** What puts two digests of different files together; so does the database. */
export const together = <Digest extends FolderDigest>(a: Digest, b: FolderDigest): Digest => ({
  ...a,
  files: a.files + b.files,
  high: a.high ^ b.high,
  low: a.low ^ b.low,
});

const TABLES = ['asset', 'asset_location'] as const;
const FOLDER = `LEFT(path, CHAR_LENGTH(path) - CHAR_LENGTH(SUBSTRING_INDEX(path, '/', -1)))`;
const SUMS = `COUNT(*) AS files, BIT_XOR(CONV(LEFT(MD5(CONCAT_WS('\n', path, bytes, modified_ms)), 15), 16, 10)) AS sums, COALESCE(MIN(shelf_state = 'online'), 1) AS settled`;
const HALVES = `files, sums >> 30 AS high, sums & ${2 ** 30 - 1} AS low, settled`;

interface Condensed {
  readonly files: number;
  readonly high: number;
  readonly low: number;
  readonly settled: number;
}

const NOTHING: CatalogueDigest = { files: 0, high: 0, low: 0, settled: true };

const added = (had: CatalogueDigest, { files, high, low, settled }: Condensed): CatalogueDigest => ({
  ...together(had, { files: Number(files), high: Number(high), low: Number(low) }),
  settled: had.settled && Number(settled) === 1,
});

/** What the catalogue has on a whole storage. Reckoned where the rows are, so that they need not be handed out and kept. */
export async function storageDigest(db: Sequelize, storageId: number): Promise<CatalogueDigest> {
  let digest = NOTHING;
  for (const table of TABLES) {
    const sql = `SELECT ${HALVES} FROM (SELECT ${SUMS} FROM ${table} WHERE storage_id = :storageId) AS whole`;
    for (const row of await select<Condensed>(db, sql, { storageId })) digest = added(digest, row);
  }
  return digest;
}

/** The same folder by folder, which takes the database several times as long. */
export async function folderDigests(db: Sequelize, storageId: number): Promise<Map<string, CatalogueDigest>> {
  const digests = new Map<string, CatalogueDigest>();
  for (const table of TABLES) {
    const rows = await select<Condensed & { readonly slashed: string }>(
      db,
      `SELECT slashed, ${HALVES} FROM (SELECT ${FOLDER} AS slashed, ${SUMS} FROM ${table} WHERE storage_id = :storageId GROUP BY slashed) AS folders`,
      { storageId },
    );
    for (const row of rows) {
      const folder = row.slashed.slice(0, -1);
      digests.set(folder, added(digests.get(folder) ?? NOTHING, row));
    }
  }
  return digests;
}

/** What the catalogue has directly in one folder of a storage. */
export function knownIn(db: Sequelize, storageId: number, folder: string): Promise<KnownFile[]> {
  const within = (table: string) =>
    folder === ''
      ? `LOCATE('/', ${table}.path) = 0`
      : // A slash is followed by the digit 0: everything that begins with `folder/`, and nothing else.
        `${table}.path >= :from AND ${table}.path < :to AND LOCATE('/', ${table}.path, :deeper) = 0`;
  return select<KnownFile>(
    db,
    `SELECT a.id, NULL AS locationId, a.path, a.bytes, a.modified_ms AS modifiedMs, a.fingerprint, a.shelf_state AS shelfState FROM asset a
     WHERE a.storage_id = :storageId AND ${within('a')}
     UNION ALL SELECT l.asset_id, l.id, l.path, l.bytes, l.modified_ms, a.fingerprint, l.shelf_state FROM asset_location l JOIN asset a ON a.id = l.asset_id
     WHERE l.storage_id = :storageId AND ${within('l')}`,
    { storageId, from: `${folder}/`, to: `${folder}0`, deeper: [...folder].length + 2 },
  );
}
