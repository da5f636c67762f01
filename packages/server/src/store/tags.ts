import { QueryTypes, type Sequelize, type Transaction } from 'sequelize';
import { foldTag } from '@larder/core/tags';
import { select } from './database';
import { refused } from './errors';
import { librarySettings } from './library-settings';
import { TagRow } from './models';

export interface KnownTag {
  readonly id: number;
  readonly name: string;
}

const oneGap = (name: string): string => name.trim().replace(/\s+/g, ' ');

/**
 * Tags by the folded words that mean them: their own names, and other words for them. What there is no tag for is left out. Within a
 * write, those that another has made since it began are seen with `asOfNow` only.
 */
export async function findTags(
  db: Sequelize,
  names: readonly string[],
  transaction?: Transaction,
  asOfNow = false,
): Promise<Map<string, KnownTag & { readonly setId: number | null }>> {
  const folded = [...new Set(names.map(foldTag))];
  if (folded.length === 0) return new Map();
  // Without a lock, a write reads the library as it was when it began.
  const lock = asOfNow ? ' LOCK IN SHARE MODE' : '';
  const rows = await select<KnownTag & { folded: string; setId: number | null }>(
    db,
    `(SELECT t.folded, t.id, t.name, t.set_id AS setId FROM tag t WHERE t.folded IN (:folded)${lock})
     UNION ALL (SELECT s.folded, t.id, t.name, t.set_id FROM tag_synonym s JOIN tag t ON t.id = s.tag_id WHERE s.folded IN (:folded)${lock})`,
    { folded },
    transaction,
  );
  return new Map(rows.map(({ folded: word, ...tag }) => [word, tag]));
}

/** Other words that people type for tags, by the tags' names. */
export async function otherWordsForTags(db: Sequelize): Promise<Map<string, string[]>> {
  const words = new Map<string, string[]>();
  for (const { name, word } of await select<{ name: string; word: string }>(
    db,
    'SELECT t.name, s.name AS word FROM tag_synonym s JOIN tag t ON t.id = s.tag_id',
  ))
    words.set(name, [...(words.get(name) ?? []), word]);
  return words;
}

/** Of some words those that may be put on as tags, folded; null where any may. */
export async function allowedTags(db: Sequelize, names: readonly string[]): Promise<ReadonlySet<string> | null> {
  if (names.length === 0 || (await librarySettings(db)).freeTags) return null;
  const known = await findTags(db, names);
  return new Set([...known].filter(([, { setId }]) => setId !== null).map(([folded]) => folded));
}

/**
 * The tags that some words mean, each once. Words that mean none yet become tags, spelled as first written, where the library
 * allows free tags; where it does not, only tags of a set are taken and `refused` says which were none.
 */
export async function tagIds(
  db: Sequelize,
  names: readonly string[],
  transaction: Transaction,
): Promise<readonly KnownTag[]> {
  if (names.length === 0) return [];
  const wanted = new Map(names.map((name) => [foldTag(name), oneGap(name)]));
  const { freeTags } = await librarySettings(db, transaction);
  const known = await findTags(db, names, transaction);
  if (!freeTags) {
    const free = [...wanted]
      .filter(([folded]) => (known.get(folded)?.setId ?? null) === null)
      .map(([, name]) => `“${name}”`);
    if (free.length > 0)
      throw refused(
        `${free.join(', ')}: no tag of any set. Only tags of sets are used in this library; a manager can add it to one.`,
      );
  }
  const missing = [...wanted].filter(([folded]) => !known.has(folded)).map(([folded, name]) => ({ folded, name }));
  if (missing.length > 0) {
    await TagRow.bulkCreate(missing, { transaction, ignoreDuplicates: true });
    // Some may have been made by another write meanwhile.
    const words = missing.map(({ folded }) => folded);
    for (const [folded, tag] of await findTags(db, words, transaction, true)) known.set(folded, tag);
  }
  return [...new Map([...known.values()].map(({ id, name }) => [id, { id, name }])).values()];
}

/** Puts tags on assets within a write that is under way. */
export async function putTags(
  db: Sequelize,
  assetIds: readonly number[],
  tags: readonly { readonly id: number }[],
  transaction: Transaction,
): Promise<void> {
  if (tags.length === 0 || assetIds.length === 0) return;
  await db.query(
    'INSERT IGNORE INTO asset_tag (asset_id, tag_id) SELECT a.id, t.id FROM asset a JOIN tag t ON t.id IN (:tags) WHERE a.id IN (:assetIds)',
    { replacements: { assetIds, tags: tags.map(({ id }) => id) }, transaction, type: QueryTypes.INSERT },
  );
}

export async function dropTags(
  db: Sequelize,
  assetIds: readonly number[],
  tags: readonly { readonly id: number }[],
  transaction: Transaction,
): Promise<void> {
  if (tags.length === 0 || assetIds.length === 0) return;
  await db.query('DELETE FROM asset_tag WHERE asset_id IN (:assetIds) AND tag_id IN (:tags)', {
    replacements: { assetIds, tags: tags.map(({ id }) => id) },
    transaction,
    type: QueryTypes.DELETE,
  });
}

/** The names of the tags that assets have, each with an entry. */
export async function tagsOf(
  db: Sequelize,
  ids: readonly number[],
  transaction: Transaction,
): Promise<Map<number, string[]>> {
  const tags = new Map<number, string[]>(ids.map((id) => [id, []]));
  if (ids.length === 0) return tags;
  const rows = await select<{ assetId: number; name: string }>(
    db,
    'SELECT x.asset_id AS assetId, t.name FROM asset_tag x JOIN tag t ON t.id = x.tag_id WHERE x.asset_id IN (:ids) ORDER BY t.folded',
    { ids },
    transaction,
  );
  for (const { assetId, name } of rows) tags.get(assetId)?.push(name);
  return tags;
}
