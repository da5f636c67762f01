import type { Sequelize } from 'sequelize';
import { keptValue, sameValue, type AssetEdit, type FieldChanges } from '@larder/core/fields';
import type { FieldConflict, Written } from '@larder/contract';
import { write, type Writing } from './change-feed';
import { tagEach, type Side } from './each-edits';
import { notFound } from './errors';
import { conflictOf, fieldsOf, lock, refuseConflicts, setEach, setValues, type Locked } from './locked-assets';
import { dropTags, findTags, putTags, tagIds, tagsOf, type KnownTag } from './tags';

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
    const said = rows.map((row) => ({ row, values, personId, seenRevision: edit.seenRevision }));
    await refuseConflicts(db, said, writing.transaction);
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

interface EditEntry {
  readonly entityId: number;
  readonly before: Side;
  readonly after: Side;
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
  if (conflicted.length > 0) throw conflictOf(conflicted);
  const groups = alike(entries, byId);
  if (groups.length <= MOST_GROUPS)
    for (const group of groups) await putGroupBack(db, writing, group.rows, group.entry);
  else await putEachBack(db, writing, groups);
}

/** Of so many groups each is put back by statements of its own; of more, all together row by row. */
const MOST_GROUPS = 50;

async function putEachBack(
  db: Sequelize,
  { transaction, log }: Writing,
  groups: ReturnType<typeof alike>,
): Promise<void> {
  const each = groups.flatMap(({ entry: { before, after }, rows }) =>
    rows.map((row) => ({ row, before, after, values: withoutTags(before) })),
  );
  await setEach(db, each, transaction);
  const tagged = await tagEach(
    db,
    new Map(
      each.flatMap(({ row, before: { tags }, values }) =>
        tags ? [[row.id, { set: values, tags: { names: tags, others: 'drop' } }] as const] : [],
      ),
    ),
    transaction,
  );
  for (const { row, values, after } of each) {
    const tags = tagged.get(row.id);
    log({
      ...{ action: 'undo', entity: 'asset', entityId: row.id },
      before: { ...withoutTags(after), ...(tags ? { tags: tags.before } : {}) },
      after: { ...values, ...(tags ? { tags: tags.after } : {}) },
    });
  }
}

const withoutTags = ({ tags: _tags, ...values }: EditEntry['before']): FieldChanges => values;

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
