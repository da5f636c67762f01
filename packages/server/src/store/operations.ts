import type { Sequelize } from 'sequelize';
import {
  operate,
  operationsOn,
  sameValue,
  type FieldChanges,
  type FieldRegistry,
  type SetValue,
} from '@larder/core/fields';
import { fieldValues, type AskedOperation, type OperationPreview, type Written } from '@larder/contract';
import { assetsById } from './assets';
import { editEach } from './each-edits';
import { refused } from './errors';

/** Rows of a preview: enough to see whether it does what was meant. */
const SHOWN = 50;
const BATCH = 2000;

interface Before {
  readonly id: number;
  readonly name: string;
  readonly value: SetValue;
}

/** What an operation makes of what assets say, and what of that their field does not take. */
function outcome(
  { field: id, operation }: Pick<AskedOperation, 'field' | 'operation'>,
  fields: FieldRegistry,
  assets: readonly Before[],
): { readonly after: ReadonlyMap<number, FieldChanges>; readonly wrong: OperationPreview['wrong'] } {
  const field = fields.settable.find((each) => each.id === id);
  if (!field) throw refused('There is no such field to change.');
  if (!operationsOn(field).includes(operation.op)) throw refused(`That cannot be done to ${field.label}.`);
  const after = new Map<number, FieldChanges>();
  const wrong: { assetId: number; name: string; message: string }[] = [];
  assets.forEach((asset, index) => {
    const value = operate(operation, field, asset.value, index);
    try {
      // Not strict: the spaces around a text are taken off.
      after.set(asset.id, fields.changes.validateSync({ [field.id]: value }));
    } catch (error) {
      wrong.push({ assetId: asset.id, name: asset.name, message: (error as Error).message });
    }
  });
  return { after, wrong };
}

/** What an operation would do; nothing is written. */
export async function previewOperation(
  db: Sequelize,
  fields: FieldRegistry,
  asked: AskedOperation,
): Promise<OperationPreview> {
  const assets: Before[] = [];
  for (let start = 0; start < asked.assetIds.length; start += BATCH)
    for (const asset of await assetsById(db, asked.assetIds.slice(start, start + BATCH)))
      assets.push({ id: asset.id, name: asset.name, value: fieldValues(asset)[asked.field] ?? null });
  const { after, wrong } = outcome(asked, fields, assets);
  const changes = assets
    .map(({ id, name, value }) => ({ assetId: id, name, before: value, after: after.get(id)?.[asked.field] ?? null }))
    .filter((row) => after.has(row.assetId) && !sameValue(row.before, row.after));
  return { changed: changes.length, rows: changes.slice(0, SHOWN), wrong: wrong.slice(0, SHOWN) };
}

/** Carries an operation out, on all of them or on none. */
export const carryOut = (
  db: Sequelize,
  fields: FieldRegistry,
  personId: number,
  asked: AskedOperation,
): Promise<Written> =>
  editEach(db, personId, asked, (rows) => {
    const { after, wrong } = outcome(
      asked,
      fields,
      rows.map(({ id, name, values }) => ({ id, name, value: values[asked.field] ?? null })),
    );
    const [first] = wrong;
    if (first) throw refused(`${first.name}: ${first.message} Nothing was changed.`);
    return after;
  });
