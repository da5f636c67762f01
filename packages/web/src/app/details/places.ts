import { ChangeDetectionStrategy, Component, computed, inject, input, resource, signal } from '@angular/core';
import { RouterLink } from '@angular/router';
import { firstValueFrom } from 'rxjs';
import { FILE_PATHS, type Asset, type FixityOutcome } from '@larder/contract';
import { Api, type Failure } from '../shared/api';
import { formatMoment } from '../shared/format';
import { Icon } from '../shared/icon';
import { STATE_LABELS } from '../shared/icons';
import { Toasts } from '../shared/toasts';

export const FIXITY_WORDS: Readonly<Record<FixityOutcome, string>> = {
  first: 'Hashed for the first time',
  same: 'The same, byte for byte',
  changed: 'Changed',
  missing: 'Missing',
  unreadable: 'Could not be read',
};

/** Where an asset is: its bins, the other places of its file, its mezzanine, and whether its bytes are as they were. */
@Component({
  selector: 'nl-places',
  imports: [Icon, RouterLink],
  template: `
    @if (asset().bins.length > 0) {
      <h3>Bins</h3>
      @for (bin of asset().bins; track bin) {
        <a class="cut" routerLink="/bins" [queryParams]="{ in: bin }" [title]="bin"
          ><nl-icon name="folder" />{{ bin }}</a
        >
      }
    }
    @if (asset().otherLocations > 0) {
      <h3>Also at</h3>
      @if (others.hasValue()) {
        @for (place of others.value().locations; track $index) {
          <span class="cut small" [title]="place.storage + '/' + place.path">
            <nl-icon [name]="states[place.state].icon" />{{ states[place.state].word }}: {{ place.storage }}/{{
              place.path
            }}
          </span>
        }
      }
    }
    @if (hasMezzanine()) {
      <h3>Mezzanine</h3>
      <a [href]="mezzanine()" download><nl-icon name="download" />Edit-ready copy</a>
    }
    <h3>
      <button type="button" class="btn btn-quiet btn-sm" [attr.aria-expanded]="open()" (click)="open.set(!open())">
        <nl-icon [name]="open() ? 'up' : 'down'" />Fixity
      </button>
    </h3>
    @if (open()) {
      @if (checks.hasValue()) {
        @for (check of checks.value().checks; track check.atMs) {
          <p class="small" [class.bad]="check.outcome !== 'same' && check.outcome !== 'first'">
            <span class="muted">{{ moment(check.atMs) }}{{ check.by ? ', ' + check.by : '' }}</span
            ><br />{{ words[check.outcome] }}
            @if (check.xxh64) {
              <span class="mono muted" title="xxHash64">{{ check.xxh64 }}</span>
            }
          </p>
        } @empty {
          <p class="muted small">Its bytes have not been looked at yet.</p>
        }
      } @else if (checks.error()) {
        <p class="muted small">The checks cannot be shown just now.</p>
      }
      @if (mayKeep()) {
        <button type="button" class="btn btn-plain btn-sm" (click)="verify()">Check its bytes now</button>
      }
    }
  `,
  styles: `
    :host {
      display: grid;
      gap: 3px;
    }
    h3 {
      margin: 8px 0 0;
      font-size: 0.875rem;
    }
    h3 .btn {
      padding-left: 0;
      font-weight: inherit;
    }
    p {
      margin: 0;
      overflow-wrap: anywhere;
    }
    a,
    span.cut {
      display: block;
    }
    nl-icon {
      margin-right: 5px;
    }
    .bad {
      color: var(--nl-bad);
    }
    .btn {
      justify-self: start;
    }
  `,
  changeDetection: ChangeDetectionStrategy.OnPush,
})
export class Places {
  readonly asset = input.required<Asset>();
  readonly mayKeep = input.required<boolean>();
  /** Goes up with everything that happens in the library. */
  readonly revision = input.required<number>();
  private readonly api = inject(Api);
  private readonly toasts = inject(Toasts);
  protected readonly open = signal(false);
  protected readonly states = STATE_LABELS;
  protected readonly words = FIXITY_WORDS;
  protected readonly moment = formatMoment;
  private readonly id = computed(() => this.asset().id);
  protected readonly hasMezzanine = computed(() => this.asset().renditions.includes('mezzanine'));
  protected readonly mezzanine = computed(() => FILE_PATHS.rendition(this.id(), 'mezzanine'));
  protected readonly others = resource({
    params: () => (this.asset().otherLocations > 0 ? { id: this.id(), revision: this.revision() } : undefined),
    loader: ({ params: { id } }) => firstValueFrom(this.api.call('locations', null, id)),
  });
  protected readonly checks = resource({
    params: () => (this.open() ? { id: this.id(), revision: this.revision() } : undefined),
    loader: ({ params: { id } }) => firstValueFrom(this.api.call('fixityOf', null, id)),
  });

  protected verify(): void {
    this.api.call('verify', { assetIds: [this.id()] }).subscribe({
      next: ({ job }) => {
        this.toasts.done('Every byte of it is being read.');
        void this.follow(job.id);
      },
      error: (failure: Failure) => this.toasts.failed(failure.message),
    });
  }

  /** A check that finds nothing writes nothing that windows are told of; so this one asks until the job is through. */
  private async follow(jobId: number): Promise<void> {
    const over = async () => {
      const { jobs } = await firstValueFrom(this.api.call('jobs', null));
      return !jobs.some(({ id, state }) => id === jobId && ['queued', 'running'].includes(state));
    };
    while (!(await over().catch(() => true))) await new Promise((resolve) => setTimeout(resolve, 500));
    this.checks.reload();
  }
}
