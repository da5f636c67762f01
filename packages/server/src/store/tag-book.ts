import { QueryTypes, type Sequelize, type Transaction } from 'sequelize';
import { foldTag, type TagChange, type TagSetChange } from '@larder/core/tags';
import type { Tag, TagBook, TagSet } from '@larder/contract';
import { write, type Writing } from './change-feed';
import { select } from './database';
import { notFound, refused } from './errors';
import { librarySettings, setLibrarySetting } from './library-settings';
import { findTags } from './tags';

/** Free tags beyond these are found by searching only. */
const FREE_SHOWN = 5000;

const change = (db: Sequelize, sql: string, replacements: Record<string, unknown>, transaction: Transaction) =>
  db.query(sql, { replacements, transaction, type: QueryTypes.UPDATE });

/** All sets with their tags in order, then the free tags in use, the most used first. */
export async function tagBook(db: Sequelize): Promise<TagBook> {
  const [{ freeTags }, sets, rows, synonyms] = await Promise.all([
    librarySettings(db),
    select<TagSet>(db, 'SELECT id, name, description, letter, pattern FROM tag_set ORDER BY position, id'),
    select<Omit<Tag, 'synonyms'>>(
      db,
      `SELECT t.id, t.name, t.set_id AS setId, t.letter, t.description, COUNT(x.asset_id) AS uses FROM tag t LEFT JOIN asset_tag x ON x.tag_id = t.id
       GROUP BY t.id HAVING uses > 0 OR setId IS NOT NULL ORDER BY setId IS NULL, IF(setId IS NULL, 0, t.position), uses DESC, t.folded LIMIT :limit`,
      { limit: FREE_SHOWN },
    ),
    select<{ tagId: number; name: string }>(db, 'SELECT tag_id AS tagId, name FROM tag_synonym ORDER BY folded'),
  ]);
  return {
    freeTags,
    sets,
    tags: rows.map((tag) => ({
      ...tag,
      uses: Number(tag.uses),
      synonyms: synonyms.filter(({ tagId }) => tagId === tag.id).map(({ name }) => name),
    })),
  };
}

/** What a tag is called: by its name, and by all that it is also called. */
export interface TagNames {
  /** Empty for a free one. */
  readonly set: string;
  readonly names: readonly string[];
}

/** The tags that are called otherwise too; how often they are used is not counted, which takes long in a large library. */
export async function tagSynonyms(db: Sequelize): Promise<TagNames[]> {
  const rows = await select<{ id: number; name: string; setName: string | null; synonym: string }>(
    db,
    `SELECT t.id, t.name, g.name AS setName, s.name AS synonym FROM tag_synonym s JOIN tag t ON t.id = s.tag_id LEFT JOIN tag_set g ON g.id = t.set_id
     ORDER BY t.id, s.folded`,
  );
  const tags = new Map<number, { readonly set: string; readonly names: string[] }>();
  for (const { id, name, setName, synonym } of rows) {
    const known = tags.get(id);
    if (known) known.names.push(synonym);
    else tags.set(id, { set: setName ?? '', names: [name, synonym] });
  }
  return [...tags.values()];
}

export async function setFreeTags(db: Sequelize, personId: number, allowed: boolean): Promise<void> {
  await write(db, personId, async ({ transaction, log }) => {
    await setLibrarySetting(db, 'freeTags', allowed, transaction);
    log({ action: 'settings', entity: 'tag-set', entityId: 0, after: { freeTags: allowed } });
  });
}

async function refuseDoubleSet(db: Sequelize, name: string, not: number, transaction: Transaction): Promise<void> {
  const [there] = await select<{ name: string }>(
    db,
    'SELECT name FROM tag_set WHERE folded = :folded AND id <> :not',
    { folded: foldTag(name), not },
    transaction,
  );
  if (there) throw refused(`There is a set “${there.name}” already.`);
}

export async function addTagSet(db: Sequelize, personId: number, set: TagSetChange): Promise<number> {
  const { value } = await write(db, personId, async ({ transaction, log }) => {
    await refuseDoubleSet(db, set.name, 0, transaction);
    const [id] = await db.query(
      `INSERT INTO tag_set (name, folded, description, letter, pattern, position)
       SELECT :name, :folded, :description, :letter, :pattern, COALESCE(MAX(position) + 1, 0) FROM tag_set`,
      { replacements: { ...set, folded: foldTag(set.name) }, transaction, type: QueryTypes.INSERT },
    );
    log({ action: 'add', entity: 'tag-set', entityId: id, after: { ...set } });
    return id;
  });
  return value;
}

export async function changeTagSet(db: Sequelize, personId: number, id: number, set: TagSetChange): Promise<number> {
  await write(db, personId, async ({ transaction, log }) => {
    await refuseDoubleSet(db, set.name, id, transaction);
    const [before] = await select<TagSet>(db, 'SELECT * FROM tag_set WHERE id = :id FOR UPDATE', { id }, transaction);
    if (!before) throw notFound('tag set');
    await change(
      db,
      'UPDATE tag_set SET name = :name, folded = :folded, description = :description, letter = :letter, pattern = :pattern WHERE id = :id',
      { ...set, folded: foldTag(set.name), id },
      transaction,
    );
    log({ action: 'change', entity: 'tag-set', entityId: id, before: { ...before }, after: { ...set } });
  });
  return id;
}

