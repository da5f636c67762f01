import { QueryTypes, type Sequelize, type Transaction } from 'sequelize';
import { sameBinName } from '@larder/core/query';
import type { Bin, BinAssets, BinOrder, NewBin, Written } from '@larder/contract';
import { write, type Writing } from './change-feed';
import { select } from './database';
import { notFound, refused } from './errors';
import { brokenUses } from './health';
import { seenBy } from './live-bins';
import { BinRow, LiveBinRow } from './models';

export async function listBins(db: Sequelize): Promise<Bin[]> {
  const [bins, broken] = await Promise.all([
    select<Omit<Bin, 'broken'>>(
      db,
      `SELECT b.id, b.parent_id AS parentId, b.name, b.path, (SELECT COUNT(*) FROM bin_asset x WHERE x.bin_id = b.id) AS count, w.name AS \`by\`
       FROM bin b LEFT JOIN person w ON w.id = b.person_id ORDER BY b.path`,
    ),
    brokenUses(db),
  ]);
  return bins.map((bin) => ({ ...bin, broken: broken.bin.get(bin.id)?.size ?? 0 }));
}

async function pathUnder(parentId: number | null, name: string, transaction: Transaction): Promise<string> {
  if (parentId === null) return name;
  const parent = await BinRow.findByPk(parentId, { transaction });
  if (!parent) throw notFound('bin');
  return `${parent.path}/${name}`;
}

/** A slash in a name would look like a bin within a bin. */
const checked = (name: string): string => {
  if (name.includes('/')) throw refused('A bin’s name has no slash in it.');
  return name;
};

async function refuseNamesake(name: string, parentId: number | null, transaction: Transaction, but = 0): Promise<void> {
  const namesake = await BinRow.findOne({ where: { name, parentId }, transaction });
  if (namesake && namesake.id !== but) throw refused(`There is already a bin called “${name}” here.`);
}

/** In a search, a name means one or the other. */
async function refuseLiveBin(path: string, personId: number, transaction: Transaction): Promise<void> {
  const live = await LiveBinRow.findAll({ attributes: ['name'], where: seenBy(personId), transaction });
  if (live.some(({ name }) => sameBinName(path, name)))
    throw refused(`There is a live bin called “${path}”. Choose another name.`);
}

async function makeBin(personId: number, { name, parentId }: NewBin, { transaction, log }: Writing): Promise<number> {
  await refuseNamesake(checked(name), parentId, transaction);
  const path = await pathUnder(parentId, name, transaction);
  await refuseLiveBin(path, personId, transaction);
  const row = await BinRow.create({ name, parentId, path, personId, createdMs: Date.now() }, { transaction });
  log({ action: 'add', entity: 'bin', entityId: row.id, after: { name, parentId } });
  return row.id;
}

export async function addBin(db: Sequelize, personId: number, bin: NewBin): Promise<number> {
  return (await write(db, personId, (writing) => makeBin(personId, bin, writing))).value;
}

/** Makes a bin of assets as they were found, in that order. What is gone since is left out. */
export async function freezeInto(
  db: Sequelize,
  personId: number,
  bin: NewBin,
  assetIds: readonly number[],
): Promise<number> {
  const { value } = await write(db, personId, async (writing) => {
    const id = await makeBin(personId, bin, writing);
    await putIntoBin(db, id, await thereOf(db, assetIds, writing.transaction), writing);
    return id;
  });
  return value;
}

/** Renames or moves a bin. What is in it and below it is told, since its path is what people search for. */
export async function changeBin(
  db: Sequelize,
  personId: number,
  id: number,
  { name, parentId }: NewBin,
): Promise<void> {
  await write(db, personId, async (writing) => {
    const { transaction, log } = writing;
    const row = await BinRow.findByPk(id, { transaction, lock: true });
    if (!row) throw notFound('bin');
    if (parentId !== null && (await below(db, id, transaction)).includes(parentId))
      throw refused('A bin cannot be put into itself.');
    await refuseNamesake(checked(name), parentId, transaction, id);
    log({
      action: 'change',
      entity: 'bin',
      entityId: id,
      before: { name: row.name, parentId: row.parentId },
      after: { name, parentId },
    });
    const [before, path] = [row.path, await pathUnder(parentId, name, transaction)];
    if (path !== before) await refuseLiveBin(path, personId, transaction);
    await row.update({ name, parentId, path }, { transaction });
    // Those within take the new beginning of their paths.
    await db.query('UPDATE bin SET path = CONCAT(:path, SUBSTRING(path, :rest)) WHERE id IN (:ids) AND id <> :id', {
      replacements: { path, rest: before.length + 1, id, ids: await below(db, id, transaction) },
      type: QueryTypes.UPDATE,
      transaction,
    });
    await tellAssets(db, id, writing);
  });
}

/** Takes a bin away with those in it. The assets stay as they are, wherever else they are. */
export async function removeBin(db: Sequelize, personId: number, id: number): Promise<void> {
  await write(db, personId, async (writing) => {
    const { transaction, log } = writing;
    const row = await BinRow.findByPk(id, { transaction, lock: true });
    if (!row) throw notFound('bin');
    log({ action: 'remove', entity: 'bin', entityId: id, before: { name: row.name, parentId: row.parentId } });
    await tellAssets(db, id, writing);
    await row.destroy({ transaction });
  });
}

const below = async (db: Sequelize, id: number, transaction: Transaction): Promise<number[]> =>
  (
    await select<{ id: number }>(
      db,
      'WITH RECURSIVE tree (id) AS (SELECT :id UNION ALL SELECT b.id FROM bin b JOIN tree t ON b.parent_id = t.id) SELECT id FROM tree',
      { id },
      transaction,
    )
  ).map((row) => Number(row.id));

