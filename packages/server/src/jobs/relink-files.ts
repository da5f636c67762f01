import { join } from 'node:path';
import type { Sequelize } from 'sequelize';
import {
  printOf,
  score,
  sharedPrints,
  shiftOf,
  type Candidate,
  type EvidenceKind,
  type FileFacts,
  type LostFile,
  type Place,
} from '@larder/core/relink';
import type { ShelfItem } from '@larder/core/shelf';
import { countingForRate } from '@larder/core/timecode';
import { probeItem, type Probed } from '../media/probe';
import { semblanceOfFile } from '../media/semblance';
import { ToolError } from '../media/run';
import { walkFolder, whereabouts } from '../media/walk';
import { pieces, select } from '../store/database';
import { notFound, refused } from '../store/errors';
import { StorageRow } from '../store/models';
import type { Link } from '../store/relink';
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

/** What is looked at again before a link is mended; of what was read whole the bytes too, by a check of its own after it. */
const VERIFIED: ReadonlySet<EvidenceKind> = new Set(['size', 'timecode', 'duration', 'rate']);

/** A lost original pointed at a file that was just opened, with what rules that out. `known` is what is known of the file besides. */
export function linkTo(
  lost: LostFile,
  { item, probed, storageId }: Pick<Link, 'storageId' | 'item' | 'probed'>,
  known: Partial<FileFacts> = {},
): Link & { readonly blockedBy: readonly EvidenceKind[] } {
  const { assetId, facts, used } = lost;
  const candidate = { ...candidateFacts(item, probed), ...known };
  const areEndsShared = sharedPrints([lost], [{ key: '', facts: candidate }]).has(printOf(facts));
  const { blockedBy, evidence, likeness } = score(facts, candidate, used, areEndsShared);
  return {
    ...{ assetId, storageId, item, probed, likeness, blockedBy, shift: shiftOf(facts, candidate), takesIn: null },
    verified: evidence.filter(({ kind }) => VERIFIED.has(kind)),
  };
}

export const ruledOutBy = (kinds: readonly EvidenceKind[]): string =>
  `${kinds.join(' and ')} ${kinds.length > 1 ? 'rule' : 'rules'}`;

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
  /** Whether its storage is away. */
  readonly away: boolean;
}

/** A storage that can be looked at; refuses one that is not mounted, since all would seem gone from it. */
export async function storageThere(id: number): Promise<StorageRow> {
  const storage = await StorageRow.findByPk(id);
  if (!storage) throw notFound('storage');
  if (storage.state !== 'online') throw refused(`“${storage.name}” is not mounted. Mount it and look again.`);
  return storage;
}

/** What could be footage or sound directly in a folder; nothing where it is gone, or a link leads out of the storage. */
export const footageIn = async (
  { rootPath }: Pick<FileStorage, 'rootPath'>,
  folder: string,
): Promise<readonly ShelfItem[]> =>
  (await whereabouts(rootPath, folder)) === 'inside' ? walkFolder(rootPath, folder).catch(() => []) : [];

export const placeKey = ({ path, storageId }: Place): string => `${storageId}/${path}`;

/** What the catalogue has of a file. */
interface Owner {
  readonly id: number;
  readonly bytes: number;
  readonly modifiedMs: number;
  /** Whether it is the asset's own file or as long as that. Another place may hold the asset in another form. */
  readonly isItsFile: boolean;
}

export interface OwnedFile extends FoundFile {
  /** Null for what is not catalogued. */
  readonly owner: Owner | null;
}

/** A file that could be a lost original, with what it says of itself. */
export interface FoundCandidate extends Candidate {
  readonly storageId: number;
  readonly storage: string;
  /** The asset that has it; null for none. */
  readonly owner: number | null;
  /** Whether what is known of the owner's file is known of this one. */
  readonly isItsFile: boolean;
}

export const candidateOf = ({ item, owner, storage }: OwnedFile, facts: FileFacts): FoundCandidate => ({
  ...{ key: placeKey({ storageId: storage.id, path: item.path }), storageId: storage.id, storage: storage.name },
  ...{ owner: owner?.id ?? null, isItsFile: owner?.isItsFile ?? false, facts: { ...facts, path: item.path } },
});

/** Whether what the catalogue says of the owner's file holds for this one. */
export const isAsCatalogued = ({ item, owner }: OwnedFile): boolean =>
  owner !== null && owner.isItsFile && owner.bytes === item.bytes && owner.modifiedMs === item.modifiedMs;

/** So many places are asked for at once. */
const OWNERS_AT_ONCE = 900;

/** Which assets have some files of one storage, as their own or as another place. */
export async function withOwners(db: Sequelize, files: readonly FoundFile[]): Promise<OwnedFile[]> {
  const owned: OwnedFile[] = [];
  for (const part of pieces(files, OWNERS_AT_ONCE)) {
    const some = part.map((file) => ({ file, hash: pathHash(file.item.path) }));
    const rows = await select<Omit<Owner, 'isItsFile'> & { readonly hash: string; readonly isItsFile: number }>(
      db,
      `SELECT id, bytes, modified_ms AS modifiedMs, 1 AS isItsFile, path_hash AS hash FROM asset WHERE storage_id = :storageId AND path_hash IN (:hashes)
       UNION ALL SELECT l.asset_id, l.bytes, l.modified_ms, l.bytes = a.bytes, l.path_hash FROM asset_location l JOIN asset a ON a.id = l.asset_id WHERE l.storage_id = :storageId AND l.path_hash IN (:hashes)`,
      { storageId: some[0]?.file.storage.id, hashes: some.map(({ hash }) => hash) },
    );
    const owners = new Map(
      rows.map(({ hash, isItsFile, ...owner }) => [hash, { ...owner, isItsFile: Boolean(Number(isItsFile)) }]),
    );
    owned.push(...some.map(({ file, hash }) => ({ ...file, owner: owners.get(hash) ?? null })));
  }
  return owned;
}

/** So many files are opened at once. */
const OPENED_AT_ONCE = 4;

/**
 * What files say of themselves; those that cannot be read are no candidates. Of some also what they look and sound like: `looksAt` gives
 * after how many milliseconds each of their pictures is looked at, null for not at all.
 */
export async function openFiles(
  { report, signal }: Pick<JobContext, 'report' | 'signal'>,
  files: readonly OwnedFile[],
  looksAt: (probed: Probed) => number | null = () => null,
): Promise<FoundCandidate[]> {
  report({ done: 0, total: files.length, message: null });
  const open = async (file: OwnedFile): Promise<FoundCandidate[]> => {
    try {
      const { item, storage } = file;
      const probed = await probeItem(storage.rootPath, item, signal);
      const everyMs = item.sequence ? null : looksAt(probed);
      const semblance =
        everyMs === null
          ? null
          : await semblanceOfFile(join(storage.rootPath, item.path), probed.facts, { everyMs, signal });
      return [candidateOf(file, { ...candidateFacts(item, probed), ...(semblance ? { semblance } : {}) })];
    } catch (error) {
      signal.throwIfAborted();
      if (error instanceof ToolError && error.reason === 'cancelled') throw error;
      return [];
    }
  };
  const candidates: FoundCandidate[] = [];
  let done = 0;
  for (const some of pieces(files, OPENED_AT_ONCE)) {
    signal.throwIfAborted();
    candidates.push(...(await Promise.all(some.map(open))).flat());
    report({ done: (done += some.length) });
  }
  return candidates;
}
