import { QueryTypes, type Sequelize, type Transaction } from 'sequelize';
import { fromJson, select } from './database';

/** What holds for the whole library, with what it is until a manager says otherwise. */
const DEFAULTS = { freeTags: true } as const;
export type LibrarySettings = { readonly [Name in keyof typeof DEFAULTS]: boolean };

export async function librarySettings(db: Sequelize, transaction?: Transaction): Promise<LibrarySettings> {
  const rows = await select<{ name: string; value: unknown }>(
    db,
    'SELECT name, value FROM library_setting',
    {},
    transaction,
  );
  return { ...DEFAULTS, ...Object.fromEntries(rows.map(({ name, value }) => [name, fromJson(value)])) };
}

export async function setLibrarySetting(
  db: Sequelize,
  name: keyof LibrarySettings,
  value: boolean,
  transaction: Transaction,
): Promise<void> {
  await db.query('INSERT INTO library_setting VALUES (:name, :value) ON DUPLICATE KEY UPDATE value = :value', {
    replacements: { name, value: JSON.stringify(value) },
    transaction,
    type: QueryTypes.INSERT,
  });
}
