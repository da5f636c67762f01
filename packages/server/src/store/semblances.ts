import { QueryTypes, type Sequelize, type Transaction } from 'sequelize';
import { areNear, distanceOf, LENGTH_TOLERANCE_MS, type Distance, type Semblance } from '@larder/core/semblance';
import type { PartTwins } from '@larder/contract';
import { retried, select, selectByIds } from './database';
import { refused } from './errors';

interface Row {
  readonly assetId: number;
  readonly lengthMs: number;
  readonly everyMs: number;
  readonly picture: Buffer | null;
  readonly sound: Buffer | null;
}

const COLUMNS = 'm.asset_id AS assetId, m.length_ms AS lengthMs, m.every_ms AS everyMs, m.picture, m.sound';

/** Words of sound are kept the least byte first, whatever machine wrote them. */
const bytesOf = (words: Uint32Array): Buffer => {
  const bytes = Buffer.alloc(4 * words.length);
  words.forEach((word, at) => bytes.writeUInt32LE(word, 4 * at));
  return bytes;
};
const wordsOf = (bytes: Buffer): Uint32Array =>
  Uint32Array.from({ length: bytes.length / 4 }, (_word, at) => bytes.readUInt32LE(4 * at));

const semblanceIn = ({ everyMs, lengthMs, picture, sound }: Row): Semblance => ({
  ...{ everyMs, lengthMs, picture },
  sound: sound && wordsOf(sound),
});

/** So many are compared at once; each is half a kilobyte. */
const COMPARED_AT_ONCE = 5000;

/** Two assets that are near each other; `asset` has the smaller number. */
export interface NearPair extends Distance {
  readonly assetId: number;
  readonly otherId: number;
}

/**
 * Keeps what an asset looks and sounds like, and which others are near it by that. Written before others are read, each by itself, so
 * that of two that are noted at the same time one finds the other.
 */
export const noteSemblance = (
  db: Sequelize,
  asset: { readonly id: number; readonly kind: string },
  semblance: Semblance,
): Promise<void> => retried(() => writeSemblance(db, asset, semblance));

async function writeSemblance(
  db: Sequelize,
  { id, kind }: { readonly id: number; readonly kind: string },
  { everyMs, lengthMs, picture, sound }: Semblance,
): Promise<void> {
  // A row that is replaced takes its pairs away with it.
  await db.query(
    `REPLACE INTO asset_semblance (asset_id, kind, length_ms, every_ms, picture, sound) SELECT id, :kind, :lengthMs, :everyMs, :picture, :sound FROM asset WHERE id = :id`,
    {
      replacements: {
        ...{ id, kind, lengthMs, everyMs },
        ...{ picture: picture && Buffer.from(picture), sound: sound && bytesOf(sound) },
      },
      type: QueryTypes.INSERT,
    },
  );
  for await (const pairs of nearOf(db, id, kind, { everyMs, lengthMs, picture, sound }))
    await db.query(
      `INSERT IGNORE INTO near_twin (asset_id, other_id, picture, sound)
         SELECT r.* FROM JSON_TABLE(:pairs, '$[*]' COLUMNS (asset_id BIGINT PATH '$.assetId', other_id BIGINT PATH '$.otherId', picture DOUBLE PATH '$.picture', sound DOUBLE PATH '$.sound')) r
         JOIN asset_semblance a ON a.asset_id = r.asset_id JOIN asset_semblance o ON o.asset_id = r.other_id`,
      { replacements: { pairs: JSON.stringify(pairs) }, type: QueryTypes.INSERT },
    );
}

/** What an asset was near to is not known any more: its file is another. */
export const forgetSemblance = (db: Sequelize, id: number, transaction?: Transaction): Promise<unknown> =>
  db.query('DELETE FROM asset_semblance WHERE asset_id = :id', {
    replacements: { id },
    type: QueryTypes.DELETE,
    ...(transaction ? { transaction } : {}),
  });

/** The pairs of an asset with those of its kind and length that are near it, but for files with the same ends: those are found by these. */
async function* nearOf(db: Sequelize, id: number, kind: string, own: Semblance): AsyncGenerator<NearPair[]> {
  if (!own.picture && !own.sound) return;
  let [from, after] = [own.lengthMs - LENGTH_TOLERANCE_MS, 0];
  const to = own.lengthMs + LENGTH_TOLERANCE_MS;
  for (;;) {
    const rows: readonly Row[] = await select<Row>(
      db,
      `SELECT m.asset_id AS assetId, m.length_ms AS lengthMs, m.every_ms AS everyMs, ${own.picture ? 'm.picture, NULL AS sound' : 'NULL AS picture, m.sound'}
       FROM asset_semblance m WHERE m.kind = :kind AND m.length_ms BETWEEN :from AND :to AND (m.length_ms > :from OR m.asset_id > :after) AND m.asset_id <> :id
       ORDER BY m.length_ms, m.asset_id LIMIT ${COMPARED_AT_ONCE}`,
      { id, kind, after, from, to },
    );
    const near = rows.filter((row) => areNear(own, semblanceIn(row))).map(({ assetId }) => assetId);
    if (near.length > 0) yield pairsOf(db, id, own, near);
    if (rows.length < COMPARED_AT_ONCE) return;
    [from, after] = [rows.at(-1)?.lengthMs ?? from, rows.at(-1)?.assetId ?? after];
  }
}

