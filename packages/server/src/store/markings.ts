import { QueryTypes, type Sequelize, type Transaction } from 'sequelize';
import { fold, type FieldRegistry } from '@larder/core/fields';
import type { Marking, NewMarking } from '@larder/core/markings';
import { asksOf, parseQuery, placesNamed, wordQueryIssue } from '@larder/core/query';
import { write, type Writing } from './change-feed';
import { select } from './database';
import { notFound, refused } from './errors';

/** More colours nobody tells apart; there are as many as names that a person has in mind. */
const MOST = 60;

/** In the order in which their rules are tried. */
export const markings = (db: Sequelize, transaction?: Transaction): Promise<Marking[]> =>
  select<Marking>(db, 'SELECT id, name, colour, rule FROM marking ORDER BY position, id', {}, transaction);

function refuseIssues({ rule }: NewMarking, fields: FieldRegistry): void {
  const { tree, issues } = parseQuery(rule, fields);
  const [issue] = issues;
  if (issue) throw refused(`The rule cannot be read. ${wordQueryIssue(issue)}`);
  if (asksOf(tree, 'like'))
    throw refused('A rule looks at one asset, and cannot tell what is like another: write what they share instead.');
  if (placesNamed(tree).length > 0)
    throw refused(
      'A rule looks at one asset, and other assets tell where a place lies: write its degrees instead of its name.',
    );
}

function refuseDouble(name: string, others: readonly Marking[]): void {
  const double = others.find((each) => fold(each.name) === fold(name));
  if (double) throw refused(`There is a marking “${double.name}” already.`);
}

export async function addMarking(
  db: Sequelize,
  fields: FieldRegistry,
  personId: number,
  marking: NewMarking,
): Promise<number> {
  refuseIssues(marking, fields);
  const { value } = await write(db, personId, async ({ transaction, log }) => {
    const there = await markings(db, transaction);
    if (there.length >= MOST) throw refused(`There are ${MOST} markings already.`);
    refuseDouble(marking.name, there);
    const [id] = await db.query(
      'INSERT INTO marking (name, colour, rule, position) VALUES (:name, :colour, :rule, :position)',
      { replacements: { ...marking, position: there.length }, transaction, type: QueryTypes.INSERT },
    );
    log({ action: 'add', entity: 'marking', entityId: id, after: { ...marking } });
    return id;
  });
  return value;
}

/** Changes a marking. What has it by hand goes along with a new name. */
export async function changeMarking(
  db: Sequelize,
  fields: FieldRegistry,
  personId: number,
  id: number,
  marking: NewMarking,
): Promise<number> {
  refuseIssues(marking, fields);
  await write(db, personId, async (writing) => {
    const there = await markings(db, writing.transaction);
    const before = there.find((each) => each.id === id);
    if (!before) throw notFound('marking');
    refuseDouble(
      marking.name,
      there.filter((each) => each.id !== id),
    );
    await db.query('UPDATE marking SET name = :name, colour = :colour, rule = :rule WHERE id = :id', {
      replacements: { ...marking, id },
      transaction: writing.transaction,
      type: QueryTypes.UPDATE,
    });
    if (marking.name !== before.name) await rename(db, writing, before.name, marking.name);
    writing.log({ action: 'change', entity: 'marking', entityId: id, before: { ...before }, after: { ...marking } });
  });
  return id;
}

/** Takes a marking away, and off everything that has it by hand. */
export async function removeMarking(db: Sequelize, personId: number, id: number): Promise<void> {
  await write(db, personId, async (writing) => {
    const before = (await markings(db, writing.transaction)).find((each) => each.id === id);
    if (!before) throw notFound('marking');
    await rename(db, writing, before.name, null);
    await db.query('DELETE FROM marking WHERE id = :id', {
      replacements: { id },
      transaction: writing.transaction,
    });
    writing.log({ action: 'remove', entity: 'marking', entityId: id, before: { ...before } });
  });
}

async function rename(
  db: Sequelize,
  { transaction, log }: Writing,
  before: string,
  after: string | null,
): Promise<void> {
  const rows = await select<{ id: number }>(
    db,
    `SELECT id FROM asset WHERE JSON_VALUE(logged, '$.marking') = :before ORDER BY id FOR UPDATE`,
    { before },
    transaction,
  );
  if (rows.length === 0) return;
  await db.query(`UPDATE asset SET logged = JSON_MERGE_PATCH(logged, :patch) WHERE id IN (:ids)`, {
    replacements: { patch: JSON.stringify({ marking: after }), ids: rows.map(({ id }) => id) },
    transaction,
    type: QueryTypes.UPDATE,
  });
  for (const { id } of rows)
    log({
      ...{ action: 'remark', entity: 'asset', entityId: id },
      ...{ before: { marking: before }, after: { marking: after } },
    });
}

/** Puts the markings in this order; those that are not named come after. */
export async function orderMarkings(db: Sequelize, personId: number, ids: readonly number[]): Promise<void> {
  await write(db, personId, async ({ transaction, log }) => {
    const rank = new Map(ids.map((id, index) => [id, index]));
    const order = (await markings(db, transaction)).toSorted(
      (a, b) => (rank.get(a.id) ?? MOST) - (rank.get(b.id) ?? MOST),
    );
    for (const [position, { id }] of order.entries())
      await db.query('UPDATE marking SET position = :position WHERE id = :id', {
        replacements: { id, position },
        transaction,
        type: QueryTypes.UPDATE,
      });
    const [first] = order;
    if (first) log({ action: 'order', entity: 'marking', entityId: first.id });
  });
}