/** Takes a set away. Its tags stay on their clips, as free ones. */
export async function removeTagSet(db: Sequelize, personId: number, id: number): Promise<void> {
  await write(db, personId, async ({ transaction, log }) => {
    const gone = await db.query('DELETE FROM tag_set WHERE id = :id', {
      replacements: { id },
      transaction,
      type: QueryTypes.BULKDELETE,
    });
    if (gone === 0) throw notFound('tag set');
    log({ action: 'remove', entity: 'tag-set', entityId: id });
  });
}

/** Puts sets, or the tags of one, in this order. */
export async function orderTags(
  db: Sequelize,
  personId: number,
  table: 'tag_set' | 'tag',
  ids: readonly number[],
): Promise<void> {
  await write(db, personId, async ({ transaction, log }) => {
    for (const [position, id] of ids.entries())
      await change(db, `UPDATE ${table} SET position = :position WHERE id = :id`, { position, id }, transaction);
    log({ action: 'order', entity: 'tag-set', entityId: 0 });
  });
}

export type TagRecord = Pick<Tag, 'id' | 'name' | 'setId' | 'letter' | 'description'> & { folded: string };

export async function lockTag(db: Sequelize, id: number, transaction: Transaction): Promise<TagRecord> {
  const [tag] = await select<TagRecord>(
    db,
    'SELECT id, name, folded, set_id AS setId, letter, description FROM tag WHERE id = :id FOR UPDATE',
    { id },
    transaction,
  );
  if (!tag) throw notFound('tag');
  return tag;
}

/** A word that means a tag already cannot be made to mean another: they would have to be merged. */
async function refuseTaken(
  db: Sequelize,
  words: readonly string[],
  own: number,
  transaction: Transaction,
): Promise<void> {
  const taken = [...(await findTags(db, words, transaction))].find(([, tag]) => tag.id !== own);
  if (taken)
    throw refused(`“${taken[0]}” is the tag “${taken[1].name}” already. Merge the two, or choose another word.`);
}

async function setSynonyms(
  db: Sequelize,
  id: number,
  words: readonly string[],
  transaction: Transaction,
): Promise<void> {
  await db.query('DELETE FROM tag_synonym WHERE tag_id = :id', { replacements: { id }, transaction });
  const rows = [...new Map(words.map((name) => [foldTag(name), name]))].map(([folded, name]) => [folded, name, id]);
  if (rows.length > 0)
    await db.query('INSERT INTO tag_synonym (folded, name, tag_id) VALUES :rows', {
      replacements: { rows },
      transaction,
    });
}

/** Adds a tag to the book before any clip has it; one that is there as a free tag joins the set. */
export async function addTag(db: Sequelize, personId: number, tag: TagChange): Promise<number> {
  const { value } = await write(db, personId, async (writing) => {
    const { transaction } = writing;
    const known = (await findTags(db, [tag.name], transaction)).get(foldTag(tag.name));
    if (known?.setId) throw refused(`There is a tag “${known.name}” already.`);
    await db.query('INSERT IGNORE INTO tag (name, folded) VALUES (:name, :folded)', {
      replacements: { name: tag.name, folded: foldTag(tag.name) },
      transaction,
      type: QueryTypes.INSERT,
    });
    const [made] = (await findTags(db, [tag.name], transaction)).values();
    if (!made) throw notFound('tag');
    await db.query(
      'UPDATE tag SET position = (SELECT COALESCE(MAX(t.position) + 1, 0) FROM tag t WHERE t.set_id = :setId) WHERE id = :id',
      {
        replacements: { setId: tag.setId, id: made.id },
        transaction,
        type: QueryTypes.UPDATE,
      },
    );
    await setTag(db, writing, made.id, { ...tag, name: made.name });
    return made.id;
  });
  return value;
}

export async function changeTag(db: Sequelize, personId: number, id: number, tag: TagChange): Promise<number> {
  await write(db, personId, (writing) => setTag(db, writing, id, tag));
  return id;
}

/** A tag's clips keep it under its new name. The feed says that the tag changed, and the index reads its clips again. */
async function setTag(db: Sequelize, { transaction, log }: Writing, id: number, tag: TagChange): Promise<void> {
  const before = await lockTag(db, id, transaction);
  const folded = foldTag(tag.name);
  // Its former name goes on meaning it: people's hands know it, and so do undo and lists that come back.
  const former = before.folded === folded ? [] : [before.name];
  const synonyms = [...tag.synonyms, ...former].filter((word) => foldTag(word) !== folded);
  await refuseTaken(db, [tag.name, ...synonyms], id, transaction);
  await setSynonyms(db, id, synonyms, transaction);
  await change(
    db,
    'UPDATE tag SET name = :name, folded = :folded, set_id = :setId, letter = :letter, description = :description WHERE id = :id',
    { ...tag, folded, id },
    transaction,
  );
  log({ action: 'change', entity: 'tag', entityId: id, before: { ...before }, after: { ...tag } });
}
