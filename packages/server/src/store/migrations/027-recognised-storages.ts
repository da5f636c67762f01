import type { Sequelize } from 'sequelize';

/** Storages of which what is said is recognised as soon as something is catalogued from them. */
export const recognisedStoragesMigration = {
  name: '027-recognised-storages',
  up: async ({ context: db }: { context: Sequelize }): Promise<void> => {
    await db.query('ALTER TABLE storage ADD recognises BOOLEAN NOT NULL DEFAULT FALSE');
  },
};
