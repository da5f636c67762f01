import type { Sequelize } from 'sequelize';

/** Folders of a storage are looked up by where their paths begin. */
export const shelfMigration = {
  name: '002-shelf',
  up: async ({ context: db }: { context: Sequelize }): Promise<void> => {
    await db.query('ALTER TABLE asset ADD KEY by_place (storage_id, path(200))');
  },
};
