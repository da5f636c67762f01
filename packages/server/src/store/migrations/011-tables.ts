import type { Sequelize } from 'sequelize';

const CHANGES = [
  // The rows of a table are looked up by the thousand, by checksums too.
  `ALTER TABLE fixity ADD KEY by_hash (xxh64)`,
  `INSERT INTO job_limit VALUES ('table', 2)`,
];

/** Tables read into the library. */
export const tablesMigration = {
  name: '011-tables',
  up: async ({ context: db }: { context: Sequelize }): Promise<void> => {
    for (const sql of CHANGES) await db.query(sql);
  },
};
