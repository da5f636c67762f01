import { QueryTypes, type Sequelize, type Transaction } from 'sequelize';
import { foldTag } from '@larder/core/tags';
import type { Written } from '@larder/contract';
import { write, type Writing } from './change-feed';
import { select } from './database';
import { tagEach, type EachSaid } from './each-edits';
import { refused } from './errors';
import { lockTag } from './tag-book';
import { dropTags, findTags, putTags, tagsOf } from './tags';

const clipsOf = async (db: Sequelize, tagId: number, transaction: Transaction): Promise<number[]> =>
  (
    await select<{ id: number }>(
      db,
      'SELECT x.asset_id AS id FROM asset_tag x JOIN asset a ON a.id = x.asset_id WHERE x.tag_id = :tagId ORDER BY a.id FOR UPDATE',
      { tagId },
      transaction,
    )
  ).map(({ id }) => id);

/** Gives clips other tags in place of one, and leaves it in the history of each. */
async function swap(
  db: Sequelize,
  { transaction, log }: Writing,
  clips: readonly number[],
  from: { readonly id: number },
  to: readonly { readonly id: number }[],
): Promise<void> {
  const before = await tagsOf(db, clips, transaction);
  await putTags(db, clips, to, transaction);
  if (!to.some(({ id }) => id === from.id)) await dropTags(db, clips, [from], transaction);
  const after = await tagsOf(db, clips, transaction);
  for (const id of clips)
    log({
      action: 'retag',
      entity: 'asset',
      entityId: id,
      before: { tags: before.get(id) ?? [] },
      after: { tags: after.get(id) ?? [] },
    });
}

/** A row of the database as it was, column by column. */
type KeptRow = Readonly<Record<string, unknown>>;

/** What a merge has to know to be undone: the tag that went, and the words that meant it. */
interface Gone {
  readonly name: string;
  readonly row: KeptRow & { readonly id: number; readonly folded: string };
  readonly words: readonly KeptRow[];
}

/** Makes two tags one: every clip of the first has the second, and the first's words are read as the second from now on. */
export async function mergeTags(db: Sequelize, personId: number, from: number, into: number): Promise<Written> {
  if (from === into) throw refused('A tag cannot be merged with itself.');
  const { revision, group, changed } = await write(db, personId, (writing) => mergeInto(db, writing, from, into));
  return { revision, group, changed };
}

async function mergeInto(db: Sequelize, writing: Writing, from: number, into: number): Promise<void> {
  const { transaction, log } = writing;
  const [gone, stays] = [await lockTag(db, from, transaction), await lockTag(db, into, transaction)];
  const [row] = await select<Gone['row']>(db, 'SELECT * FROM tag WHERE id = :from', { from }, transaction);
  const words = await select<KeptRow>(db, 'SELECT * FROM tag_synonym WHERE tag_id = :from', { from }, transaction);
  await swap(db, writing, await clipsOf(db, from, transaction), gone, [stays]);
  await db.query('UPDATE tag_synonym SET tag_id = :into WHERE tag_id = :from', {
    replacements: { into, from },
    transaction,
    type: QueryTypes.UPDATE,
  });
  await db.query('DELETE FROM tag WHERE id = :from', { replacements: { from }, transaction });
  await db.query('INSERT INTO tag_synonym (folded, name, tag_id) VALUES (:folded, :name, :into)', {
    replacements: { folded: gone.folded, name: gone.name, into },
    transaction,
  });
  const before = { name: gone.name, row, words };
  log({ action: 'merge', entity: 'tag', entityId: into, before, after: { name: stays.name } });
}

