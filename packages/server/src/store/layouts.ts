import { QueryTypes, type Sequelize } from 'sequelize';
import type { LedgerLayout, NewLayout } from '@larder/contract';
import { fromJson, select } from './database';
import { notFound, refused } from './errors';

/** More nobody finds again in a menu. */
const MOST = 50;

/** A person's own layouts and those that are shared, by their names. */
export async function layoutsFor(db: Sequelize, personId: number): Promise<LedgerLayout[]> {
  const rows = await select<{ id: number; name: string; shared: number; own: number; columns: unknown }>(
    db,
    'SELECT id, name, shared, person_id = :personId AS own, `columns` FROM ledger_layout WHERE shared OR person_id = :personId ORDER BY name, id',
    { personId },
  );
  return rows.map(({ columns, ...row }) => ({
    ...{ id: row.id, name: row.name, shared: Boolean(row.shared), own: Boolean(row.own) },
    columns: fromJson<LedgerLayout['columns']>(columns),
  }));
}

/** Keeps a layout under a name; one of the person's own with that name is replaced. `mayShare`: whether this person may. */
export async function keepLayout(
  db: Sequelize,
  personId: number,
  { name, shared, columns }: NewLayout,
  mayShare: boolean,
): Promise<number> {
  if (shared && !mayShare) throw refused('Only people who log can share a layout.');
  const own = (await layoutsFor(db, personId)).filter((layout) => layout.own);
  const before = own.find((layout) => layout.name === name);
  if (!before && own.length >= MOST) throw refused(`You have ${MOST} layouts already. Remove one that is not used.`);
  const replacements = { personId, name, shared, columns: JSON.stringify(columns), id: before?.id ?? 0 };
  if (before) {
    await db.query('UPDATE ledger_layout SET shared = :shared, `columns` = :columns WHERE id = :id', {
      replacements,
      type: QueryTypes.UPDATE,
    });
    return before.id;
  }
  const [id] = await db.query(
    'INSERT INTO ledger_layout (person_id, shared, name, `columns`) VALUES (:personId, :shared, :name, :columns)',
    { replacements, type: QueryTypes.INSERT },
  );
  return id;
}

/** Takes a layout away: one's own, or whoever may keep the library in order (`mayTidy`) any that is shared. */
export async function removeLayout(db: Sequelize, personId: number, id: number, mayTidy: boolean): Promise<void> {
  const layout = (await layoutsFor(db, personId)).find((each) => each.id === id);
  if (!layout) throw notFound('layout');
  if (!layout.own && !mayTidy) throw refused('This layout is somebody else’s.');
  await db.query('DELETE FROM ledger_layout WHERE id = :id', { replacements: { id }, type: QueryTypes.DELETE });
}
