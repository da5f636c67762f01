import { QueryTypes, type Sequelize, type Transaction } from 'sequelize';
import { sameValue, valueText, type FieldChanges, type FieldRegistry } from '@larder/core/fields';
import { mergedValues } from '@larder/core/upkeep';
import { renditionJobs } from '../jobs/catalogue';
import { enqueue } from '../jobs/queue';
import type { Writing } from './change-feed';
import { changeItems, stringOutsCutFrom } from './cuts';
import { select } from './database';
import { notFound, refused } from './errors';
import { hangingOn, putRow, type KeptRow } from './kept-rows';
import { addLocation } from './locations';
import { fieldsOf, lock, setValues, valuesBefore, type Locked } from './locked-assets';
import { AssetRow } from './models';

/** What hangs on an asset once for each of something else: a tag, a bin, a person. */
const ONCE_FOR = {
  asset_tag: 'tag_id',
  bin_asset: 'bin_id',
  asset_flag: 'person_id',
  pull: 'person_id',
  transcript: 'source',
} as const;
type OnceTable = keyof typeof ONCE_FOR;
const ONCE_TABLES = Object.keys(ONCE_FOR) as OnceTable[];

/** All that an asset was that another took in, so that it can be made again. */
export interface Folded {
  readonly row: KeptRow;
  /** Other places of its file. */
  readonly locations: readonly number[];
  readonly subclips: readonly number[];
  readonly markers: readonly KeptRow[];
  /** What hung on it once for each of something, and the other had too; and for what the other has it from it. */
  readonly hanging: Readonly<Record<OnceTable, readonly KeptRow[]>>;
  readonly given: Readonly<Record<OnceTable, readonly unknown[]>>;
  /** In string-outs, the items that were cut from it. */
  readonly cuts: readonly { readonly id: number; readonly items: readonly string[] }[];
  /** What the other said before, and says from then on, in the fields that were changed. */
  readonly said: { readonly before: FieldChanges; readonly after: FieldChanges };
}

const FOLDED_KEYS: readonly (keyof Folded)[] = [
  'row',
  'locations',
  'subclips',
  'markers',
  'hanging',
  'given',
  'cuts',
  'said',
];

/** What a fold wrote down; refuses where an earlier version did, which noted less than it takes to make the asset again. */
export function foldedOf(before: object): Folded {
  if (FOLDED_KEYS.every((key) => key in before)) return before as Folded;
  throw refused(
    'This was merged by an earlier version of Neat Larder, which noted too little to take it back. Nothing was undone.',
  );
}

/** An asset that is to be taken in by another of the same stretch of time; nothing in it is moved. */
export interface Fold {
  readonly id: number;
  readonly into: number;
  /** Its file stays, as another place of the asset that takes it in; else that asset is pointed at it. */
  readonly staysAPlace: boolean;
  /** Milliseconds since 1970, when it was asked for. */
  readonly askedMs: number;
}

/** A name that no path has, under which an asset waits while another takes its place. */
const waiting = (id: number): string => `folding ${id}`;

const setPlace = (db: Sequelize, id: number, hash: unknown, transaction: Transaction): Promise<unknown> =>
  update(db, 'asset SET path_hash = :hash WHERE id = :id', { id, hash }, transaction);

/** Frees the place of an asset’s file for another, before it is folded or after it was made again. */
export const release = (db: Sequelize, id: number, transaction: Transaction): Promise<unknown> =>
  setPlace(db, id, waiting(id), transaction);

/** Gives an asset that was made again its place. The place must be free. */
export const settle = (db: Sequelize, id: number, { row }: Folded, transaction: Transaction): Promise<unknown> =>
  setPlace(db, id, row['path_hash'], transaction);

/**
 * Takes an asset into another, with nothing lost: what is said of it, its tags, markers, subclips and transcripts, the bins, string-outs
 * and pull lists that it is in, its other places and what was read of its file. `pathHash` is that of its own place, where it was
 * released. Refuses where both have a transcript that somebody wrote, and they differ.
 */
export async function fold(
  db: Sequelize,
  writing: Writing,
  fields: FieldRegistry,
  { askedMs, id, into, staysAPlace }: Fold,
  pathHash?: string,
): Promise<void> {
  const { log, transaction } = writing;
  const rows = await lock(db, [id, into], transaction);
  const [asset, other] = [rows.find((row) => row.id === id), rows.find((row) => row.id === into)];
  const [kept] = await select<KeptRow>(db, 'SELECT * FROM asset WHERE id = :id', { id }, transaction);
  if (!asset || !other || !kept) throw notFound('asset');
  await refuseOtherWords(db, asset, other, transaction);
  const row: KeptRow = { ...kept, path_hash: pathHash ?? kept['path_hash'] };
  const { given, hanging } = await giveHanging(db, id, into, transaction);
  const before: Folded = {
    ...{ row, given, hanging, markers: await giveMarkers(db, id, into, transaction) },
    locations: await giveRows(db, 'asset_location', id, into, transaction),
    subclips: await giveSubclips(db, writing, id, into),
    cuts: await giveCuts(db, writing, id, into),
    said: await sayOf(db, writing, fields, asset, other),
  };
  await giveRows(db, 'fixity', id, into, transaction);
  await db.query('DELETE FROM asset WHERE id = :id', { replacements: { id }, transaction });
  if (staysAPlace) await addLocation(db, into, Number(row['storage_id']), placeOf(row), transaction);
  log({ action: 'fold', entity: 'asset', entityId: id, before: { ...before }, after: { into, staysAPlace, askedMs } });
}

