import { QueryTypes, type Sequelize, type Transaction } from 'sequelize';
import { keptValue, sameValue, type AssetEdit, type FieldChanges, type SettableFieldId } from '@larder/core/fields';
import { OWN_FIELDS, partChanges, type FieldConflict, type OwnFieldId, type Written } from '@larder/contract';
import { write, type Writing } from './change-feed';
import { fromJson, select } from './database';
import { notFound, RequestError } from './errors';
import { dropTags, findTags, putTags, tagIds, tagsOf, type KnownTag } from './tags';

interface Locked {
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
async function lock(db: Sequelize, ids: readonly number[], transaction: Transaction): Promise<Locked[]> {
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
interface Said {
  readonly row: Locked;
  readonly values: FieldChanges;
}

async function refuseConflicts(...of: Parameters<typeof conflicts>): Promise<void> {
  const clashes = await conflicts(...of);
  if (clashes.length > 0) throw new RequestError({ code: 'conflict', conflicts: clashes.slice(0, 100) });
}

/** Fields to be set that somebody else has set, to something else, after the revision that this person was looking at. */
async function conflicts(
  db: Sequelize,
  personId: number,
  seenRevision: number,
  said: readonly Said[],
  transaction: Transaction,
): Promise<FieldConflict[]> {
  const wanted = new Map(said.filter(({ values }) => fieldsOf(values).length > 0).map((one) => [one.row.id, one]));
  if (wanted.size === 0) return [];
  const since = await select<{ entityId: number; after: unknown; by: string | null }>(
    db,
    `SELECT c.entity_id AS entityId, c.after_values AS after, p.name AS \`by\` FROM change_feed c LEFT JOIN person p ON p.id = c.person_id
     WHERE c.entity = 'asset' AND c.entity_id IN (:ids) AND c.revision > :seen AND (c.person_id IS NULL OR c.person_id <> :personId) ORDER BY c.revision`,
    { ids: [...wanted.keys()], seen: seenRevision, personId },
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

const fieldsOf = (values: FieldChanges): SettableFieldId[] => Object.keys(values) as SettableFieldId[];

/** Sets fields and adds and removes tags on many assets as one write. Throws `conflict` and writes nothing if a colleague got there first. */
export async function editAssets(db: Sequelize, personId: number, edit: AssetEdit): Promise<Written> {
  const values: FieldChanges = Object.fromEntries(
    fieldsOf(edit.set)
      .filter((field) => edit.set[field] !== undefined)
      .map((field) => [field, keptValue(edit.set[field])]),
  );
  const { revision, group, changed } = await write(db, personId, async (writing) => {
    const rows = await lock(db, edit.assetIds, writing.transaction);
    if (rows.length === 0) throw notFound('asset');
    const said = rows.map((row) => ({ row, values }));
    await refuseConflicts(db, personId, edit.seenRevision, said, writing.transaction);
    const adding = await tagIds(db, edit.addTags, writing.transaction);
    const removing = [...(await findTags(db, edit.removeTags, writing.transaction)).values()];
    await apply(db, writing, rows, values, adding, removing, 'edit');
  });
  return { revision, group, changed };
}

async function apply(
  db: Sequelize,
  { transaction, log }: Writing,
  rows: readonly Locked[],
  values: FieldChanges,
  adding: readonly KnownTag[],
  removing: readonly KnownTag[],
  action: string,
): Promise<void> {
  const ids = rows.map((row) => row.id);
  const touchesTags = adding.length + removing.length > 0;
  const before = touchesTags ? await tagsOf(db, ids, transaction) : null;
  await setValues(db, ids, values, transaction);
  await putTags(db, ids, adding, transaction);
  await dropTags(db, ids, removing, transaction);

  const removed = new Set(removing.map((tag) => tag.name));
  for (const row of rows) {
    const had = before?.get(row.id) ?? [];
    const has = [
      ...had.filter((name) => !removed.has(name)),
      ...adding.map((tag) => tag.name).filter((name) => !had.includes(name)),
    ];
    const set = fieldsOf(values).filter((field) => !sameValue(row.values[field], values[field]));
    const tagged = touchesTags && (has.length !== had.length || has.some((name) => !had.includes(name)));
    if (set.length === 0 && !tagged) continue;
    const side = (from: FieldChanges, tags: readonly string[]) => ({
      ...Object.fromEntries(set.map((field) => [field, from[field] ?? null])),
      ...(tagged ? { tags } : {}),
    });
    log({ action, entity: 'asset', entityId: row.id, before: side(row.values, had), after: side(values, has) });
  }
}

/** Says the same in fields of many assets: one statement, whatever the fields. What becomes null of a document of JSON goes out of it. */
async function setValues(
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

/** Says something different in fields of each of many assets, as one write. Throws `conflict` like an edit. */
export async function editEach(
  db: Sequelize,
  personId: number,
  assetIds: readonly number[],
  seenRevision: number,
  decide: (
    assets: readonly { readonly id: number; readonly name: string; readonly values: FieldChanges }[],
  ) => ReadonlyMap<number, FieldChanges>,
): Promise<Written> {
  const { revision, group, changed } = await write(db, personId, async (writing) => {
    const { transaction, log } = writing;
    const byId = new Map((await lock(db, assetIds, transaction)).map((row) => [row.id, row]));
    // In the order in which they were asked for: numbering goes by it.
    const rows = assetIds.flatMap((id) => byId.get(id) ?? []);
    if (rows.length === 0) throw notFound('asset');
    const decided = decide(rows);
    const said = rows.flatMap((row): Said[] => {
      const values = Object.fromEntries(
        Object.entries(decided.get(row.id) ?? {})
          .map(([field, value]) => [field, keptValue(value)] as const)
          .filter(([field, value]) => !sameValue(row.values[field as SettableFieldId], value)),
      );
      return Object.keys(values).length === 0 ? [] : [{ row, values }];
    });
    await refuseConflicts(db, personId, seenRevision, said, transaction);
    for (let start = 0; start < said.length; start += EACH_BATCH)
      await setEach(db, said.slice(start, start + EACH_BATCH), transaction);
    for (const { row, values } of said)
      log({
        ...{ action: 'edit', entity: 'asset', entityId: row.id, after: values },
        before: Object.fromEntries(fieldsOf(values).map((field) => [field, row.values[field] ?? null])),
      });
  });
  return { revision, group, changed };
}

/** Writes what each of some assets says, in one statement: the values travel as one document of JSON. */
async function setEach(db: Sequelize, said: readonly Said[], transaction: Transaction): Promise<void> {
  const own = OWN_FIELDS.filter((field) => said.some(({ values }) => field in values));
  const rows = said.map(({ row, values }) => {
    const whole = { ...row.values, ...values };
    const { logged } = partChanges(whole);
    return {
      id: row.id,
      ...Object.fromEntries(own.map((field) => [field, whole[field] ?? null])),
      logged: JSON.stringify(Object.fromEntries(Object.entries(logged).filter(([, value]) => value !== null))),
    };
  });
  const columns = [...own, 'logged'];
  await db.query(
    `UPDATE asset a JOIN JSON_TABLE(:rows, '$[*]' COLUMNS (id BIGINT PATH '$.id', ${columns.map((column) => `${column} LONGTEXT PATH '$.${column}'`).join(', ')})) r ON r.id = a.id
     SET ${columns.map((column) => `a.${column} = r.${column}`).join(', ')}`,
    { replacements: { rows: JSON.stringify(rows) }, transaction, type: QueryTypes.UPDATE },
  );
}

interface EditEntry {
  readonly entityId: number;
  readonly before: FieldChanges & { tags?: string[] };
  readonly after: FieldChanges & { tags?: string[] };
}

/** Puts fields and tags back as they were before an edit; throws `conflict` where a field is other than that edit left it. */
export async function putValuesBack(db: Sequelize, writing: Writing, entries: readonly EditEntry[]): Promise<void> {
  const { transaction } = writing;
  const rows = await lock(
    db,
    entries.map((entry) => entry.entityId),
    transaction,
  );
  const byId = new Map(rows.map((row) => [row.id, row]));
  const conflicted: FieldConflict[] = [];
  for (const { entityId, after } of entries) {
    const row = byId.get(entityId);
    const { tags: _tags, ...set } = after;
    for (const field of fieldsOf(set))
      if (row && !sameValue(row.values[field], after[field]))
        conflicted.push({
          ...{ assetId: row.id, name: row.name, field },
          ...{ by: null, theirs: keptValue(row.values[field]) },
        });
  }
  if (conflicted.length > 0) throw new RequestError({ code: 'conflict', conflicts: conflicted.slice(0, 100) });
  for (const group of alike(entries, byId)) await putGroupBack(db, writing, group.rows, group.entry);
}

/** Entries that put the same back are one statement: an edit of 10,000 assets mostly is. */
function alike(
  entries: readonly EditEntry[],
  byId: ReadonlyMap<number, Locked>,
): { readonly entry: EditEntry; readonly rows: readonly Locked[] }[] {
  const groups = new Map<string, { entry: EditEntry; rows: Locked[] }>();
  for (const entry of entries) {
    const row = byId.get(entry.entityId);
    if (!row) continue;
    const { tags: had = [], ...values } = entry.before;
    const has = entry.after.tags ?? [];
    const key = JSON.stringify([
      values,
      had.filter((tag) => !has.includes(tag)),
      has.filter((tag) => !had.includes(tag)),
    ]);
    const group = groups.get(key);
    if (group) group.rows.push(row);
    else groups.set(key, { entry, rows: [row] });
  }
  return [...groups.values()];
}

async function putGroupBack(
  db: Sequelize,
  writing: Writing,
  rows: readonly Locked[],
  { before, after }: EditEntry,
): Promise<void> {
  const { tags: had = [], ...values } = before;
  // Names that were merged or renamed since are read as what they are now.
  const put = await findTags(
    db,
    had.filter((name) => !after.tags?.includes(name)),
    writing.transaction,
  );
  const drop = await findTags(
    db,
    (after.tags ?? []).filter((name) => !had.includes(name)),
    writing.transaction,
  );
  await apply(db, writing, rows, values, [...put.values()], [...drop.values()], 'undo');
}
