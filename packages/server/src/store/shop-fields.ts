import { QueryTypes, type Sequelize, type Transaction } from 'sequelize';
import { BUILT_IN, FieldRegistry, mayBePlain, newKey, type NewShopField, type ShopField } from '@larder/core/fields';
import type { Entity, ShopFieldRow } from '@larder/contract';
import { write } from './change-feed';
import { fromJson, select } from './database';
import { notFound, refused } from './errors';
import { librarySettings, setLibrarySetting } from './library-settings';
import { markings } from './markings';

/** More would not fit on a screen, nor in anybody's head. */
const MOST = 500;

export async function shopFields(db: Sequelize, transaction?: Transaction): Promise<ShopFieldRow[]> {
  const rows = await select<{ id: number; key: string; definition: unknown }>(
    db,
    `SELECT id, \`key\`, definition FROM shop_field ORDER BY position, id`,
    {},
    transaction,
  );
  return rows.map(({ id, key, definition }) => ({ ...fromJson<Omit<ShopField, 'key'>>(definition), id, key }));
}

/** All fields of the library as they are now. */
export const readFields = async (db: Sequelize): Promise<FieldRegistry> =>
  new FieldRegistry(
    await shopFields(db),
    (await markings(db)).map(({ name }) => name),
    (await librarySettings(db)).plain,
  );

/** What of the feed makes fields other than they were. */
export const FIELD_ENTITIES: readonly Entity[] = ['field', 'marking'];

/** The fields as this process knows them; read again whenever the feed says that they have changed. */
export class KnownFields {
  private known = new FieldRegistry();

  constructor(private readonly db: Sequelize) {}

  get current(): FieldRegistry {
    return this.known;
  }

  async refresh(): Promise<void> {
    this.known = await readFields(this.db);
  }
}

export async function addShopField(db: Sequelize, personId: number, field: NewShopField): Promise<number> {
  const { value } = await write(db, personId, async ({ transaction, log }) => {
    const there = await shopFields(db, transaction);
    if (there.length >= MOST) throw refused(`There are ${MOST} fields of your own already.`);
    const key = newKey(
      field.label,
      there.map((each) => each.key),
    );
    const [id] = await db.query(
      `INSERT INTO shop_field (\`key\`, definition, position) VALUES (:key, :definition, :position)`,
      {
        replacements: { key, definition: JSON.stringify(field), position: there.length },
        transaction,
        type: QueryTypes.INSERT,
      },
    );
    log({ action: 'add', entity: 'field', entityId: id, after: { key, ...field } });
    return id;
  });
  return value;
}

/** Changes all but the type: what was said is of that type. */
export async function changeShopField(
  db: Sequelize,
  personId: number,
  id: number,
  field: NewShopField,
): Promise<number> {
  await write(db, personId, async ({ transaction, log }) => {
    const before = (await shopFields(db, transaction)).find((each) => each.id === id);
    if (!before) throw notFound('field');
    if (before.type !== field.type)
      throw refused('The type of a field stays what it is: retire this one and define another.');
    await db.query(`UPDATE shop_field SET definition = :definition WHERE id = :id`, {
      replacements: { id, definition: JSON.stringify(field) },
      transaction,
      type: QueryTypes.UPDATE,
    });
    log({ action: 'change', entity: 'field', entityId: id, before: { ...before }, after: { ...field } });
  });
  return id;
}

/** Puts the fields in this order; those that are not named come after. */
export async function orderShopFields(db: Sequelize, personId: number, ids: readonly number[]): Promise<void> {
  await write(db, personId, async ({ transaction, log }) => {
    const there = await shopFields(db, transaction);
    const rank = new Map(ids.map((id, index) => [id, index]));
    const order = there.toSorted((a, b) => (rank.get(a.id) ?? MOST) - (rank.get(b.id) ?? MOST));
    for (const [position, { id }] of order.entries())
      await db.query(`UPDATE shop_field SET position = :position WHERE id = :id`, {
        replacements: { id, position },
        transaction,
        type: QueryTypes.UPDATE,
      });
    const first = order[0];
    if (first) log({ action: 'order', entity: 'field', entityId: first.id });
  });
}

/** Plain words look into these of the fields that are built in, by their ids, and into no other of them. */
export async function setPlainFields(db: Sequelize, personId: number, ids: readonly string[]): Promise<void> {
  const able = BUILT_IN.all.filter(mayBePlain);
  const unknown = ids.filter((id) => !able.some((field) => field.id === id));
  if (unknown.length > 0) throw refused(`Plain words cannot look into “${unknown.join('”, “')}”.`);
  if (ids.length === 0) throw refused('Plain words need a field to look into: choose one at least.');
  // Only what differs is kept, so that a field of a later release stands as it comes.
  const plain = Object.fromEntries(
    able
      .filter((field) => ids.includes(field.id) !== (field.plain === true))
      .map((field) => [field.id, ids.includes(field.id)]),
  );
  await write(db, personId, async ({ transaction, log }) => {
    const { plain: before } = await librarySettings(db, transaction);
    await setLibrarySetting(db, 'plain', plain, transaction);
    log({ action: 'settings', entity: 'field', entityId: 0, before: { plain: before }, after: { plain } });
  });
}
