import type { Sequelize } from 'sequelize';

/** What people say of an asset in fields that have no column of their own, by the ids of the registry. */
export const loggingMigration = {
  name: '004-logging',
  up: async ({ context: db }: { context: Sequelize }): Promise<void> => {
    await db.query(`ALTER TABLE asset ADD logged JSON NOT NULL DEFAULT '{}'`);
  },
};
