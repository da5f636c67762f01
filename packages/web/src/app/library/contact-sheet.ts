import { CdkVirtualScrollViewport, ScrollingModule } from '@angular/cdk/scrolling';
import {
  ChangeDetectionStrategy,
  Component,
  computed,
  DestroyRef,
  effect,
  ElementRef,
  inject,
  input,
  linkedSignal,
  output,
  signal,
  untracked,
  viewChild,
} from '@angular/core';
import type { Group } from '@larder/core/search';
import type { Asset } from '@larder/contract';
import { Keys } from '../shared/keys';
import { allowDrop, dragAssets, droppedAssets, droppedTag } from '../tags/drag';
import type { SelectMode } from './state/library.actions';
import { Rows, stretchesOf, type SheetRow } from './arrangement';
import { GroupHeading } from './group-heading';
import { Tile, type TileLine } from './tile';
import type { WhyFound } from './why-found';

const GAP = 10;
/** Height of a tile below its picture, and of each further line there. */
const CAPTION = 62;
const LINE = 18;
const EDGE = 16;

/** Thumbnails in rows, only those on the screen drawn; the same speed with a hundred thousand. */
@Component({
  selector: 'nl-contact-sheet',
  imports: [GroupHeading, ScrollingModule, Tile],
  template: `
    <cdk-virtual-scroll-viewport
      [itemSize]="rowHeight()"
      [minBufferPx]="rowHeight()"
      [maxBufferPx]="rowHeight() * 2"
      role="listbox"
      aria-multiselectable="true"
      aria-label="Assets"
      tabindex="0"
      (click)="background($event)"
    >
      <div
        *cdkVirtualFor="let row of rows().all; trackBy: byIndex"
        class="row"
        role="presentation"
        [style.height.px]="rowHeight()"
        [style.grid-template-columns]="'repeat(' + columns() + ', minmax(0, 1fr))'"
      >
        @for (number of row.headings; track number) {
          @if (stretches()[number]; as stretch) {
            <nl-group-heading
              [label]="groupLabel()(stretch.group)"
              [field]="groupedBy()"
              [count]="stretch.group.count"
              [folded]="folded().has(stretch.group.label)"
              [narrows]="stretch.group.test !== null"
              (toggled)="fold(stretch.group.label)"
              (chosen)="placesPicked.emit({ first: stretch.first, count: stretch.group.count })"
              (narrowed)="narrowed.emit(stretch.group)"
            />
          }
        }
        @for (index of placesOf(row); track index) {
          @if (assetAt()(index); as asset) {
            <nl-tile
              [asset]="asset"
              [lines]="linesOf()(asset)"
              [match]="matchOf()?.(asset) ?? null"
              [selected]="selected().has(asset.id)"
              [focused]="focus() === index"
              [dim]="isDim()(asset.id)"
              [class.before]="before() === asset.id"
              (click)="press($event, index)"
              (opened)="opened.emit(asset)"
              draggable="true"
              (dragstart)="drag($event, asset)"
              (dragover)="allow($event, asset)"
              (dragleave)="before.set(null)"
              (drop)="drop($event, asset)"
            />
          } @else {
            <div class="blank" aria-hidden="true"></div>
          }
        }
      </div>
    </cdk-virtual-scroll-viewport>
  `,
  styles: `
    :host {
      display: block;
      height: 100%;
      min-height: 0;
    }
    cdk-virtual-scroll-viewport {
      height: 100%;
      outline-offset: -2px;
    }
    .row {
      display: grid;
      gap: 10px;
      padding: 0 16px 10px;
      box-sizing: border-box;
    }
    nl-tile.before::before {
      content: '';
      position: absolute;
      inset: 0 auto 0 -7px;
      width: 3px;
      border-radius: 2px;
      background: var(--nl-accent);
    }
    .blank {
      border-radius: 4px;
      background: var(--nl-sunk);
      height: 100%;
    }
  `,
  changeDetection: ChangeDetectionStrategy.OnPush,
})
export class ContactSheet {
  readonly total = input.required<number>();
  readonly assetAt = input.required<(index: number) => Asset | undefined>();
  readonly selected = input.required<ReadonlySet<number>>();
  readonly focus = input.required<number>();
  readonly thumb = input.required<number>();
  readonly picked = output<{ index: number; mode: SelectMode }>();
  readonly cleared = output();
  readonly opened = output<Asset>();
  readonly shown = output<{ start: number; end: number }>();
  readonly tagged = output<{ name: string; asset: Asset }>();
  /** The list is cut into these; null if it is not. */
  readonly groups = input<readonly Group[] | null>(null);
  readonly groupedBy = input('');
  readonly groupLabel = input<(group: Group) => string>(({ label }) => label);
  readonly lines = input(0);
  readonly linesOf = input<(asset: Asset) => readonly TileLine[]>(() => []);
  /** Why each was found, on a line of its own; null where no words were looked for. */
  readonly matchOf = input<((asset: Asset) => WhyFound | null) | null>(null);
  /** Those are in the list, but not what was searched for. */
  readonly isDim = input<(id: number) => boolean>(() => false);
  /** Assets may be put into another order. */
  readonly orderable = input(false);
  readonly placesPicked = output<{ first: number; count: number }>();
  readonly narrowed = output<Group>();
  /** Those are to stand before another. */
  readonly moved = output<{ ids: readonly number[]; before: number }>();

