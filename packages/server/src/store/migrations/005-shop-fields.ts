import type { Sequelize } from 'sequelize';

/** Fields that the shop defines. What is said in them is in `asset.logged`, under `shop_` and the key. */
export const shopFieldsMigration = {
  name: '005-shop-fields',
  up: async ({ context: db }: { context: Sequelize }): Promise<void> => {
    await db.query(
      `CREATE TABLE shop_field (id BIGINT PRIMARY KEY AUTO_INCREMENT, \`key\` VARCHAR(40) COLLATE utf8mb4_bin NOT NULL UNIQUE, definition JSON NOT NULL, position INT NOT NULL)`,
    );
  },
};
