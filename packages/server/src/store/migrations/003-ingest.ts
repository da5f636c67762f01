import type { Sequelize } from 'sequelize';

const CHANGES = [
  `ALTER TABLE storage ADD kind VARCHAR(10) NOT NULL DEFAULT 'local', ADD volume VARCHAR(80), ADD managed BOOLEAN NOT NULL DEFAULT FALSE, ADD verify_days INT`,
  `ALTER TABLE asset ADD gaps JSON, ADD alpha VARCHAR(14), ADD loudness JSON`,
  // The name of a rendition's file where its kind alone does not tell it.
  `ALTER TABLE rendition ADD extension VARCHAR(8) NOT NULL DEFAULT ''`,
  // Other places where the same file lies: a card that was copied, a second copy.
  `CREATE TABLE asset_location (
    id BIGINT PRIMARY KEY AUTO_INCREMENT, asset_id BIGINT NOT NULL, storage_id BIGINT NOT NULL, path VARCHAR(2000) COLLATE utf8mb4_bin NOT NULL, path_hash CHAR(40) NOT NULL,
    files INT NOT NULL DEFAULT 1, bytes BIGINT NOT NULL, modified_ms BIGINT NOT NULL, shelf_state VARCHAR(10) NOT NULL, state_since_ms BIGINT NOT NULL,
    UNIQUE KEY one_location_a_file (storage_id, path_hash), KEY by_asset (asset_id), KEY by_place (storage_id, path(200)),
    FOREIGN KEY (asset_id) REFERENCES asset (id) ON DELETE CASCADE, FOREIGN KEY (storage_id) REFERENCES storage (id))`,
  `CREATE TABLE bin (id BIGINT PRIMARY KEY AUTO_INCREMENT, parent_id BIGINT, name VARCHAR(120) NOT NULL, path VARCHAR(2000) NOT NULL, person_id BIGINT, created_ms BIGINT NOT NULL, KEY by_parent (parent_id, name),
    FOREIGN KEY (parent_id) REFERENCES bin (id) ON DELETE CASCADE)`,
  `CREATE TABLE bin_asset (bin_id BIGINT NOT NULL, asset_id BIGINT NOT NULL, position BIGINT NOT NULL, PRIMARY KEY (bin_id, asset_id), KEY by_asset (asset_id),
    FOREIGN KEY (bin_id) REFERENCES bin (id) ON DELETE CASCADE, FOREIGN KEY (asset_id) REFERENCES asset (id) ON DELETE CASCADE)`,
  // What became of each thing that an ingest was asked to bring in.
  `CREATE TABLE ingest_item (
    id BIGINT PRIMARY KEY AUTO_INCREMENT, job_id BIGINT NOT NULL, path VARCHAR(2000) COLLATE utf8mb4_bin NOT NULL, path_hash CHAR(40) NOT NULL, state VARCHAR(10) NOT NULL, files INT NOT NULL, bytes BIGINT NOT NULL,
    to_path VARCHAR(2000), hashes JSON, asset_id BIGINT, message VARCHAR(1000), updated_ms BIGINT NOT NULL,
    UNIQUE KEY one_item_a_file (job_id, path_hash), KEY by_state (job_id, state, id), FOREIGN KEY (job_id) REFERENCES job (id) ON DELETE CASCADE)`,
  `CREATE TABLE preset (id BIGINT PRIMARY KEY AUTO_INCREMENT, name VARCHAR(120) NOT NULL UNIQUE, settings JSON NOT NULL, person_id BIGINT, updated_ms BIGINT NOT NULL)`,
  `CREATE TABLE watch_folder (id BIGINT PRIMARY KEY AUTO_INCREMENT, storage_id BIGINT NOT NULL, folder VARCHAR(2000) NOT NULL, preset_id BIGINT NOT NULL, active BOOLEAN NOT NULL DEFAULT TRUE, quiet_seconds INT NOT NULL, person_id BIGINT,
    FOREIGN KEY (storage_id) REFERENCES storage (id), FOREIGN KEY (preset_id) REFERENCES preset (id))`,
  // Every look at all bytes of a file; the newest of a place is what the next is compared with.
  `CREATE TABLE fixity (
    id BIGINT PRIMARY KEY AUTO_INCREMENT, asset_id BIGINT NOT NULL, storage_id BIGINT NOT NULL, path VARCHAR(2000) COLLATE utf8mb4_bin NOT NULL, path_hash CHAR(40) NOT NULL, outcome VARCHAR(10) NOT NULL,
    xxh64 CHAR(16), bytes BIGINT, person_id BIGINT, at_ms BIGINT NOT NULL, KEY by_asset (asset_id, id), KEY by_place (storage_id, path_hash, id),
    FOREIGN KEY (asset_id) REFERENCES asset (id) ON DELETE CASCADE)`,
  `ALTER TABLE job ADD pause_asked BOOLEAN NOT NULL DEFAULT FALSE, ADD speed DOUBLE, DROP KEY to_take, ADD KEY to_take (state, priority DESC, id)`,
  `UPDATE job SET kind = 'poster' WHERE kind = 'preview'`,
  `UPDATE job SET kind = 'renditions' WHERE kind = 'proxy'`,
  `CREATE TABLE job_limit (kind VARCHAR(20) PRIMARY KEY, most INT NOT NULL)`,
  `INSERT INTO job_limit VALUES ('scan', 4), ('ingest', 2), ('poster', 16), ('renditions', 8), ('mezzanine', 4), ('verify', 1), ('find-missing', 2)`,
];

/** How things come in: kinds of storage and volumes, bins, ingest, presets, watch folders, fixity, and a queue that can be steered. */
export const ingestMigration = {
  name: '003-ingest',
  up: async ({ context: db }: { context: Sequelize }): Promise<void> => {
    for (const sql of CHANGES) await db.query(sql);
  },
};