  private readonly viewport = viewChild.required(CdkVirtualScrollViewport);
  private readonly width = signal(900);
  protected readonly columns = computed(() =>
    Math.max(1, Math.floor((this.width() - EDGE * 2 + GAP) / (this.thumb() + GAP))),
  );
  private readonly tileWidth = computed(() => (this.width() - EDGE * 2 - GAP * (this.columns() - 1)) / this.columns());
  protected readonly rowHeight = computed(
    () =>
      Math.round(((this.tileWidth() - 12) * 9) / 16) + CAPTION + LINE * (this.lines() + (this.matchOf() ? 1 : 0)) + GAP,
  );
  protected readonly stretches = computed(() => stretchesOf(this.groups() ?? []));
  /** Labels of groups that are folded away. */
  protected readonly folded = linkedSignal<string, ReadonlySet<string>>({
    source: this.groupedBy,
    computation: () => new Set(),
  });
  protected readonly rows = computed(() =>
    this.groups() === null
      ? Rows.plain(this.total(), this.columns())
      : Rows.grouped(this.stretches(), this.columns(), ({ label }) => this.folded().has(label)),
  );
  /** What is being dragged would be put before it. */
  protected readonly before = signal<number | null>(null);

  constructor() {
    const host = inject<ElementRef<HTMLElement>>(ElementRef).nativeElement;
    const observer = new ResizeObserver(() => {
      // Without the scroll bar's width the last column would lie under it.
      this.width.set(this.viewport().elementRef.nativeElement.clientWidth || host.clientWidth);
      this.viewport().checkViewportSize();
    });
    observer.observe(host);
    inject(DestroyRef).onDestroy(() => observer.disconnect());

    effect((onCleanup) => {
      const rows = this.rows();
      const seen = this.viewport().renderedRangeStream.subscribe(({ start, end }) =>
        this.shown.emit(rows.placesIn(start, end)),
      );
      onCleanup(() => seen.unsubscribe());
    });
    effect(() => {
      const focus = this.focus();
      if (focus >= 0) untracked(() => this.reveal(focus));
    });

    const keys = inject(Keys);
    keys.on('list.right', (event) => this.move(event, (place) => this.rows().beside(place, 1)));
    keys.on('list.left', (event) => this.move(event, (place) => this.rows().beside(place, -1)));
    for (const command of ['list.down', 'list.extend-down'] as const)
      keys.on(command, (event) => this.move(event, (place) => this.rows().across(place, 1)));
    for (const command of ['list.up', 'list.extend-up'] as const)
      keys.on(command, (event) => this.move(event, (place) => this.rows().across(place, -1)));
  }

  /** A row keeps its pictures when the list is laid out anew around it. */
  protected readonly byIndex = (index: number): number => index;

  protected placesOf({ from, count }: SheetRow): number[] {
    return Array.from({ length: count }, (_unused, column) => from + column);
  }

  protected fold(label: string): void {
    this.folded.update((folded) => {
      const now = new Set(folded);
      if (!now.delete(label)) now.add(label);
      return now;
    });
  }

  protected drag(event: DragEvent, { id }: Asset): void {
    dragAssets(event, this.selected().has(id) ? [...this.selected()] : [id]);
  }

  protected allow(event: DragEvent, { id }: Asset): void {
    if (!allowDrop(event, 'tag') && this.orderable() && allowDrop(event, 'assets')) this.before.set(id);
  }

  protected drop(event: DragEvent, asset: Asset): void {
    event.preventDefault();
    const name = droppedTag(event);
    if (name) this.tagged.emit({ name, asset });
    const ids = this.before() === null ? [] : droppedAssets(event);
    this.before.set(null);
    if (ids.length > 0) this.moved.emit({ ids, before: asset.id });
  }

  protected press(event: MouseEvent, index: number): void {
    event.stopPropagation();
    this.picked.emit({ index, mode: event.shiftKey ? 'range' : event.ctrlKey || event.metaKey ? 'toggle' : 'one' });
  }

  protected background(event: MouseEvent): void {
    if (!(event.target as Element).closest('nl-tile, nl-group-heading')) this.cleared.emit();
  }

  private move(event: KeyboardEvent, to: (place: number) => number): boolean {
    if (this.total() === 0) return false;
    const index = this.focus() < 0 ? (this.rows().all.find(({ count }) => count > 0)?.from ?? 0) : to(this.focus());
    this.picked.emit({ index, mode: event.shiftKey ? 'range' : 'one' });
    return true;
  }

  /** Scrolls no further than is needed to see the place. */
  private reveal(index: number): void {
    const viewport = this.viewport();
    const row = this.rows().rowOf(index);
    if (row < 0) return;
    const top = row * this.rowHeight();
    const [offset, size] = [viewport.measureScrollOffset(), viewport.getViewportSize()];
    if (top < offset) viewport.scrollToOffset(top);
    else if (top + this.rowHeight() > offset + size) viewport.scrollToOffset(top + this.rowHeight() - size);
  }
}
