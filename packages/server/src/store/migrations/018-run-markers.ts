import type { Sequelize } from 'sequelize';

/** Markers on string-outs. They are saved with its items, since they go where those go. */
export const runMarkersMigration = {
  name: '018-run-markers',
  up: async ({ context: db }: { context: Sequelize }): Promise<void> => {
    await db.query(`ALTER TABLE string_out ADD COLUMN markers JSON NOT NULL DEFAULT '[]'`);
  },
};
