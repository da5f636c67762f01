import type { Sequelize } from 'sequelize';

/** Clips that are known from a cut list only. Their start and length are those of what the list makes use of. */
export const listedClipsMigration = {
  name: '035-listed-clips',
  up: async ({ context: db }: { context: Sequelize }): Promise<void> => {
    await db.query('ALTER TABLE asset ADD COLUMN listed BOOLEAN NOT NULL DEFAULT FALSE');
  },
};
