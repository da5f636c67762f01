import type { Sequelize } from 'sequelize';

export const markingsMigration = {
  name: '014-markings',
  up: async ({ context: db }: { context: Sequelize }): Promise<void> => {
    await db.query(
      `CREATE TABLE marking (id BIGINT PRIMARY KEY AUTO_INCREMENT, name VARCHAR(60) COLLATE utf8mb4_bin NOT NULL UNIQUE, colour VARCHAR(12) NOT NULL, rule VARCHAR(2000) NOT NULL, position INT NOT NULL)`,
    );
  },
};
