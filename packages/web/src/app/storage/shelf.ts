import { CdkVirtualScrollViewport, ScrollingModule } from '@angular/cdk/scrolling';
import { CdkTreeModule } from '@angular/cdk/tree';
import { ChangeDetectionStrategy, Component, computed, effect, inject, input, signal, viewChild } from '@angular/core';
import { Router, RouterLink } from '@angular/router';
import { FormsModule } from '@angular/forms';
import { Store } from '@ngrx/store';
import { SHELF_STATES, type ShelfRow, type ShelfState } from '@larder/core/shelf';
import type { FolderScan, ShelfFolder } from '@larder/contract';
import { Api, type Failure } from '../shared/api';
import { counted, formatBytes, formatCount, formatMoment } from '../shared/format';
import { Icon } from '../shared/icon';
import { SHELF_LABELS, STATE_LABELS } from '../shared/icons';
import { mayOffer, sessionFeature } from '../shared/session';
import { Settings } from '../shared/settings';
import { Toasts } from '../shared/toasts';
import { IngestDialog } from '../ingest/ingest-sheet';
import { Keys } from '../shared/keys';
import { Judge } from './judge';
import { shelfActions, shelfFeature, type TreeLine } from './shelf.state';
import { storages } from './state';

type Counts = ShelfFolder['counts'];

/** The height of a line of the list, as the styles have it. */
const ROW_PX = 36;

/** A storage folder by folder, beside what the library has of it: what is new, catalogued, changed or gone. */
@Component({
  selector: 'nl-shelf',
  imports: [CdkTreeModule, FormsModule, Icon, Judge, RouterLink, ScrollingModule],
  host: { '[class.judging]': 'looked() !== null' },
  templateUrl: './shelf.html',
  styleUrl: './shelf.scss',
  changeDetection: ChangeDetectionStrategy.OnPush,
})
export class ShelfPage {
  /** From the address: the storage, the folder in it, whether all below is listed, and what of it is shown. */
  readonly id = input.required<string>();
  readonly path = input<string>();
  readonly flat = input<string>();
  readonly show = input<string>();
  /** The path of what is being looked at. */
  readonly look = input<string>();

  private readonly store = inject(Store);
  private readonly router = inject(Router);
  private readonly api = inject(Api);
  private readonly toasts = inject(Toasts);
  private readonly settings = inject(Settings);
  private readonly ingest = inject(IngestDialog);
  private readonly viewport = viewChild(CdkVirtualScrollViewport);
  private readonly person = this.store.selectSignal(sessionFeature.selectPerson);
  private readonly allStorages = this.store.selectSignal(storages.select);
  protected readonly state = this.store.selectSignal(shelfFeature.selectShelfState);
  protected readonly lines = this.store.selectSignal(shelfFeature.selectLines);
  protected readonly mayKeep = computed(() => mayOffer(this.person(), 'keep'));
  protected readonly deep = signal(true);
  protected readonly states = SHELF_STATES;
  protected readonly counted = counted;
  protected readonly count = formatCount;
  protected readonly bytes = formatBytes;
  protected readonly moment = formatMoment;

  private readonly storage = computed(() =>
    this.allStorages().value?.storages.find((storage) => String(storage.id) === this.id()),
  );
  protected readonly name = computed(() => this.storage()?.name ?? 'Storage');
  protected readonly onlyState = computed(() => SHELF_STATES.find((state) => state === this.show()) ?? null);
  protected readonly places = computed(() =>
    Array.from({ length: this.state().answer?.total ?? 0 }, (_unused, index) => index),
  );
  protected readonly pinned = computed(() =>
    this.settings
      .pinned()
      .filter((pin) => pin.startsWith(`${this.id()}:`))
      .map((pin) => pin.slice(this.id().length + 1)),
  );
  protected readonly isPinned = computed(() => this.pinned().includes(this.state().path));
  protected readonly wordScan = wordScan;
  protected readonly storageId = computed(() => Number(this.id()));
  protected readonly looked = computed(
    () => Object.values(this.state().rows).find((row) => row.path === this.look()) ?? null,
  );
  protected readonly chosenRows = computed(() => Object.values(this.state().chosen));
  /** What the next ingest would bring in, in words. */
  protected readonly ingestSaid = computed(() => {
    const [rows, folders] = [this.chosenRows().length, this.state().ticked.size];
    if (rows > 0) return `Bring in ${counted(rows, 'thing')} …`;
    return folders > 0 ? `Bring in ${counted(folders, 'folder')} …` : 'Bring in this folder …';
  });
  protected readonly scanSaid = computed(() => {
    const scan = this.state().answer?.scan;
    return scan ? wordScan(scan) : '';
  });

