import type { Sequelize, Transaction } from 'sequelize';
import { pieces, select, selectByIds } from './database';

/** What makes assets alike. Both are SQL over a row of `asset`. */
export interface Alike {
  /** Equal for all that are alike; NULL for what is alike to nothing. */
  readonly key: string;
  /** Columns with an index, equal for all that are alike: what is alone by these is passed over without being read. */
  readonly near: readonly (readonly [column: string, type: string])[];
  /** That index. */
  readonly index: string;
}

/** Length, beginning and end of the file are equal. */
export const SAME_ENDS: Alike = {
  key: `CONCAT(fingerprint, ' ', bytes)`,
  near: [['fingerprint', 'VARCHAR(60)']],
  index: 'by_fingerprint',
};

const FRAMES = `IF(parent_id IS NULL AND reel IS NOT NULL AND start_frame IS NOT NULL AND duration_frames > 1,
  CONCAT_WS(' ', kind, start_frame, duration_frames, COALESCE(rate_num, '?'), COALESCE(rate_den, '?'), drop_frame, UPPER(reel)), NULL)`;
/** The same frames of the same reel. That reel and timecode tell camera media apart is common practice. */
export const SAME_FRAMES: Alike = {
  key: FRAMES,
  near: [
    ['reel', 'VARCHAR(100)'],
    ['start_frame', 'BIGINT'],
  ],
  index: 'by_reel_start',
};

export interface AlikeAsset {
  readonly id: number;
  readonly bytes: number;
  readonly fingerprint: string | null;
}

interface Row extends AlikeAsset {
  readonly key: string;
}

const COLUMNS = 'id, bytes, fingerprint';

const columnsOf = ({ near }: Alike): string => near.map(([column]) => column).join(', ');

/** So many are asked for in one question. */
const REPEATED_AT_ONCE = 5000;

/** What more than one asset has in the columns near: read from their index alone, which in one question with the rows it is not. */
async function repeated(db: Sequelize, alike: Alike): Promise<unknown[][]> {
  const rows = await select<Record<string, unknown>>(
    db,
    `SELECT ${columnsOf(alike)}, COUNT(*) AS count FROM asset WHERE ${alike.near.map(([column]) => `${column} IS NOT NULL`).join(' AND ')}
     GROUP BY ${columnsOf(alike)} HAVING count > 1`,
  );
  return rows.map((row) => alike.near.map(([column]) => row[column]));
}

/** The assets that have some of it. */
const rowsNear = (db: Sequelize, { index, key, near }: Alike, values: readonly unknown[][]): Promise<Row[]> =>
  select<Row>(
    db,
    `SELECT STRAIGHT_JOIN ${COLUMNS}, ${key} AS \`key\`
     FROM JSON_TABLE(:values, '$[*]' COLUMNS (${near.map(([, type], at) => `near${at} ${type} PATH '$[${at}]'`).join(', ')})) r
     JOIN asset FORCE INDEX (${index}) ON ${near.map(([column], at) => `${column} = near${at}`).join(' AND ')} WHERE ${key} IS NOT NULL`,
    { values: JSON.stringify(values) },
  );

/** Assets of the library that are alike, in groups of two and more, kept current by telling it what changed. */
export class AlikeAssets {
  private readonly byKey = new Map<string, Map<number, AlikeAsset>>();
  private readonly keys = new Map<number, string>();

  private constructor(private readonly alike: Alike) {}

  static none(alike: Alike): AlikeAssets {
    return new AlikeAssets(alike);
  }

  static async read(db: Sequelize, alike: Alike): Promise<AlikeAssets> {
    const all = new AlikeAssets(alike);
    for (const some of pieces(await repeated(db, alike), REPEATED_AT_ONCE)) all.put(await rowsNear(db, alike, some));
    all.dropSingle([...all.byKey.keys()]);
    return all;
  }

  has(id: number): boolean {
    return this.keys.has(id);
  }

  /** Whether two assets are alike. */
  areTogether(one: number, other: number): boolean {
    const key = this.keys.get(one);
    return key !== undefined && key === this.keys.get(other);
  }

  get ids(): readonly number[] {
    return [...this.keys.keys()];
  }

  groups(): AlikeAsset[][] {
    return [...this.byKey.values()].map((group) => [...group.values()].toSorted((a, b) => a.id - b.id));
  }

  /** Takes in that assets came, went or are of another file; tells who else is alike to something now, or is no longer. */
  async changed(db: Sequelize, ids: readonly number[]): Promise<number[]> {
    const { key } = this.alike;
    const rows = await selectByIds<Row>(
      db,
      `SELECT ${COLUMNS}, ${key} AS \`key\` FROM asset
       WHERE (${columnsOf(this.alike)}) IN (SELECT ${columnsOf(this.alike)} FROM asset WHERE id IN (:ids))
         AND ${key} IS NOT NULL`,
      ids,
    );
    const left = ids.flatMap((id) => this.keys.get(id) ?? []);
    const around = new Set([
      ...left.flatMap((of) => [...(this.byKey.get(of)?.keys() ?? [])]),
      ...rows.map(({ id }) => id),
    ]);
    const before = new Map([...around].map((id) => [id, this.has(id)]));
    for (const id of ids) this.take(id);
    this.put(rows);
    this.dropSingle([...left, ...rows.map((row) => row.key)]);
    const told = new Set(ids);
    return [...around].filter((id) => !told.has(id) && before.get(id) !== this.has(id));
  }

  private take(id: number): void {
    const key = this.keys.get(id);
    if (key === undefined) return;
    this.keys.delete(id);
    this.byKey.get(key)?.delete(id);
  }

  private put(rows: readonly Row[]): void {
    for (const { key, ...asset } of rows) {
      const group = this.byKey.get(key);
      if (group) group.set(asset.id, asset);
      else this.byKey.set(key, new Map([[asset.id, asset]]));
      this.keys.set(asset.id, key);
    }
  }

  private dropSingle(keys: Iterable<string>): void {
    for (const key of new Set(keys)) {
      const group = this.byKey.get(key);
      if (!group || group.size > 1) continue;
      for (const id of group.keys()) this.keys.delete(id);
      this.byKey.delete(key);
    }
  }
}

/** The assets that are alike to one, and that one. */
export async function alikeTo(db: Sequelize, alike: Alike, id: number, transaction: Transaction): Promise<number[]> {
  const rows = await select<{ id: number }>(
    db,
    `SELECT id FROM asset WHERE (${columnsOf(alike)}) = (SELECT ${columnsOf(alike)} FROM asset WHERE id = :id) AND ${alike.key} = (SELECT ${alike.key} FROM asset WHERE id = :id)`,
    { id },
    transaction,
  );
  return rows.map((row) => row.id);
}

/** Whether some assets, held until the end of the transaction, are all alike. */
export async function areAlike(
  db: Sequelize,
  alike: Alike,
  ids: readonly number[],
  transaction: Transaction,
): Promise<boolean> {
  const rows = await select<{ key: string | null }>(
    db,
    `SELECT ${alike.key} AS \`key\` FROM asset WHERE id IN (:ids) ORDER BY id FOR UPDATE`,
    { ids },
    transaction,
  );
  return rows.length === ids.length && rows[0]?.key !== null && new Set(rows.map(({ key }) => key)).size === 1;
}
