import type { Sequelize } from 'sequelize';

const CHANGES = [
  // A subclip has no file of its own: what it is of is its parent's, wherever that lies. Its length is in `duration_frames`.
  `ALTER TABLE asset MODIFY storage_id BIGINT, ADD parent_id BIGINT, ADD in_place BIGINT, ADD KEY by_parent (parent_id, in_place), ADD FOREIGN KEY (parent_id) REFERENCES asset (id) ON DELETE CASCADE`,
];

/** Named in–out ranges of assets, as assets of their own. */
export const subclipsMigration = {
  name: '009-subclips',
  up: async ({ context: db }: { context: Sequelize }): Promise<void> => {
    for (const sql of CHANGES) await db.query(sql);
  },
};
