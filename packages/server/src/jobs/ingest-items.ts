import { stat } from 'node:fs/promises';
import { basename, join } from 'node:path';
import { folderOf, isMediaName, isSystemName, type ShelfItem } from '@larder/core/shelf';
import type { ScanFolder } from '@larder/contract';
import { listFolder, walk, whereabouts } from '../media/walk';
import { refused } from '../store/errors';
import type { JobContext } from './context';
import type { IngestPayload } from './ingest';

type Asked = Pick<IngestPayload, 'folders' | 'paths' | 'upload'>;

const inFolder = (folder: string, name: string): string => [folder, name].filter(Boolean).join('/');

/** Everything that was asked for, in the order of its paths, so that names by number come out the same each time. */
export async function itemsWanted(
  context: JobContext,
  root: string,
  { folders, paths, upload }: Asked,
): Promise<ShelfItem[]> {
  const found = new Map<string, ShelfItem>();
  for (const folder of folders) {
    for (const item of await itemsBelow(context, root, folder)) found.set(item.path, item);
    if (upload !== null) for (const item of await documentsBelow(root, folder.path)) found.set(item.path, item);
    context.report({ message: `${found.size} files found so far` });
  }
  for (const folder of new Set(paths.map(folderOf)))
    for (const item of await itemsAt(root, folder, new Set(paths))) found.set(item.path, item);
  return [...found.values()].sort((a, b) => (a.path < b.path ? -1 : 1));
}

async function itemsBelow(
  { signal, report }: JobContext,
  root: string,
  { path, deep }: ScanFolder,
): Promise<ShelfItem[]> {
  if ((await whereabouts(root, path)) === 'outside')
    throw refused(`${path} lies outside the storage: a link leads out of it.`);
  const all: ShelfItem[] = [];
  const onUnreadable = (folder: string) => report({ message: `${folder} could not be read.` });
  for await (const items of walk(root, path, { deep, signal, onUnreadable })) all.push(...items);
  return all;
}

/** Those of some paths that lie in a folder; a sidecar comes with its clip and not by itself. */
async function itemsAt(root: string, folder: string, paths: ReadonlySet<string>): Promise<ShelfItem[]> {
  if ((await whereabouts(root, folder)) !== 'inside') return [];
  const { items, others } = await listFolder(root, folder).catch(() => ({
    items: [] as ShelfItem[],
    others: [] as string[],
  }));
  const documents = others.map((name) => inFolder(folder, name)).filter((path) => paths.has(path));
  const made = await Promise.all(documents.map((path) => documentAt(root, path)));
  return [...items.filter(({ path }) => paths.has(path)), ...made.flatMap((item) => item ?? [])];
}

/** Everything else that was sent along. */
async function documentsBelow(root: string, folder: string): Promise<ShelfItem[]> {
  const { others, folders } = await listFolder(root, folder);
  const here = await Promise.all(others.map((name) => documentAt(root, inFolder(folder, name))));
  const deeper = await Promise.all(folders.map((each) => documentsBelow(root, each)));
  return [...here.flatMap((item) => item ?? []), ...deeper.flat()];
}

/** A file that is neither footage nor sound, kept as it is; null where there is none. */
export async function documentAt(root: string, path: string): Promise<ShelfItem | null> {
  const name = basename(path);
  const facts = await stat(join(root, path)).catch(() => null);
  if (!facts?.isFile() || isSystemName(name) || isMediaName(name)) return null;
  const file = { path, name, bytes: facts.size, modifiedMs: Math.floor(facts.mtimeMs) };
  return { ...file, files: 1, sequence: null, sidecars: [] };
}
