import { access, constants, opendir } from 'node:fs/promises';
import { isAbsolute, normalize } from 'node:path';
import type { Sequelize } from 'sequelize';
import type { FileState } from '@larder/core/fields';
import type { Storage, StorageAsked, StorageChange, StorageState } from '@larder/contract';
import { jobOf } from '../jobs/queue';
import { findVolume, kindAt, spaceAt, volumeAt } from '../media/volume';
import { write } from './change-feed';
import { select } from './database';
import { notFound, refused } from './errors';
import { JobRow, StorageRow } from './models';

const LOOK_TIMEOUT_MS = 3000;

const NO_SPACE = { capacityBytes: null, freeBytes: null } as const;

/** A network volume that is gone can keep a call waiting for minutes; nobody waits that long for it. */
function withinTime<T, Else>(work: Promise<T>, otherwise: Else): Promise<T | Else> {
  let timer: NodeJS.Timeout | undefined;
  const late = new Promise<Else>((resolve) => (timer = setTimeout(() => resolve(otherwise), LOOK_TIMEOUT_MS).unref()));
  return Promise.race([work, late]).finally(() => clearTimeout(timer));
}

async function isEmpty(path: string): Promise<boolean> {
  for await (const _entry of await opendir(path)) return false;
  return true;
}

/**
 * Whether a storage can be looked into. An empty folder where files are catalogued is a mount point with nothing mounted; a folder
 * with another volume's identity is that other volume.
 */
export async function lookAtStorage(
  rootPath: string,
  hasFiles: boolean,
  volume: string | null = null,
): Promise<StorageState> {
  const look = async (): Promise<StorageState> => {
    try {
      await access(rootPath, constants.R_OK | constants.X_OK);
      if (volume !== null && (await volumeAt(rootPath)) !== volume) return 'offline';
      return hasFiles && (await isEmpty(rootPath)) ? 'offline' : 'online';
    } catch {
      return 'offline';
    }
  };
  return withinTime(look(), 'offline' as const);
}

/** A storage that the library may copy to, and that is there; refuses any other. */
export async function storageToCopyTo(id: number): Promise<StorageRow> {
  const target = await StorageRow.findByPk(id);
  if (!target) throw notFound('storage to copy to');
  if (!target.managed)
    throw refused(`The library may not copy to “${target.name}”. A manager can allow it in its settings.`);
  if ((await lookAtStorage(target.rootPath, false, target.volume)) === 'offline')
    throw refused(`“${target.name}” is not mounted, so nothing can be copied to it.`);
  return target;
}

/** Looks at every storage and writes down which came and which went. */
export async function watchStorages(db: Sequelize): Promise<void> {
  const rows = await select<Watched>(
    db,
    'SELECT s.id, s.root_path AS rootPath, s.state, s.volume, EXISTS (SELECT 1 FROM asset a WHERE a.storage_id = s.id) AS hasFiles FROM storage s',
  );
  for (const row of rows) {
    const state = await lookAtStorage(row.rootPath, Boolean(row.hasFiles), row.volume);
    const elsewhere = state === 'offline' && row.volume !== null ? await comeBack(row, rows) : null;
    if (elsewhere !== null) await noteStorage(db, row, { state: 'online', rootPath: elsewhere });
    else if (state !== row.state) await noteStorage(db, row, { state });
  }
}

interface Watched {
  readonly id: number;
  readonly rootPath: string;
  readonly state: StorageState;
  readonly volume: string | null;
  readonly hasFiles: number;
}

/** Where a volume is mounted now, if not where it was; never where another storage lies. */
async function comeBack({ id, rootPath, volume }: Watched, all: readonly Watched[]): Promise<string | null> {
  const found = volume && (await findVolume(volume, rootPath));
  return found && !all.some((other) => other.id !== id && overlap(found, other.rootPath)) ? found : null;
}

/** A folder as people write it, without an end; refuses what is none that a storage can be. */
export function rootOf(rootPath: string): string {
  const root = normalize(rootPath).replace(/(.)\/+$/, '$1');
  if (!isAbsolute(root) || root === '/')
    throw refused('A storage is a folder below the root of the server, such as /media/shelf.');
  return root;
}

/** Whether one of two folders lies in the other, or they are the same. */
export const overlap = (a: string, b: string): boolean => `${a}/`.startsWith(`${b}/`) || `${b}/`.startsWith(`${a}/`);

async function noteStorage(
  db: Sequelize,
  { id, rootPath, state }: Watched,
  now: { readonly state: StorageState; readonly rootPath?: string },
): Promise<void> {
  await write(db, null, async ({ transaction, log }) => {
    await StorageRow.update(
      { ...now, ...(now.state === state ? {} : { stateSinceMs: Date.now() }) },
      { where: { id }, transaction },
    );
    log({ action: now.state, entity: 'storage', entityId: id, before: { state, rootPath }, after: now });
  });
}

