import type { Sequelize, Transaction } from 'sequelize';
import { gathered } from '@larder/core/gather';
import { isSame, type Sense } from '@larder/core/semblance';
import type { KeepTwins, TwinGroup, TwinLikeness, TwinList, Written } from '@larder/contract';
import { assetsById } from './assets';
import { AlikeAssets, alikeTo, areAlike, SAME_ENDS, SAME_FRAMES, type AlikeAsset } from './alike';
import { feedAfter, headRevision, write } from './change-feed';
import { ASSETS_BY_PARENT, select, selectByIds } from './database';
import { refused } from './errors';
import { fold } from './fold';
import { checkedSince, goodHashes, lastLook } from './fixity';
import { nearPairs, nearPairsOf, type NearPair } from './semblances';
import { readFields } from './shop-fields';

interface Group {
  readonly likeness: TwinLikeness;
  readonly ids: readonly number[];
  readonly same: TwinGroup['same'];
}

/** All that is alike, as of one revision of the library and one look at its files. */
interface Known {
  readonly revision: number;
  readonly ends: AlikeAssets;
  readonly frames: AlikeAssets;
  readonly looked: number;
  /** Of files with the same ends, as far as they were read whole. */
  readonly hashes: Map<number, string>;
}

const known = new WeakMap<Sequelize, Promise<Known>>();
/** Beyond so many changes it is quicker to read the library once more. */
const FOLLOWED = 20_000;
/** Looks are numbered when they begin to be written down: so many before the last one that is seen may be seen only later. */
const LOOKS_BEFORE = 1000;

/** Kept current by what changed since it was asked for last, so that it is as quick while a million files come in. */
async function alikeNow(db: Sequelize): Promise<Known> {
  const next = (known.get(db) ?? readAlike(db)).then((last) => follow(db, last));
  known.set(db, next);
  // What failed in the middle is read anew.
  next.catch(() => known.get(db) === next && known.delete(db));
  return next;
}

async function readAlike(db: Sequelize): Promise<Known> {
  // Asked before it is read, so that what is written meanwhile is followed.
  const revision = await headRevision(db);
  const looked = await lastLook(db);
  const ends = await AlikeAssets.read(db, SAME_ENDS);
  const frames = await AlikeAssets.read(db, SAME_FRAMES);
  return { ...{ revision, ends, frames, looked }, hashes: await goodHashes(db, ends.ids) };
}

async function follow(db: Sequelize, last: Known): Promise<Known> {
  const rows = await feedAfter(db, last.revision, FOLLOWED);
  if (rows.length === FOLLOWED) return readAlike(db);
  const changed = [...new Set(rows.flatMap(({ entity, entityId }) => (entity === 'asset' ? [entityId] : [])))];
  const others = changed.length > 0 ? await last.ends.changed(db, changed) : [];
  if (changed.length > 0) await last.frames.changed(db, changed);
  const { assetIds, last: looked } = await checkedSince(db, last.looked - LOOKS_BEFORE);
  await readHashes(db, last, [...new Set([...changed, ...others, ...assetIds])]);
  return { ...last, revision: rows.at(-1)?.revision ?? last.revision, looked: Math.max(last.looked, looked) };
}

async function readHashes(db: Sequelize, { ends, hashes }: Known, ids: readonly number[]): Promise<void> {
  const read = await goodHashes(
    db,
    ids.filter((id) => ends.has(id)),
  );
  for (const id of ids) hashes.delete(id);
  for (const [id, hash] of read) hashes.set(id, hash);
}

/** Assets that are of one recording as far as is known, those that take most space first. */
async function twinGroups(db: Sequelize): Promise<readonly Group[]> {
  const { ends, frames, hashes } = await alikeNow(db);
  const [same, other] = [ends.groups(), frames.groups().filter(isOfSeveralFiles)];
  const near = (await nearPairs(db)).filter(
    ({ assetId, otherId }) => !ends.areTogether(assetId, otherId) && !frames.areTogether(assetId, otherId),
  );
  const all = [
    ...same.map((group) => ({ group, of: byWholeBytes(idsOf(group), hashes) })),
    ...other.map((group) => ({ group, of: [{ likeness: 'equivalent' as const, ids: idsOf(group), same: null }] })),
  ];
  const sure = all
    .map((each) => ({ ...each, doubled: doubledBytes(each.group), first: each.group[0]?.id ?? 0 }))
    .toSorted((a, b) => b.doubled - a.doubled || a.first - b.first)
    .flatMap(({ of }) => of);
  return [...sure, ...nearGroups(near)];
}

