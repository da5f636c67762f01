import type { Sequelize } from 'sequelize';

/** Sidecars of many assets, written by a job. */
export const sidecarsMigration = {
  name: '019-sidecars',
  up: async ({ context: db }: { context: Sequelize }): Promise<void> => {
    await db.query(`INSERT INTO job_limit VALUES ('sidecars', 2)`);
  },
};