  protected readonly levelOf = ({ level }: TreeLine): number => level;
  protected readonly keyOf = ({ folder }: TreeLine): string => folder.path;
  protected readonly byPath = (_index: number, { folder }: TreeLine): string => folder.path;

  constructor() {
    this.store.dispatch(storages.wanted());
    effect(() => {
      const only = this.onlyState();
      this.store.dispatch(
        shelfActions.opened({
          storageId: Number(this.id()),
          path: this.path() ?? '',
          flat: this.flat() === 'yes',
          only: only ? [only] : [],
        }),
      );
    });
    const keys = inject(Keys);
    keys.on('list.down', () => this.lookFrom(1));
    keys.on('list.up', () => this.lookFrom(-1));
    keys.on('list.choose', () => {
      const row = this.looked();
      return row ? void this.choose(row, this.state().chosen[row.path] === undefined) : false;
    });
    keys.on('escape', () => {
      if (this.chosenRows().length > 0) return void this.store.dispatch(shelfActions.chooseNone());
      return this.look() === undefined ? false : void this.lookAt(null);
    });
    effect((onCleanup) => {
      const seen = this.viewport()?.renderedRangeStream.subscribe(({ start, end }) =>
        this.store.dispatch(shelfActions.windowNeeded({ start, end })),
      );
      onCleanup(() => seen?.unsubscribe());
    });
  }

  protected go(typed: string): void {
    const root = `${this.storage()?.rootPath ?? ''}/`;
    // A path pasted from elsewhere on the server begins with the storage's own.
    const inner = typed.trim().startsWith(root) ? typed.trim().slice(root.length) : typed.trim();
    this.open(inner.replace(/^\/+|\/+$/g, ''), this.state().flat);
  }

  protected open(path: string, flat = false): void {
    this.address({ path: path || null, flat: flat ? 'yes' : null, show: null, look: null });
  }

  protected narrow(show: ShelfState | null): void {
    this.address({ show });
  }

  private address(queryParams: Record<string, string | null>): void {
    void this.router.navigate(['/storage', this.id()], { queryParams, queryParamsHandling: 'merge' });
  }

  /** Where the storage is not mounted nothing on it is online, whatever its state was when it was. */
  protected label(state: ShelfState): (typeof SHELF_LABELS)[ShelfState] {
    return this.state().answer?.mounted === false ? STATE_LABELS.offline : SHELF_LABELS[state];
  }

  protected unfold({ folder }: TreeLine, open: boolean): void {
    if (open === this.state().unfolded.has(folder.path)) return;
    this.store.dispatch(
      open ? shelfActions.unfolded({ path: folder.path }) : shelfActions.folded({ path: folder.path }),
    );
  }

  protected tick({ folder }: TreeLine, on: boolean): void {
    this.store.dispatch(shelfActions.ticked({ path: folder.path, on }));
  }

  protected scan(): void {
    const paths = this.state().ticked.size > 0 ? [...this.state().ticked] : [this.state().path];
    this.store.dispatch(shelfActions.scanAsked({ folders: paths.map((path) => ({ path, deep: this.deep() })) }));
  }

  protected lookAt(row: ShelfRow | null): void {
    this.address({ look: row?.path ?? null });
  }

  /** The keys of player and list go on from the list; a button would take the space bar for itself. */
  protected toList(): void {
    this.viewport()?.elementRef.nativeElement.focus();
  }

