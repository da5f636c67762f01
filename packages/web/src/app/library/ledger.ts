import { ChangeDetectionStrategy, Component, effect, inject, input, output, untracked } from '@angular/core';
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
  type GridApi,
  type GridReadyEvent,
  type IGetRowsParams,
  type SortChangedEvent,
} from 'ag-grid-community';
import { filter, firstValueFrom } from 'rxjs';
import { fieldById, type FieldId } from '@larder/core/fields';
import type { SortOrder } from '@larder/core/search';
import { countingOf, type Asset } from '@larder/contract';
import { durationOf, formatBytes, formatDay, formatMoment, startOf } from '../shared/format';
import { KIND_LABELS, STATE_LABELS, VERDICT_LABELS } from '../shared/icons';
import { Keys } from '../shared/keys';
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

const column = (
  field: FieldId,
  width: number,
  text: (asset: Asset) => string,
  more: ColDef<Asset> = {},
): ColDef<Asset> => ({
  colId: field,
  headerName: fieldById(field).label,
  width,
  valueGetter: ({ data }) => (data ? text(data) : ''),
  tooltipValueGetter: ({ value }: { value?: unknown }) =>
    typeof value === 'string' && value.length > 12 ? value : null,
  ...more,
});
const MONO = { cellClass: 'mono' };

/** The ledger's columns: the fields that a row of a camera report has, and where the file stands. */
const COLUMNS: ColDef<Asset>[] = [
  column('name', 190, (asset) => asset.name, { pinned: 'left' }),
  column('title', 220, (asset) => asset.title ?? ''),
  column('kind', 96, (asset) => KIND_LABELS[asset.kind].word),
  column('state', 90, (asset) => STATE_LABELS[asset.state].word),
  column('verdict', 88, (asset) => (asset.verdict ? VERDICT_LABELS[asset.verdict].word : '')),
  column('tag', 190, (asset) => asset.tags.join(', ')),
  column('reel', 80, (asset) => asset.reel ?? '', MONO),
  column('scene', 70, (asset) => asset.scene ?? '', MONO),
  column('take', 62, (asset) => asset.take ?? '', MONO),
  { ...column('name', 120, startOf, MONO), colId: 'start', headerName: 'Start', sortable: false },
  column('duration', 92, durationOf, MONO),
  column('rate', 84, (asset) => countingOf(asset)?.id ?? '', MONO),
  column('shot', 110, (asset) => (asset.shotMs === null ? '' : formatDay(asset.shotMs))),
  column('storage', 130, (asset) => asset.storage),
  column('size', 92, (asset) => formatBytes(asset.bytes), MONO),
  column('added', 160, (asset) => formatMoment(asset.addedMs)),
];

/** Assets as rows, sorted by any column. Rows are fetched as they come into sight. */
@Component({
  selector: 'nl-ledger',
  imports: [AgGridAngular],
  template: `<ag-grid-angular
    class="grid"
    [theme]="theme"
    rowModelType="infinite"
    [columnDefs]="columns"
    [defaultColDef]="defaults"
    [cacheBlockSize]="block"
    [maxBlocksInCache]="20"
    [infiniteInitialRowCount]="1"
    [rowClassRules]="rules"
    [suppressMultiSort]="true"
    [suppressCellFocus]="false"
    [enableBrowserTooltips]="true"
    (gridReady)="ready($event)"
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
  protected readonly columns = COLUMNS;
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
  }

  protected ready({ api }: GridReadyEvent<Asset>): void {
    this.api = api;
    api.setGridOption('datasource', { getRows: (params: IGetRowsParams) => void this.rows(params) });
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
