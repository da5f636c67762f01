import type { Sequelize } from 'sequelize';

const CHANGES = [
  // A person's own, for going through what there is.
  `CREATE TABLE asset_flag (person_id BIGINT NOT NULL, asset_id BIGINT NOT NULL, at_ms BIGINT NOT NULL, PRIMARY KEY (person_id, asset_id), KEY by_asset (asset_id),
    FOREIGN KEY (person_id) REFERENCES person (id) ON DELETE CASCADE, FOREIGN KEY (asset_id) REFERENCES asset (id) ON DELETE CASCADE)`,
  // Where a file says that it was recorded stood among the names of places before it had a field of its own.
  `UPDATE asset SET logged = JSON_SET(COALESCE(logged, '{}'), '$.position', place), place = NULL WHERE place REGEXP '^-?[0-9]+\\\\.[0-9]{4}, -?[0-9]+\\\\.[0-9]{4}$'`,
];

/** Flags, and positions as a field of their own. */
export const atAGlanceMigration = {
  name: '016-at-a-glance',
  up: async ({ context: db }: { context: Sequelize }): Promise<void> => {
    for (const sql of CHANGES) await db.query(sql);
  },
};
