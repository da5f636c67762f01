import type { Sequelize, Transaction } from 'sequelize';
import type { FieldChanges } from '@larder/core/fields';
import { foldTag } from '@larder/core/tags';
import type { FieldConflict, Written } from '@larder/contract';
import { write } from './change-feed';
import { notFound } from './errors';
import { changesOf, conflictOf, conflicts, fieldsOf, lock, setEach, valuesBefore, type Said } from './locked-assets';
import { dropTags, findTags, putTags, tagIds, tagsOf } from './tags';

/** What one of many assets is to say, and to be tagged with: beside its other tags, or in place of them. */
export interface EachSaid {
  readonly set: FieldChanges;
  readonly tags?: { readonly names: readonly string[]; readonly others: 'keep' | 'drop' };
}

export interface AskedEach {
  readonly assetIds: readonly number[];
  readonly seenRevision: number;
  /** Given the assets as they are, locked, in the order in which they were asked for: numbering goes by it. */
  decide(
    assets: readonly { readonly id: number; readonly name: string; readonly values: FieldChanges }[],
  ): ReadonlyMap<number, EachSaid>;
  /** Leaves out what a colleague has said meanwhile, and tells of it, once more if the write is begun again; without it all is refused. */
  leftOut?(conflicts: readonly FieldConflict[]): void;
  /** Writes of one group are undone together. */
  readonly group?: string;
  /** Does everything but keep it. */
  readonly dry?: boolean;
}

/** What an asset said before or after, as far as it was changed; tags are all that it had. */
export type Side = FieldChanges & { tags?: string[] };

/** How an asset was changed. */
export interface EachChange {
  readonly id: number;
  readonly before: Side;
  readonly after: Side;
}

/** Ends a write that is only tried: what it has done so far is rolled back. */
class DryRun extends Error {}

/** Says something different of each of many assets, as one write. Throws `conflict` like an edit, unless those are to be left out. */
export async function sayEach(
  db: Sequelize,
  personId: number,
  asked: AskedEach,
): Promise<{ readonly written: Written | null; readonly changes: readonly EachChange[] }> {
  let changes: readonly EachChange[] = [];
  try {
    const { revision, group, changed } = await write(
      db,
      personId,
      async (writing) => {
        changes = await carryOutEach(db, personId, asked, writing.transaction);
        if (asked.dry) throw new DryRun();
        for (const { id, before, after } of changes)
          writing.log({ action: 'edit', entity: 'asset', entityId: id, before, after });
      },
      asked.group,
    );
    return { written: { revision, group, changed }, changes };
  } catch (error) {
    if (error instanceof DryRun) return { written: null, changes };
    throw error;
  }
}

/** Says something different in fields of each of many assets, on all of them or on none. */
export async function editEach(
  db: Sequelize,
  personId: number,
  { assetIds, seenRevision }: Pick<AskedEach, 'assetIds' | 'seenRevision'>,
  decide: (...rows: Parameters<AskedEach['decide']>) => ReadonlyMap<number, FieldChanges>,
): Promise<Written> {
  const { written } = await sayEach(db, personId, {
    ...{ assetIds, seenRevision },
    decide: (rows) => new Map([...decide(rows)].map(([id, set]) => [id, { set }])),
  });
  if (!written) throw new Error('what was no dry run wrote nothing');
  return written;
}

async function carryOutEach(
  db: Sequelize,
  personId: number,
  { assetIds, seenRevision, decide, leftOut }: AskedEach,
  transaction: Transaction,
): Promise<EachChange[]> {
  const byId = new Map((await lock(db, assetIds, transaction)).map((row) => [row.id, row]));
  const rows = assetIds.flatMap((id) => byId.get(id) ?? []);
  if (rows.length === 0) throw notFound('asset');
  const decided = decide(rows);
  const wanted = rows.map((row) => ({
    row,
    values: changesOf(row, decided.get(row.id)?.set ?? {}),
    personId,
    seenRevision,
  }));
  const clashes = await conflicts(db, wanted, transaction);
  if (clashes.length > 0 && !leftOut) throw conflictOf(clashes);
  leftOut?.(clashes);
  const clashing = new Set(clashes.map(({ assetId, field }) => `${assetId} ${field}`));
  const said = wanted.map(({ row, values }): Said => ({
    row,
    values: Object.fromEntries(Object.entries(values).filter(([field]) => !clashing.has(`${row.id} ${field}`))),
  }));
  await setEach(db, said, transaction);
  await tagIds(db, [...new Set([...decided.values()].flatMap(({ tags }) => tags?.names ?? []))], transaction);
  const tagged = await tagEach(db, decided, transaction);
  return said.flatMap(({ row, values }): EachChange[] => {
    const tags = tagged.get(row.id);
    if (fieldsOf(values).length === 0 && !tags) return [];
    return [
      {
        id: row.id,
        before: { ...valuesBefore(row, values), ...(tags ? { tags: tags.before } : {}) },
        after: { ...values, ...(tags ? { tags: tags.after } : {}) },
      },
    ];
  });
}

/** Tags each of some assets in its own way, with tags that there are: whether others may be made is not this one's to say; gives those whose tags are others now, with both. */
export async function tagEach(
  db: Sequelize,
  decided: ReadonlyMap<number, EachSaid>,
  transaction: Transaction,
): Promise<ReadonlyMap<number, { readonly before: string[]; readonly after: string[] }>> {
  const wanted = new Map([...decided].flatMap(([id, { tags }]) => (tags ? [[id, tags] as const] : [])));
  if (wanted.size === 0) return new Map();
  const names = [...new Set([...wanted.values()].flatMap((tags) => tags.names))];
  const known = await findTags(db, names, transaction, true);
  const before = await tagsOf(db, [...wanted.keys()], transaction);
  const outcome = new Map<number, { before: string[]; after: string[] }>();
  const adding = new Map<number, number[]>();
  const dropping = new Map<string, number[]>();
  const put = <Key>(to: Map<Key, number[]>, key: Key, id: number) => {
    const ids = to.get(key);
    if (ids) ids.push(id);
    else to.set(key, [id]);
  };
  for (const [id, tags] of wanted) {
    const had = before.get(id) ?? [];
    const meant = tags.names.flatMap((name) => known.get(foldTag(name)) ?? []);
    const added = [...new Map(meant.map((tag) => [tag.id, tag])).values()].filter(({ name }) => !had.includes(name));
    const dropped = tags.others === 'drop' ? had.filter((name) => !meant.some((tag) => tag.name === name)) : [];
    if (added.length + dropped.length === 0) continue;
    for (const tag of added) put(adding, tag.id, id);
    for (const name of dropped) put(dropping, name, id);
    const kept = had.filter((name) => !dropped.includes(name));
    outcome.set(id, { before: had, after: [...kept, ...added.map(({ name }) => name)] });
  }
  for (const [id, assetIds] of adding) await putTags(db, assetIds, [{ id }], transaction);
  const gone = await findTags(db, [...dropping.keys()], transaction);
  for (const [name, assetIds] of dropping) {
    const tag = gone.get(foldTag(name));
    if (tag) await dropTags(db, assetIds, [tag], transaction);
  }
  return outcome;
}
