import type { Sequelize } from 'sequelize';

/** What is said in sounds, of each source one; and of a recognition that goes on, the pieces that were heard. */
export const transcriptsMigration = {
  name: '025-transcripts',
  up: async ({ context: db }: { context: Sequelize }): Promise<void> => {
    await db.query(
      `CREATE TABLE transcript (id BIGINT PRIMARY KEY AUTO_INCREMENT, asset_id BIGINT NOT NULL, source VARCHAR(12) NOT NULL, version INT NOT NULL, language VARCHAR(20) NOT NULL, made_by VARCHAR(200) NOT NULL, made_ms BIGINT NOT NULL, person_id BIGINT, spoken LONGTEXT NOT NULL,
        UNIQUE KEY one_of_a_source (asset_id, source), FOREIGN KEY (asset_id) REFERENCES asset (id) ON DELETE CASCADE)`,
    );
    await db.query(
      `CREATE TABLE heard_piece (asset_id BIGINT NOT NULL, start_ms BIGINT NOT NULL, end_ms BIGINT NOT NULL, made_by VARCHAR(200) NOT NULL, spoken MEDIUMTEXT,
        PRIMARY KEY (asset_id, start_ms), FOREIGN KEY (asset_id) REFERENCES asset (id) ON DELETE CASCADE)`,
    );
  },
};
