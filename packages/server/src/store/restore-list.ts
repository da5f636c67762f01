import type { Sequelize } from 'sequelize';
import { gathered } from '@larder/core/gather';
import type { ArchivedFile } from '@larder/core/interchange/archive';
import {
  byReel,
  planRelink,
  wantedRanges,
  writeRestoreList,
  type Candidate,
  type LostFile,
  type Match,
  type ToRestore,
} from '@larder/core/relink';
import { secondsToFrames, rational, type CountingId } from '@larder/core/timecode';
import {
  type Archived,
  type RestoreAsked,
  type RestoreList,
  type RestoreListAsked,
  type RestoreListTaken,
  type RestoreRow,
  type TakenFile,
} from '@larder/contract';
import { enqueue, jobOf } from '../jobs/queue';
import { IS_UNDERWAY } from '../jobs/states';
import type { Archive } from '../media/archive';
import { selectByIds } from './database';
import { refused } from './errors';
import { lostUses } from './health';
import { lostFiles } from './lost-files';
import { JobRow } from './models';
import { notMendedBy } from './relink-plans';
import { lostAmong } from './relink-scope';
import { storageToCopyTo } from './storages';
import { cutsOf } from './usage';

/** Milliseconds in which handles are written, since a rate may have any number of frames in a second. */
const PARTS = 1000;
/** Somebody waits for it. */
const PRIORITY = 50;

interface Entry extends ToRestore {
  readonly assetId: number;
  readonly state: 'missing' | 'changed';
  readonly archived: InArchive | null;
}

interface InArchive {
  /** As its catalogue tells files apart. */
  readonly id: string;
  readonly archived: Archived;
}

/** What has to be fetched or shot again, reel by reel, with where the archive has it. */
export async function restoreList(
  db: Sequelize,
  archive: Archive | null,
  { limit, offset, ...asked }: RestoreListAsked,
): Promise<RestoreList> {
  const entries = await entriesOf(db, archive, asked);
  const shown = entries.slice(offset, offset + limit);
  const [jobs, catalogue] = await Promise.all([
    lastJobs(
      db,
      shown.map(({ assetId }) => assetId),
    ),
    archive?.catalogue(),
  ]);
  return {
    total: entries.length,
    bytes: entries.reduce((sum, { bytes }) => sum + bytes, 0),
    archived: entries.filter(({ archived }) => archived).length,
    rows: shown.map(({ archived, checksum, counting, tape: _tape, ...entry }): RestoreRow => ({
      ...entry,
      archived: archived?.archived ?? null,
      ...{ counting: counting && (counting.id as CountingId), xxh64: checksum },
      job: jobs.get(entry.assetId) ?? null,
    })),
    archive:
      archive && catalogue ? { name: archive.name, files: catalogue.files.length, troubles: catalogue.troubles } : null,
  };
}

/** The whole list as a table. */
export async function takenRestoreList(
  db: Sequelize,
  archive: Archive | null,
  asked: RestoreListTaken,
): Promise<TakenFile> {
  const text = writeRestoreList(await entriesOf(db, archive, asked));
  return { name: 'restore list.csv', type: 'text/csv', text };
}

async function entriesOf(db: Sequelize, archive: Archive | null, asked: RestoreListTaken): Promise<Entry[]> {
  const ids = asked.plan === null ? await lostAmong(db, asked.lost) : await notMendedBy(db, asked.plan);
  const [places, files, cuts, uses] = await Promise.all([
    selectByIds<{ id: number; name: string; state: Entry['state']; path: string }>(
      db,
      `SELECT a.id, a.name, a.shelf_state AS state, CONCAT(s.name, '/', a.path) AS path FROM asset a JOIN storage s ON s.id = a.storage_id WHERE a.id IN (:ids)`,
      ids,
    ),
    lostFiles(db, ids),
    cutsOf(db, ids),
    lostUses(db),
  ]);
  const inArchive = await archivedOf(archive, files);
  const usesOf = gathered(
    uses.filter(({ kind }) => kind === 'string-out'),
    ({ assetId }) => assetId,
  );
  return places
    .flatMap(({ id, name, path, state }): Entry[] => {
      const known = files.get(id)?.facts;
      if (!known) return [];
      const { bytes, checksum, counting, durationFrames, reel, startFrame } = known;
      const handles = counting
        ? secondsToFrames(rational(Math.round(asked.handlesSeconds * PARTS), PARTS), counting.rate, 'ceil')
        : 0;
      const archived = inArchive.get(id) ?? null;
      return [
        {
          ...{ assetId: id, name, state, reel, counting, startFrame, durationFrames, bytes, checksum, archived },
          ...{ lastSeen: path, tape: archived?.archived.tape ?? null },
          ranges: asked.isCut ? wantedRanges(cuts.get(id) ?? [], handles, durationFrames) : [],
          uses: [...new Set((usesOf.get(id) ?? []).map((use) => use.name))].sort(),
        },
      ];
    })
    .sort(byReel);
}

