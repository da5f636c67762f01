import type { Sequelize } from 'sequelize';
import { gathered } from '@larder/core/gather';
import { lostFolders, mostUsedFirst, usesInOrder, type LostFile, type Use, type UseKind } from '@larder/core/upkeep';
import { covers, folderOf } from '@larder/core/shelf';
import type { Health, LastSeen } from '@larder/contract';
import { fromJson, likeText, select } from './database';
import { notFound } from './errors';
import { lastHash } from './fixity';
import { perRevision } from './per-revision';
import { IS_AWAY, IS_LOST_HERE } from './relink-plans';
import { scanFolders } from './scans';

/** Folders that are told of, the worst; and how many things that depend on one are named. */
const FOLDERS_SHOWN = 100;
const USES_NAMED = 20;

/** What makes use of some originals, by themselves or as subclips of them; `of` is what is told of each, `where` which they are. */
const usesWhere = (of: string, where: string): string =>
  `SELECT ${of}, 'bin' AS kind, b.id, b.path AS name FROM asset a JOIN bin_asset x ON x.asset_id = a.id JOIN bin b ON b.id = x.bin_id WHERE ${where}
  UNION SELECT ${of}, 'bin', b.id, b.path FROM asset a JOIN asset c ON c.parent_id = a.id JOIN bin_asset x ON x.asset_id = c.id JOIN bin b ON b.id = x.bin_id WHERE ${where}
  UNION SELECT ${of}, 'string-out', o.id, CONCAT(p.name, ', ', o.name) FROM string_out o JOIN project p ON p.id = o.project_id
    JOIN JSON_TABLE(o.items, '$[*]' COLUMNS (asset_id BIGINT PATH '$.assetId')) i JOIN asset c ON c.id = i.asset_id JOIN asset a ON a.id = COALESCE(c.parent_id, c.id) WHERE ${where}`;

interface UseRow {
  readonly assetId: number;
  readonly kind: UseKind;
  readonly id: number;
  readonly name: string;
}

/** Uses of lost originals, as numbers, whatever the driver made of the ids in a union. */
export const lostUses = perRevision(async (db): Promise<readonly UseRow[]> => {
  const rows = await select<UseRow>(db, usesWhere('a.id AS assetId', IS_LOST_HERE));
  return rows.map((row) => ({ ...row, assetId: Number(row.assetId), id: Number(row.id) }));
});

/** Where originals are missing or changed, folder by folder, worst first, which storages are away, and what depends on them. */
export const healthOf = perRevision(async (db): Promise<Health> => {
  const [lost, uses, storages] = await Promise.all([
    select<LostFile>(
      db,
      `SELECT a.id AS assetId, a.storage_id AS storageId, a.path, a.shelf_state AS state, a.state_since_ms AS sinceMs FROM asset a WHERE ${IS_LOST_HERE}`,
    ),
    lostUses(db),
    select<{ id: number; name: string }>(db, 'SELECT id, name FROM storage'),
  ]);
  const names = new Map(storages.map(({ id, name }) => [id, name]));
  const folders = lostFolders(
    lost,
    gathered(uses, ({ assetId }) => assetId),
  );
  const shown = folders.slice(0, FOLDERS_SHOWN);
  const here = await Promise.all(shown.map(({ folder, storageId }) => stateOfFolder(db, storageId, folder)));
  return {
    away: await awayStorages(db),
    folders: shown.map(({ uses: all, ...folder }, at) => ({
      ...folder,
      storage: names.get(folder.storageId) ?? '',
      online: here[at]?.online ?? 0,
      ...named(all),
    })),
    more: Math.max(0, folders.length - FOLDERS_SHOWN),
  };
});

const named = (uses: readonly Use[]) => ({
  uses: uses.slice(0, USES_NAMED).map(({ kind, id, name }) => ({ kind, id, name })),
  moreUses: Math.max(0, uses.length - USES_NAMED),
});

