import { planRelink, type Candidate, type FileFacts } from '@larder/core/relink';
import { countingForRate } from '@larder/core/timecode';
import type { RelinkMatch } from '@larder/contract';
import { probeItem, type Probed } from '../media/probe';
import { ToolError } from '../media/run';
import { walk, whereabouts } from '../media/walk';
import type { ShelfItem } from '@larder/core/shelf';
import { factsOf } from '../store/assets';
import { select } from '../store/database';
import { notFound, refused } from '../store/errors';
import { StorageRow } from '../store/models';
import { neededFrames, untouchedAssets } from '../store/usage';
import { pathHash } from './catalogue';
import type { JobContext } from './context';

export interface FindMissingResult {
  readonly looked: number;
  readonly proposals: readonly { readonly assetId: number; readonly matches: readonly RelinkMatch[] }[];
}

/** The facts of a file on the shelf, for weighing it against what the catalogue says of a lost one. */
export const candidateFacts = (item: ShelfItem, { facts, fingerprint }: Probed): FileFacts => ({
  path: item.path,
  bytes: item.bytes,
  modifiedMs: item.modifiedMs,
  fingerprint,
  // Nobody has read all of it yet.
  checksum: null,
  counting: facts.rate && countingForRate(facts.rate, facts.dropFrame),
  durationFrames: facts.durationFrames,
  startFrame: facts.startFrame,
  reel: facts.reel,
  width: facts.width,
  height: facts.height,
  channels: facts.sound?.channels ?? null,
  shotMs: facts.shotMs,
});

/** Looks through a folder for files that could be the originals of missing assets. Proposes only; nothing is relinked. */
export async function findMissing({ db, job, signal, report }: JobContext): Promise<Record<string, unknown>> {
  const { storageId, folder, assetIds } = job.payload as { storageId: number; folder: string; assetIds: number[] };
  const storage = await StorageRow.findByPk(storageId);
  if (!storage) throw notFound('storage');
  const wanted = await select<{ id: number }>(
    db,
    `SELECT id FROM asset WHERE shelf_state = 'missing' ${assetIds.length > 0 ? 'AND id IN (:assetIds)' : ''}`,
    { assetIds },
  );
  const facts = await factsOf(
    db,
    wanted.map((row) => row.id),
  );
  const found: ShelfItem[] = [];
  if ((await whereabouts(storage.rootPath, folder)) === 'outside')
    throw refused(`${folder} lies outside the storage: a link leads out of it.`);
  for await (const part of walk(storage.rootPath, folder, { signal, onUnreadable: () => undefined })) {
    found.push(...part);
    report({ message: `${found.length} files found so far` });
  }
  report({ done: 0, total: found.length, message: null });

  // What is catalogued is known already; only the rest has to be read.
  const catalogued = await select<{ id: number; pathHash: string }>(
    db,
    `SELECT id, path_hash AS pathHash FROM asset WHERE storage_id = :storageId
     UNION ALL SELECT asset_id, path_hash FROM asset_location WHERE storage_id = :storageId`,
    { storageId },
  );
  const ownerOf = new Map(catalogued.map((row) => [row.pathHash, row.id]));
  const owners = await factsOf(
    db,
    found.flatMap((item) => ownerOf.get(pathHash(item.path)) ?? []),
  );
  const candidates: Candidate[] = [];
  for (const [index, item] of found.entries()) {
    signal.throwIfAborted();
    const owner = ownerOf.get(pathHash(item.path));
    const known = owner === undefined ? undefined : owners.get(owner);
    if (known) candidates.push({ key: item.path, facts: known });
    else {
      try {
        candidates.push({
          key: item.path,
          facts: candidateFacts(item, await probeItem(storage.rootPath, item, signal)),
        });
      } catch (error) {
        // A file that cannot be read is no candidate.
        if (error instanceof ToolError && error.reason === 'cancelled') throw error;
      }
    }
    report({ done: index + 1 });
  }

  const needed = await neededFrames(db);
  const plan = planRelink(
    [...facts].map(([assetId, lost]) => ({ assetId, facts: lost, neededFrames: needed.get(assetId) ?? 0 })),
    candidates,
  );
  const untouched = await untouchedAssets(db, [...owners.keys()]);
  const result: FindMissingResult = {
    looked: found.length,
    proposals: plan.map(({ assetId, matches }) => ({
      assetId,
      matches: matches.map(({ key, ...score }): RelinkMatch => {
        const owner = ownerOf.get(pathHash(key));
        return {
          storageId,
          storage: storage.name,
          path: key,
          ...score,
          catalogued: owner === undefined ? null : { assetId: owner, untouched: untouched.has(owner) },
        };
      }),
    })),
  };
  return { ...result };
}
