import type { Sequelize } from 'sequelize';

/** Originals that are looked for elsewhere since their storage is away, though nothing is known to be wrong with them. */
export const awayOriginalsMigration = {
  name: '034-away-originals',
  up: async ({ context: db }: { context: Sequelize }): Promise<void> => {
    await db.query('ALTER TABLE relink_item ADD COLUMN away BOOLEAN NOT NULL DEFAULT FALSE');
  },
};
