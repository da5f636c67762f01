import type { Sequelize } from 'sequelize';

const CHANGES = [
  // What became of a person's changes by their undo and redo. `made_group` is the write that did it; null where it could not be done.
  `CREATE TABLE undo_step (id BIGINT PRIMARY KEY AUTO_INCREMENT, person_id BIGINT NOT NULL, kind VARCHAR(4) NOT NULL, of_group CHAR(36) NOT NULL, made_group CHAR(36),
    made_revision BIGINT NOT NULL, KEY by_person (person_id, id), KEY by_group (of_group, id), KEY by_made (made_group))`,
  `ALTER TABLE change_feed ADD KEY by_person (person_id, revision)`,
];

/** Undo and redo that outlast a session. */
export const undoStepsMigration = {
  name: '012-undo-steps',
  up: async ({ context: db }: { context: Sequelize }): Promise<void> => {
    for (const sql of CHANGES) await db.query(sql);
  },
};
