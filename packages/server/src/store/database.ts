import { ConnectionError, DatabaseError, QueryTypes, Sequelize, type Transaction } from 'sequelize';

export interface DatabaseOptions {
  readonly host: string;
  readonly port: number;
  readonly user: string;
  readonly password: string;
  readonly name: string;
}

/** Opens a pool on the library's database. Nothing is asked of it until the first query. */
export function openDatabase(options: DatabaseOptions): Sequelize {
  return new Sequelize(options.name, options.user, options.password, {
    host: options.host,
    port: options.port,
    // The `mariadb` driver 3 breaks under Sequelize 6; mysql2 speaks the same protocol and is kept up.
    dialect: 'mysql',
    logging: false,
    pool: { max: 12, min: 1, idle: 30_000, acquire: 30_000 },
    define: { timestamps: false, underscored: true, freezeTableName: true, charset: 'utf8mb4' },
    // Statements differ in how many rows they carry, and the database keeps a limited number of prepared ones for everybody.
    dialectOptions: { charset: 'utf8mb4', supportBigNumbers: true, maxPreparedStatements: 50 },
    timezone: '+00:00',
  });
}

/** Runs a SELECT whose values go in by name, and gives its rows. */
export const select = <Row extends object>(
  db: Sequelize,
  sql: string,
  replacements: Record<string, unknown> = {},
  transaction?: Transaction,
): Promise<Row[]> =>
  db.query<Row>(sql, { type: QueryTypes.SELECT, replacements, ...(transaction ? { transaction } : {}) });

/** Pieces of a list, each no longer than so much. */
export function* pieces<T>(all: readonly T[], length: number): Generator<readonly T[]> {
  for (let start = 0; start < all.length; start += length) yield all.slice(start, start + length);
}

/** Longer lists MariaDB makes a table of. */
const IDS_AT_ONCE = 900;

/** As `select` with each of some `:ids`, so many at a time as MariaDB reads one by one. */
export async function selectByIds<Row extends object, Id extends number | string = number>(
  db: Sequelize,
  sql: string,
  ids: readonly Id[],
  transaction?: Transaction,
): Promise<Row[]> {
  const rows: Row[][] = [];
  for (const some of pieces(ids, IDS_AT_ONCE)) rows.push(await select<Row>(db, sql, { ids: some }, transaction));
  return rows.flat();
}

/**
 * The table of assets, read by the parents of subclips. Since hardly any asset has a parent, the database takes each for the parent of
 * thousands, and would read all of a million rows.
 */
export const ASSETS_BY_PARENT = 'asset FORCE INDEX (by_parent)';

/** Text as LIKE looks for it letter by letter. */
export const likeText = (text: string): string => text.replace(/[\\%_]/g, '\\$&');

/** MariaDB keeps JSON as text, and the driver hands it out so. */
export const fromJson = <T>(value: unknown): T => (typeof value === 'string' ? (JSON.parse(value) as T) : (value as T));

const GONE = new Set([
  'ECONNREFUSED',
  'ECONNRESET',
  'EPIPE',
  'ETIMEDOUT',
  'PROTOCOL_CONNECTION_LOST',
  'PROTOCOL_ENQUEUE_AFTER_FATAL_ERROR',
  'ER_SERVER_SHUTDOWN',
  'ER_CONNECTION_KILLED',
]);

/** The database went away in the middle of something, which says nothing against what was being done. */
export function isDatabaseGone(error: unknown): boolean {
  if (error instanceof ConnectionError) return true;
  const { parent = error } = error as { parent?: unknown };
  const { code = '', fatal = false } = parent as { code?: string; fatal?: boolean };
  // Of a connection that was lost while it lay idle within a transaction, the driver says only that it is fatal.
  return fatal || (error instanceof DatabaseError && GONE.has(code));
}

/** Eight workers that take jobs beside a busy machine lost ten deadlocks in a row; whoever writes is kept waiting, not refused. */
const MAX_TRIES = 30;
const RETRY_MS = 15;
const isRetryable = (error: unknown): boolean =>
  ['ER_LOCK_DEADLOCK', 'ER_LOCK_WAIT_TIMEOUT'].includes((error as { parent?: { code?: string } }).parent?.code ?? '');

/**
 * Does something that writes, and does it again, waiting longer each time, when the database gave it up for another writer. So
 * `work` must be whole in itself: one statement, or one transaction that does nothing but write to the database.
 */
export async function retried<T>(work: () => Promise<T>): Promise<T> {
  for (let tries = 1; ; tries += 1) {
    try {
      return await work();
    } catch (error) {
      if (tries >= MAX_TRIES || !isRetryable(error)) throw error;
      await new Promise((resolve) => setTimeout(resolve, RETRY_MS * 2 ** Math.min(tries, 6) * Math.random()));
    }
  }
}
