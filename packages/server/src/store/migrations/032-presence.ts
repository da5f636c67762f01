import type { Sequelize } from 'sequelize';

/** Whether all files are there is looked at by a schedule too. */
export const presenceMigration = {
  name: '032-presence',
  up: async ({ context: db }: { context: Sequelize }): Promise<void> => {
    await db.query('ALTER TABLE storage ADD COLUMN presence_hours INT, ADD COLUMN looked_ms BIGINT');
    await db.query(`INSERT INTO job_limit VALUES ('presence', 2)`);
  },
};
