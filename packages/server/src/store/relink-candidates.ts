import type { Sequelize } from 'sequelize';
import {
  beginningOf,
  isNamed,
  MOST_MEETING,
  passesOver,
  toldStart,
  type FileFacts,
  type LostFile,
} from '@larder/core/relink';
import { folderOf } from '@larder/core/shelf';
import type { FindMissing } from '@larder/contract';
import { likeText, pieces, select, selectByIds } from './database';
import { factsOf } from './file-facts';
import { nearPairsOf } from './semblances';

/** A catalogued file that could be a lost original. */
export interface CataloguedFile {
  readonly assetId: number;
  readonly storageId: number;
  readonly storage: string;
  readonly facts: FileFacts;
}

/** So many are asked for in one question. */
const AT_ONCE = 900;
/** So many beginnings of names are: each is a question of its own within it. */
const NAMES_AT_ONCE = 200;

/** Files whose names begin as some do. */
async function named(db: Sequelize, beginnings: readonly string[]): Promise<number[]> {
  const parts = beginnings.map(
    (_each, at) => `(SELECT id FROM asset WHERE name LIKE :n${at} LIMIT ${MOST_MEETING + 1})`,
  );
  const values = Object.fromEntries(beginnings.map((beginning, at) => [`n${at}`, `${likeText(beginning)}%`]));
  return (await select<{ id: number }>(db, parts.join(' UNION '), values)).map(({ id }) => id);
}

/** Two columns that say the same in a lost file and in others, by an index of both; `first` with its type. */
interface Pair {
  readonly first: readonly [column: string, type: string];
  readonly second: string;
  of(facts: FileFacts): readonly [string | number | null, number | null];
}

const PAIRS: readonly Pair[] = [
  {
    first: ['start_frame', 'BIGINT'],
    second: 'duration_frames',
    of: ({ durationFrames, startFrame }) => [startFrame, durationFrames],
  },
  { first: ['reel', 'VARCHAR(100)'], second: 'start_frame', of: ({ reel, startFrame }) => [reel, startFrame] },
];

/** Files that say one of some pairs of things. */
async function paired(
  db: Sequelize,
  { first: [first, type], second }: Pair,
  values: readonly (readonly unknown[])[],
): Promise<number[]> {
  const rows = await select<{ ids: string }>(
    db,
    `SELECT GROUP_CONCAT(a.id) AS ids FROM JSON_TABLE(:values, '$[*]' COLUMNS (one ${type} PATH '$[0]', other BIGINT PATH '$[1]')) r
     JOIN asset a ON a.${first} = r.one AND a.${second} = r.other GROUP BY r.one, r.other HAVING COUNT(*) <= ${MOST_MEETING}`,
    { values: JSON.stringify(values) },
  );
  return rows.flatMap(({ ids }) => ids.split(',').map(Number));
}

/** Files that run at least from where to where lists make use of clips of their reels; of so many that they say nothing, none. */
async function covering(db: Sequelize, ranges: readonly (readonly unknown[])[]): Promise<number[]> {
  const rows = await select<{ ids: string }>(
    db,
    `SELECT GROUP_CONCAT(a.id) AS ids FROM JSON_TABLE(:ranges, '$[*]' COLUMNS (reel VARCHAR(100) PATH '$[0]', begins BIGINT PATH '$[1]', ends BIGINT PATH '$[2]')) r
     JOIN asset a ON a.reel = r.reel AND a.start_frame <= r.begins AND a.start_frame + a.duration_frames >= r.ends AND NOT a.listed
     GROUP BY r.reel, r.begins, r.ends HAVING COUNT(*) <= ${MOST_MEETING}`,
    { ranges: JSON.stringify(ranges) },
  );
  return rows.flatMap(({ ids }) => ids.split(',').map(Number));
}

/** What of each reel lists make use of. */
const listedRanges = (lost: readonly FileFacts[]): readonly (readonly unknown[])[] =>
  lost.flatMap(({ durationFrames, isListed, reel, startFrame }) =>
    !isListed || reel === null || startFrame === null || durationFrames === null
      ? []
      : [[reel, startFrame, startFrame + durationFrames]],
  );

/** All that meets some lost files by name, bytes, timecode with length, or reel with timecode. */
async function meeting(db: Sequelize, lost: readonly FileFacts[]): Promise<Set<number>> {
  const ids = new Set<number>();
  const add = (some: readonly number[]): void => some.forEach((id) => ids.add(id));
  const beginnings = [...new Set(lost.map(({ path }) => beginningOf(path)))];
  for (const some of pieces(beginnings, NAMES_AT_ONCE)) add(await named(db, some));
  const prints = [...new Set(lost.flatMap(({ fingerprint }) => fingerprint ?? []))];
  for (const some of pieces(prints, AT_ONCE))
    add(
      (await select<{ id: number }>(db, 'SELECT id FROM asset WHERE fingerprint IN (:some)', { some })).map(
        ({ id }) => id,
      ),
    );
  for (const some of pieces(listedRanges(lost), AT_ONCE)) add(await covering(db, some));
  for (const pair of PAIRS) {
    const known = lost.map((facts) => pair.of(facts)).filter((values) => !values.includes(null));
    const each = new Map(known.map((values) => [JSON.stringify(values), values]));
    for (const some of pieces([...each.values()], AT_ONCE)) add(await paired(db, pair, some));
  }
  return ids;
}

/** The path of a folder from one on in which it lies: whoever chose that one wants it, whatever it is called. */
export const below = (outer: string, folder: string): string =>
  outer === '' ? folder : folder.slice(outer.length + 1);

/**
 * The catalogued files in some places that could be lost originals, without a look at the disk. What too many have in common says
 * nothing, so that of each way to meet no more are read than that would be; but for what looks or sounds like it, which is near few.
 */
export async function catalogued(
  db: Sequelize,
  lost: readonly Pick<LostFile, 'assetId' | 'facts'>[],
  { names, passOver, places }: Pick<FindMissing, 'names' | 'passOver' | 'places'>,
): Promise<CataloguedFile[]> {
  const ids = await meeting(
    db,
    lost.map(({ facts }) => facts),
  );
  const quiet = lost.filter(({ facts }) => toldStart(facts) === null).map(({ assetId }) => assetId);
  for (const { assetId, otherId } of await nearPairsOf(db, quiet)) ids.add(assetId).add(otherId);
  const rows = await selectByIds<{ id: number; storageId: number; storage: string; path: string }>(
    db,
    `SELECT a.id, a.storage_id AS storageId, s.name AS storage, a.path FROM asset a JOIN storage s ON s.id = a.storage_id
     WHERE a.id IN (:ids) AND a.shelf_state = 'online' AND s.state = 'online'`,
    [...ids],
  );
  const isPassed = passesOver(passOver);
  const isAsked = ({ path, storageId }: { readonly path: string; readonly storageId: number }): boolean =>
    places.some((place) => {
      if (place.storageId !== storageId) return false;
      const folder = folderOf(path);
      if (folder === place.folder) return true;
      const isWithin = place.folder === '' || folder.startsWith(`${place.folder}/`);
      return place.deep && isWithin && !isPassed(below(place.folder, folder));
    }) &&
    (names === '' || isNamed(path.slice(path.lastIndexOf('/') + 1), names));
  const asked = rows.filter(isAsked);
  const facts = await factsOf(
    db,
    asked.map(({ id }) => id),
  );
  return asked.flatMap(({ id, storage, storageId }) => {
    const known = facts.get(id);
    return known ? [{ assetId: id, storageId, storage, facts: known }] : [];
  });
}
