import { QueryTypes, type Sequelize, type Transaction } from 'sequelize';
import type { PlainChoice } from '@larder/core/fields';
import { fromJson, select } from './database';

/** What holds for the whole library. */
export interface LibrarySettings {
  /** Tags may be written that nobody has listed. */
  readonly freeTags: boolean;
  readonly plain: PlainChoice;
}

/** What it is until a manager says otherwise. */
const DEFAULTS: LibrarySettings = { freeTags: true, plain: {} };

export async function librarySettings(db: Sequelize, transaction?: Transaction): Promise<LibrarySettings> {
  const rows = await select<{ name: string; value: unknown }>(
    db,
    'SELECT name, value FROM library_setting',
    {},
    transaction,
  );
  return { ...DEFAULTS, ...Object.fromEntries(rows.map(({ name, value }) => [name, fromJson(value)])) };
}

export async function setLibrarySetting<Name extends keyof LibrarySettings>(
  db: Sequelize,
  name: Name,
  value: LibrarySettings[Name],
  transaction: Transaction,
): Promise<void> {
  await db.query('INSERT INTO library_setting VALUES (:name, :value) ON DUPLICATE KEY UPDATE value = :value', {
    replacements: { name, value: JSON.stringify(value) },
    transaction,
    type: QueryTypes.INSERT,
  });
}
