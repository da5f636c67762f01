import {
  ChangeDetectionStrategy,
  Component,
  computed,
  inject,
  input,
  linkedSignal,
  output,
  resource,
} from '@angular/core';
import { firstValueFrom } from 'rxjs';
import { wordUnusual } from '@larder/core/judge';
import type { ShelfRow } from '@larder/core/shelf';
import type { Inspection } from '@larder/contract';
import { Api, troubleOf } from '../shared/api';
import { counted, formatBytes, formatMoment } from '../shared/format';
import { Icon } from '../shared/icon';
import { KIND_LABELS } from '../shared/icons';
import { ShelfPlayer } from './shelf-player';

/** Everything about one thing on a storage, for deciding whether it comes in: what it shows and says, and what is unusual. */
@Component({
  selector: 'nl-judge',
  imports: [Icon, ShelfPlayer],
  template: `
    <header>
      <h2 class="cut" [title]="row().path">{{ row().name }}</h2>
      <button type="button" class="btn btn-quiet btn-sm" (click)="closed.emit()" aria-label="Close">
        <nl-icon name="close" />
      </button>
    </header>
    @if (facts(); as said) {
      @if (said.reason !== null) {
        <p class="unusual" role="alert"><nl-icon name="unreadable" />It cannot be read. {{ said.reason }}</p>
      } @else {
        <nl-shelf-player [storageId]="storageId()" [facts]="said" />
      }
      <p class="muted small m-0">
        {{ kinds[said.kind].word }}, {{ bytes(said.bytes) }}, {{ moment(said.modifiedMs)
        }}{{ said.files > 1 ? ', ' + counted(said.files, 'file') : '' }}
      </p>
      @for (words of remarks(); track words) {
        <p class="unusual"><nl-icon name="warning" />{{ words }}</p>
      } @empty {
        @if (said.reason === null && said.kind !== 'document') {
          <p class="usual"><nl-icon name="check" />Nothing unusual{{ heard() }}.</p>
        }
      }
      @for (sheet of said.sheets; track sheet.title) {
        <h3>{{ sheet.title }}</h3>
        <dl>
          @for (line of sheet.rows; track $index) {
            <dt class="cut" [title]="line.label">{{ line.label }}</dt>
            <dd>{{ line.value }}</dd>
          }
        </dl>
      }
    } @else if (trouble()) {
      <p class="unusual" role="alert"><nl-icon name="warning" />{{ trouble() }}</p>
      <button type="button" class="btn btn-plain btn-sm" (click)="asked.reload()">Try again</button>
    } @else {
      <p class="muted" role="status">Reading what it says of itself …</p>
    }
  `,
  styleUrl: './judge.scss',
  changeDetection: ChangeDetectionStrategy.OnPush,
})
export class Judge {
  readonly storageId = input.required<number>();
  readonly row = input.required<ShelfRow>();
  readonly closed = output();

  private readonly path = computed(() => this.row().path);
  private readonly api = inject(Api);
  protected readonly asked = resource({
    params: () => ({ id: this.storageId(), path: this.path() }),
    loader: ({ params: { id, path } }) => firstValueFrom(this.api.call('inspect', { path }, id)),
  });
  /** What is read stays until the next is there, unless it is of another file. */
  protected readonly facts = linkedSignal<Inspection | null, Inspection | null>({
    source: () => (this.asked.hasValue() ? this.asked.value() : null),
    computation: (now, before) => now ?? (before?.value?.path === this.path() ? (before?.value ?? null) : null),
  });
  private readonly peaks = resource({
    params: () => ((this.facts()?.channels ?? 0) > 0 ? { id: this.storageId(), path: this.path() } : undefined),
    loader: ({ params: { id, path } }) => firstValueFrom(this.api.call('listen', { path }, id)),
  });
  private readonly heardAll = computed(() => (this.peaks.hasValue() ? this.peaks.value() : null));
  protected readonly remarks = computed(() =>
    [...(this.facts()?.unusual ?? []), ...(this.heardAll()?.unusual ?? [])].map(wordUnusual),
  );
  protected readonly heard = computed(() =>
    (this.facts()?.channels ?? 0) === 0
      ? ''
      : this.heardAll()
        ? `; ${counted(this.facts()?.channels ?? 0, 'channel')} heard`
        : '; the sound is being listened to',
  );
  protected readonly trouble = computed(() => troubleOf(this.asked));
  protected readonly kinds = KIND_LABELS;
  protected readonly bytes = formatBytes;
  protected readonly moment = formatMoment;
  protected readonly counted = counted;
}