/** Makes the tag that a merge took away anew, as it was; refuses where its name means something else by now. */
async function unmerge(db: Sequelize, { transaction, log }: Writing, into: number, gone: Gone): Promise<void> {
  const stays = await lockTag(db, into, transaction);
  const words = [gone.row.folded, ...gone.words.map(({ folded }) => String(folded))];
  await db.query('DELETE FROM tag_synonym WHERE tag_id = :into AND folded IN (:words)', {
    replacements: { into, words },
    transaction,
  });
  const [taken] = (await findTags(db, words, transaction)).values();
  if (taken) throw refused(`“${gone.name}” means the tag “${taken.name}” by now. Nothing was undone.`);
  const [set] = await select(db, 'SELECT id FROM tag_set WHERE id = :id', { id: gone.row['set_id'] ?? 0 }, transaction);
  await insertRow(db, 'tag', set ? gone.row : { ...gone.row, set_id: null }, transaction);
  for (const word of gone.words) await insertRow(db, 'tag_synonym', word, transaction);
  const after = { name: gone.name, id: gone.row.id };
  log({ action: 'unmerge', entity: 'tag', entityId: into, before: { name: stays.name }, after });
}

const insertRow = (db: Sequelize, table: string, row: KeptRow, transaction: Transaction) =>
  db.query(`INSERT INTO ${table} (${Object.keys(row).join(', ')}) VALUES (:values)`, {
    replacements: { values: Object.values(row) },
    transaction,
    type: QueryTypes.INSERT,
  });

/** One row of the feed that a merge, a split, or the undo of one has left. */
export interface Retagging {
  readonly entity: string;
  readonly action: string;
  readonly entityId: number;
  readonly before: object;
  readonly after: object;
}

/** Whether all of a change is about tags that were merged or split. */
export const isRetagging = (entries: readonly Retagging[]): boolean =>
  entries.every(({ entity, action }) =>
    entity === 'tag' ? ['merge', 'unmerge', 'split'].includes(action) : action === 'retag',
  );

/**
 * Turns the merge or the split of a tag round. What a clip was given is taken from it and what it lost is given back, whatever
 * other tags it has by now. The tags that a split made stay.
 */
export async function putRetaggedBack(db: Sequelize, writing: Writing, entries: readonly Retagging[]): Promise<void> {
  const { transaction, log } = writing;
  for (const { entityId, action, before, after } of entries) {
    // A merge that is done again swaps the clips itself.
    if (action === 'unmerge') return mergeInto(db, writing, (after as { readonly id: number }).id, entityId);
    if (action === 'merge') await unmerge(db, writing, entityId, before as Gone);
  }
  const clips = entries.filter(({ entity }) => entity === 'asset');
  const now = await tagsOf(
    db,
    clips.map(({ entityId }) => entityId),
    transaction,
  );
  const wanted = clips.map(({ entityId, before, after }): [number, EachSaid] => {
    const [had, given] = [namesIn(before), namesIn(after)];
    const kept = (now.get(entityId) ?? []).filter((name) => had.includes(name) || !given.includes(name));
    return [
      entityId,
      { set: {}, tags: { names: [...kept, ...had.filter((name) => !given.includes(name))], others: 'drop' } },
    ];
  });
  for (const [entityId, tags] of await tagEach(db, new Map(wanted), transaction))
    log({
      ...{ action: 'retag', entity: 'asset', entityId },
      ...{ before: { tags: tags.before }, after: { tags: tags.after } },
    });
}

const namesIn = (side: object): readonly string[] => (side as { readonly tags?: readonly string[] }).tags ?? [];

/**
 * Parts a tag: those of its clips that are named get the new tags in place of it, all others keep it. The new tags stand in the same
 * set, after it.
 */
export async function splitTag(
  db: Sequelize,
  personId: number,
  id: number,
  names: readonly string[],
  clips: ReadonlySet<number>,
): Promise<Written> {
  const { revision, group, changed } = await write(db, personId, async (writing) => {
    const { transaction, log } = writing;
    const tag = await lockTag(db, id, transaction);
    const known = await findTags(db, names, transaction);
    for (const name of names)
      if (!known.has(foldTag(name)))
        await db.query(
          'INSERT INTO tag (name, folded, set_id, position) SELECT :name, :folded, set_id, position FROM tag WHERE id = :id',
          {
            replacements: { name, folded: foldTag(name), id },
            transaction,
          },
        );
    const made = [...(await findTags(db, names, transaction)).values()];
    const having = (await clipsOf(db, id, transaction)).filter((clip) => clips.has(clip));
    await swap(db, writing, having, tag, made);
    log({ action: 'split', entity: 'tag', entityId: id, before: { name: tag.name }, after: { names } });
  });
  return { revision, group, changed };
}
