import type { Sequelize } from 'sequelize';

/** Where each person stopped logging, by what they walked through. */
export const loggingPlacesMigration = {
  name: '008-logging-places',
  up: async ({ context: db }: { context: Sequelize }): Promise<void> => {
    await db.query(
      `CREATE TABLE logging_place (person_id BIGINT NOT NULL, query_hash CHAR(40) NOT NULL, query TEXT NOT NULL, asset_id BIGINT NOT NULL, done INT NOT NULL, total INT NOT NULL, at_ms BIGINT NOT NULL,
        PRIMARY KEY (person_id, query_hash), FOREIGN KEY (asset_id) REFERENCES asset (id) ON DELETE CASCADE)`,
    );
  },
};
