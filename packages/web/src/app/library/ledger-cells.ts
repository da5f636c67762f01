import type { ColDef } from 'ag-grid-community';
import { TEXT_LIMIT, valueText, type FieldRegistry, type FieldValues, type SettableField } from '@larder/core/fields';
import type { Marking } from '@larder/core/markings';
import { fieldValues, type Asset } from '@larder/contract';
import type { ColumnPlace } from '../shared/ledger-places';
import { fieldOfColumn } from './sheet-edits';
import { shownValue } from '../shared/shown-value';

const MONO: ReadonlySet<string> = new Set(['reel', 'scene', 'take', 'start', 'duration', 'rate', 'size', 'path']);

/** What an asset says, put together once for all of its cells. */
const known = new WeakMap<Asset, FieldValues>();
export function valuesOf(asset: Asset): FieldValues {
  let values = known.get(asset);
  if (!values) known.set(asset, (values = fieldValues(asset)));
  return values;
}

/** Lists are chosen from; everything else is typed. A line of input would lose the breaks of a long text. */
function editorOf({ choices, type }: SettableField): Partial<ColDef<Asset>> {
  if (choices && type !== 'choices')
    return { cellEditor: 'agSelectCellEditor', cellEditorParams: { values: ['', ...choices] } };
  if (type !== 'longText') return { cellEditor: 'agTextCellEditor' };
  return {
    ...{ cellEditor: 'agLargeTextCellEditor', cellEditorPopup: true },
    cellEditorParams: { maxLength: TEXT_LIMIT, rows: 8, cols: 50 },
  };
}

/** What cells show that assets do not say themselves. */
export interface OwnWords {
  marking(asset: Asset): Marking | null;
  flagged(asset: Asset): boolean;
}

/** A column of the ledger: what its cells show, and what happens to what is typed into them. */
export function column(
  { colId }: ColumnPlace,
  fields: FieldRegistry,
  edit: ((asset: Asset, field: SettableField, text: string) => void) | null,
  own: OwnWords,
): ColDef<Asset> {
  const settable = edit && fieldOfColumn(colId, fields);
  const field = fields.byId(colId);
  const text = (asset: Asset): string => {
    if (colId === 'flag') return own.flagged(asset) ? 'Flagged' : '';
    return field ? shownValue(field, valuesOf(asset)[field.id], asset) : '';
  };
  return {
    colId,
    headerName: fields.labelOf(colId),
    sortable: !field?.unordered,
    ...(MONO.has(colId) ? { cellClass: 'mono' } : {}),
    ...(colId === 'marking'
      ? { cellRenderer: ({ data }: { data?: Asset | undefined }) => data && markCell(own.marking(data)) }
      : {}),
    ...(settable
      ? {
          ...{ editable: ({ data }: { data?: Asset | undefined }) => data !== undefined, ...editorOf(settable) },
          // The grid is shown what was said by the store, like every other screen.
          valueSetter: ({ data, newValue }: { data: Asset; newValue: unknown }) => {
            edit(data, settable, typeof newValue === 'string' ? newValue : '');
            return false;
          },
          // In an editor stands what is kept; the cell shows it as the ledger words it.
          valueFormatter: ({ data }: { data: Asset | undefined }) => (data ? text(data) : ''),
        }
      : {}),
    valueGetter: ({ data }) =>
      !data ? '' : settable ? valueText(valuesOf(data)[settable.id], settable.type) : text(data),
    tooltipValueGetter: ({ value }: { value?: unknown }) =>
      typeof value === 'string' && value.length > 12 ? value : null,
  };
}

/** What a row is marked as, by hand or by a rule, as everywhere else: a colour and its name. */
function markCell(marking: Marking | null): HTMLElement {
  const cell = document.createElement('span');
  if (!marking) return cell;
  cell.className = 'mark';
  cell.dataset['colour'] = marking.colour;
  cell.append(document.createElement('i'), marking.name);
  return cell;
}
