import type { ShelfItem } from './items';

/** How something on a storage stands to the catalogue. */
export const SHELF_STATES = ['new', 'online', 'changed', 'missing'] as const;
export type ShelfState = (typeof SHELF_STATES)[number];
/** How something catalogued stands. */
export type KnownState = Exclude<ShelfState, 'new'>;
export type ShelfCounts = Readonly<Record<ShelfState, number>>;

/** What the catalogue has under a path. */
export interface CataloguedFile {
  readonly assetId: number;
  readonly path: string;
  readonly name: string;
  readonly bytes: number;
  readonly modifiedMs: number;
  readonly files: number;
  readonly state: KnownState;
}

export interface ShelfRow {
  readonly path: string;
  readonly name: string;
  readonly bytes: number;
  readonly modifiedMs: number;
  readonly files: number;
  readonly sidecars: readonly string[];
  readonly state: ShelfState;
  readonly assetId: number | null;
}

/**
 * What is on a storage beside what the catalogue says of it, in the order of the paths. What is there and was missing is online
 * again; what is catalogued and not there is missing, whatever the last scan said.
 */
export function compareShelf(items: readonly ShelfItem[], catalogued: readonly CataloguedFile[]): ShelfRow[] {
  const known = new Map(catalogued.map((file) => [file.path, file]));
  const rows = items.map((item): ShelfRow => {
    const file = known.get(item.path);
    known.delete(item.path);
    const { path, name, bytes, modifiedMs, files, sidecars } = item;
    const same = file !== undefined && file.bytes === bytes && file.files === files;
    // A file copied back has another time and the same bytes: a scan tells whether it is the same. Until then the catalogue stands.
    const state: ShelfState = !file ? 'new' : !same ? 'changed' : file.state === 'changed' ? 'changed' : 'online';
    return { path, name, bytes, modifiedMs, files, sidecars, state, assetId: file?.assetId ?? null };
  });
  const gone = [...known.values()].map(({ assetId, path, name, bytes, modifiedMs, files }): ShelfRow => ({
    path,
    name,
    bytes,
    modifiedMs,
    files,
    sidecars: [],
    state: 'missing',
    assetId,
  }));
  return [...rows, ...gone].sort((a, b) => (a.path < b.path ? -1 : 1));
}

export function countShelf(rows: readonly Pick<ShelfRow, 'state'>[]): ShelfCounts {
  const counts = { new: 0, online: 0, changed: 0, missing: 0 };
  for (const { state } of rows) counts[state] += 1;
  return counts;
}

/** Whether a folder of a scan takes in a path's folder: the folder itself, and all below it if it is deep. Root is the empty path. */
export const covers = (scanned: { readonly path: string; readonly deep: boolean }, folder: string): boolean =>
  scanned.path === folder || (scanned.deep && (scanned.path === '' || folder.startsWith(`${scanned.path}/`)));

export const folderOf = (path: string): string => path.slice(0, Math.max(0, path.lastIndexOf('/')));
