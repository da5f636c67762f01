import type { Sequelize } from 'sequelize';

const TABLES = [
  `CREATE TABLE person (id BIGINT PRIMARY KEY AUTO_INCREMENT, login VARCHAR(80) NOT NULL UNIQUE, name VARCHAR(120) NOT NULL, role VARCHAR(20) NOT NULL, password_hash VARCHAR(200) NOT NULL)`,
  `CREATE TABLE session (token_hash CHAR(64) PRIMARY KEY, person_id BIGINT NOT NULL, expires_ms BIGINT NOT NULL, FOREIGN KEY (person_id) REFERENCES person (id) ON DELETE CASCADE)`,
  `CREATE TABLE storage (id BIGINT PRIMARY KEY AUTO_INCREMENT, name VARCHAR(120) NOT NULL UNIQUE, root_path VARCHAR(1000) NOT NULL, state VARCHAR(10) NOT NULL, state_since_ms BIGINT NOT NULL)`,
  `CREATE TABLE asset (
    id BIGINT PRIMARY KEY AUTO_INCREMENT, kind VARCHAR(12) NOT NULL, name VARCHAR(500) NOT NULL,
    title VARCHAR(200), description MEDIUMTEXT, notes MEDIUMTEXT, verdict VARCHAR(10),
    reel VARCHAR(100), scene VARCHAR(100), take VARCHAR(100), place VARCHAR(200), shot_ms BIGINT, added_ms BIGINT NOT NULL,
    rate_num BIGINT, rate_den BIGINT, drop_frame BOOLEAN NOT NULL DEFAULT FALSE, duration_frames BIGINT, duration_ms BIGINT, start_frame BIGINT,
    width INT, height INT, codec VARCHAR(60), pixel_format VARCHAR(40), colour JSON, sound JSON, time_reference_samples BIGINT,
    storage_id BIGINT NOT NULL, path VARCHAR(2000) COLLATE utf8mb4_bin NOT NULL, path_hash CHAR(40) NOT NULL, files INT NOT NULL DEFAULT 1,
    bytes BIGINT NOT NULL, modified_ms BIGINT NOT NULL, fingerprint VARCHAR(60),
    shelf_state VARCHAR(10) NOT NULL, state_since_ms BIGINT NOT NULL, reason VARCHAR(500),
    UNIQUE KEY one_asset_a_file (storage_id, path_hash), KEY by_fingerprint (fingerprint), KEY by_shelf_state (shelf_state, storage_id), KEY by_reel (reel), KEY by_name (name(100)),
    FOREIGN KEY (storage_id) REFERENCES storage (id))`,
  `CREATE TABLE tag (id BIGINT PRIMARY KEY AUTO_INCREMENT, name VARCHAR(60) NOT NULL, folded VARCHAR(120) COLLATE utf8mb4_bin NOT NULL UNIQUE)`,
  `CREATE TABLE asset_tag (asset_id BIGINT NOT NULL, tag_id BIGINT NOT NULL, PRIMARY KEY (asset_id, tag_id), KEY by_tag (tag_id),
    FOREIGN KEY (asset_id) REFERENCES asset (id) ON DELETE CASCADE, FOREIGN KEY (tag_id) REFERENCES tag (id) ON DELETE CASCADE)`,
  `CREATE TABLE rendition (asset_id BIGINT NOT NULL, kind VARCHAR(12) NOT NULL, bytes BIGINT NOT NULL, made_ms BIGINT NOT NULL, PRIMARY KEY (asset_id, kind),
    FOREIGN KEY (asset_id) REFERENCES asset (id) ON DELETE CASCADE)`,
  `CREATE TABLE job (
    id BIGINT PRIMARY KEY AUTO_INCREMENT, kind VARCHAR(20) NOT NULL, subject VARCHAR(500) NOT NULL, state VARCHAR(12) NOT NULL DEFAULT 'queued', priority INT NOT NULL DEFAULT 0,
    payload JSON NOT NULL, result JSON, done BIGINT NOT NULL DEFAULT 0, total BIGINT, unit VARCHAR(20) NOT NULL DEFAULT '', message VARCHAR(1000),
    attempts INT NOT NULL DEFAULT 0, worker VARCHAR(80), lease_until_ms BIGINT, cancel_asked BOOLEAN NOT NULL DEFAULT FALSE,
    person_id BIGINT, storage_id BIGINT, asset_id BIGINT, created_ms BIGINT NOT NULL, started_ms BIGINT, ended_ms BIGINT, updated_ms BIGINT NOT NULL,
    KEY to_take (state, priority, id), KEY by_update (updated_ms), KEY by_storage (storage_id, kind, id), KEY by_asset (asset_id, kind))`,
  `CREATE TABLE live_bin (id BIGINT PRIMARY KEY AUTO_INCREMENT, name VARCHAR(120) NOT NULL, query JSON NOT NULL, person_id BIGINT, created_ms BIGINT NOT NULL)`,
  `CREATE TABLE project (id BIGINT PRIMARY KEY AUTO_INCREMENT, name VARCHAR(120) NOT NULL, description VARCHAR(2000), counting VARCHAR(12) NOT NULL, person_id BIGINT, created_ms BIGINT NOT NULL)`,
  `CREATE TABLE string_out (id BIGINT PRIMARY KEY AUTO_INCREMENT, project_id BIGINT NOT NULL, name VARCHAR(120) NOT NULL, counting VARCHAR(12) NOT NULL, start_frame BIGINT NOT NULL,
    items JSON NOT NULL, version INT NOT NULL DEFAULT 1, person_id BIGINT, updated_ms BIGINT NOT NULL, FOREIGN KEY (project_id) REFERENCES project (id) ON DELETE CASCADE)`,
  `CREATE TABLE pull (person_id BIGINT NOT NULL, position INT NOT NULL, asset_id BIGINT NOT NULL, PRIMARY KEY (person_id, position),
    FOREIGN KEY (person_id) REFERENCES person (id) ON DELETE CASCADE, FOREIGN KEY (asset_id) REFERENCES asset (id) ON DELETE CASCADE)`,
  // One row a change. `revision` is handed out in the order of commits: see change-feed.ts.
  `CREATE TABLE change_feed (revision BIGINT PRIMARY KEY, change_group CHAR(36) NOT NULL, at_ms BIGINT NOT NULL, person_id BIGINT, action VARCHAR(30) NOT NULL, entity VARCHAR(20) NOT NULL, entity_id BIGINT NOT NULL,
    before_values JSON NOT NULL, after_values JSON NOT NULL, KEY by_entity (entity, entity_id, revision), KEY by_group (change_group))`,
  `CREATE TABLE feed_head (only_row TINYINT PRIMARY KEY, revision BIGINT NOT NULL)`,
  `INSERT INTO feed_head VALUES (1, 0)`,
];

export const libraryMigration = {
  name: '001-library',
  up: async ({ context: db }: { context: Sequelize }): Promise<void> => {
    for (const sql of TABLES) await db.query(sql);
  },
};
