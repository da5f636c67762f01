import { QueryTypes, type Sequelize, type Transaction } from 'sequelize';
import { customKey, type CustomWord } from '@larder/core/dialogue';
import { write } from './change-feed';
import { select } from './database';
import { notFound, refused } from './errors';

/** A production has hundreds; with very many more the recogniser hears them everywhere. */
const MOST = 5000;

interface Row {
  readonly id: number;
  readonly text: string;
  readonly says: string;
}
const wordOf = ({ id, says, text }: Row): CustomWord => ({ id, text, says: says.split('\n').filter(Boolean) });

/** In the order of their letters. */
export async function customWords(db: Sequelize, transaction?: Transaction): Promise<CustomWord[]> {
  const rows = await select<Row>(db, 'SELECT id, text, says FROM custom_word ORDER BY word', {}, transaction);
  return rows.map(wordOf);
}

/** Adds those that are not there yet; gives how many were added. */
export async function addCustomWords(
  db: Sequelize,
  personId: number,
  words: readonly Pick<CustomWord, 'text' | 'says'>[],
): Promise<number> {
  const { changed } = await write(db, personId, async ({ log, transaction }) => {
    const there = await customWords(db, transaction);
    const known = new Set(there.map(({ text }) => customKey(text)));
    const added = words.filter(({ text }) => !known.has(customKey(text)));
    if (there.length + added.length > MOST)
      throw refused(`There are at most ${MOST.toLocaleString('en')} custom words.`);
    for (const { says, text } of added) {
      // Somebody else may add the same at the same moment.
      const [id, inserted] = await db.query(
        'INSERT IGNORE INTO custom_word (word, text, says) VALUES (:word, :text, :says)',
        {
          replacements: { word: customKey(text), text, says: says.join('\n') },
          transaction,
          type: QueryTypes.INSERT,
        },
      );
      if (inserted > 0) log({ action: 'add', entity: 'custom-word', entityId: id, after: { text, says } });
    }
  });
  return changed;
}

/** Says how a word is said. */
export async function changeCustomWord(
  db: Sequelize,
  personId: number,
  id: number,
  says: readonly string[],
): Promise<void> {
  await write(db, personId, async ({ log, transaction }) => {
    const before = await findWord(db, id, transaction);
    await db.query('UPDATE custom_word SET says = :says WHERE id = :id', {
      replacements: { id, says: says.join('\n') },
      transaction,
      type: QueryTypes.UPDATE,
    });
    log({ action: 'change', entity: 'custom-word', entityId: id, before: { ...before }, after: { says } });
  });
}

export async function removeCustomWord(db: Sequelize, personId: number, id: number): Promise<void> {
  await write(db, personId, async ({ log, transaction }) => {
    const before = await findWord(db, id, transaction);
    await db.query('DELETE FROM custom_word WHERE id = :id', {
      replacements: { id },
      transaction,
      type: QueryTypes.DELETE,
    });
    log({ action: 'remove', entity: 'custom-word', entityId: id, before: { ...before } });
  });
}

async function findWord(db: Sequelize, id: number, transaction: Transaction): Promise<CustomWord> {
  const [row] = await select<Row>(
    db,
    'SELECT id, text, says FROM custom_word WHERE id = :id FOR UPDATE',
    { id },
    transaction,
  );
  if (!row) throw notFound('custom word');
  return wordOf(row);
}
