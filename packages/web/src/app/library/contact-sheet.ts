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
  output,
  signal,
  untracked,
  viewChild,
} from '@angular/core';
import type { Asset } from '@larder/contract';
import { Keys } from '../shared/keys';
import { allowDrop, dragAssets, droppedTag } from '../tags/drag';
import type { SelectMode } from './state/library.actions';
import { Tile } from './tile';

const GAP = 10;
/** Height of a tile below its picture. */
const CAPTION = 62;
const EDGE = 16;

/** Thumbnails in rows, only those on the screen drawn; the same speed with a hundred thousand. */
@Component({
  selector: 'nl-contact-sheet',
  imports: [ScrollingModule, Tile],
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
        *cdkVirtualFor="let row of rows()"
        class="row"
        role="presentation"
        [style.height.px]="rowHeight()"
        [style.grid-template-columns]="'repeat(' + columns() + ', minmax(0, 1fr))'"
      >
        @for (index of placesOf(row); track index) {
          @if (assetAt()(index); as asset) {
            <nl-tile
              [asset]="asset"
              [selected]="selected().has(asset.id)"
              [focused]="focus() === index"
              (click)="press($event, index)"
              (opened)="opened.emit(asset)"
              draggable="true"
              (dragstart)="drag($event, asset)"
              (dragover)="allow($event)"
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

  private readonly viewport = viewChild.required(CdkVirtualScrollViewport);
  private readonly width = signal(900);
  protected readonly columns = computed(() =>
    Math.max(1, Math.floor((this.width() - EDGE * 2 + GAP) / (this.thumb() + GAP))),
  );
  private readonly tileWidth = computed(() => (this.width() - EDGE * 2 - GAP * (this.columns() - 1)) / this.columns());
  protected readonly rowHeight = computed(() => Math.round(((this.tileWidth() - 12) * 9) / 16) + CAPTION + GAP);
  protected readonly rows = computed(() =>
    Array.from({ length: Math.ceil(this.total() / this.columns()) }, (_unused, row) => row),
  );

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
      const columns = this.columns();
      const total = this.total();
      const seen = this.viewport().renderedRangeStream.subscribe(({ start, end }) =>
        this.shown.emit({ start: start * columns, end: Math.min(total, Math.max(end, 1) * columns) }),
      );
      onCleanup(() => seen.unsubscribe());
    });
    effect(() => {
      const focus = this.focus();
      if (focus >= 0) untracked(() => this.reveal(focus));
    });

    const keys = inject(Keys);
    keys.on('list.right', (event) => this.move(1, event));
    keys.on('list.left', (event) => this.move(-1, event));
    keys.on('list.down', (event) => this.move(this.columns(), event));
    keys.on('list.up', (event) => this.move(-this.columns(), event));
    keys.on('list.extend-down', (event) => this.move(this.columns(), event));
    keys.on('list.extend-up', (event) => this.move(-this.columns(), event));
  }

  protected placesOf(row: number): number[] {
    const first = row * this.columns();
    return Array.from({ length: Math.min(this.columns(), this.total() - first) }, (_unused, column) => first + column);
  }

  protected drag(event: DragEvent, { id }: Asset): void {
    dragAssets(event, this.selected().has(id) ? [...this.selected()] : [id]);
  }

  protected allow(event: DragEvent): void {
    allowDrop(event, 'tag');
  }

  protected drop(event: DragEvent, asset: Asset): void {
    event.preventDefault();
    const name = droppedTag(event);
    if (name) this.tagged.emit({ name, asset });
  }

  protected press(event: MouseEvent, index: number): void {
    event.stopPropagation();
    this.picked.emit({ index, mode: event.shiftKey ? 'range' : event.ctrlKey || event.metaKey ? 'toggle' : 'one' });
  }

  protected background(event: MouseEvent): void {
    if (!(event.target as Element).closest('nl-tile')) this.cleared.emit();
  }

  private move(by: number, event: KeyboardEvent): boolean {
    if (this.total() === 0) return false;
    const target = this.focus() < 0 ? 0 : Math.min(this.total() - 1, Math.max(0, this.focus() + by));
    this.picked.emit({ index: target, mode: event.shiftKey ? 'range' : 'one' });
    return true;
  }

  /** Scrolls no further than is needed to see the place. */
  private reveal(index: number): void {
    const viewport = this.viewport();
    const top = Math.floor(index / this.columns()) * this.rowHeight();
    const [offset, size] = [viewport.measureScrollOffset(), viewport.getViewportSize()];
    if (top < offset) viewport.scrollToOffset(top);
    else if (top + this.rowHeight() > offset + size) viewport.scrollToOffset(top + this.rowHeight() - size);
  }
}
