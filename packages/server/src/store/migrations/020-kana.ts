import { foldTag } from '@larder/core/tags';
import { QueryTypes, type Sequelize } from 'sequelize';

/** Words that are looked up by how they fold are folded as they are today; one that would then be another's stays as it is. */
export async function foldAnew(db: Sequelize): Promise<void> {
  for (const table of ['tag', 'tag_set', 'tag_synonym']) {
    const rows = await db.query<{ name: string; folded: string }>(`SELECT name, folded FROM ${table}`, {
      type: QueryTypes.SELECT,
    });
    for (const { name, folded } of rows) {
      const anew = foldTag(name);
      if (anew !== folded)
        await db.query(`UPDATE IGNORE ${table} SET folded = :anew WHERE folded = :folded`, {
          replacements: { anew, folded },
        });
    }
  }
}

/** Voiced kana were folded into those that are not voiced, and Hangul into its parts. */
export const kanaMigration = {
  name: '020-kana',
  up: ({ context: db }: { context: Sequelize }): Promise<void> => foldAnew(db),
};
