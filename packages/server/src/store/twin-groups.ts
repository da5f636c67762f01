import type { Sequelize, Transaction } from 'sequelize';
import { gathered } from '@larder/core/gather';
import type { KeepTwins, TwinGroup, TwinLikeness, TwinList, Written } from '@larder/contract';
import { assetsById } from './assets';
import { AlikeAssets, alikeTo, areAlike, SAME_ENDS, SAME_FRAMES, type AlikeAsset } from './alike';
import { feedAfter, headRevision, write } from './change-feed';
import { select, selectByIds } from './database';
import { refused } from './errors';
import { fold } from './fold';
import { goodHashes } from './fixity';
import { readFields } from './shop-fields';

interface Group {
  readonly likeness: TwinLikeness;
  readonly ids: readonly number[];
}

/** All that is alike, as of one revision of the library. */
interface Known {
  readonly revision: number;
  readonly ends: AlikeAssets;
  readonly frames: AlikeAssets;
}

const known = new WeakMap<Sequelize, Promise<Known>>();
/** Beyond so many changes it is quicker to read the library once more. */
const FOLLOWED = 20_000;

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
  return { revision, ends: await AlikeAssets.read(db, SAME_ENDS), frames: await AlikeAssets.read(db, SAME_FRAMES) };
}

async function follow(db: Sequelize, last: Known): Promise<Known> {
  const rows = await feedAfter(db, last.revision, FOLLOWED);
  if (rows.length === FOLLOWED) return readAlike(db);
  const changed = [...new Set(rows.flatMap(({ entity, entityId }) => (entity === 'asset' ? [entityId] : [])))];
  if (changed.length > 0) for (const of of [last.ends, last.frames]) await of.changed(db, changed);
  return { ...last, revision: rows.at(-1)?.revision ?? last.revision };
}

/** Assets that are of one recording as far as is known, those that take most space first. */
async function twinGroups(db: Sequelize): Promise<readonly Group[]> {
  const { ends, frames } = await alikeNow(db);
  const [same, other] = [ends.groups(), frames.groups().filter(isOfSeveralFiles)];
  const hashes = await goodHashes(
    db,
    same.flatMap((group) => group.map(({ id }) => id)),
  );
  const all = [
    ...same.map((group) => ({ group, of: byWholeBytes(idsOf(group), hashes) })),
    ...other.map((group) => ({ group, of: [{ likeness: 'equivalent' as const, ids: idsOf(group) }] })),
  ];
  return all
    .map((each) => ({ ...each, doubled: doubledBytes(each.group), first: each.group[0]?.id ?? 0 }))
    .toSorted((a, b) => b.doubled - a.doubled || a.first - b.first)
    .flatMap(({ of }) => of);
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
  if (unread.length > 0 && read.length <= 1) return [{ likeness: 'ends', ids }];
  const same = read.filter((each) => each.length > 1).map((each): Group => ({ likeness: 'exact', ids: each }));
  // Which of those that differ it is can only be told when it was read too.
  const open =
    unread.length > 0 ? [...read.flatMap(([first]) => first ?? []), ...unread].toSorted((a, b) => a - b) : [];
  return open.length > 0 ? [...same, { likeness: 'open', ids: open }] : same;
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
    groups: shown.flatMap(({ ids: members, likeness }): TwinGroup[] => {
      const twins = members.flatMap((id) => {
        const asset = byId.get(id);
        return asset ? [{ asset, uses: uses.get(id) ?? NO_USES }] : [];
      });
      const [first] = twins.toSorted((a, b) => worth(b) - worth(a) || a.asset.id - b.asset.id);
      return first && twins.length > 1 ? [{ likeness, suggested: first.asset.id, twins }] : [];
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
    'SELECT parent_id AS id, COUNT(*) AS count FROM asset FORCE INDEX (by_parent) WHERE parent_id IN (:ids) GROUP BY parent_id',
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
          `#${keep} and ${others.map((id) => `#${id}`).join(', ')} are not of one recording any more. Nothing was merged.`,
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
  return areAlike(db, SAME_FRAMES, ids, transaction);
}
