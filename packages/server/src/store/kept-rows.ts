import { QueryTypes, type Sequelize, type Transaction } from 'sequelize';
import { select } from './database';

/** A row of the database as it was, column by column. */
export type KeptRow = Readonly<Record<string, unknown>>;

/** The driver reads columns of JSON as what they hold, and takes them as texts. */
const written = (value: unknown): unknown =>
  typeof value === 'object' && value !== null ? JSON.stringify(value) : value;

/** Puts a row back that was taken away; does nothing where one has its place. */
export async function putRow(db: Sequelize, table: string, row: KeptRow, transaction: Transaction): Promise<void> {
  const columns = Object.keys(row);
  await db.query(`INSERT IGNORE INTO ${table} (${columns.join(', ')}) VALUES :values`, {
    replacements: { values: [columns.map((column) => written(row[column]))] },
    transaction,
    type: QueryTypes.INSERT,
  });
}

/** The rows of a table that hang on an asset. */
export const hangingOn = (
  db: Sequelize,
  table: string,
  assetId: number,
  transaction: Transaction,
): Promise<KeptRow[]> =>
  select<KeptRow>(db, `SELECT * FROM ${table} WHERE asset_id = :assetId`, { assetId }, transaction);
