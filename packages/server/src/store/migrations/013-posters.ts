import type { Sequelize } from 'sequelize';

/** Which frame a person wants an asset to be shown by; null to leave it to the library. */
export const postersMigration = {
  name: '013-posters',
  up: async ({ context: db }: { context: Sequelize }): Promise<void> => {
    await db.query('ALTER TABLE asset ADD poster VARCHAR(20)');
  },
};
