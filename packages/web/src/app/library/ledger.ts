import { ChangeDetectionStrategy, Component, computed, effect, inject, input, output, untracked } from '@angular/core';
import { toObservable } from '@angular/core/rxjs-interop';
import { AgGridAngular } from 'ag-grid-angular';
import {
  CellStyleModule,
  ColumnApiModule,
  InfiniteRowModelModule,
  LargeTextEditorModule,
  ModuleRegistry,
  RowApiModule,
  RowStyleModule,
  ScrollApiModule,
  SelectEditorModule,
  TextEditorModule,
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
  type ProcessRowParams,
  type SortChangedEvent,
} from 'ag-grid-community';
import { filter, firstValueFrom } from 'rxjs';
import { valueText, type FieldChanges, type FieldId, type SettableField } from '@larder/core/fields';
import type { Group, SortBy, SortOrder } from '@larder/core/search';
import { readBlock, writeBlock } from '@larder/core/interchange/table';
import { MAX_EACH, type Asset, type EditEach } from '@larder/contract';
import { counted, formatCount } from '../shared/format';
import { Fields } from '../shared/fields';
import { Flags } from '../shared/flags';
import { Keys } from '../shared/keys';
import { Markings } from '../shared/markings';
import { Settings } from '../shared/settings';
import { placesAtFirst, placesOf, type ColumnPlace } from '../shared/ledger-places';
import { stretchAt, stretchesOf } from './arrangement';
import { column, valuesOf } from './ledger-cells';
import { blockEdits, fieldOfColumn, valueOf } from './sheet-edits';
import type { SelectMode } from './state/library.actions';
import type { WhyFound } from './why-found';

ModuleRegistry.registerModules([
  CellStyleModule,
  InfiniteRowModelModule,
  LargeTextEditorModule,
  ColumnApiModule,
  RowApiModule,
  RowStyleModule,
  ScrollApiModule,
  SelectEditorModule,
  TextEditorModule,
  TooltipModule,
]);

const BLOCK = 100;
const GROUP_COLUMN = 'group of the list';
const FOUND_COLUMN = 'why it was found';
/** As many fields as a list may be ordered by. */
const MOST_SORTED = 5;

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

/** The clipboard is meant for a cell that is being typed into. */
const isInEditor = ({ target }: Event): boolean =>
  target instanceof Element && target.closest('input, textarea, select') !== null;

const stateOf = ({ colId, shown, width, pinned }: ColumnPlace): ColumnState => ({
  colId,
  width,
  hide: !shown,
  pinned: pinned ? 'left' : null,
});