/** Storages that are not there and hold originals, that which most depends on first. */
async function awayStorages(db: Sequelize): Promise<Health['away']> {
  const storages = await select<{ storageId: number; storage: string; sinceMs: number; originals: number }>(
    db,
    `SELECT s.id AS storageId, s.name AS storage, s.state_since_ms AS sinceMs, (SELECT COUNT(*) FROM asset a WHERE a.storage_id = s.id) AS originals
     FROM storage s WHERE s.state <> 'online' ORDER BY s.name`,
  );
  const held = storages.filter(({ originals }) => Number(originals) > 0);
  if (held.length === 0) return [];
  const rows = await select<Use & { storageId: number }>(db, usesWhere('a.storage_id AS storageId', IS_AWAY));
  const uses = gathered(
    rows.map((row) => ({ ...row, id: Number(row.id) })),
    ({ storageId }) => Number(storageId),
  );
  return held
    .map((each) => ({ ...each, all: usesInOrder(uses.get(each.storageId) ?? []) }))
    .toSorted((a, b) => mostUsedFirst(a.all, b.all))
    .map(({ all, originals, ...each }) => ({ ...each, originals: Number(originals), ...named(all) }));
}

/** How the originals directly in a folder are. */
async function stateOfFolder(db: Sequelize, storageId: number, folder: string): Promise<LastSeen['folder']> {
  const inside = folder === '' ? '' : `${folder}/`;
  const rows = await select<{ state: 'online' | 'missing' | 'changed'; count: number }>(
    db,
    `SELECT shelf_state AS state, COUNT(*) AS count FROM asset WHERE storage_id = :storageId AND path LIKE :like AND INSTR(SUBSTRING(path, :behind), '/') = 0 GROUP BY shelf_state`,
    { storageId, like: `${likeText(inside)}%`, behind: [...inside].length + 1 },
  );
  const count = (state: string): number => Number(rows.find((row) => row.state === state)?.count ?? 0);
  return { path: folder, online: count('online'), missing: count('missing'), changed: count('changed') };
}

/** Where an asset's original was seen last, and when; what it was; and how all else in that folder is. */
export async function lastSeenOf(db: Sequelize, assetId: number): Promise<LastSeen> {
  const [row] = await select<Seen>(
    db,
    `SELECT a.storage_id AS storageId, s.name AS storage, a.path, a.bytes, a.modified_ms AS modifiedMs, a.shelf_state AS state, a.state_since_ms AS stateSinceMs, a.added_ms AS addedMs, a.listed
     FROM asset c JOIN asset a ON a.id = COALESCE(c.parent_id, c.id) JOIN storage s ON s.id = a.storage_id WHERE c.id = :assetId`,
    { assetId },
  );
  if (!row) throw notFound('asset');
  const { listed, state, stateSinceMs, ...seen } = row;
  const [xxh64, folder, looks] = await Promise.all([
    lastHash(db, row.storageId, row.path),
    stateOfFolder(db, row.storageId, folderOf(row.path)),
    looksAt(db, row.storageId, state === 'online' ? null : stateSinceMs),
  ]);
  const [last] = looks.filter(({ payload }) =>
    scanFolders(fromJson(payload)).some((each) => covers(each, folderOf(row.path))),
  );
  return { ...seen, isListed: Boolean(listed), seenMs: Math.max(last?.endedMs ?? 0, row.addedMs), xxh64, folder };
}

type Seen = Omit<LastSeen, 'folder' | 'isListed' | 'xxh64' | 'seenMs'> & {
  readonly listed: number;
  readonly path: string;
  readonly storageId: number;
  readonly addedMs: number;
  readonly state: 'online' | 'missing' | 'changed';
  readonly stateSinceMs: number;
};

/** So many of the last looks at a storage are gone through for one that took a folder in. */
const LOOKS_READ = 500;

/** Looks at a storage that were ended, before a moment if one is given, the newest first. */
const looksAt = (
  db: Sequelize,
  storageId: number,
  beforeMs: number | null,
): Promise<{ endedMs: number; payload: unknown }[]> =>
  select(
    db,
    `SELECT ended_ms AS endedMs, payload FROM job WHERE storage_id = :storageId AND kind IN ('scan', 'presence') AND state = 'done'
     AND (:beforeMs IS NULL OR ended_ms < :beforeMs) ORDER BY ended_ms DESC LIMIT ${LOOKS_READ}`,
    { storageId, beforeMs },
  );

/** Which lost originals each bin holds, and each string-out is cut from; those with none are left out. */
export async function brokenUses(
  db: Sequelize,
): Promise<Readonly<Record<UseKind, ReadonlyMap<number, ReadonlySet<number>>>>> {
  const broken: Record<UseKind, Map<number, Set<number>>> = { 'string-out': new Map(), bin: new Map() };
  for (const { assetId, id, kind } of await lostUses(db)) {
    const assets = broken[kind].get(id) ?? new Set();
    broken[kind].set(id, assets.add(assetId));
  }
  return broken;
}
