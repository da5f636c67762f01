import type { Sequelize } from 'sequelize';

const CHANGES = [
  // A live bin outlives the bin or project that it stands in: it is a search that somebody wrote.
  `ALTER TABLE live_bin ADD COLUMN parent_id BIGINT, ADD COLUMN project_id BIGINT, ADD COLUMN shared BOOLEAN NOT NULL DEFAULT TRUE,
    ADD FOREIGN KEY (parent_id) REFERENCES bin (id) ON DELETE SET NULL, ADD FOREIGN KEY (project_id) REFERENCES project (id) ON DELETE SET NULL`,
];

/** Where a live bin stands, and who sees it. */
export const liveBinPlacesMigration = {
  name: '021-live-bin-places',
  up: async ({ context: db }: { context: Sequelize }): Promise<void> => {
    for (const sql of CHANGES) await db.query(sql);
  },
};
