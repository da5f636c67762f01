import type { Sequelize } from 'sequelize';
import { foldAnew } from './020-kana';

/** Case is folded in full, so that Straße and STRASSE are one tag. Where there are two by now they stay two, for people to merge. */
export const foldingMigration = {
  name: '024-folding',
  up: ({ context: db }: { context: Sequelize }): Promise<void> => foldAnew(db),
};
