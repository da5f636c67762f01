import type { Sequelize } from 'sequelize';

/** How many files are fetched from the archive at once: as many as most have drives. */
export const restoreMigration = {
  name: '031-restore',
  up: async ({ context: db }: { context: Sequelize }): Promise<void> => {
    await db.query(`INSERT INTO job_limit VALUES ('restore', 1)`);
  },
};