  /** The next thing in the list, or the one before; false where there is none, so that the key does something else. */
  private lookFrom(step: number): boolean | void {
    const rows = this.state().rows;
    const place = Object.entries(rows).find(([, row]) => row.path === this.look())?.[0];
    const next = place === undefined ? rows[0] : rows[Number(place) + step];
    if (!next) return false;
    this.lookAt(next);
    const line = this.viewport();
    const index = place === undefined ? 0 : Number(place) + step;
    const first = line ? line.measureScrollOffset() / ROW_PX : 0;
    if (line && (index < first || index >= first + line.getViewportSize() / ROW_PX - 1)) line.scrollToIndex(index);
  }

  protected choose(row: ShelfRow, on: boolean): void {
    this.store.dispatch(shelfActions.chosen({ rows: [row], on }));
  }

  protected async bringIn(): Promise<void> {
    const { ticked, path, flat } = this.state();
    const rows = this.chosenRows();
    const places = rows.length > 0 ? [] : ticked.size > 0 ? [...ticked] : [path];
    const deep = ticked.size > 0 ? this.deep() : flat || this.deep();
    const job = await this.ingest.ask({
      storageId: this.storageId(),
      rows,
      folders: places.map((each) => ({ path: each, deep })),
    });
    if (!job) return;
    this.store.dispatch(shelfActions.chooseNone());
    this.toasts.done('It is being brought in. You can go on working with what is in already.', {
      label: 'See how far it is',
      run: () => void this.router.navigate(['/jobs'], { queryParams: { job: job.id } }),
    });
  }

  protected resume(): void {
    const job = this.state().answer?.scan.jobId;
    if (job === null || job === undefined) return;
    this.api.call('retryJob', null, job).subscribe({
      next: () => this.toasts.done('The scan goes on; what it has catalogued is not read again.'),
      error: (failure: Failure) => this.toasts.failed(failure.message),
    });
  }

  protected copy(): void {
    const whole = [this.storage()?.rootPath ?? '', this.state().path].filter(Boolean).join('/');
    navigator.clipboard.writeText(whole).then(
      () => this.toasts.done(`Copied: ${whole}`),
      () => this.toasts.failed(`The browser does not let the path be copied. It is: ${whole}`),
    );
  }

  protected pin(): void {
    const pin = `${this.id()}:${this.state().path}`;
    this.settings.pinned.update((pins) => (pins.includes(pin) ? pins.filter((each) => each !== pin) : [...pins, pin]));
  }

  protected shown(row: ShelfRow): string {
    return this.state().flat && this.state().path !== ''
      ? row.path.slice(this.state().path.length + 1)
      : this.state().flat
        ? row.path
        : row.name;
  }

  protected queryFor(row: ShelfRow): string {
    return `name:"${row.name.replace(/"/g, '')}" storage:"${this.name()}"`;
  }

  /** What asks for somebody; the number of what is catalogued where nothing does. */
  protected brief({ new: fresh, online, changed, missing }: Counts): string {
    const asks = [
      fresh === null ? '? new' : fresh > 0 ? `${formatCount(fresh)} new` : '',
      changed > 0 ? `${formatCount(changed)} changed` : '',
      missing > 0 ? `${formatCount(missing)} missing` : '',
    ].filter(Boolean);
    return asks.length > 0 ? asks.join(', ') : formatCount(online);
  }

  protected spoken({ new: fresh, online, changed, missing }: Counts): string {
    return [
      fresh === null ? 'too many below to count what is new' : `${formatCount(fresh)} new`,
      `${formatCount(online)} catalogued`,
      `${formatCount(changed)} changed`,
      `${formatCount(missing)} missing`,
    ].join(', ');
  }
}

/** How the last scan of a folder stands, in words. */
export function wordScan({ state, done, total, atMs, by, message }: FolderScan): string {
  const when = atMs === null ? '' : formatMoment(atMs);
  const who = by ? ` by ${by}` : '';
  switch (state) {
    case 'not-scanned':
      return 'Not scanned';
    case 'queued':
      return 'Waiting to be scanned';
    case 'scanning':
      return total === null ? 'Scanning …' : `Scanning: ${formatCount(done)} of ${formatCount(total)}`;
    case 'scanned':
      return `Scanned ${when}${who}${message ? `. ${message}` : ''}`;
    case 'interrupted':
      return `Scan interrupted ${when}`;
    case 'failed':
      return `Scan failed ${when}: ${message ?? ''}`;
    default:
      return state satisfies never;
  }
}
