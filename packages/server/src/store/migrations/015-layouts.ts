import type { Sequelize } from 'sequelize';

/** How somebody has arranged the ledger's columns; shared ones belong to everybody. */
export const layoutsMigration = {
  name: '015-layouts',
  up: async ({ context: db }: { context: Sequelize }): Promise<void> => {
    await db.query(
      `CREATE TABLE ledger_layout (id BIGINT PRIMARY KEY AUTO_INCREMENT, person_id BIGINT NOT NULL, shared BOOLEAN NOT NULL, name VARCHAR(120) NOT NULL, columns JSON NOT NULL,
        KEY by_person (person_id), FOREIGN KEY (person_id) REFERENCES person (id) ON DELETE CASCADE)`,
    );
  },
};
