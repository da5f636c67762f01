import type { Candidate, FileFacts, LostFile, Place } from '@larder/core/relink';
import type { ShelfItem } from '@larder/core/shelf';
import { countingForRate } from '@larder/core/timecode';
import { probeItem, type Probed } from '../media/probe';
import { ToolError } from '../media/run';
import { factsOf } from '../store/assets';
import { select } from '../store/database';
import { notFound, refused } from '../store/errors';
import { StorageRow } from '../store/models';
import { pathHash } from './catalogue';
import type { JobContext } from './context';

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

type FileStorage = Pick<StorageRow, 'id' | 'name' | 'rootPath'>;

/** A file that was found where it was looked. */
export interface FoundFile {
  readonly storage: FileStorage;
  readonly item: ShelfItem;
}

/** A missing original, with where it was. */
export interface LostOriginal extends LostFile {
  readonly place: Place;
  readonly lastSeen: string;
}

/** A storage that can be looked at; refuses one that is not mounted, since all would seem gone from it. */
export async function storageThere(id: number): Promise<StorageRow> {
  const storage = await StorageRow.findByPk(id);
  if (!storage) throw notFound('storage');
  if (storage.state !== 'online') throw refused(`“${storage.name}” is not mounted. Mount it and look again.`);
  return storage;
}

export const placeKey = ({ path, storageId }: Place): string => `${storageId}/${path}`;
export const keyOf = ({ item, storage }: FoundFile): string => placeKey({ storageId: storage.id, path: item.path });

/** So many files are opened at once. */
const OPENED_AT_ONCE = 4;
/** So many places are asked for at once. */
const OWNERS_AT_ONCE = 900;

export interface Candidates {
  /** By their places among the files; what cannot be read is none. */
  readonly candidates: readonly (Candidate & { readonly file: FoundFile })[];
  /** Of which asset a file is, by its key. */
  readonly owners: ReadonlyMap<string, number>;
}

/** What files say of themselves. What the catalogue has is known already, if it is as the catalogue has it; only the rest is opened. */
export async function candidatesOf(
  { db, report, signal }: JobContext,
  files: readonly FoundFile[],
): Promise<Candidates> {
  report({ done: 0, total: files.length, message: null });
  const owners = await ownersOf({ db }, files);
  const known = await factsOf(db, [...new Set(owners.values())]);
  const candidate = async (file: FoundFile) => {
    const [key, { item, storage }] = [keyOf(file), file];
    const facts = known.get(owners.get(key) ?? 0);
    if (facts && facts.bytes === item.bytes && facts.modifiedMs === item.modifiedMs)
      return [{ key, file, facts: { ...facts, path: item.path } }];
    try {
      return [{ key, file, facts: candidateFacts(item, await probeItem(storage.rootPath, item, signal)) }];
    } catch (error) {
      signal.throwIfAborted();
      if (error instanceof ToolError && error.reason === 'cancelled') throw error;
      return [];
    }
  };
  const candidates: (Candidate & { readonly file: FoundFile })[] = [];
  for (let start = 0; start < files.length; start += OPENED_AT_ONCE) {
    signal.throwIfAborted();
    const some = files.slice(start, start + OPENED_AT_ONCE);
    candidates.push(...(await Promise.all(some.map(candidate))).flat());
    report({ done: start + some.length });
  }
  return { candidates, owners };
}

async function ownersOf({ db }: Pick<JobContext, 'db'>, files: readonly FoundFile[]): Promise<Map<string, number>> {
  const keys = new Map(files.map((file) => [`${file.storage.id} ${pathHash(file.item.path)}`, keyOf(file)]));
  const owners = new Map<string, number>();
  for (const storageId of new Set(files.map(({ storage }) => storage.id))) {
    const hashes = files.flatMap(({ item, storage }) => (storage.id === storageId ? [pathHash(item.path)] : []));
    for (let start = 0; start < hashes.length; start += OWNERS_AT_ONCE) {
      const rows = await select<{ id: number; pathHash: string }>(
        db,
        `SELECT id, path_hash AS pathHash FROM asset WHERE storage_id = :storageId AND path_hash IN (:hashes)
         UNION ALL SELECT asset_id, path_hash FROM asset_location WHERE storage_id = :storageId AND path_hash IN (:hashes)`,
        { storageId, hashes: hashes.slice(start, start + OWNERS_AT_ONCE) },
      );
      for (const { id, pathHash: hash } of rows) owners.set(keys.get(`${storageId} ${hash}`) ?? '', id);
    }
  }
  return owners;
}