const placeOf = (row: KeptRow) => ({
  ...{ path: String(row['path']), files: Number(row['files']) },
  ...{ bytes: Number(row['bytes']), modifiedMs: Number(row['modified_ms']) },
});

/** Makes an asset again that was folded into another; it waits for its place, which `settle` gives it. */
export async function unfold(
  db: Sequelize,
  writing: Writing,
  id: number,
  folded: Folded,
  { into, staysAPlace }: Pick<Fold, 'into' | 'staysAPlace'>,
): Promise<void> {
  const { log, transaction } = writing;
  const { cuts, locations, markers, row, subclips } = folded;
  await unsay(db, writing, into, folded.said);
  await putRow(db, 'asset', { ...row, path_hash: waiting(id) }, transaction);
  await takeHangingBack(db, id, into, folded, transaction);
  for (const marker of markers) {
    const markerId = { id, into, marker: marker['id'] };
    await update(db, 'marker SET asset_id = :id WHERE id = :marker AND asset_id = :into', markerId, transaction);
    if (isAlso(marker)) await putRow(db, 'marker', withoutAlso(marker), transaction);
  }
  if (locations.length > 0)
    await update(
      db,
      'asset_location SET asset_id = :id WHERE id IN (:locations) AND asset_id = :into',
      { id, into, locations },
      transaction,
    );
  const place = { id, into, storageId: row['storage_id'], hash: row['path_hash'] };
  await update(
    db,
    'fixity SET asset_id = :id WHERE asset_id = :into AND storage_id = :storageId AND path_hash = :hash',
    place,
    transaction,
  );
  if (staysAPlace)
    await db.query(
      'DELETE FROM asset_location WHERE asset_id = :into AND storage_id = :storageId AND path_hash = :hash',
      { replacements: place, transaction, type: QueryTypes.DELETE },
    );
  for (const subclip of subclips) {
    await update(
      db,
      'asset SET parent_id = :id WHERE id = :subclip AND parent_id = :into',
      { id, into, subclip },
      transaction,
    );
    log({ action: 'merge', entity: 'asset', entityId: subclip, before: { of: into }, after: { of: id } });
  }
  for (const cut of cuts) await cutElsewhere(writing, cut.id, into, id, new Set(cut.items));
  const made = await AssetRow.findByPk(id, { transaction });
  if (made) await enqueue(renditionJobs(made), transaction);
  log({ action: 'unfold', entity: 'asset', entityId: id, before: { into, staysAPlace }, after: { path: row['path'] } });
}

const update = (
  db: Sequelize,
  what: string,
  replacements: Record<string, unknown>,
  transaction: Transaction,
): Promise<unknown> => db.query(`UPDATE ${what}`, { replacements, transaction, type: QueryTypes.UPDATE });

/** What somebody wrote of what is said cannot be joined, and is not thrown away. */
async function refuseOtherWords(db: Sequelize, asset: Locked, other: Locked, transaction: Transaction): Promise<void> {
  const [both] = await select<{ source: string }>(
    db,
    `SELECT t.source FROM transcript t JOIN transcript o ON o.source = t.source AND o.asset_id = :other WHERE t.asset_id = :id AND t.source <> 'recognised' AND t.spoken <> o.spoken LIMIT 1`,
    { id: asset.id, other: other.id },
    transaction,
  );
  if (both)
    throw refused(
      `${asset.name} (#${asset.id}) and ${other.name} (#${other.id}) both have a transcript that was ${both.source === 'corrected' ? 'corrected' : 'brought in'}, and they differ. Take one of them away first. Nothing was merged.`,
    );
}

async function giveHanging(
  db: Sequelize,
  id: number,
  into: number,
  transaction: Transaction,
): Promise<Pick<Folded, 'given' | 'hanging'>> {
  const [given, hanging]: [Partial<Record<OnceTable, unknown[]>>, Partial<Record<OnceTable, KeptRow[]>>] = [{}, {}];
  for (const table of ONCE_TABLES) {
    const key = ONCE_FOR[table];
    const [mine, theirs] = [await hangingOn(db, table, id, transaction), await hangingOn(db, table, into, transaction)];
    const keys = new Set(theirs.map((row) => row[key]));
    const isTheirs = (row: KeptRow): boolean => keys.has(row[key]);
    hanging[table] = mine.filter(isTheirs);
    given[table] = mine.filter((row) => !isTheirs(row)).map((row) => row[key]);
    await giveSome(db, table, given[table], id, into, transaction);
  }
  return { given: given as Folded['given'], hanging: hanging as Folded['hanging'] };
}

