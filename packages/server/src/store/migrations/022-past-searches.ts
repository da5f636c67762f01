import type { Sequelize } from 'sequelize';

/** What each person searched for, so that it can be asked again. */
export const pastSearchesMigration = {
  name: '022-past-searches',
  up: async ({ context: db }: { context: Sequelize }): Promise<void> => {
    await db.query(
      `CREATE TABLE past_search (person_id BIGINT NOT NULL, query_hash CHAR(40) NOT NULL, query TEXT NOT NULL, at_ms BIGINT NOT NULL,
        PRIMARY KEY (person_id, query_hash), KEY by_time (person_id, at_ms), FOREIGN KEY (person_id) REFERENCES person (id) ON DELETE CASCADE)`,
    );
  },
};
