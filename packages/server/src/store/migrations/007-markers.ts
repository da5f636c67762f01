import type { Sequelize } from 'sequelize';

/** Places and stretches in time; counted in frames, or in milliseconds where an asset has none. */
export const markersMigration = {
  name: '007-markers',
  up: async ({ context: db }: { context: Sequelize }): Promise<void> => {
    await db.query(
      `CREATE TABLE marker (id BIGINT PRIMARY KEY AUTO_INCREMENT, asset_id BIGINT NOT NULL, kind VARCHAR(12) NOT NULL, start_at BIGINT NOT NULL, end_at BIGINT, name VARCHAR(200) NOT NULL, note TEXT NOT NULL,
        colour VARCHAR(12) NOT NULL, person_id BIGINT, KEY by_asset (asset_id, start_at), FOREIGN KEY (asset_id) REFERENCES asset (id) ON DELETE CASCADE)`,
    );
  },
};
