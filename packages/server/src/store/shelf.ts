import type { Sequelize } from 'sequelize';
import {
  compareShelf,
  countShelf,
  covers,
  folderOf,
  type CataloguedFile,
  type KnownState,
  type ShelfRow,
} from '@larder/core/shelf';
import type {
  Browse,
  FolderScan,
  FolderScanState,
  JobState,
  ScanFolder,
  ShelfAnswer,
  ShelfFolder,
} from '@larder/contract';
import { listFolder, listNames, walk, whereabouts } from '../media/walk';
import { headRevision } from './change-feed';
import { fromJson, select } from './database';
import { notFound, refused } from './errors';
import { StorageRow } from './models';
import { queuePresence, scanFolders } from './scans';

/** Below an opened folder this many files, or this long, are looked through for what is new; beyond it says that it was not. */
const LOOK_FILES = 200_000;
const LOOK_MS = 1500;
/** Everything below in one list: no more than this. */
const FLAT_FILES = 200_000;
const SCANS_LOOKED_AT = 300;
/** A listing is kept this long, so that scrolling through it does not read the folder again for every window. */
const KEPT_MS = 5000;
const KEPT = 8;

const NOT_SCANNED: FolderScan = {
  state: 'not-scanned',
  jobId: null,
  done: 0,
  total: null,
  atMs: null,
  by: null,
  message: null,
};

const SCAN_STATES: Readonly<Record<JobState, FolderScanState>> = {
  queued: 'queued',
  running: 'scanning',
  paused: 'interrupted',
  done: 'scanned',
  cancelled: 'interrupted',
  failed: 'failed',
};

interface Contents {
  readonly mounted: boolean;
  readonly folders: readonly Omit<ShelfFolder, 'scan'>[];
  readonly rows: readonly ShelfRow[];
  readonly others: number;
  readonly unnameable: number;
  /** Whether the catalogue says otherwise of what was there already. */
  readonly isOtherwise: boolean;
}

/** Folders of storages beside what the library has of them. */
export class Shelf {
  private readonly kept = new Map<string, { readonly untilMs: number; readonly contents: Promise<Contents> }>();

  constructor(private readonly db: Sequelize) {}

  async browse(
    storageId: number,
    { path = '', flat = false, only = [], offset = 0, limit = 200 }: Partial<Browse>,
  ): Promise<ShelfAnswer> {
    const storage = await StorageRow.findByPk(storageId);
    if (!storage) throw notFound('storage');
    // With the revision in its key, a listing is never older than what the window has been told of.
    const revision = await headRevision(this.db);
    const [{ isOtherwise, mounted, folders, rows, others, unnameable }, scans] = await Promise.all([
      this.contents(storage, path, flat, revision, offset > 0),
      scansOf(this.db, storageId),
    ]);
    // Somebody is looking at it, and everybody else is told too.
    if (isOtherwise && offset === 0) await queuePresence(storageId, null, [{ path, deep: flat }]);
    const shown = only.length === 0 ? rows : rows.filter(({ state }) => only.includes(state));
    return {
      path,
      mounted,
      scan: scanOf(scans, path),
      folders: folders.map((folder) => ({ ...folder, scan: scanOf(scans, folder.path) })),
      counts: countShelf(rows),
      total: shown.length,
      offset,
      rows: shown.slice(offset, offset + limit),
      others,
      unnameable,
    };
  }

  private contents(
    storage: StorageRow,
    path: string,
    flat: boolean,
    revision: number,
    scrolling: boolean,
  ): Promise<Contents> {
    const key = `${revision} ${storage.id} ${flat} ${path}`;
    const now = Date.now();
    const had = this.kept.get(key);
    if (scrolling && had && had.untilMs > now) return had.contents;
    const contents = this.read(storage, path, flat);
    this.kept.delete(key);
    this.kept.set(key, { untilMs: now + KEPT_MS, contents });
    contents.catch(() => this.kept.delete(key));
    for (const old of [...this.kept.keys()].slice(0, -KEPT)) this.kept.delete(old);
    return contents;
  }

