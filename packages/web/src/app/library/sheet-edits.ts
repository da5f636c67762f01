import { readerOf, type FieldChanges, type FieldRegistry, type SettableField } from '@larder/core/fields';
import type { Asset, EditEach } from '@larder/contract';

/** What a block of cells says of assets, or the first thing in it that a field does not take. */
export type BlockEdits =
  { readonly edits: EditEach['edits']; readonly passedOver: number } | { readonly issue: string };

/** The field of a column, if people fill it in as a whole; verdict and the like by their words. */
export const fieldOfColumn = (colId: string, fields: FieldRegistry): SettableField | undefined =>
  fields.settable.find(({ id, retired }) => id === colId && !retired);

/** A text as a field keeps it; throws with the reason in words if the field does not take it. */
export const valueOf = (field: SettableField, text: string, fields: FieldRegistry): FieldChanges => ({
  [field.id]: readerOf(field, fields)(text),
});

/**
 * Lays a block of cells over rows and columns, from a corner on. Cells over columns that nobody fills in are passed over and
 * counted; one that its field does not take refuses the whole block, and says where.
 */
export function blockEdits(
  cells: readonly (readonly string[])[],
  assets: readonly Asset[],
  columns: readonly string[],
  fields: FieldRegistry,
): BlockEdits {
  let passedOver = 0;
  const edits: EditEach['edits'] = [];
  for (const [row, line] of cells.entries()) {
    const asset = assets[row];
    if (!asset) {
      passedOver += line.length;
      continue;
    }
    let set: FieldChanges = {};
    for (const [column, text] of line.entries()) {
      const field = fieldOfColumn(columns[column] ?? '', fields);
      if (!field) {
        passedOver += 1;
        continue;
      }
      try {
        set = { ...set, ...valueOf(field, text, fields) };
      } catch (error) {
        return { issue: `Row ${row + 1} of what was pasted, ${field.label}: ${(error as Error).message}` };
      }
    }
    if (Object.keys(set).length > 0) edits.push({ assetId: asset.id, set });
  }
  return { edits, passedOver };
}
