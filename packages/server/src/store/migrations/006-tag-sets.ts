import type { Sequelize } from 'sequelize';

const CHANGES = [
  `CREATE TABLE tag_set (id BIGINT PRIMARY KEY AUTO_INCREMENT, name VARCHAR(60) NOT NULL, folded VARCHAR(120) COLLATE utf8mb4_bin NOT NULL UNIQUE, description VARCHAR(300) NOT NULL, letter VARCHAR(1) NOT NULL, pattern VARCHAR(12) NOT NULL, position INT NOT NULL)`,
  `ALTER TABLE tag ADD set_id BIGINT, ADD position INT NOT NULL DEFAULT 0, ADD letter VARCHAR(1) NOT NULL DEFAULT '', ADD description VARCHAR(300) NOT NULL DEFAULT '',
    ADD FOREIGN KEY (set_id) REFERENCES tag_set (id) ON DELETE SET NULL`,
  // Other words that are read as a tag: its former name, what it swallowed, what people type instead.
  `CREATE TABLE tag_synonym (folded VARCHAR(120) COLLATE utf8mb4_bin PRIMARY KEY, name VARCHAR(60) NOT NULL, tag_id BIGINT NOT NULL, FOREIGN KEY (tag_id) REFERENCES tag (id) ON DELETE CASCADE)`,
  // What holds for the whole library, by name.
  `CREATE TABLE library_setting (name VARCHAR(40) PRIMARY KEY, value JSON NOT NULL)`,
];

/** Tags in sets, with letters, descriptions and other words for them. */
export const tagSetsMigration = {
  name: '006-tag-sets',
  up: async ({ context: db }: { context: Sequelize }): Promise<void> => {
    for (const sql of CHANGES) await db.query(sql);
  },
};
