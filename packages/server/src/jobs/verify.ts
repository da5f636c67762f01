import { stat } from 'node:fs/promises';
import { join } from 'node:path';
import { filesOf } from '@larder/core/ingest';
import { folderOf, type KnownState } from '@larder/core/shelf';
import type { FixityOutcome } from '@larder/contract';
import { hashPath } from '../media/managed-store';
import { listFolder } from '../media/walk';
import { write } from '../store/change-feed';
import { select } from '../store/database';
import { refused } from '../store/errors';
import { lastHash, lastHashOf, noteFixity } from '../store/fixity';
import { AssetRow, StorageRow } from '../store/models';
import { lookAtStorage } from '../store/storages';
import { Xxh64 } from '@node-rs/xxhash';
import type { JobContext } from './context';

interface Wanted {
  readonly assetId: number;
  readonly storageId: number;
  readonly rootPath: string;
  readonly path: string;
  readonly files: number;
  readonly bytes: number;
  readonly shelfState: KnownState;
}

interface Look {
  readonly outcome: FixityOutcome;
  readonly xxh64: string | null;
}

/** Reads every byte of files and compares them with what they were: the same, changed, missing or unreadable. */
export async function verifyFiles(context: JobContext): Promise<Record<string, unknown>> {
  const { db, job, signal } = context;
  const wanted = await wantedBy(context);
  const total = wanted.reduce((sum, { bytes }) => sum + bytes, 0);
  const counts: Record<FixityOutcome, number> = { first: 0, same: 0, changed: 0, missing: 0, unreadable: 0 };
  let before = 0;
  context.report({ done: 0, total });
  for (const file of wanted) {
    signal.throwIfAborted();
    let within = 0;
    const { assetId, path, storageId } = file;
    const known =
      (await lastHash(db, storageId, path)) ?? (job.payload['moved'] ? await lastHashOf(db, assetId) : null);
    const { outcome, xxh64 } = await lookAt(file, known, {
      signal,
      bytes: (more) => context.report({ done: before + Math.min(file.bytes, (within += more)) }),
    });
    if (outcome === 'missing' || outcome === 'unreadable') await refuseIfGone(file);
    counts[outcome] += 1;
    await note(context, file, { outcome, xxh64 });
    context.report({ done: (before += file.bytes), attempts: 1 });
  }
  const bad = (['changed', 'missing', 'unreadable'] as const).filter((outcome) => counts[outcome] > 0);
  return {
    ...counts,
    remark: bad.length > 0 ? bad.map((outcome) => `${counts[outcome]} ${outcome}`).join(', ') : null,
    checked: wanted.length,
    by: job.personId,
  };
}

/** What is to be looked at, but for what this job has looked at before it was interrupted. */
async function wantedBy({ db, job }: JobContext): Promise<Wanted[]> {
  const { assetIds, storageId, dueBeforeMs } = job.payload as {
    assetIds: number[];
    storageId: number | null;
    dueBeforeMs: number | null;
  };
  return select<Wanted>(
    db,
    `SELECT a.id AS assetId, a.storage_id AS storageId, s.root_path AS rootPath, a.path, a.files, a.bytes, a.shelf_state AS shelfState
     FROM asset a JOIN storage s ON s.id = a.storage_id
     WHERE s.state = 'online' AND ${storageId === null ? 'a.id IN (:assetIds)' : 'a.storage_id = :storageId'}
       AND NOT EXISTS (SELECT 1 FROM fixity f WHERE f.storage_id = a.storage_id AND f.path_hash = a.path_hash AND f.at_ms >= :since) ORDER BY a.id`,
    { assetIds: [0, ...assetIds], storageId, since: dueBeforeMs ?? job.createdMs },
  );
}

/** A volume that was pulled makes no file missing. */
async function refuseIfGone({ storageId }: Wanted): Promise<void> {
  const storage = await StorageRow.findByPk(storageId);
  if (storage && (await lookAtStorage(storage.rootPath, true, storage.volume)) === 'offline')
    throw refused(`“${storage.name}” went away. Mount it again and resume; what was checked is not checked again.`);
}

async function lookAt(
  { rootPath, path, files }: Wanted,
  before: string | null,
  copying: { readonly signal: AbortSignal; bytes(more: number): void },
): Promise<Look> {
  try {
    if (!(await stat(join(rootPath, path))).isFile()) return { outcome: 'missing', xxh64: null };
    const xxh64 = files === 1 ? await hashPath(join(rootPath, path), copying) : await hashAll(rootPath, path, copying);
    return { outcome: before === null ? 'first' : before === xxh64 ? 'same' : 'changed', xxh64 };
  } catch (error) {
    copying.signal.throwIfAborted();
    const gone = (error as NodeJS.ErrnoException).code === 'ENOENT';
    return { outcome: gone ? 'missing' : 'unreadable', xxh64: null };
  }
}

/** For an image sequence: the hash over the hashes of its pictures, in the order of their numbers. */
async function hashAll(
  rootPath: string,
  path: string,
  copying: { readonly signal: AbortSignal; bytes(more: number): void },
): Promise<string> {
  const { items } = await listFolder(rootPath, folderOf(path));
  const item = items.find((each) => each.path === path);
  const hash = new Xxh64(0n);
  for (const file of item ? filesOf(item) : [path]) hash.update(await hashPath(join(rootPath, file), copying));
  return hash.digest().toString(16).padStart(16, '0');
}

async function note({ db, job }: JobContext, file: Wanted, look: Look): Promise<void> {
  await write(db, job.personId, async ({ transaction, log }) => {
    await noteFixity(
      db,
      {
        ...look,
        assetId: file.assetId,
        storageId: file.storageId,
        path: file.path,
        bytes: file.bytes,
        personId: job.personId,
      },
      transaction,
    );
    const state = look.outcome === 'changed' || look.outcome === 'missing' ? look.outcome : null;
    if (!state || state === file.shelfState) return;
    await AssetRow.update(
      { shelfState: state, stateSinceMs: Date.now() },
      { where: { id: file.assetId }, transaction },
    );
    log({
      action: 'verify',
      entity: 'asset',
      entityId: file.assetId,
      before: { state: file.shelfState },
      after: { state },
    });
  });
}