const giveSome = async (
  db: Sequelize,
  table: OnceTable,
  keys: readonly unknown[],
  from: number,
  to: number,
  transaction: Transaction,
): Promise<void> => {
  if (keys.length > 0)
    await update(
      db,
      `${table} SET asset_id = :to WHERE asset_id = :from AND ${ONCE_FOR[table]} IN (:keys)`,
      { from, to, keys },
      transaction,
    );
};

/** What the other has from it goes back, as it is by now, and what the other had too is put beside it again. */
async function takeHangingBack(
  db: Sequelize,
  id: number,
  into: number,
  { given, hanging }: Folded,
  transaction: Transaction,
): Promise<void> {
  for (const table of ONCE_TABLES) {
    await giveSome(db, table, given[table], into, id, transaction);
    for (const row of hanging[table]) await putRow(db, table, row, transaction);
  }
}

/** Whether the other had the same marker, so that this one went away with its asset. */
const isAlso = (marker: KeptRow): boolean => marker['also'] === true;
const withoutAlso = ({ also: _also, ...marker }: KeptRow): KeptRow => marker;

async function giveMarkers(db: Sequelize, id: number, into: number, transaction: Transaction): Promise<KeptRow[]> {
  const theirs = new Set((await hangingOn(db, 'marker', into, transaction)).map(said));
  const markers = (await hangingOn(db, 'marker', id, transaction)).map((marker) =>
    theirs.has(said(marker)) ? { ...marker, also: true } : marker,
  );
  const given = markers.filter((marker) => !isAlso(marker)).map((marker) => marker['id']);
  if (given.length > 0)
    await update(db, 'marker SET asset_id = :into WHERE id IN (:given)', { into, given }, transaction);
  return markers;
}

/** What a marker says, whoever set it. */
const said = ({ asset_id: _of, id: _id, person_id: _by, ...marker }: KeptRow): string => JSON.stringify(marker);

async function giveRows(
  db: Sequelize,
  table: 'asset_location' | 'fixity',
  id: number,
  into: number,
  transaction: Transaction,
): Promise<number[]> {
  const rows = await hangingOn(db, table, id, transaction);
  await update(db, `${table} SET asset_id = :into WHERE asset_id = :id`, { id, into }, transaction);
  return rows.map((row) => Number(row['id']));
}

async function giveSubclips(db: Sequelize, { log, transaction }: Writing, id: number, into: number): Promise<number[]> {
  const subclips = await select<{ id: number }>(
    db,
    'SELECT id FROM asset WHERE parent_id = :id ORDER BY id FOR UPDATE',
    { id },
    transaction,
  );
  await update(db, 'asset SET parent_id = :into WHERE parent_id = :id', { id, into }, transaction);
  for (const subclip of subclips)
    log({ action: 'merge', entity: 'asset', entityId: subclip.id, before: { of: id }, after: { of: into } });
  return subclips.map((subclip) => subclip.id);
}

async function giveCuts(db: Sequelize, writing: Writing, id: number, into: number): Promise<Folded['cuts']> {
  const cuts: { id: number; items: readonly string[] }[] = [];
  for (const each of await stringOutsCutFrom(db, id, writing))
    cuts.push({ id: each, items: await cutElsewhere(writing, each, id, into) });
  return cuts;
}

/** Cuts items of a string-out that are cut from one asset from another instead, the same frames; gives which. */
async function cutElsewhere(
  writing: Writing,
  id: number,
  from: number,
  to: number,
  only?: ReadonlySet<string>,
): Promise<string[]> {
  const changed = await changeItems(writing, id, (item) =>
    item.assetId === from && (only?.has(item.id) ?? true) ? { ...item, assetId: to } : null,
  );
  if (changed.length > 0)
    writing.log({
      ...{ action: 'merge', entity: 'string-out', entityId: id },
      ...{ before: { assetId: from }, after: { assetId: to } },
    });
  return changed;
}

async function sayOf(
  db: Sequelize,
  { log, transaction }: Writing,
  fields: FieldRegistry,
  asset: Locked,
  other: Locked,
): Promise<Folded['said']> {
  const word = (field: string, value: unknown): string =>
    `${fields.labelOf(field)}: ${valueText(value as string, fields.byId(field)?.type)}`;
  const after = mergedValues(other.values, asset, word);
  const before = valuesBefore(other, after);
  await setValues(db, [other.id], after, transaction);
  // Whatever it says: it has other tags, markers and bins now.
  log({ action: 'merge', entity: 'asset', entityId: other.id, before, after });
  return { before, after };
}

/** Puts back what an asset said before another was folded into it; refuses where somebody has changed that since. */
async function unsay(
  db: Sequelize,
  { log, transaction }: Writing,
  id: number,
  { after, before }: Folded['said'],
): Promise<void> {
  const [row] = await lock(db, [id], transaction);
  if (!row) throw refused('What it was merged into is gone. Nothing was undone.');
  if (fieldsOf(after).some((field) => !sameValue(row.values[field], after[field])))
    throw refused(`${row.name} has been logged anew since. Nothing was undone.`);
  await setValues(db, [id], before, transaction);
  log({ action: 'merge', entity: 'asset', entityId: id, before: after, after: before });
}
