import type { Sequelize } from 'sequelize';

/** Hits in what is said that a person does not want to see again when they look for the same. */
export const dismissedHitsMigration = {
  name: '026-dismissed-hits',
  up: async ({ context: db }: { context: Sequelize }): Promise<void> => {
    await db.query(
      `CREATE TABLE dismissed_hit (person_id BIGINT NOT NULL, asked CHAR(64) CHARACTER SET ascii NOT NULL, asset_id BIGINT NOT NULL, start_ms BIGINT NOT NULL,
        PRIMARY KEY (person_id, asked, asset_id, start_ms), FOREIGN KEY (asset_id) REFERENCES asset (id) ON DELETE CASCADE)`,
    );
  },
};
