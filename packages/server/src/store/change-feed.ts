import { randomUUID } from 'node:crypto';
import { QueryTypes, type Sequelize, type Transaction } from 'sequelize';
import type { Entity } from '@larder/contract';
import { retried, select } from './database';

/** Whose a change is, and which write it belongs to: what is of one group is undone together. */
export interface Author {
  readonly personId: number | null;
  readonly group: string;
}

export interface FeedEntry {
  readonly action: string;
  readonly entity: Entity;
  readonly entityId: number;
  readonly before?: Readonly<Record<string, unknown>>;
  readonly after?: Readonly<Record<string, unknown>>;
}

export interface FeedRow {
  readonly revision: number;
  readonly personId: number | null;
  readonly entity: Entity;
  readonly entityId: number;
}

/** What a write is given: the transaction it is part of, and where it says what it changed. */
export interface Writing {
  readonly transaction: Transaction;
  /** `author` is given where one transaction carries writes of several people. */
  log(entry: FeedEntry, author?: Author): void;
}

export interface WriteOutcome<T> {
  readonly value: T;
  /** The library's revision after this write. */
  readonly revision: number;
  readonly group: string;
  readonly changed: number;
}

const INSERT_BATCH = 500;

/**
 * Carries out a write as one transaction that leaves its rows in the change feed.
 *
 * Revisions are taken from one row, locked from just before the commit until the commit is through. So they become visible in
 * ascending order, and a reader that has seen revision n will never find a new one below it, which AUTO_INCREMENT does not give.
 * A transaction that lost a deadlock is run again, so `work` must do nothing but write to the database. Writes of one `group` are
 * undone together.
 */
export const write = <T>(
  db: Sequelize,
  personId: number | null,
  work: (writing: Writing) => Promise<T>,
  group: string = randomUUID(),
): Promise<WriteOutcome<T>> =>
  retried(() =>
    db.transaction(async (transaction) => {
      const entries: Authored[] = [];
      const own = { personId, group };
      const value = await work({
        transaction,
        log: (entry, author = own) => void entries.push({ ...entry, ...author }),
      });
      return { value, revision: await append(db, transaction, entries), group, changed: entries.length };
    }),
  );

type Authored = FeedEntry & Author;

/** Gives the revision of the last of them, or the library's if there are none. */
async function append(db: Sequelize, transaction: Transaction, entries: readonly Authored[]): Promise<number> {
  if (entries.length === 0) return headRevision(db, transaction);
  if (entries.length <= INSERT_BATCH) return appendAtOnce(db, transaction, entries);
  // The new number comes back with the statement that takes it: while the row is locked, everybody else waits for each question more.
  const [, outcome] = (await db.query('UPDATE feed_head SET revision = LAST_INSERT_ID(revision + :count)', {
    replacements: { count: entries.length },
    transaction,
  })) as [unknown, { insertId: number }];
  const revision = outcome.insertId;
  const first = revision - entries.length + 1;
  const now = Date.now();
  for (let start = 0; start < entries.length; start += INSERT_BATCH) {
    const values = entries
      .slice(start, start + INSERT_BATCH)
      .flatMap((entry, index) => [
        ...[first + start + index, entry.group, now, entry.personId, entry.action, entry.entity, entry.entityId],
        ...[JSON.stringify(entry.before ?? {}), JSON.stringify(entry.after ?? {})],
      ]);
    await db.query(insertInto(values.length / FEED_COLUMNS.length), {
      ...{ bind: values, transaction, type: QueryTypes.INSERT },
    });
  }
  return revision;
}

const FEED_COLUMNS = 'revision change_group at_ms person_id action entity entity_id before_values after_values'.split(
  ' ',
);

/** The statement for so many rows, whose values are bound: written into it they would be looked through for quotation marks by both sides. */
function insertInto(rows: number): string {
  const row = (n: number) => `(${FEED_COLUMNS.map((_unused, at) => `$${n * FEED_COLUMNS.length + at + 1}`).join(',')})`;
  return `INSERT INTO change_feed (${FEED_COLUMNS.join(', ')}) VALUES ${Array.from({ length: rows }, (_unused, n) => row(n)).join(',')}`;
}

/** The rows of a usual write, in one question that commits as well; the transaction has nothing left to do. */
async function appendAtOnce(db: Sequelize, transaction: Transaction, entries: readonly Authored[]): Promise<number> {
  const rows = entries.map(({ before = {}, after = {}, ...entry }) => ({
    ...entry,
    ...{ before: JSON.stringify(before), after: JSON.stringify(after) },
  }));
  const answer = (await db.query('CALL append_feed(:rows, :count, :now)', {
    replacements: { rows: JSON.stringify(rows), count: rows.length, now: Date.now() },
    transaction,
    type: QueryTypes.RAW,
  })) as unknown as readonly { readonly revision: number }[];
  return Number(answer[0]?.revision);
}

export async function headRevision(db: Sequelize, transaction?: Transaction): Promise<number> {
  const [row] = await select<{ revision: number }>(db, 'SELECT revision FROM feed_head', {}, transaction);
  return Number(row?.revision ?? 0);
}

/** What tells a change from any other that could have its revision, as in a library put back from a copy; null if there is none. */
export async function markOf(db: Sequelize, revision: number): Promise<string | null> {
  const [row] = await select<{ mark: string }>(
    db,
    'SELECT change_group AS mark FROM change_feed WHERE revision = :revision',
    { revision },
  );
  return row?.mark ?? null;
}

/** Feed rows after a revision, ascending, at most `limit`. */
export const feedAfter = (db: Sequelize, revision: number, limit: number): Promise<FeedRow[]> =>
  select<FeedRow>(
    db,
    'SELECT revision, person_id AS personId, entity, entity_id AS entityId FROM change_feed WHERE revision > :revision ORDER BY revision LIMIT :limit',
    { revision, limit },
  );
