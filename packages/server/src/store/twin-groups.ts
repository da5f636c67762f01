import type { Sequelize } from 'sequelize';
import { gathered } from '@larder/core/gather';
import type { KeepTwins, TwinGroup, TwinLikeness, TwinList, Written } from '@larder/contract';
import { assetsById } from './assets';
import { write } from './change-feed';
import { select, selectByIds } from './database';
import { refused } from './errors';
import { fold } from './fold';
import { goodHashes } from './fixity';
import { perRevision } from './per-revision';
import { readFields } from './shop-fields';

interface Group {
  readonly likeness: TwinLikeness;
  readonly ids: readonly number[];
}

/** Length, beginning and end are equal. */
const ENDS = `SELECT 'ends' AS likeness, GROUP_CONCAT(id ORDER BY id) AS ids, SUM(bytes) - MAX(bytes) AS bytes FROM asset
  WHERE fingerprint IS NOT NULL AND parent_id IS NULL GROUP BY fingerprint, bytes HAVING COUNT(*) > 1`;
/** The same frames of the same reel in other files. That reel and timecode tell camera media apart is common practice. */
const EQUIVALENT = `SELECT 'equivalent' AS likeness, GROUP_CONCAT(id ORDER BY id) AS ids, SUM(bytes) - MAX(bytes) AS bytes FROM asset
  WHERE parent_id IS NULL AND reel IS NOT NULL AND start_frame IS NOT NULL AND duration_frames > 1 GROUP BY kind, reel, start_frame, duration_frames, rate_num, rate_den, drop_frame
  HAVING COUNT(DISTINCT COALESCE(fingerprint, id), bytes) > 1`;

/** Assets that are of one recording as far as the catalogue tells, the largest first. */
const catalogued = perRevision(async (db): Promise<readonly Group[]> => {
  const rows = await select<{ likeness: TwinLikeness; ids: string }>(
    db,
    `${ENDS} UNION ALL ${EQUIVALENT} ORDER BY bytes DESC, ids`,
  );
  return rows.map(({ ids, likeness }) => ({ likeness, ids: ids.split(',').map(Number) }));
});

/** Those groups by what is known of all bytes, which is read without the library being another. */
async function twinGroups(db: Sequelize): Promise<readonly Group[]> {
  const groups = await catalogued(db);
  const hashes = await goodHashes(
    db,
    groups.flatMap(({ ids, likeness }) => (likeness === 'ends' ? ids : [])),
  );
  return groups.flatMap((group) => (group.likeness === 'ends' ? byWholeBytes(group.ids, hashes) : [group]));
}

/**
 * Files with the same ends by what is known of all between: stems of one piece of music are as long as each other, and begin and end in
 * silence. Those that were read whole are told apart; with one that was not, it is still open.
 */
function byWholeBytes(ids: readonly number[], hashes: ReadonlyMap<number, string>): Group[] {
  const read = gathered(ids, (id) => hashes.get(id) ?? null);
  const unread = ids.filter((id) => !hashes.has(id));
  if (unread.length === 0 || read.size > 1) {
    const same = [...read.values()].map((each): Group => ({ likeness: 'exact', ids: each }));
    return [...same, { likeness: 'ends' as const, ids: unread }].filter((group) => group.ids.length > 1);
  }
  return [{ likeness: 'ends', ids }];
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
    'SELECT parent_id AS id, COUNT(*) AS count FROM asset WHERE parent_id IN (:ids) GROUP BY parent_id',
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
  const known = await twinGroups(db);
  for (const { keep, others } of groups)
    if (!known.some(({ ids }) => ids.includes(keep) && others.every((other) => other !== keep && ids.includes(other))))
      throw refused(
        `#${keep} and ${others.map((id) => `#${id}`).join(', ')} are not of one recording any more. Nothing was merged.`,
      );
  const fields = await readFields(db);
  const askedMs = Date.now();
  const { changed, group, revision } = await write(db, personId, async (writing) => {
    for (const { keep, others } of groups) {
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
