import { ChangeDetectionStrategy, Component, effect, inject, input, output, signal } from '@angular/core';
import type { Asset } from '@larder/contract';
import { Api, type Failure } from '../shared/api';
import { callOf, counted } from '../shared/format';
import { Icon } from '../shared/icon';
import { Thumb } from '../shared/thumb';

const SHOWN = 8;

/** What was picked on a map or a calendar: the first of it, and going on with all of it. */
@Component({
  selector: 'nl-picked-strip',
  imports: [Icon, Thumb],
  template: `
    <div class="about">
      <strong class="cut" dir="auto" [title]="title()">{{ title() }}</strong>
      <span class="muted cut" [title]="note()">{{ note() }}</span>
      <span class="acts">
        <button type="button" class="btn btn-primary btn-sm" (click)="narrowed.emit()">
          <nl-icon name="sheet" />Show {{ counted(found() ?? count(), 'asset') }}
        </button>
        <button type="button" class="btn btn-plain btn-sm" (click)="all()">Select all</button>
        <button type="button" class="btn btn-plain btn-sm" (click)="closed.emit()" aria-label="Close">
          <nl-icon name="close" />
        </button>
      </span>
    </div>
    @if (failure(); as words) {
      <p role="alert">{{ words }}</p>
    }
    <div class="row">
      @for (asset of assets(); track asset.id) {
        <button type="button" class="one" [title]="call(asset)" (click)="selected.emit([asset.id])">
          <nl-thumb [asset]="asset" />
          <span class="cut" dir="auto">{{ call(asset) }}</span>
        </button>
      }
    </div>
  `,
  styles: `
    :host {
      display: block;
      padding: 8px 16px 10px;
      border-top: 1px solid var(--nl-line);
      background: var(--nl-card);
    }
    .about {
      display: flex;
      align-items: center;
      gap: 10px;
      margin-bottom: 8px;
      min-width: 0;
    }
    .about strong {
      font-family: var(--nl-serif);
    }
    .acts {
      flex: none;
      display: flex;
      gap: 6px;
      margin-left: auto;
    }
    .row {
      display: grid;
      grid-template-columns: repeat(8, minmax(0, 1fr));
      gap: 8px;
    }
    .one {
      min-width: 0;
      padding: 0;
      border: 0;
      background: none;
      color: var(--nl-ink);
      text-align: left;
      font-size: 0.78rem;
    }
    .one .cut {
      display: block;
    }
  `,
  changeDetection: ChangeDetectionStrategy.OnPush,
})
export class PickedStrip {
  readonly title = input.required<string>();
  readonly note = input('');
  /** The search that finds it. */
  readonly query = input.required<string>();
  readonly count = input.required<number>();
  readonly narrowed = output();
  readonly selected = output<readonly number[]>();
  readonly closed = output();
  private readonly api = inject(Api);
  protected readonly assets = signal<readonly Asset[]>([]);
  /** As the search finds it: around a spot may lie more than was gathered in it. */
  protected readonly found = signal<number | null>(null);
  protected readonly failure = signal<string | null>(null);
  protected readonly call = callOf;
  protected readonly counted = counted;

  constructor() {
    effect((onCleanup) => {
      const asked = this.api.call('search', { query: this.query(), limit: SHOWN }).subscribe({
        next: ({ assets, found }) => {
          this.assets.set(assets);
          this.found.set(found);
          this.failure.set(null);
        },
        error: ({ message }: Failure) => this.failure.set(message),
      });
      onCleanup(() => asked.unsubscribe());
    });
  }

  protected all(): void {
    this.api.call('searchIds', { query: this.query() }).subscribe({
      next: ({ ids }) => this.selected.emit(ids),
      error: ({ message }: Failure) => this.failure.set(message),
    });
  }
}
