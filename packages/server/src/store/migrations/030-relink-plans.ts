import type { Sequelize } from 'sequelize';

const CHANGES = [
  // What a search for missing originals came to, and what is decided of each. Its number is that of the search.
  `CREATE TABLE relink_item (job_id BIGINT NOT NULL, asset_id BIGINT NOT NULL, last_seen VARCHAR(2200) COLLATE utf8mb4_bin NOT NULL, decision VARCHAR(10) NOT NULL, chosen INT, rule INT, trouble VARCHAR(500), verified JSON,
    PRIMARY KEY (job_id, asset_id), KEY by_asset (asset_id), FOREIGN KEY (job_id) REFERENCES job (id) ON DELETE CASCADE, FOREIGN KEY (asset_id) REFERENCES asset (id) ON DELETE CASCADE)`,
  `CREATE TABLE relink_match (job_id BIGINT NOT NULL, asset_id BIGINT NOT NULL, place INT NOT NULL, storage_id BIGINT NOT NULL, path VARCHAR(2000) COLLATE utf8mb4_bin NOT NULL, path_hash CHAR(40) NOT NULL, likeness VARCHAR(12) NOT NULL,
    probability DOUBLE NOT NULL, evidence JSON NOT NULL, blocked_by VARCHAR(100) NOT NULL, owner_id BIGINT, owner_free BOOLEAN NOT NULL,
    PRIMARY KEY (job_id, asset_id, place), FOREIGN KEY (job_id, asset_id) REFERENCES relink_item (job_id, asset_id) ON DELETE CASCADE, FOREIGN KEY (storage_id) REFERENCES storage (id) ON DELETE CASCADE)`,
  // What of a million is a lost original is found by how it is called and where it begins.
  `ALTER TABLE asset ADD KEY by_start (start_frame, duration_frames), ADD KEY by_reel_start (reel, start_frame), DROP KEY by_reel`,
  `INSERT INTO job_limit VALUES ('mend', 1)`,
];

/** Plans of what is relinked. */
export const relinkPlansMigration = {
  name: '030-relink-plans',
  up: async ({ context: db }: { context: Sequelize }): Promise<void> => {
    for (const sql of CHANGES) await db.query(sql);
  },
};