/** So many are listed with one; what is said of them is said of all in one request. */
const MOST_NEAR = 100;

/** Each asset with those that are near it and not named yet. */
function nearGroups(pairs: readonly NearPair[]): Group[] {
  const named = new Set<number>();
  const groups: Group[] = [];
  for (const [assetId, of] of gathered(pairs, (pair) => pair.assetId)) {
    const mine = of.filter(({ otherId }) => !named.has(otherId)).slice(0, MOST_NEAR);
    if (named.has(assetId) || mine.length === 0) continue;
    const ids = [assetId, ...mine.map(({ otherId }) => otherId)];
    for (const id of ids) named.add(id);
    groups.push({
      likeness: 'near',
      ids,
      same: { picture: sameInAll(mine, 'picture'), sound: sameInAll(mine, 'sound') },
    });
  }
  return groups;
}

/** What tells of a sense in all of some pairs: one that is another is enough. */
function sameInAll(pairs: readonly NearPair[], sense: Sense): boolean | null {
  const told = pairs.map((pair) => isSame(sense, pair[sense]));
  return told.includes(false) ? false : told.includes(null) ? null : true;
}

const idsOf = (group: readonly AlikeAsset[]): number[] => group.map(({ id }) => id);
const isOfSeveralFiles = (group: readonly AlikeAsset[]): boolean =>
  new Set(group.map(({ bytes, fingerprint, id }) => `${fingerprint ?? id} ${bytes}`)).size > 1;
/** What one of them alone would not take. */
const doubledBytes = (group: readonly AlikeAsset[]): number => {
  const bytes = group.map((each) => each.bytes);
  return bytes.reduce((sum, each) => sum + each, 0) - bytes.reduce((most, each) => Math.max(most, each), 0);
};

/**
 * Files with the same ends by what is known of all between: stems of one piece of music are as long as each other, and begin and end in
 * silence. Those that were read whole are told apart; with one that was not, it is still open.
 */
function byWholeBytes(ids: readonly number[], hashes: ReadonlyMap<number, string>): Group[] {
  const read = [...gathered(ids, (id) => hashes.get(id) ?? null).values()];
  const unread = ids.filter((id) => !hashes.has(id));
  if (unread.length > 0 && read.length <= 1) return [{ likeness: 'ends', ids, same: null }];
  const same = read
    .filter((each) => each.length > 1)
    .map((each): Group => ({ likeness: 'exact', ids: each, same: null }));
  // Which of those that differ it is can only be told when it was read too.
  const open =
    unread.length > 0 ? [...read.flatMap(([first]) => first ?? []), ...unread].toSorted((a, b) => a - b) : [];
  return open.length > 0 ? [...same, { likeness: 'open', ids: open, same: null }] : same;
}

/** What is catalogued more than once, a part of the list. */
export async function twinList(
  db: Sequelize,
  { limit, offset }: { readonly offset: number; readonly limit: number },
): Promise<TwinList> {
  const groups = await twinGroups(db);
  const shown = groups.slice(offset, offset + limit);
  const ids = [...new Set(shown.flatMap((group) => group.ids))];
  const [assets, uses] = [await assetsById(db, ids), await usesOf(db, ids)];
  const byId = new Map(assets.map((asset) => [asset.id, asset]));
  return {
    total: groups.length,
    groups: shown.flatMap(({ ids: members, likeness, same }): TwinGroup[] => {
      const twins = members.flatMap((id) => {
        const asset = byId.get(id);
        return asset ? [{ asset, uses: uses.get(id) ?? NO_USES }] : [];
      });
      const [first] = twins.toSorted((a, b) => worth(b) - worth(a) || a.asset.id - b.asset.id);
      return first && twins.length > 1 ? [{ likeness, same, suggested: first.asset.id, twins }] : [];
    }),
  };
}