  private async read(storage: StorageRow, path: string, flat: boolean): Promise<Contents> {
    const known = await catalogued(this.db, storage.id, path);
    const mine = flat ? known : known.filter((file) => folderOf(file.path) === path);
    const below = [...new Set(known.flatMap((file) => childOf(path, file.path) ?? []))];
    const where = storage.state === 'online' ? await whereabouts(storage.rootPath, path) : 'nowhere';
    if (where === 'outside') throw refused('That folder lies outside the storage.');
    if (where === 'nowhere') {
      if (known.length === 0 && path !== '') throw notFound('folder');
      const rows = mine.map(({ assetId, ...file }): ShelfRow => ({ ...file, assetId, sidecars: [] }));
      // A folder that went, on a storage that is there, took its files along.
      const gone = storage.state === 'online' ? rows.map((row): ShelfRow => ({ ...row, state: 'missing' })) : rows;
      return {
        mounted: storage.state === 'online',
        folders: flat ? [] : countFolders(path, below.sort(), known, new Map(below.map((folder) => [folder, 0]))),
        rows: gone.toSorted(byPath),
        others: 0,
        unnameable: 0,
        isOtherwise: storage.state === 'online' && mine.some(({ state }) => state !== 'missing'),
      };
    }
    const { items, folders, others, unnameable } = flat
      ? await allBelow(storage.rootPath, path)
      : await listIn(storage, path);
    const all = [...new Set([...folders, ...below])].sort();
    const fresh = flat
      ? new Map<string, number>()
      : await newBelow(storage.rootPath, all, new Set(known.map((file) => file.path)));
    const rows = compareShelf(items, mine);
    return {
      mounted: true,
      folders: flat ? [] : countFolders(path, all, known, fresh),
      rows,
      // With nothing at all in its root it is more likely not mounted.
      isOtherwise: (items.length > 0 || folders.length > 0 || path !== '') && isOtherwise(rows, mine),
      others: others.length,
      unnameable,
    };
  }
}

/** What lies in and below each folder; `fresh` has no number for those that were too much to look through. */
function countFolders(
  path: string,
  folders: readonly string[],
  known: readonly CataloguedFile[],
  fresh: ReadonlyMap<string, number>,
): Omit<ShelfFolder, 'scan'>[] {
  const counts = new Map(folders.map((folder) => [folder, { online: 0, changed: 0, missing: 0 }]));
  for (const file of known) {
    const count = counts.get(childOf(path, file.path) ?? '');
    if (count) count[file.state] += 1;
  }
  return folders.map((folder) => ({
    path: folder,
    name: folder.slice(folder.lastIndexOf('/') + 1),
    counts: { ...(counts.get(folder) as Record<KnownState, number>), new: fresh.get(folder) ?? null },
  }));
}

const byPath = (a: ShelfRow, b: ShelfRow): number => (a.path < b.path ? -1 : 1);

/** The folder directly in `path` that a deeper path lies in; undefined for what lies in it itself. */
function childOf(path: string, deeper: string): string | undefined {
  const start = path === '' ? 0 : path.length + 1;
  const end = deeper.indexOf('/', start);
  return end < 0 ? undefined : deeper.slice(0, end);
}

async function listIn(storage: StorageRow, path: string) {
  return listFolder(storage.rootPath, path).catch((error: NodeJS.ErrnoException) => {
    throw refused(
      error.code === 'ENOTDIR'
        ? `${path} is a file, not a folder.`
        : `${path || storage.name} cannot be read by the server.`,
    );
  });
}

