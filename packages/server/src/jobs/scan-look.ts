import { covers, folderOf, type ShelfItem } from '@larder/core/shelf';
import type { ScanFolder } from '@larder/contract';
import { quickWalk, QuickWalkFailed } from '../media/quick-walk';
import { walk, whereabouts, type WalkOptions } from '../media/walk';
import { refused } from '../store/errors';
import type { StorageRow } from '../store/models';
import { digestOf, folderDigests, sameDigest, storageDigest, together, type FolderDigest } from '../store/shelf-digest';
import type { JobContext } from './context';

/** What lies on a storage and what the catalogue has of it, folder by folder; files are looked at later, and only where it differs. */
export interface Look {
  /** Things found in all folders that were asked for. */
  readonly seen: number;
  /** Things that the catalogue has in them. */
  readonly known: number;
  /** Things in folders that are as the catalogue has them. */
  readonly unchanged: number;
  /** Folders with something in them that differ from the catalogue, in the order of the walk. */
  readonly differing: readonly Differing[];
  /** Folders in which everything that the catalogue has is gone. */
  readonly gone: readonly string[];
  readonly unreadable: readonly string[];
  readonly unnameable: readonly { readonly folder: string; readonly things: number }[];
}

export interface Differing {
  readonly folder: string;
  /** Whether the catalogue has anything in it. */
  readonly known: boolean;
}

/**
 * Walks the folders of a scan and compares each with the catalogue as a whole. Only one folder's files are ever held, so a
 * storage of any size takes the same memory but for the names of its folders.
 */
export async function lookOver(
  { db, signal, report }: Pick<JobContext, 'db' | 'signal' | 'report'>,
  storage: Pick<StorageRow, 'id' | 'rootPath' | 'kind'>,
  folders: readonly ScanFolder[],
): Promise<Look> {
  const whole = folders.some(({ path, deep }) => path === '' && deep);
  // The database reckons while the disk is walked.
  const asked = whole ? storageDigest(db, storage.id) : null;
  asked?.catch(() => undefined);
  const { seen, found, unreadable, unnameable } = await walkAll(storage, folders, { signal, report });
  const all = await asked;
  if (all?.settled && sameDigest(all, [...found.values()].reduce(together, { files: 0, high: 0, low: 0 })))
    return { seen, known: seen, unchanged: seen, differing: [], gone: [], unreadable, unnameable };

  const isMine = (folder: string) => folders.some((each) => covers(each, folder));
  const known = new Map([...(await folderDigests(db, storage.id))].filter(([folder]) => isMine(folder)));
  const same = ([folder, digest]: [string, FolderDigest]): boolean => {
    const had = known.get(folder);
    return had !== undefined && had.settled && sameDigest(had, digest);
  };
  // What lies in a folder that could not be read is not known to be gone.
  const isUnreadable = (folder: string) => unreadable.some((path) => covers({ path, deep: true }, folder));
  return {
    seen,
    known: [...known.values()].reduce((sum, { files }) => sum + files, 0),
    unchanged: [...found].filter(same).reduce((sum, [, { files }]) => sum + files, 0),
    differing: [...found].filter((each) => !same(each)).map(([folder]) => ({ folder, known: known.has(folder) })),
    gone: [...known.keys()].filter((folder) => !found.has(folder) && !isUnreadable(folder)),
    unreadable,
    unnameable,
  };
}

interface Walked {
  seen: number;
  readonly found: Map<string, FolderDigest>;
  readonly unreadable: string[];
  readonly unnameable: { folder: string; things: number }[];
}

async function walkAll(
  { rootPath, kind }: Pick<StorageRow, 'rootPath' | 'kind'>,
  folders: readonly ScanFolder[],
  context: Pick<JobContext, 'signal' | 'report'>,
): Promise<Walked> {
  for (const { path } of folders)
    if ((await whereabouts(rootPath, path)) === 'outside')
      throw refused(`${path} lies outside the storage: a link leads out of it.`);
  if (kind !== 'network')
    try {
      return await walked(rootPath, folders, context, (path, options) => quickWalk(rootPath, path, options));
    } catch (error) {
      if (!(error instanceof QuickWalkFailed)) throw error;
    }
  return walked(rootPath, folders, context, (path, options) => walk(rootPath, path, options));
}

/** The digest of each folder that has something in it. */
async function walked(
  rootPath: string,
  folders: readonly ScanFolder[],
  { signal, report }: Pick<JobContext, 'signal' | 'report'>,
  way: (path: string, options: WalkOptions) => AsyncIterable<readonly ShelfItem[]>,
): Promise<Walked> {
  const all: Walked = { seen: 0, found: new Map(), unreadable: [], unnameable: [] };
  const onUnreadable = (folder: string, error: Error) => {
    // The storage itself is no part that could be passed over.
    if (folder === '') throw error;
    all.unreadable.push(folder);
  };
  const onUnnameable = (folder: string, things: number) => void all.unnameable.push({ folder, things });
  for (const { path, deep } of folders) {
    // A folder that is gone has nothing in it; its files are missing.
    if ((await whereabouts(rootPath, path)) === 'nowhere') continue;
    for await (const items of way(path, { deep, signal, onUnreadable, onUnnameable })) {
      const folder = folderOf(items[0]?.path ?? '');
      if (all.found.has(folder)) continue;
      all.found.set(folder, digestOf(items));
      all.seen += items.length;
      report({ done: 0, total: null, message: `${all.seen} files found so far` });
    }
  }
  return all;
}