type Twin = TwinGroup['twins'][number];
const NO_USES = { subclips: 0, stringOuts: 0 };
/** What is there goes before what most is said of and made with. */
const worth = ({ asset: { bins, description, markers, notes, state, tags, title, verdict }, uses }: Twin): number =>
  (state === 'online' ? 1_000_000 : 0) +
  10 * (uses.stringOuts + uses.subclips + bins.length) +
  [title, description, notes, verdict].filter((value) => value !== null && value !== '').length +
  tags.length +
  markers.length;

async function usesOf(db: Sequelize, ids: readonly number[]): Promise<Map<number, Twin['uses']>> {
  const subclips = await selectByIds<{ id: number; count: number }>(
    db,
    `SELECT parent_id AS id, COUNT(*) AS count FROM ${ASSETS_BY_PARENT} WHERE parent_id IN (:ids) GROUP BY parent_id`,
    ids,
  );
  const cuts = await select<{ id: number; count: number }>(
    db,
    `SELECT i.asset_id AS id, COUNT(DISTINCT o.id) AS count FROM string_out o, JSON_TABLE(o.items, '$[*]' COLUMNS (asset_id BIGINT PATH '$.assetId')) i GROUP BY i.asset_id`,
  );
  const of = (rows: readonly { readonly id: number; readonly count: number }[]) =>
    new Map(rows.map(({ count, id }) => [Number(id), Number(count)]));
  const [named, cut] = [of(subclips), of(cuts)];
  return new Map(ids.map((id) => [id, { subclips: named.get(id) ?? 0, stringOuts: cut.get(id) ?? 0 }]));
}

/**
 * Keeps one of each of some groups, and takes the others into it with all that is said of them and made with them. Their files stay
 * where they are, as other places of the one that is kept. One write, undone as one.
 */
export async function keepTwins(db: Sequelize, personId: number, { groups }: KeepTwins): Promise<Written> {
  const fields = await readFields(db);
  const askedMs = Date.now();
  const { changed, group, revision } = await write(db, personId, async (writing) => {
    for (const { keep, others } of groups) {
      if (!(await areTwins(db, [keep, ...others], writing.transaction)))
        throw refused(
          `#${keep} and ${others.map((id) => `#${id}`).join(', ')} are not known to be of one recording, or not any more. Nothing was merged.`,
        );
      const [kept] = await assetsById(db, [keep], writing.transaction);
      if (kept?.state !== 'online')
        throw refused(
          `${kept?.name ?? `#${keep}`} is not there itself. Keep one that is, or find it again. Nothing was merged.`,
        );
      for (const id of others) await fold(db, writing, fields, { id, into: keep, staysAPlace: true, askedMs });
    }
  });
  return { changed, group, revision };
}

const differ = (hashes: ReadonlyMap<number, string>): boolean => new Set(hashes.values()).size > 1;

/** Whether assets are of one recording; they are held as they are until the end of the transaction. */
async function areTwins(db: Sequelize, ids: readonly number[], transaction: Transaction): Promise<boolean> {
  if (new Set(ids).size < ids.length) return false;
  if (await areAlike(db, SAME_ENDS, ids, transaction)) {
    const hashes = await goodHashes(db, ids, transaction);
    if (hashes.size === ids.length || differ(hashes)) return !differ(hashes);
    // One that was not read may be any of those that were.
    const [first = 0] = ids;
    return !differ(await goodHashes(db, await alikeTo(db, SAME_ENDS, first, transaction), transaction));
  }
  return (await areAlike(db, SAME_FRAMES, ids, transaction)) || areNearFirst(db, ids, transaction);
}

/** Whether all others are near the first. */
async function areNearFirst(db: Sequelize, ids: readonly number[], transaction: Transaction): Promise<boolean> {
  const [first = 0, ...others] = ids;
  const near = new Set(
    (await nearPairsOf(db, [first], transaction)).map(({ assetId, otherId }) => assetId + otherId - first),
  );
  return others.every((id) => near.has(id));
}