async function allBelow(root: string, path: string) {
  const items = [];
  for await (const some of walk(root, path, { onUnreadable: () => undefined })) {
    items.push(...some);
    if (items.length > FLAT_FILES)
      throw refused(`There are more than ${FLAT_FILES.toLocaleString('en')} files below. Open a folder further down.`);
  }
  return { items, folders: [] as string[], others: [] as string[], unnameable: 0 };
}

/** How many files in and below each folder the catalogue does not have, by names alone; without those that were too much. */
async function newBelow(
  root: string,
  folders: readonly string[],
  known: ReadonlySet<string>,
): Promise<Map<string, number>> {
  const counts = new Map<string, number>();
  const end = Date.now() + LOOK_MS;
  let seen = 0;
  const count = async (folder: string): Promise<number | null> => {
    const { items, folders: inner } = await listNames(root, folder).catch(() => ({ items: [], folders: [] }));
    seen += items.length;
    if (seen > LOOK_FILES || Date.now() > end) return null;
    let fresh = items.filter((item) => !known.has(item.path)).length;
    for (const each of inner) {
      const below = await count(each);
      if (below === null) return null;
      fresh += below;
    }
    return fresh;
  };
  for (const folder of folders) {
    const fresh = await count(folder);
    if (fresh === null) break;
    counts.set(folder, fresh);
  }
  return counts;
}

/** Whether something went, came back or has another size than the catalogue says. */
function isOtherwise(rows: readonly ShelfRow[], catalogued: readonly CataloguedFile[]): boolean {
  const known = new Map(catalogued.map((file) => [file.path, file]));
  return rows.some(({ bytes, path, state }) => {
    const file = known.get(path);
    if (!file) return false;
    if (state === 'missing' || file.state === 'missing') return state !== file.state;
    return file.state === 'online' && bytes !== file.bytes;
  });
}

/** What the catalogue has in and below a folder. */
const catalogued = (db: Sequelize, storageId: number, path: string): Promise<CataloguedFile[]> =>
  select<CataloguedFile>(
    db,
    `SELECT id AS assetId, path, name, bytes, modified_ms AS modifiedMs, files, shelf_state AS state FROM asset
     WHERE storage_id = :storageId ${path === '' ? '' : 'AND path >= :from AND path < :to'}
     UNION ALL SELECT l.asset_id, l.path, a.name, l.bytes, l.modified_ms, l.files, l.shelf_state FROM asset_location l JOIN asset a ON a.id = l.asset_id
     WHERE l.storage_id = :storageId ${path === '' ? '' : 'AND l.path >= :from AND l.path < :to'}`,
    // A slash is followed by the digit 0: everything that begins with `path/`, and nothing else.
    { storageId, from: `${path}/`, to: `${path}0` },
  );

interface Scanned extends Omit<FolderScan, 'state'> {
  readonly state: JobState;
  readonly folders: readonly ScanFolder[];
}

/** The scans of a storage, the newest first. */
async function scansOf(db: Sequelize, storageId: number): Promise<Scanned[]> {
  const rows = await select<Omit<Scanned, 'folders'> & { payload: unknown }>(
    db,
    `SELECT j.id AS jobId, j.state, j.done, j.total, COALESCE(j.ended_ms, j.updated_ms) AS atMs, p.name AS \`by\`, j.message, j.payload
     FROM job j LEFT JOIN person p ON p.id = j.person_id WHERE j.storage_id = :storageId AND j.kind = 'scan' ORDER BY j.id DESC LIMIT ${SCANS_LOOKED_AT}`,
    { storageId },
  );
  return rows.map(({ payload, ...scan }) => ({
    ...scan,
    folders: scanFolders(fromJson<Record<string, unknown>>(payload)),
  }));
}

function scanOf(scans: readonly Scanned[], path: string): FolderScan {
  const last = scans.find(({ folders }) => folders.some((folder) => covers(folder, path)));
  if (!last) return NOT_SCANNED;
  const { folders: _folders, ...scan } = last;
  return { ...scan, state: SCAN_STATES[last.state] };
}
