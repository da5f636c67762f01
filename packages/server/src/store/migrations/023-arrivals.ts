import type { Sequelize } from 'sequelize';

const TABLES = [
  `CREATE TABLE live_bin_watch (person_id BIGINT NOT NULL, live_bin_id BIGINT NOT NULL, since_ms BIGINT NOT NULL, PRIMARY KEY (person_id, live_bin_id),
    FOREIGN KEY (person_id) REFERENCES person (id) ON DELETE CASCADE, FOREIGN KEY (live_bin_id) REFERENCES live_bin (id) ON DELETE CASCADE)`,
  `CREATE TABLE live_bin_arrival (person_id BIGINT NOT NULL, live_bin_id BIGINT NOT NULL, asset_id BIGINT NOT NULL, revision BIGINT NOT NULL, PRIMARY KEY (person_id, live_bin_id, asset_id),
    FOREIGN KEY (person_id, live_bin_id) REFERENCES live_bin_watch (person_id, live_bin_id) ON DELETE CASCADE)`,
];

/** Which live bins people want to be told of, and what came into them that they have not seen. */
export const arrivalsMigration = {
  name: '023-arrivals',
  up: async ({ context: db }: { context: Sequelize }): Promise<void> => {
    for (const sql of TABLES) await db.query(sql);
  },
};
