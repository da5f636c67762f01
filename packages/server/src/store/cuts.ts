import type { Sequelize } from 'sequelize';
import type { Writing } from './change-feed';
import { select } from './database';
import { StringOutRow } from './models';

type Item = StringOutRow['items'][number];

/** The string-outs that are cut from an asset, in the order in which everybody locks them. */
export async function stringOutsCutFrom(
  db: Sequelize,
  assetId: number,
  { transaction }: Pick<Writing, 'transaction'>,
): Promise<number[]> {
  const rows = await select<{ id: number }>(
    db,
    `SELECT o.id FROM string_out o WHERE JSON_CONTAINS(o.items, JSON_OBJECT('assetId', :assetId)) ORDER BY o.id`,
    { assetId },
    transaction,
  );
  return rows.map(({ id }) => id);
}

/** Changes items of a string-out: those that `change` gives another for. Gives which; nothing is written where there are none. */
export async function changeItems(
  { transaction }: Writing,
  id: number,
  change: (item: Item) => Item | null,
): Promise<string[]> {
  const row = await StringOutRow.findByPk(id, { transaction, lock: true });
  if (!row) return [];
  const changes = new Map(
    row.items.flatMap((item): [string, Item][] => {
      const changed = change(item);
      return changed ? [[item.id, changed]] : [];
    }),
  );
  if (changes.size === 0) return [];
  const items = row.items.map((item) => changes.get(item.id) ?? item);
  await row.update({ items, version: row.version + 1, updatedMs: Date.now() }, { transaction });
  return [...changes.keys()];
}
