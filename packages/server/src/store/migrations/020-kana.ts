import { foldTag } from '@larder/core/tags';
import { QueryTypes, type Sequelize } from 'sequelize';

/** Voiced kana were folded into those that are not voiced, and Hangul into its parts; words that are looked up by it are folded anew. */
export const kanaMigration = {
  name: '020-kana',
  up: async ({ context: db }: { context: Sequelize }): Promise<void> => {
    for (const table of ['tag', 'tag_set', 'tag_synonym']) {
      const rows = await db.query<{ name: string; folded: string }>(`SELECT name, folded FROM ${table}`, {
        type: QueryTypes.SELECT,
      });
      for (const { name, folded } of rows) {
        const anew = foldTag(name);
        if (anew !== folded)
          await db.query(`UPDATE ${table} SET folded = :anew WHERE folded = :folded`, {
            replacements: { anew, folded },
          });
      }
    }
  },
};
