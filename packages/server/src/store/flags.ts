import { mapFields, type Query } from '@larder/core/query';
import { QueryTypes, type Sequelize } from 'sequelize';
import type { Person, SetFlags, Written } from '@larder/contract';
import { write } from './change-feed';
import { select } from './database';

/** More nobody goes through. */
const MOST = 100_000;

/** A person's own flags, the newest first. */
export const flagsOf = async (db: Sequelize, personId: number): Promise<number[]> =>
  (
    await select<{ assetId: number }>(
      db,
      'SELECT asset_id AS assetId FROM asset_flag WHERE person_id = :personId ORDER BY at_ms DESC, asset_id LIMIT :most',
      { personId, most: MOST },
    )
  ).map(({ assetId }) => assetId);

/** Puts a person's own flag on assets, or takes it off. Nobody else sees it. */
export async function setFlags(db: Sequelize, personId: number, { assetIds, on }: SetFlags): Promise<Written> {
  const { revision, group, changed } = await write(db, personId, async ({ transaction, log }) => {
    const had = new Set(
      (
        await select<{ assetId: number }>(
          db,
          'SELECT asset_id AS assetId FROM asset_flag WHERE person_id = :personId AND asset_id IN (:assetIds)',
          { personId, assetIds },
          transaction,
        )
      ).map(({ assetId }) => assetId),
    );
    const changes = [...new Set(assetIds)].filter((id) => had.has(id) !== on);
    if (changes.length === 0) return;
    await db.query(
      on
        ? 'INSERT INTO asset_flag (person_id, asset_id, at_ms) SELECT :personId, id, :now FROM asset WHERE id IN (:changes)'
        : 'DELETE FROM asset_flag WHERE person_id = :personId AND asset_id IN (:changes)',
      { replacements: { personId, changes, now: Date.now() }, transaction, type: QueryTypes.RAW },
    );
    for (const entityId of changes) log({ action: on ? 'flag' : 'unflag', entity: 'flag', entityId });
  });
  return { revision, group, changed };
}

/** How the index knows a person's flag. */
export const flagToken = (personId: number): string => `p${personId}`;

/** Whose flags assets have, as the index is told. */
export async function flagTokens(db: Sequelize, ids: readonly number[]): Promise<Map<number, string[]>> {
  const tokens = new Map<number, string[]>();
  if (ids.length === 0) return tokens;
  const rows = await select<{ assetId: number; personId: number }>(
    db,
    'SELECT asset_id AS assetId, person_id AS personId FROM asset_flag WHERE asset_id IN (:ids)',
    { ids },
  );
  for (const { assetId, personId } of rows) tokens.set(assetId, [...(tokens.get(assetId) ?? []), flagToken(personId)]);
  return tokens;
}

/** A search with what it asks of flags put as this person's own. */
export const asAskedBy = (person: Pick<Person, 'id'>, tree: Query): Query =>
  mapFields(tree, (part) => {
    if (part.field !== 'flag') return part;
    const own: Query = { ...part, test: { op: 'text', text: flagToken(person.id), prefix: false } };
    return part.test.op === 'presence' && !part.test.present ? { kind: 'not', of: own } : own;
  });