/** The words that were looked for, marked in what is said. */
function foundCell(found: WhyFound | null): HTMLElement {
  const cell = document.createElement('span');
  if (!found) return cell;
  const label = cell.appendChild(document.createElement('span'));
  [label.className, label.textContent] = ['muted', `${found.label} `];
  for (const { text, hit } of found.pieces)
    cell.appendChild(document.createElement(hit ? 'mark' : 'span')).textContent = text;
  return cell;
}

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
    (cellEditingStarted)="seen = revision()"
    (cellEditingStopped)="bringUpToDate(assetAt())"
    (viewportChanged)="tellShown()"
    [enterNavigatesVerticallyAfterEdit]="true"
    [stopEditingWhenCellsLoseFocus]="true"
    [suppressClickEdit]="false"
    [processRowPostCreate]="draggable"
  />`,
  styleUrl: './ledger.scss',
  host: { '(paste)': 'paste($event)', '(copy)': 'copy($event)' },
  changeDetection: ChangeDetectionStrategy.OnPush,
})
export class Ledger {
  readonly total = input.required<number>();
  readonly assetAt = input.required<(index: number) => Asset | undefined>();
  /** The list is cut into these; each begins with its heading in a column of its own. */
  readonly groups = input<readonly Group[] | null>(null);
  readonly groupedBy = input('');
  readonly groupLabel = input<(group: Group) => string>(({ label }) => label);
  /** Another list than before has another one. */
  readonly stamp = input.required<number>();
  readonly selected = input.required<ReadonlySet<number>>();
  readonly focus = input.required<number>();
  /** Those are in the list, but not what was searched for. */
  readonly isDim = input<(id: number) => boolean>(() => false);
  /** Everything is in the list, and what was searched for stands out. */
  readonly lifts = input(false);
  /** Why each was found, in a column of its own; null where no words were looked for. */
  readonly matchOf = input<((asset: Asset) => WhyFound | null) | null>(null);
  readonly picked = output<{ index: number; mode: SelectMode }>();
  readonly shown = output<{ start: number; end: number }>();
  readonly sorted = output<SortOrder>();
  /** Cells may be edited in place. */
  readonly editable = input(false);
  /** The library as it is now; an editor is opened on what it was at that moment. */
  readonly revision = input.required<number>();
  /** The same said of one or many: `seen` is the revision at which somebody began to say it. */
  readonly said = output<{
    readonly ids: readonly number[];
    readonly set: FieldChanges;
    readonly label: string;
    readonly seen: number;
  }>();
  /** Something different said of each. */
  readonly pasted = output<{ readonly edits: EditEach['edits']; readonly label: string }>();
  readonly refused = output<string>();

  protected readonly theme = THEME;
  private readonly settings = inject(Settings);
  private readonly fields = inject(Fields);
  private readonly markings = inject(Markings);
  private readonly flags = inject(Flags);
  protected readonly columns = computed(() => {
    const registry = this.fields.registry();
    const edit = this.editable()
      ? (asset: Asset, field: SettableField, text: string) => this.say(asset, field, text)
      : null;
    // Cells are drawn anew when the markings are others.
    this.markings.all();
    const columns = placesAtFirst(registry).map((place) =>
      column(place, registry, edit, {
        marking: (asset) => this.markings.of(asset),
        flagged: (asset) => this.flags.has(asset.id),
      }),
    );
    return [
      ...(this.groups() === null ? [] : [this.groupColumn()]),
      ...columns,
      ...(this.findsWords() ? [this.foundColumn()] : []),
    ];
  });
  private readonly stretches = computed(() => stretchesOf(this.groups() ?? []));
  protected readonly block = BLOCK;
  // Sorting is the server's: the grid only says by what.
  protected readonly defaults: ColDef<Asset> = {
    ...{ sortable: true, resizable: true, comparator: () => 0 },
    // Letters are keys of the application; Enter or a double click opens a cell.
    suppressKeyboardEvent: ({ event, editing }) => !editing && event.key.length === 1 && event.key !== ' ',
  };
  /** Onto a tag. */
  protected readonly draggable = ({ eRow, ePinnedLeftRow }: ProcessRowParams<Asset>): void => {
    for (const half of [eRow, ePinnedLeftRow]) half?.setAttribute('draggable', 'true');
  };
  protected readonly rules = {
    'nl-selected': ({ data }: { data?: Asset | undefined }) => data !== undefined && this.selected().has(data.id),
    'nl-dim': ({ data }: { data?: Asset | undefined }) => data !== undefined && this.isDim()(data.id),
    'nl-lifted': ({ data }: { data?: Asset | undefined }) =>
      data !== undefined && this.lifts() && !this.isDim()(data.id),
    'nl-offline': ({ data }: { data?: Asset | undefined }) => data?.state === 'offline',
    'nl-trouble': ({ data }: { data?: Asset | undefined }) => data?.state === 'missing' || data?.state === 'changed',
  };
  private api: GridApi<Asset> | null = null;
  protected seen = 0;
  private readonly lookup$ = toObservable(this.assetAt);

  /** Only whether there is such a column: it is not laid out anew with each letter that is typed. */
  private readonly findsWords = computed(() => this.matchOf() !== null);

  /** Says why each row was found, with the words marked. */
  private foundColumn(): ColDef<Asset> {
    const found = (asset: Asset | undefined): WhyFound | null => (asset && this.matchOf()?.(asset)) ?? null;
    return {
      ...{ colId: FOUND_COLUMN, headerName: 'Found in', width: 280, pinned: 'right', lockPosition: 'right' },
      ...{ sortable: false, suppressMovable: true },
      valueGetter: ({ data }) => found(data)?.all ?? '',
      cellRenderer: ({ data }: { data?: Asset }) => foundCell(found(data)),
      tooltipValueGetter: ({ value }: { value?: unknown }) => (typeof value === 'string' && value ? value : null),
    };
  }

  /** Says where each group begins; rows beneath it are silent. */
  private groupColumn(): ColDef<Asset> {
    const label = this.groupLabel();
    return {
      ...{ colId: GROUP_COLUMN, headerName: this.groupedBy(), pinned: 'left', lockPosition: 'left', width: 190 },
      ...{ sortable: false, suppressMovable: true, cellClass: 'nl-group' },
      valueGetter: ({ node }) => {
        const place = node?.rowIndex ?? -1;
        const stretch = stretchAt(this.stretches(), place);
        return stretch?.first === place ? `${label(stretch.group)} (${formatCount(stretch.group.count)})` : '';
      },
      tooltipValueGetter: ({ value }: { value?: unknown }) => (typeof value === 'string' && value ? value : null),
    };
  }

  constructor() {
    effect(() => {
      this.stamp();
      this.total();
      untracked(() => this.refresh());
    });
    effect(() => {
      const assetAt = this.assetAt();
      untracked(() => this.bringUpToDate(assetAt));
    });
    effect(() => {
      this.selected();
      this.isDim();
      untracked(() => this.isEditing() || this.api?.redrawRows());
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
    keys.on('ledger.fill', () => this.fillDown());
  }

  /** Shows the rows as they are now; what is being typed is not taken from under the fingers. */
  protected refresh(): void {
    if (!this.isEditing()) this.api?.refreshInfiniteCache();
  }

  /** Rows that say something else by now, and only those: to ask for all of them anew at every change is what scrolling stops for. */
  protected bringUpToDate(assetAt: (index: number) => Asset | undefined): void {
    if (this.isEditing()) return;
    this.api?.forEachNode((node) => {
      const now = node.rowIndex === null ? undefined : assetAt(node.rowIndex);
      if (now && node.data && node.data !== now) node.setData(now);
    });
  }

  /** Tells which rows are on the screen, and the blocks around them: who scrolls on finds rows there instead of gaps. */
  protected tellShown(): void {
    const [first, last] = [this.api?.getFirstDisplayedRowIndex() ?? -1, this.api?.getLastDisplayedRowIndex() ?? -1];
    if (first < 0) return;
    const start = (Math.floor(first / BLOCK) - 1) * BLOCK;
    const end = (Math.floor(last / BLOCK) + 2) * BLOCK;
    this.shown.emit({ start: Math.max(0, start), end: Math.min(end, this.total()) });
  }

  private isEditing(): boolean {
    return (this.api?.getEditingCells().length ?? 0) > 0;
  }

  /** A cell was edited: kept if its field takes it. */
  private say(asset: Asset, field: SettableField, text: string): void {
    try {
      const set = valueOf(field, text, this.fields.registry());
      this.said.emit({ ids: [asset.id], set, label: `${field.label} changed`, seen: this.seen });
    } catch (error) {
      this.refused.emit(`${field.label} was not changed. ${(error as Error).message}`);
    }
  }

  /** Lays what a spreadsheet copied over the cells from the one that has the focus on. */
  protected async paste(event: ClipboardEvent): Promise<void> {
    const cell = this.api?.getFocusedCell();
    if (!this.api || !cell || !this.editable() || isInEditor(event)) return;
    event.preventDefault();
    const cells = readBlock(event.clipboardData?.getData('text/plain') ?? '');
    if (cells.length === 0) return;
    const shown = this.api.getAllDisplayedColumns().map((column) => column.getColId());
    const columns = shown.slice(shown.indexOf(cell.column.getColId()));
    const assets = await this.assetsFrom(cell.rowIndex, cells.length);
    const outcome = blockEdits(cells, assets, columns, this.fields.registry());
    if ('issue' in outcome) return this.refused.emit(`Nothing was pasted. ${outcome.issue}`);
    if (outcome.edits.length === 0) return this.refused.emit('Nothing was pasted: none of these columns is filled in.');
    const over = outcome.passedOver > 0 ? `, ${counted(outcome.passedOver, 'cell')} passed over` : '';
    this.pasted.emit({ edits: outcome.edits, label: `Pasted${over}` });
  }

  /** The text of the cell that has the focus. */
  protected copy(event: ClipboardEvent): void {
    const cell = this.api?.getFocusedCell();
    const node = cell && this.api?.getDisplayedRowAtIndex(cell.rowIndex);
    if (!cell || !node?.data || isInEditor(event)) return;
    const field = this.fields.registry().byId(cell.column.getColId());
    const value = field && valuesOf(node.data)[field.id];
    // Quoted where it must be, so that breaks and tabs do not become cells of their own.
    event.clipboardData?.setData('text/plain', writeBlock([[valueText(value, field?.type)]]));
    event.preventDefault();
  }

  /** Says of all that is selected what the first of it says in the column that has the focus. */
  private fillDown(): boolean {
    const cell = this.api?.getFocusedCell();
    const field = cell && fieldOfColumn(cell.column.getColId(), this.fields.registry());
    const [first, ...others] = this.selected();
    if (!cell || !field || first === undefined || others.length === 0 || !this.editable()) return false;
    const source = this.source(first);
    if (!source) return false;
    const value = valuesOf(source)[field.id] ?? null;
    this.said.emit({
      ids: others,
      set: { [field.id]: value },
      label: `${field.label} filled down`,
      seen: this.revision(),
    });
    return true;
  }

  private source(id: number): Asset | undefined {
    let found: Asset | undefined;
    this.api?.forEachNode(({ data }) => (found = data?.id === id ? data : found));
    return found;
  }

  /** Rows from a place on, fetched if they are not at hand; as many as there are. */
  private async assetsFrom(start: number, count: number): Promise<Asset[]> {
    const end = Math.min(start + count, this.total(), start + MAX_EACH);
    this.shown.emit({ start, end });
    const at = await firstValueFrom(
      this.lookup$.pipe(
        filter((look) => Array.from({ length: end - start }, (_unused, n) => look(start + n)).every(Boolean)),
      ),
    );
    return Array.from({ length: end - start }, (_unused, n) => at(start + n)).filter((asset) => asset !== undefined);
  }

  protected ready({ api }: GridReadyEvent<Asset>): void {
    this.api = api;
    this.arrange();
    api.setGridOption('datasource', { getRows: (params: IGetRowsParams) => void this.rows(params) });
  }

  private arrange(): void {
    this.api?.applyColumnState({
      state: [
        ...(this.groups() === null ? [] : [{ colId: GROUP_COLUMN, pinned: 'left' as const }]),
        ...placesOf(this.settings.columns(), this.fields.registry()).map(stateOf),
        ...(this.findsWords() ? [{ colId: FOUND_COLUMN, pinned: 'right' as const }] : []),
      ],
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
      api
        .getColumnState()
        .filter(({ colId }) => colId !== GROUP_COLUMN && colId !== FOUND_COLUMN)
        .map(({ colId, hide, width, pinned }) => ({
          ...{ colId, shown: !hide },
          ...{ width: width ?? 0, pinned: pinned === 'left' },
        })),
    );
  }

  private async rows({ startRow, endRow, successCallback }: IGetRowsParams): Promise<void> {
    const total = this.total();
    const end = Math.min(endRow, total);
    if (startRow >= end) return successCallback([], total);
    // The grid asks for blocks that it keeps but does not show as well, and for two at a time: none may wait for ever.
    const at = this.assetAt();
    if (at(startRow) === undefined || at(end - 1) === undefined) this.shown.emit({ start: startRow, end });
    this.tellShown();
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
    const [first = { field: 'name', descending: false }, ...then] = api
      .getColumnState()
      .filter(({ sort }) => sort)
      .sort((a, b) => (a.sortIndex ?? 0) - (b.sortIndex ?? 0))
      .slice(0, MOST_SORTED)
      .map(({ colId, sort }): SortBy => ({ field: colId as FieldId, descending: sort === 'desc' }));
    this.sorted.emit(then.length > 0 ? { ...first, then } : first);
  }

  protected press({ event, rowIndex }: CellClickedEvent<Asset>): void {
    const { shiftKey, ctrlKey, metaKey } = (event ?? {}) as Partial<MouseEvent>;
    if (rowIndex !== null && !this.isEditing())
      this.picked.emit({ index: rowIndex, mode: shiftKey ? 'range' : ctrlKey || metaKey ? 'toggle' : 'one' });
  }

  /** Arrow keys move the grid's focus; the selection goes along. A click is told by `press`, after its focus event. */
  protected focused({ rowIndex, sourceEvent }: CellFocusedEvent<Asset>): void {
    if (rowIndex === null || !(sourceEvent instanceof KeyboardEvent)) return;
    this.picked.emit({ index: rowIndex, mode: sourceEvent.shiftKey ? 'range' : 'one' });
  }
}
