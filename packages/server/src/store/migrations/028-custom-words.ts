import type { Sequelize } from 'sequelize';

/** Names of a production, and how they are said, one way a line. */
export const customWordsMigration = {
  name: '028-custom-words',
  up: async ({ context: db }: { context: Sequelize }): Promise<void> => {
    await db.query(
      `CREATE TABLE custom_word (id BIGINT PRIMARY KEY AUTO_INCREMENT, word VARCHAR(240) CHARACTER SET utf8mb4 COLLATE utf8mb4_bin NOT NULL UNIQUE,
        text VARCHAR(240) NOT NULL, says TEXT NOT NULL)`,
    );
  },
};