const candidateOf = ({ facts, id }: ArchivedFile): Candidate => ({ key: id, facts });

const told = ({ facts: { bytes, durationFrames, path, reel, startFrame } }: ArchivedFile): string =>
  JSON.stringify([bytes, path.slice(path.lastIndexOf('/') + 1), reel, startFrame, durationFrames]);

/**
 * One of each file, as most archives keep two copies on two tapes: as candidates they would share what chance there is, and none would be
 * likely. What has other bytes is another file, whatever else is said of it; one of which the hash is known is taken before others.
 */
const withoutCopies = (files: readonly ArchivedFile[]): ArchivedFile[] =>
  [...gathered(files, told).values()].flatMap((copies) => {
    const byBytes = gathered(copies, ({ facts: { checksum } }) => checksum);
    return byBytes.size === 0 ? copies.slice(0, 1) : [...byBytes.values()].flatMap(([first]) => first ?? []);
  });

/** What an archive has of some lost originals: the likeliest of each, if it is more than a name. */
async function archivedOf(
  archive: Archive | null,
  lost: ReadonlyMap<number, LostFile>,
): Promise<Map<number, InArchive>> {
  const found = new Map<number, InArchive>();
  const files = (await archive?.catalogue())?.files ?? [];
  if (files.length === 0 || lost.size === 0) return found;
  const byId = new Map(files.map((file) => [file.id, file]));
  const plan = planRelink([...lost.values()], withoutCopies(files).map(candidateOf));
  for (const { assetId, matches } of plan) {
    const [first] = matches;
    const file = first && byId.get(first.key);
    if (!file || first.blockedBy.length > 0) continue;
    const { likeness } = first;
    // Another form of the same stretch of time takes nothing from it: whichever of them comes back will do.
    const as = (match: Match): boolean =>
      match === first || (likeness !== 'lookalike' && match.likeness !== 'lookalike');
    const probability = matches.filter(as).reduce((sum, match) => sum + match.probability, 0);
    if (probability < LEAST) continue;
    found.set(assetId, {
      id: file.id,
      archived: { tape: file.tape, path: file.facts.path, likeness, probability },
    });
  }
  return found;
}

/** Below this it is rather another recording: it would be fetched, which may take hours, and refused. */
const LEAST = 0.5;

/** What fetches originals, or did last and did not end well. */
async function lastJobs(db: Sequelize, ids: readonly number[]): Promise<Map<number, RestoreRow['job']>> {
  const rows = await selectByIds<{ id: number }>(
    db,
    `SELECT MAX(id) AS id FROM job WHERE asset_id IN (:ids) AND kind = 'restore' GROUP BY asset_id`,
    ids,
  );
  const jobs = await JobRow.findAll({ where: { id: rows.map(({ id }) => id) } });
  return new Map(jobs.flatMap((row) => (row.assetId === null ? [] : [[row.assetId, jobOf(row)]])));
}

/** Has originals fetched from the archive, tape by tape; those that are being fetched already are left alone. */
export async function queueRestore(
  db: Sequelize,
  archive: Archive | null,
  personId: number,
  { assetIds, storageId }: RestoreAsked,
): Promise<{ readonly jobs: number }> {
  if (!archive) throw refused('No archive is set up here.');
  const { name } = await storageToCopyTo(storageId);
  const ids = await lostAmong(db, { of: 'assets', id: null, folder: '', assetIds: [...assetIds] });
  const found = await archivedOf(archive, await lostFiles(db, ids));
  if (found.size === 0) throw refused(`${archive.name} has none of these, or they are there again.`);
  const sorted = [...found].sort(([, a], [, b]) => (a.id < b.id ? -1 : 1));
  const jobs = await db.transaction(async (transaction) => {
    const underway = new Set(
      (
        await selectByIds<{ id: number }>(
          db,
          `SELECT asset_id AS id FROM job WHERE asset_id IN (:ids) AND kind = 'restore' AND ${IS_UNDERWAY} FOR UPDATE`,
          [...found.keys()],
          transaction,
        )
      ).map(({ id }) => id),
    );
    const wanted = sorted.filter(([assetId]) => !underway.has(assetId));
    await enqueue(
      wanted.map(([assetId, { id }]) => ({
        ...{ kind: 'restore', subject: `${id} to ${name}`.slice(0, 250), unit: 'bytes' },
        ...{ payload: { assetId, archived: id, storageId }, priority: PRIORITY, personId, storageId, assetId },
      })),
      transaction,
    );
    return wanted.length;
  });
  return { jobs };
}
