import type { Sequelize } from 'sequelize';
import type { FieldRegistry } from '@larder/core/fields';
import { EVERYTHING, parseQuery, saveQuery, type Query } from '@larder/core/query';
import type { NewLiveBin } from '@larder/contract';
import { write } from './change-feed';
import { notFound, refused, RequestError } from './errors';
import { LiveBinRow } from './models';

/** Reads a search; throws with its issues if it cannot be read whole. */
export function treeOf(query: string, fields: FieldRegistry): Query {
  const { tree, issues } = parseQuery(query, fields);
  if (issues.length > 0) throw new RequestError({ code: 'query', issues });
  return tree;
}

function savedOf(query: string, fields: FieldRegistry) {
  const tree = treeOf(query, fields);
  if (tree === EVERYTHING) throw refused('A live bin needs a search: an empty one would hold the whole library.');
  return saveQuery(tree);
}

export async function addLiveBin(
  db: Sequelize,
  fields: FieldRegistry,
  personId: number,
  { name, query }: NewLiveBin,
): Promise<LiveBinRow> {
  const saved = savedOf(query, fields);
  const { value } = await write(db, personId, async ({ transaction, log }) => {
    const row = await LiveBinRow.create({ name, query: saved, personId, createdMs: Date.now() }, { transaction });
    log({ action: 'add', entity: 'live-bin', entityId: row.id, after: { name, query } });
    return row;
  });
  return value;
}

export async function changeLiveBin(
  db: Sequelize,
  fields: FieldRegistry,
  personId: number,
  id: number,
  { name, query }: NewLiveBin,
): Promise<void> {
  const saved = savedOf(query, fields);
  await write(db, personId, async ({ transaction, log }) => {
    const row = await LiveBinRow.findByPk(id, { transaction, lock: true });
    if (!row) throw notFound('live bin');
    log({
      action: 'change',
      entity: 'live-bin',
      entityId: id,
      before: { name: row.name, query: row.query },
      after: { name, query },
    });
    await row.update({ name, query: saved }, { transaction });
  });
}

/** Takes the bin away; what it showed is not touched. */
export async function removeLiveBin(db: Sequelize, personId: number, id: number): Promise<void> {
  await write(db, personId, async ({ transaction, log }) => {
    const row = await LiveBinRow.findByPk(id, { transaction, lock: true });
    if (!row) throw notFound('live bin');
    log({ action: 'remove', entity: 'live-bin', entityId: id, before: { name: row.name, query: row.query } });
    await row.destroy({ transaction });
  });
}