async function pairsOf(db: Sequelize, id: number, own: Semblance, near: readonly number[]): Promise<NearPair[]> {
  const others = await selectByIds<{ id: number }>(
    db,
    `SELECT a.id FROM asset a JOIN asset o ON o.id = ${id} WHERE a.id IN (:ids) AND NOT (a.bytes = o.bytes AND a.fingerprint <=> o.fingerprint)`,
    near,
  );
  const semblances = await semblancesOf(
    db,
    others.map((other) => other.id),
  );
  return [...semblances].map(([other, semblance]) => ({
    ...{ assetId: Math.min(id, other), otherId: Math.max(id, other) },
    ...distanceOf(own, semblance),
  }));
}

/** Pairs that nobody has told apart. */
const PAIRS = `SELECT n.asset_id AS assetId, n.other_id AS otherId, n.picture, n.sound FROM near_twin n
  LEFT JOIN apart_twin x ON x.asset_id = n.asset_id AND x.other_id = n.other_id WHERE x.asset_id IS NULL`;

export const nearPairs = (db: Sequelize): Promise<NearPair[]> =>
  select<NearPair>(db, `${PAIRS} ORDER BY n.asset_id, n.other_id`);

/** The pairs in which some assets are. */
export const nearPairsOf = async (
  db: Sequelize,
  ids: readonly number[],
  transaction?: Transaction,
): Promise<NearPair[]> => {
  const rows = await selectByIds<NearPair>(
    db,
    `${PAIRS} AND n.asset_id IN (:ids) UNION ${PAIRS} AND n.other_id IN (:ids)`,
    ids,
    transaction,
  );
  return rows.map((row) => ({ ...row, assetId: Number(row.assetId), otherId: Number(row.otherId) }));
};

/** Notes that assets which are near each other are of several recordings all the same, or that they are not. Gives of how many pairs. */
export async function partTwins(
  db: Sequelize,
  personId: number,
  { apart, assetIds }: PartTwins,
): Promise<{ pairs: number }> {
  const pairs = await select<{ assetId: number; otherId: number }>(
    db,
    'SELECT asset_id AS assetId, other_id AS otherId FROM near_twin WHERE asset_id IN (:assetIds) AND other_id IN (:assetIds)',
    { assetIds },
  );
  if (pairs.length === 0) throw refused('These are not known to be near each other, or not any more.');
  const among = { replacements: { assetIds, personId, now: Date.now() } };
  if (apart)
    await db.query(
      `INSERT IGNORE INTO apart_twin (asset_id, other_id, person_id, at_ms)
       SELECT asset_id, other_id, :personId, :now FROM near_twin WHERE asset_id IN (:assetIds) AND other_id IN (:assetIds)`,
      { ...among, type: QueryTypes.INSERT },
    );
  else
    await db.query('DELETE FROM apart_twin WHERE asset_id IN (:assetIds) AND other_id IN (:assetIds)', {
      ...among,
      type: QueryTypes.DELETE,
    });
  return { pairs: pairs.length };
}

/** What some assets look and sound like, as far as that is known. */
export async function semblancesOf(db: Sequelize, ids: readonly number[]): Promise<Map<number, Semblance>> {
  const rows = await selectByIds<Row>(db, `SELECT ${COLUMNS} FROM asset_semblance m WHERE m.asset_id IN (:ids)`, ids);
  return new Map(rows.map((row) => [row.assetId, semblanceIn(row)]));
}

/** What has a proxy, and was not compared since it was there. */
const UNCOMPARED = `rendition r LEFT JOIN asset_semblance m ON m.asset_id = r.asset_id WHERE r.kind = 'proxy' AND m.asset_id IS NULL`;

/** Assets of which it is not known yet what they look and sound like, after an id, ascending. */
export const uncompared = (db: Sequelize, afterId: number, limit: number): Promise<{ id: number }[]> =>
  select(db, `SELECT r.asset_id AS id FROM ${UNCOMPARED} AND r.asset_id > :afterId ORDER BY r.asset_id LIMIT :limit`, {
    afterId,
    limit,
  });

export async function countUncompared(db: Sequelize): Promise<number> {
  const [row] = await select<{ count: number }>(db, `SELECT COUNT(*) AS count FROM ${UNCOMPARED}`);
  return Number(row?.count ?? 0);
}
