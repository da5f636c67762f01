import { ChangeDetectionStrategy, Component, computed, inject, input, output } from '@angular/core';
import { NgbTooltip } from '@ng-bootstrap/ng-bootstrap';
import type { Asset } from '@larder/contract';
import { Flags } from '../shared/flags';
import { callOf, durationOf } from '../shared/format';
import { Icon } from '../shared/icon';
import { KIND_LABELS, VERDICT_LABELS } from '../shared/icons';
import { MarkedAs } from '../shared/marked-as';
import { StateBadge } from '../shared/state-badge';
import { Thumb } from '../shared/thumb';
import type { WhyFound } from './why-found';

/** One field beneath a picture. */
export interface TileLine {
  readonly id: string;
  readonly label: string;
  readonly text: string;
}

/** One asset of the contact sheet. */
@Component({
  selector: 'nl-tile',
  imports: [Icon, MarkedAs, NgbTooltip, StateBadge, Thumb],
  template: `
    <nl-thumb [asset]="asset()" />
    <div class="marked"><nl-marked [asset]="asset()" /></div>
    <div class="over">
      <nl-state [asset]="asset()" />
      @if (flagged()) {
        <span class="verdict flag" title="Flagged by you"><nl-icon name="flag" />Flag</span>
      }
      @if (verdict(); as label) {
        <span class="verdict"><nl-icon [name]="label.icon" />{{ label.word }}</span>
      }
    </div>
    <div class="name cut" dir="auto" [ngbTooltip]="tip()" container="body" [openDelay]="500">{{ call() }}</div>
    <div class="facts">
      <span class="kind"
        ><nl-icon [name]="asset().parentId === null ? kind().icon : 'cut'" />{{
          asset().parentId === null ? kind().word : 'Subclip'
        }}</span
      >
      @if (asset().tags.length > 0) {
        <span class="cut tags">{{ asset().tags.join(', ') }}</span>
      }
      <span class="mono length">{{ duration() }}</span>
    </div>
    @if (match(); as found) {
      <div class="line cut match" [title]="found.all">
        <span class="unsaid">{{ found.label }}</span>&ngsp;<span dir="auto">
          @for (piece of found.pieces; track $index) {
            @if (piece.hit) {
              <mark>{{ piece.text }}</mark>
            } @else {
              <span>{{ piece.text }}</span>
            }
          }
        </span>
      </div>
    }
    @for (line of lines(); track line.id) {
      <div class="line cut" [title]="line.label + ': ' + (line.text || 'nothing said')">
        @if (line.text) {
          <span dir="auto">{{ line.text }}</span>
        } @else {
          <span class="unsaid">no {{ line.label.toLowerCase() }}</span>
        }
      </div>
    }
  `,
  styleUrl: './tile.scss',
  host: {
    role: 'option',
    '[class.selected]': 'selected()',
    '[class.focused]': 'focused()',
    '[class.dim]': 'dim()',
    '[attr.aria-selected]': 'selected()',
    '[attr.aria-label]': 'spoken()',
    '[attr.data-id]': 'asset().id',
    '(dblclick)': 'opened.emit()',
  },
  changeDetection: ChangeDetectionStrategy.OnPush,
})
export class Tile {
  readonly asset = input.required<Asset>();
  readonly selected = input(false);
  readonly focused = input(false);
  /** It is in the list, but not what was searched for. */
  readonly dim = input(false);
  /** What it says in the fields that were chosen to be shown beneath it. */
  readonly lines = input<readonly TileLine[]>([]);
  /** Null where no words were looked for. */
  readonly match = input<WhyFound | null>(null);
  readonly opened = output();
  private readonly flags = inject(Flags);
  protected readonly flagged = computed(() => this.flags.has(this.asset().id));
  protected readonly call = computed(() => callOf(this.asset()));
  protected readonly tip = computed(() =>
    this.asset().title ? `${this.asset().title} — ${this.asset().name}` : this.asset().name,
  );
  protected readonly kind = computed(() => KIND_LABELS[this.asset().kind]);
  protected readonly verdict = computed(() =>
    this.asset().verdict ? VERDICT_LABELS[this.asset().verdict as 'hold'] : null,
  );
  protected readonly duration = computed(() => durationOf(this.asset()));
  protected readonly spoken = computed(() =>
    [
      this.call(),
      this.kind().word,
      this.duration(),
      this.verdict()?.word,
      this.flagged() ? 'flagged' : null,
      this.dim() ? 'not what was searched for' : null,
      this.asset().state === 'online' ? null : this.asset().state,
    ]
      .filter(Boolean)
      .join(', '),
  );
}