export async function listStorages(db: Sequelize): Promise<Storage[]> {
  const rows = await StorageRow.findAll({ order: ['name'] });
  const counts = await select<{ storageId: number; shelfState: FileState; n: number; bytes: string }>(
    db,
    'SELECT storage_id AS storageId, shelf_state AS shelfState, COUNT(*) AS n, SUM(bytes) AS bytes FROM asset WHERE storage_id IS NOT NULL GROUP BY storage_id, shelf_state',
  );
  const scans = await select<{ id: number }>(
    db,
    `SELECT MAX(id) AS id FROM job WHERE kind = 'scan' GROUP BY storage_id`,
  );
  const jobs = await JobRow.findAll({ where: { id: scans.map((scan) => scan.id) } });
  const spaces = await Promise.all(
    rows.map((row) =>
      row.state === 'online' ? withinTime(spaceAt(row.rootPath), NO_SPACE) : Promise.resolve(NO_SPACE),
    ),
  );
  return rows.map((row, index) => {
    const mine = counts.filter((count) => count.storageId === row.id);
    const total = (state: FileState) =>
      mine.filter((count) => count.shelfState === state).reduce((sum, count) => sum + Number(count.n), 0);
    const everything = mine.reduce((sum, count) => sum + Number(count.n), 0);
    const lastScan = jobs.find((job) => job.storageId === row.id);
    const online = row.state === 'online';
    return {
      id: row.id,
      name: row.name,
      rootPath: row.rootPath,
      state: row.state,
      stateSinceMs: row.stateSinceMs,
      kind: row.kind,
      volume: row.volume,
      managed: row.managed,
      verifyDays: row.verifyDays,
      presenceHours: row.presenceHours,
      lookedMs: row.lookedMs,
      recognises: row.recognises,
      ...(spaces[index] ?? NO_SPACE),
      counts: online
        ? { online: total('online'), offline: 0, missing: total('missing'), changed: total('changed') }
        : { online: 0, offline: everything, missing: 0, changed: 0 },
      bytes: mine.reduce((sum, count) => sum + Number(count.bytes), 0),
      lastScan: lastScan ? jobOf(lastScan) : null,
    };
  });
}

export async function addStorage(
  db: Sequelize,
  personId: number | null,
  { name, rootPath, kind = null, managed = false }: StorageAsked,
): Promise<StorageRow> {
  const root = rootOf(rootPath);
  const state = await lookAtStorage(root, false);
  const volume = state === 'online' ? await volumeAt(root) : null;
  if (await StorageRow.findOne({ where: { name } })) throw refused(`There is already a storage called “${name}”.`);
  for (const other of await StorageRow.findAll())
    // Two volumes with identities of their own may take turns at one place.
    if (overlap(root, other.rootPath) && (other.state === 'online' || other.volume === null || volume === null))
      throw refused(
        `${root} overlaps the storage “${other.name}” (${other.rootPath}). Files would be catalogued twice.`,
      );
  const same = volume && (await StorageRow.findOne({ where: { volume } }));
  if (same)
    throw refused(
      `This volume is the storage “${same.name}”, last at ${same.rootPath}. It comes back under its name by itself within a few seconds.`,
    );
  const facts = { name, rootPath: root, volume, managed, kind: kind ?? (await kindAt(root)) };
  const { value } = await write(db, personId, async ({ transaction, log }) => {
    const row = await StorageRow.create({ ...facts, state, stateSinceMs: Date.now() }, { transaction });
    log({ action: 'add', entity: 'storage', entityId: row.id, after: facts });
    return row;
  });
  return value;
}

/** Changes what people decide about a storage. Where it lies and what volume it is are read off it. */
export async function changeStorage(db: Sequelize, personId: number, id: number, after: StorageChange): Promise<void> {
  await write(db, personId, async ({ transaction, log }) => {
    const row = await StorageRow.findByPk(id, { transaction, lock: true });
    if (!row) throw notFound('storage');
    const namesake = await StorageRow.findOne({ where: { name: after.name }, transaction });
    if (namesake && namesake.id !== id) throw refused(`There is already a storage called “${after.name}”.`);
    const { kind, managed, name, presenceHours, recognises, verifyDays } = row;
    const before = { name, kind, managed, verifyDays, presenceHours, recognises };
    await row.update(after, { transaction });
    log({ action: 'change', entity: 'storage', entityId: id, before, after });
  });
}
