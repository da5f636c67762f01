import { ChangeDetectionStrategy, Component, computed, effect, inject, input, output, untracked } from '@angular/core';
import { toObservable } from '@angular/core/rxjs-interop';
import { AgGridAngular } from 'ag-grid-angular';
import {
  CellStyleModule,
  ColumnApiModule,
  InfiniteRowModelModule,
  ModuleRegistry,
  RowApiModule,
  RowStyleModule,
  ScrollApiModule,
  themeQuartz,
  TooltipModule,
  type CellClickedEvent,
  type CellFocusedEvent,
  type ColDef,
  type ColumnMovedEvent,
  type ColumnPinnedEvent,
  type ColumnResizedEvent,
  type ColumnState,
  type GridApi,
  type GridReadyEvent,
  type IGetRowsParams,
  type SortChangedEvent,
} from 'ag-grid-community';
import { filter, firstValueFrom } from 'rxjs';
import { valueText, type FieldId, type FieldRegistry, type FieldValues } from '@larder/core/fields';
import type { SortOrder } from '@larder/core/search';
import { fieldValues, type Asset } from '@larder/contract';
import { durationOf, formatBytes, formatDay, formatMoment, startOf } from '../shared/format';
import { KIND_LABELS, STATE_LABELS, VERDICT_LABELS } from '../shared/icons';
import { Fields } from '../shared/fields';
import { Keys } from '../shared/keys';
import { Settings } from '../shared/settings';
import { placesAtFirst, placesOf, START_COLUMN, type ColumnPlace } from '../shared/ledger-places';
import type { SelectMode } from './state/library.actions';

ModuleRegistry.registerModules([
  CellStyleModule,
  InfiniteRowModelModule,
  ColumnApiModule,
  RowApiModule,
  RowStyleModule,
  ScrollApiModule,
  TooltipModule,
]);

const BLOCK = 100;

/** The grid in the application's own colours and faces. */
const THEME = themeQuartz.withParams({
  accentColor: 'var(--nl-accent)',
  backgroundColor: 'var(--nl-card)',
  foregroundColor: 'var(--nl-ink)',
  borderColor: 'var(--nl-line)',
  headerBackgroundColor: 'var(--nl-sunk)',
  headerTextColor: 'var(--nl-muted)',
  rowHoverColor: 'var(--nl-sunk)',
  chromeBackgroundColor: 'var(--nl-card)',
  fontFamily: 'var(--nl-sans)',
  headerFontFamily: 'var(--nl-sans)',
  fontSize: 14,
  spacing: 5,
  wrapperBorder: false,
  wrapperBorderRadius: 0,
  columnBorder: false,
});

/** How the ledger words what it does not show as it is kept. */
const WORDS: Readonly<Record<string, (asset: Asset) => string>> = {
  kind: (asset) => KIND_LABELS[asset.kind].word,
  state: (asset) => STATE_LABELS[asset.state].word,
  verdict: (asset) => (asset.verdict ? VERDICT_LABELS[asset.verdict].word : ''),
  [START_COLUMN]: startOf,
  duration: durationOf,
  shot: (asset) => (asset.shotMs === null ? '' : formatDay(asset.shotMs)),
  size: (asset) => formatBytes(asset.bytes),
  added: (asset) => formatMoment(asset.addedMs),
};
const MONO: ReadonlySet<string> = new Set(['reel', 'scene', 'take', START_COLUMN, 'duration', 'rate', 'size', 'path']);

/** What an asset says, put together once for all of its cells. */
const known = new WeakMap<Asset, FieldValues>();
function valuesOf(asset: Asset): FieldValues {
  let values = known.get(asset);
  if (!values) known.set(asset, (values = fieldValues(asset)));
  return values;
}

function column({ colId }: ColumnPlace, fields: FieldRegistry): ColDef<Asset> {
  const field = fields.byId(colId);
  const text = WORDS[colId] ?? ((asset: Asset) => valueText(valuesOf(asset)[colId as FieldId], field?.type));
  return {
    colId,
    headerName: colId === START_COLUMN ? 'Start' : fields.labelOf(colId),
    sortable: colId !== START_COLUMN,
    ...(MONO.has(colId) ? { cellClass: 'mono' } : {}),
    valueGetter: ({ data }) => (data ? text(data) : ''),
    tooltipValueGetter: ({ value }: { value?: unknown }) =>
      typeof value === 'string' && value.length > 12 ? value : null,
  };
}

const stateOf = ({ colId, shown, width, pinned }: ColumnPlace): ColumnState => ({
  colId,
  width,
  hide: !shown,
  pinned: pinned ? 'left' : null,
});

/** Assets as rows, sorted by any column. Rows are fetched as they come into sight. */
@Component({
  selector: 'nl-ledger',
  imports: [AgGridAngular],
  template: `<ag-grid-angular
    class="grid"
    [theme]="theme"
    rowModelType="infinite"
    [columnDefs]="columns()"
    [defaultColDef]="defaults"
    [cacheBlockSize]="block"
    [maxBlocksInCache]="20"
    [infiniteInitialRowCount]="1"
    [rowClassRules]="rules"
    [suppressMultiSort]="true"
    [suppressCellFocus]="false"
    [enableBrowserTooltips]="true"
    (gridReady)="ready($event)"
    [suppressDragLeaveHidesColumns]="true"
    (columnMoved)="$event.finished && arranged($event)"
    (columnResized)="$event.finished && arranged($event)"
    (columnPinned)="arranged($event)"
    (sortChanged)="sortedBy($event)"
    (cellClicked)="press($event)"
    (cellFocused)="focused($event)"
  />`,
  styleUrl: './ledger.scss',
  changeDetection: ChangeDetectionStrategy.OnPush,
})
export class Ledger {
  readonly total = input.required<number>();
  readonly assetAt = input.required<(index: number) => Asset | undefined>();
  /** Goes up whenever what the rows show may be other than before. */
  readonly stamp = input.required<string>();
  readonly selected = input.required<ReadonlySet<number>>();
  readonly focus = input.required<number>();
  readonly picked = output<{ index: number; mode: SelectMode }>();
  readonly shown = output<{ start: number; end: number }>();
  readonly sorted = output<SortOrder>();

