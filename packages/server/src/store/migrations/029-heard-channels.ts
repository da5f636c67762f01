import type { Sequelize } from 'sequelize';

/** Pieces of a recognition are of a channel each, where these are recognised apart. */
export const heardChannelsMigration = {
  name: '029-heard-channels',
  up: async ({ context: db }: { context: Sequelize }): Promise<void> => {
    await db.query(
      'ALTER TABLE heard_piece ADD COLUMN channel INT NOT NULL DEFAULT 0, DROP PRIMARY KEY, ADD PRIMARY KEY (asset_id, start_ms, channel)',
    );
  },
};
