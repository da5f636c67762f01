import type { Sequelize } from 'sequelize';

const TABLES = [
  // Those of one length lie beside each other, since they are compared with each other.
  `CREATE TABLE asset_semblance (
    asset_id BIGINT NOT NULL, kind VARCHAR(12) NOT NULL, length_ms BIGINT NOT NULL, every_ms DOUBLE NOT NULL, picture VARBINARY(320), sound VARBINARY(128),
    PRIMARY KEY (kind, length_ms, asset_id), UNIQUE KEY by_asset (asset_id), FOREIGN KEY (asset_id) REFERENCES asset (id) ON DELETE CASCADE)`,
  // Each pair once, the smaller number first.
  `CREATE TABLE near_twin (
    asset_id BIGINT NOT NULL, other_id BIGINT NOT NULL, picture DOUBLE, sound DOUBLE,
    PRIMARY KEY (asset_id, other_id), KEY by_other (other_id),
    FOREIGN KEY (asset_id) REFERENCES asset_semblance (asset_id) ON DELETE CASCADE, FOREIGN KEY (other_id) REFERENCES asset_semblance (asset_id) ON DELETE CASCADE)`,
  // What somebody looked at and found to be two recordings; kept when they are compared anew.
  `CREATE TABLE apart_twin (
    asset_id BIGINT NOT NULL, other_id BIGINT NOT NULL, person_id BIGINT, at_ms BIGINT NOT NULL,
    PRIMARY KEY (asset_id, other_id), KEY by_other (other_id),
    FOREIGN KEY (asset_id) REFERENCES asset (id) ON DELETE CASCADE, FOREIGN KEY (other_id) REFERENCES asset (id) ON DELETE CASCADE, FOREIGN KEY (person_id) REFERENCES person (id) ON DELETE SET NULL)`,
  `INSERT INTO job_limit VALUES ('compare', 1)`,
  // Of what has its renditions already, pictures and sound are compared once.
  `INSERT INTO job (kind, subject, payload, unit, priority, created_ms, updated_ms)
   SELECT 'compare', 'the whole library', '{}', 'assets', 0, now_ms, now_ms FROM (SELECT FLOOR(UNIX_TIMESTAMP(NOW(3)) * 1000) AS now_ms) n
   WHERE EXISTS (SELECT 1 FROM rendition WHERE kind = 'proxy')`,
];

/** What pictures look like and sound sounds like, and which assets are near each other by it. */
export const semblanceMigration = {
  name: '033-semblance',
  up: async ({ context: db }: { context: Sequelize }): Promise<void> => {
    for (const sql of TABLES) await db.query(sql);
  },
};
