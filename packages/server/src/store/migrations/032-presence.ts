import type { Sequelize } from 'sequelize';

/** Whether all files are there is looked at by a schedule too. */
export const presenceMigration = {
  name: '032-presence',
  up: async ({ context: db }: { context: Sequelize }): Promise<void> => {
    await db.query('ALTER TABLE storage ADD COLUMN presence_hours INT, ADD COLUMN looked_ms BIGINT');
    // Those that were scanned as a whole were looked over by it.
    await db.query(
      `UPDATE storage s SET looked_ms = (SELECT MAX(j.ended_ms) FROM job j WHERE j.storage_id = s.id AND j.kind = 'scan' AND j.state = 'done' AND COALESCE(JSON_LENGTH(j.payload, '$.folders'), 0) = 0)`,
    );
    await db.query(`INSERT INTO job_limit VALUES ('presence', 2)`);
  },
};
