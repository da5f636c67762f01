import { stat } from 'node:fs/promises';
import { basename, join } from 'node:path';
import type { ArchivedFile } from '@larder/core/interchange/archive';
import type { LostFile } from '@larder/core/relink';
import { folderOf, type ShelfItem } from '@larder/core/shelf';
import type { Archive } from '../media/archive';
import { hashPath, ManagedStore, type Copied } from '../media/managed-store';
import { probeItem } from '../media/probe';
import { write } from '../store/change-feed';
import { notFound, refused } from '../store/errors';
import { noteFixity } from '../store/fixity';
import { lostFiles } from '../store/lost-files';
import { AssetRow, type StorageRow } from '../store/models';
import { relink } from '../store/relink';
import { storageToCopyTo } from '../store/storages';
import type { JobContext } from './context';
import { footageIn, linkTo, ruledOutBy } from './relink-files';

/** What fetching one original is asked, as its job keeps it. */
export interface RestorePayload {
  readonly assetId: number;
  /** As the archive's catalogue tells files apart. */
  readonly archived: string;
  /** Where it is copied to. */
  readonly storageId: number;
}

/** How often is looked how much has come. */
const LOOK_MS = 500;
/** The folder of a managed storage in which everything lies that came back, tape by tape. */
const FOLDER = 'from the archive';

/**
 * Fetches a lost original from the archive, and mends its link. It is looked at before it is copied to a storage, since nothing can be
 * taken away from there again: what is not the same recording is not kept.
 */
export async function restore({ archive, db, job, report, signal, store }: JobContext) {
  const { archived, assetId, storageId } = job.payload as unknown as RestorePayload;
  if (!archive) throw refused('No archive is set up here.');
  const asset = await AssetRow.findByPk(assetId);
  if (!asset) throw notFound('asset');
  if (asset.shelfState === 'online') return { remark: 'It was there again already.' };
  const target = await storageToCopyTo(storageId);
  const file = (await archive.catalogue()).files.find(({ id }) => id === archived);
  if (!file) throw refused(`${archived} is not in the catalogue of ${archive.name} any more.`);
  const { bytes } = file.facts;
  report({ done: 0, total: 2 * bytes });
  const place = `${FOLDER}/${file.id}`;
  const bring = async (folder: string): Promise<Copied> => {
    const fetched = await fetchTo(archive, file, join(folder, basename(file.facts.path)), { signal, report });
    await refuseOther(await lostFile(db, assetId), folder, fetched, file);
    let copied = 0;
    return new ManagedStore(target.rootPath).copy(fetched.path, place, {
      signal,
      // Each byte of it is written and read back.
      bytes: (more) => report({ done: bytes + Math.floor((copied += more) / 2), message: `Copying to ${target.name}` }),
    });
  };
  // By a name of its own: what is fetched may be large, and is not to lie there for ever if this process is killed.
  const copy = await store.withFolder(assetId, bring, 'restored');
  await mendFrom({ db, job, target }, await lostFile(db, assetId), place, copy, signal);
  return { remark: `Restored to ${target.name}/${place}.` };
}

interface Fetched {
  readonly path: string;
  readonly xxh64: string;
}

/** Has the archive fetch a file, and reads all of it to know that it is what the catalogue says. */
async function fetchTo(
  archive: Archive,
  file: ArchivedFile,
  path: string,
  { report, signal }: Pick<JobContext, 'report' | 'signal'>,
): Promise<Fetched> {
  const { bytes, checksum } = file.facts;
  const look = setInterval(() => {
    void stat(path).then(
      ({ size }) => report({ done: Math.min(size, bytes) }),
      () => undefined,
    );
  }, LOOK_MS);
  try {
    await archive.fetch(file, path, { signal, says: (message) => report({ message }) });
  } finally {
    clearInterval(look);
  }
  const came = await stat(path).catch(() => null);
  if (!came?.isFile())
    throw refused(`${archive.name} gave nothing for ${file.id}. Look what it says of it, and try again.`);
  if (came.size !== bytes)
    throw refused(
      `What ${archive.name} gave for ${file.id} has ${came.size} bytes, and its catalogue says ${bytes}. Nothing of it was kept.`,
    );
  const xxh64 = await hashPath(path, { signal, bytes: () => undefined });
  if (checksum !== null && xxh64 !== checksum)
    throw refused(
      `What ${archive.name} gave for ${file.id} is not what its catalogue says: its hash is ${xxh64} instead of ${checksum}. Nothing of it was kept.`,
    );
  return { path, xxh64 };
}

async function lostFile(db: JobContext['db'], assetId: number): Promise<LostFile> {
  const file = (await lostFiles(db, [assetId])).get(assetId);
  if (!file) throw notFound('asset');
  return file;
}

/** Refuses what is another recording, or in which something that is used has no place. */
async function refuseOther(
  lost: LostFile,
  folder: string,
  { path, xxh64 }: Fetched,
  { facts, id }: ArchivedFile,
): Promise<void> {
  const item = await itemAt({ rootPath: folder }, basename(path));
  if (!item) throw refused(`${id} is neither footage nor sound. Nothing of it was kept.`);
  const probed = await probeItem(folder, item);
  const known = { path: facts.path, checksum: xxh64 };
  const { blockedBy, likeness, verified } = linkTo(lost, { storageId: 0, item, probed }, known);
  if (blockedBy.length > 0)
    throw refused(`${id} cannot stand in for it: its ${ruledOutBy(blockedBy)} it out. Nothing of it was kept.`);
  if (likeness === 'lookalike') {
    const other = verified.filter(({ agreement }) => agreement === 'disagrees').map(({ kind }) => kind);
    throw refused(
      `${id} only looks alike${other.length > 0 ? `: another ${other.join(', another ')}` : ''}. Nothing of it was kept. If it is the one all the same, restore it by hand and point at it.`,
    );
  }
}

const itemAt = async (storage: { readonly rootPath: string }, path: string): Promise<ShelfItem | undefined> =>
  (await footageIn(storage, folderOf(path))).find((item) => item.path === path);

interface Mending extends Pick<JobContext, 'db' | 'job'> {
  readonly target: StorageRow;
}

async function mendFrom(
  { db, job: { createdMs: askedMs, personId }, target }: Mending,
  lost: LostFile,
  path: string,
  { bytes, xxh64 }: Copied,
  signal: AbortSignal,
): Promise<void> {
  const item = await itemAt(target, path);
  if (!item) throw refused(`${path} is not in ${target.name} any more.`);
  const probed = await probeItem(target.rootPath, item, signal);
  const { blockedBy: _none, ...link } = linkTo(lost, { storageId: target.id, item, probed }, { checksum: xxh64 });
  const { assetId } = lost;
  await write(db, personId, async (writing) => {
    await relink(db, writing, [link], { askedMs });
    const note = { assetId, storageId: target.id, path, outcome: 'first', xxh64, bytes, personId } as const;
    await noteFixity(db, note, writing.transaction);
  });
}