  protected readonly theme = THEME;
  private readonly settings = inject(Settings);
  private readonly fields = inject(Fields);
  protected readonly columns = computed(() => {
    const registry = this.fields.registry();
    return placesAtFirst(registry).map((place) => column(place, registry));
  });
  protected readonly block = BLOCK;
  // Sorting is the server's: the grid only says by what.
  protected readonly defaults: ColDef<Asset> = { sortable: true, resizable: true, comparator: () => 0 };
  protected readonly rules = {
    'nl-selected': ({ data }: { data?: Asset | undefined }) => data !== undefined && this.selected().has(data.id),
    'nl-offline': ({ data }: { data?: Asset | undefined }) => data?.state === 'offline',
    'nl-trouble': ({ data }: { data?: Asset | undefined }) => data?.state === 'missing' || data?.state === 'changed',
  };
  private api: GridApi<Asset> | null = null;
  private readonly lookup$ = toObservable(this.assetAt);

  constructor() {
    effect(() => {
      this.stamp();
      this.total();
      untracked(() => this.api?.refreshInfiniteCache());
    });
    effect(() => {
      this.selected();
      untracked(() => this.api?.redrawRows());
    });
    effect(() => {
      this.settings.columns();
      this.columns();
      untracked(() => this.arrange());
    });
    effect(() => {
      const focus = this.focus();
      if (focus >= 0) untracked(() => this.api?.ensureIndexVisible(focus));
    });
    // The grid moves its own focus with the arrows; without one, the first arrow gives it the place in hand.
    const enter = (by: number) => (event: KeyboardEvent) => {
      if ((event.target as Element).closest('.ag-root')) return false;
      const index = Math.min(this.total() - 1, Math.max(0, this.focus() < 0 ? 0 : this.focus() + by));
      this.picked.emit({ index, mode: event.shiftKey ? 'range' : 'one' });
      return true;
    };
    const keys = inject(Keys);
    keys.on('list.down', enter(1));
    keys.on('list.up', enter(-1));
    keys.on('list.extend-down', enter(1));
    keys.on('list.extend-up', enter(-1));
  }

  protected ready({ api }: GridReadyEvent<Asset>): void {
    this.api = api;
    this.arrange();
    api.setGridOption('datasource', { getRows: (params: IGetRowsParams) => void this.rows(params) });
  }

  private arrange(): void {
    this.api?.applyColumnState({
      state: placesOf(this.settings.columns(), this.fields.registry()).map(stateOf),
      applyOrder: true,
    });
  }

  /** Keeps how somebody has arranged the columns with the mouse. */
  protected arranged({
    api,
    source,
  }: ColumnMovedEvent<Asset> | ColumnResizedEvent<Asset> | ColumnPinnedEvent<Asset>): void {
    if (source === 'api') return;
    this.settings.columns.set(
      api.getColumnState().map(({ colId, hide, width, pinned }) => ({
        ...{ colId, shown: !hide },
        ...{ width: width ?? 0, pinned: pinned === 'left' },
      })),
    );
  }

  private async rows({ startRow, endRow, successCallback }: IGetRowsParams): Promise<void> {
    const total = this.total();
    const end = Math.min(endRow, total);
    if (startRow >= end) return successCallback([], total);
    this.shown.emit({ start: startRow, end });
    const whole = await firstValueFrom(
      this.lookup$.pipe(filter((at) => at(startRow) !== undefined && at(end - 1) !== undefined)),
      { defaultValue: null },
    );
    if (whole)
      successCallback(
        Array.from({ length: end - startRow }, (_unused, index) => whole(startRow + index)),
        total,
      );
  }

  protected sortedBy({ api }: SortChangedEvent<Asset>): void {
    const by = api.getColumnState().find((state) => state.sort);
    this.sorted.emit({ field: (by?.colId ?? 'name') as FieldId, descending: by?.sort === 'desc' });
  }

  protected press({ event, rowIndex }: CellClickedEvent<Asset>): void {
    const { shiftKey, ctrlKey, metaKey } = (event ?? {}) as Partial<MouseEvent>;
    if (rowIndex !== null)
      this.picked.emit({ index: rowIndex, mode: shiftKey ? 'range' : ctrlKey || metaKey ? 'toggle' : 'one' });
  }

  /** Arrow keys move the grid's focus; the selection goes along. A click is told by `press`, after its focus event. */
  protected focused({ rowIndex, sourceEvent }: CellFocusedEvent<Asset>): void {
    if (rowIndex === null || !(sourceEvent instanceof KeyboardEvent)) return;
    this.picked.emit({ index: rowIndex, mode: sourceEvent.shiftKey ? 'range' : 'one' });
  }
}