async function tellAssets(db: Sequelize, id: number, { transaction, log }: Writing): Promise<void> {
  const inside = await select<{ assetId: number }>(
    db,
    'SELECT DISTINCT asset_id AS assetId FROM bin_asset WHERE bin_id IN (:ids)',
    { ids: await below(db, id, transaction) },
    transaction,
  );
  for (const { assetId } of inside) log({ action: 'bin', entity: 'asset', entityId: assetId });
}

/** Those of some assets that there are, each once, in their order. */
async function thereOf(db: Sequelize, ids: readonly number[], transaction: Transaction): Promise<number[]> {
  const rows = await select<{ id: number }>(
    db,
    'SELECT id FROM asset WHERE id IN (:ids)',
    { ids: [0, ...ids] },
    transaction,
  );
  const there = new Set(rows.map(({ id }) => id));
  return [...new Set(ids)].filter((id) => there.has(id));
}

/** Puts assets into a bin, behind those that are in it, within a write that is under way. */
export async function putIntoBin(
  db: Sequelize,
  binId: number,
  assetIds: readonly number[],
  { transaction, log }: Writing,
): Promise<void> {
  if (assetIds.length === 0) return;
  const [{ last } = { last: 0 }] = await select<{ last: number }>(
    db,
    'SELECT COALESCE(MAX(position), 0) AS last FROM bin_asset WHERE bin_id = :binId',
    { binId },
    transaction,
  );
  await db.query('INSERT IGNORE INTO bin_asset (bin_id, asset_id, position) VALUES :rows', {
    replacements: { rows: assetIds.map((assetId, index) => [binId, assetId, Number(last) + index + 1]) },
    type: QueryTypes.INSERT,
    transaction,
  });
  log({ action: 'change', entity: 'bin', entityId: binId });
  for (const assetId of assetIds) log({ action: 'bin', entity: 'asset', entityId: assetId });
}

export async function changeBinAssets(
  db: Sequelize,
  personId: number,
  id: number,
  { add = [], remove = [] }: Partial<BinAssets>,
): Promise<Written> {
  const outcome = await write(db, personId, async (writing) => {
    const { transaction, log } = writing;
    if (!(await BinRow.findByPk(id, { transaction }))) throw notFound('bin');
    // In the order in which they were named: it is the bin's order by hand.
    await putIntoBin(db, id, await thereOf(db, add, transaction), writing);
    if (remove.length === 0) return;
    await db.query('DELETE FROM bin_asset WHERE bin_id = :id AND asset_id IN (:remove)', {
      replacements: { id, remove },
      type: QueryTypes.DELETE,
      transaction,
    });
    log({ action: 'change', entity: 'bin', entityId: id });
    for (const assetId of remove) log({ action: 'bin', entity: 'asset', entityId: assetId });
  });
  return { revision: outcome.revision, group: outcome.group, changed: outcome.changed };
}

/** What is in a bin, in the order that people gave it. */
export const binOrder = async (db: Sequelize, id: number, transaction?: Transaction): Promise<number[]> =>
  (
    await select<{ assetId: number }>(
      db,
      'SELECT asset_id AS assetId FROM bin_asset WHERE bin_id = :id ORDER BY position, asset_id',
      { id },
      transaction,
    )
  ).map(({ assetId }) => assetId);

/** Moves assets of a bin before another, or to the end; they keep the order among themselves that they are named in. */
export async function orderBin(
  db: Sequelize,
  personId: number,
  id: number,
  { assetIds, before }: BinOrder,
): Promise<Written> {
  const { revision, group, changed } = await write(db, personId, async ({ transaction, log }) => {
    const bin = await BinRow.findByPk(id, { transaction, lock: true });
    if (!bin) throw notFound('bin');
    const was = await binOrder(db, id, transaction);
    const there = new Set(was);
    const moved = [...new Set(assetIds)].filter((assetId) => there.has(assetId));
    const moving = new Set(moved);
    // One that moves along is no place to be put before: the next that stays is.
    const stay = was.findIndex((assetId) => assetId === before);
    const anchor = stay < 0 ? undefined : was.slice(stay).find((assetId) => !moving.has(assetId));
    const rest = was.filter((assetId) => !moving.has(assetId));
    const at = anchor === undefined ? rest.length : rest.indexOf(anchor);
    const now = [...rest.slice(0, at), ...moved, ...rest.slice(at)];
    if (now.every((assetId, index) => was[index] === assetId)) return;
    await db.query(
      'INSERT INTO bin_asset (bin_id, asset_id, position) VALUES :rows ON DUPLICATE KEY UPDATE position = VALUES(position)',
      {
        replacements: { rows: now.map((assetId, index) => [id, assetId, index + 1]) },
        type: QueryTypes.INSERT,
        transaction,
      },
    );
    log({ action: 'order', entity: 'bin', entityId: id });
  });
  return { revision, group, changed };
}

/** The bin at a path of names below another, made where it is not there yet. */
export async function binAt(
  parentId: number | null,
  steps: readonly string[],
  personId: number | null,
  { transaction, log }: Writing,
): Promise<number | null> {
  let at = parentId;
  for (const step of steps) {
    const name = step.slice(0, 120);
    const there = await BinRow.findOne({ where: { name, parentId: at }, transaction });
    const path = there?.path ?? (await pathUnder(at, name, transaction));
    const row =
      there ?? (await BinRow.create({ name, parentId: at, path, personId, createdMs: Date.now() }, { transaction }));
    if (!there) log({ action: 'add', entity: 'bin', entityId: row.id, after: { name, parentId: at } });
    at = row.id;
  }
  return at;
}
