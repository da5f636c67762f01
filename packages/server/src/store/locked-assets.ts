import { QueryTypes, type Sequelize, type Transaction } from 'sequelize';
import { keptValue, sameValue, type FieldChanges, type SettableFieldId, type SetValue } from '@larder/core/fields';
import { isOwnField, OWN_FIELDS, partChanges, type FieldConflict, type OwnFieldId } from '@larder/contract';
import { fromJson, select } from './database';
import { RequestError } from './errors';

export interface Locked {
  readonly id: number;
  readonly name: string;
  readonly values: FieldChanges;
}

type LockedRow = Record<OwnFieldId, string | null> & {
  readonly id: number;
  readonly name: string;
  readonly logged: unknown;
};

/** The rows to be changed, locked in one order so that two edits of the same assets wait instead of deadlocking. */
export async function lock(db: Sequelize, ids: readonly number[], transaction: Transaction): Promise<Locked[]> {
  const rows = await select<LockedRow>(
    db,
    `SELECT id, name, logged, ${OWN_FIELDS.join(', ')} FROM asset WHERE id IN (:ids) ORDER BY id FOR UPDATE`,
    { ids },
    transaction,
  );
  return rows.map(({ id, name, logged, ...own }) => ({
    id,
    name,
    values: { ...fromJson<FieldChanges>(logged), ...own },
  }));
}

/** What one asset is to say. */
export interface Said {
  readonly row: Locked;
  readonly values: FieldChanges;
}

/** By whom something is to be said, and up to which revision they had seen the library. */
export interface Asker {
  readonly personId: number;
  readonly seenRevision: number;
}

export async function refuseConflicts(...of: Parameters<typeof conflicts>): Promise<void> {
  const clashes = await conflicts(...of);
  if (clashes.length > 0) throw conflictOf(clashes);
}

export const conflictOf = (clashes: readonly FieldConflict[]): RequestError =>
  new RequestError({ code: 'conflict', conflicts: clashes.slice(0, CONFLICTS_TOLD) });

const CONFLICTS_TOLD = 100;

/** Fields to be set that somebody else has set, to something else, after the revision that whoever asks was looking at. */
export async function conflicts(
  db: Sequelize,
  said: readonly (Said & Asker)[],
  transaction: Transaction,
): Promise<FieldConflict[]> {
  const wanted = new Map(said.filter(({ values }) => fieldsOf(values).length > 0).map((one) => [one.row.id, one]));
  if (wanted.size === 0) return [];
  const looks = [...wanted.values()].map(({ row, personId, seenRevision }) => [row.id, seenRevision, personId]);
  const since = await select<{ entityId: number; after: unknown; by: string | null }>(
    db,
    `SELECT c.entity_id AS entityId, c.after_values AS after, p.name AS \`by\`
     FROM JSON_TABLE(:looks, '$[*]' COLUMNS (id BIGINT PATH '$[0]', seen BIGINT PATH '$[1]', person BIGINT PATH '$[2]')) l
     STRAIGHT_JOIN change_feed c ON c.entity = 'asset' AND c.entity_id = l.id AND c.revision > l.seen AND (c.person_id IS NULL OR c.person_id <> l.person)
     LEFT JOIN person p ON p.id = c.person_id ORDER BY c.revision`,
    { looks: JSON.stringify(looks) },
    transaction,
  );
  const found = new Map<string, FieldConflict>();
  for (const change of since) {
    const { row, values = {} } = wanted.get(change.entityId) ?? {};
    const after = fromJson<Record<string, unknown>>(change.after);
    for (const field of fieldsOf(values))
      if (row && field in after && !sameValue(row.values[field], values[field]))
        found.set(`${row.id} ${field}`, {
          ...{ assetId: row.id, name: row.name, field },
          ...{ by: change.by, theirs: keptValue(row.values[field]) },
        });
  }
  return [...found.values()];
}

export const fieldsOf = (values: FieldChanges): SettableFieldId[] => Object.keys(values) as SettableFieldId[];

/** Of what an asset is to say, what it does not say already. */
export const changesOf = (row: Locked, set: FieldChanges): FieldChanges =>
  Object.fromEntries(
    Object.entries(set)
      .map(([field, value]) => [field, keptValue(value)] as const)
      .filter(([field, value]) => !sameValue(row.values[field as SettableFieldId], value)),
  );

/** What those fields say now. */
export const valuesBefore = (row: Locked, values: FieldChanges): FieldChanges =>
  Object.fromEntries(fieldsOf(values).map((field) => [field, row.values[field] ?? null]));

/** Says the same in fields of many assets: one statement, whatever the fields. What becomes null of a document of JSON goes out of it. */
export async function setValues(
  db: Sequelize,
  ids: readonly number[],
  values: FieldChanges,
  transaction: Transaction,
): Promise<void> {
  const { own, logged } = partChanges(values);
  const columns = Object.keys(own).map((field) => `${field} = :${field}`);
  if (Object.keys(logged).length > 0) columns.push('logged = JSON_MERGE_PATCH(logged, :logged)');
  if (columns.length === 0) return;
  await db.query(`UPDATE asset SET ${columns.join(', ')} WHERE id IN (:ids)`, {
    replacements: { ...own, logged: JSON.stringify(logged), ids },
    transaction,
    type: QueryTypes.UPDATE,
  });
}

/** Rows that are written in one statement. */
const EACH_BATCH = 1000;

/** Writes what each of some assets says. */
export async function setEach(db: Sequelize, said: readonly Said[], transaction: Transaction): Promise<void> {
  const saying = said.filter(({ values }) => fieldsOf(values).length > 0);
  for (let start = 0; start < saying.length; start += EACH_BATCH)
    await setBatch(db, saying.slice(start, start + EACH_BATCH), transaction);
}

/** In one statement: the values travel as one document of JSON. */
async function setBatch(db: Sequelize, said: readonly Said[], transaction: Transaction): Promise<void> {
  const own = OWN_FIELDS.filter((field) => said.some(({ values }) => field in values));
  const rows = said.map(({ row, values }) => {
    const written: Record<string, SetValue> = { id: row.id };
    for (const field of own) written[field] = (field in values ? values[field] : row.values[field]) ?? null;
    const logged: Record<string, SetValue> = {};
    for (const field of fieldsOf({ ...row.values, ...values })) {
      const value = field in values ? values[field] : row.values[field];
      if (!isOwnField(field) && value !== null && value !== undefined) logged[field] = value;
    }
    written.logged = JSON.stringify(logged);
    return written;
  });
  const columns = [...own, 'logged'];
  await db.query(
    `UPDATE asset a JOIN JSON_TABLE($1, '$[*]' COLUMNS (id BIGINT PATH '$.id', ${columns.map((column) => `${column} LONGTEXT PATH '$.${column}'`).join(', ')})) r ON r.id = a.id
     SET ${columns.map((column) => `a.${column} = r.${column}`).join(', ')}`,
    // Bound instead of written into the statement, where megabytes would be looked through for quotation marks by both sides.
    { bind: [JSON.stringify(rows)], transaction, type: QueryTypes.UPDATE },
  );
}
