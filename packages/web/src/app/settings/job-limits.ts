import { ChangeDetectionStrategy, Component, computed, inject, resource } from '@angular/core';
import { Store } from '@ngrx/store';
import { firstValueFrom } from 'rxjs';
import type { JobLimits as Limits, JobKind } from '@larder/contract';
import { JOB_WORDS } from '../jobs/jobs';
import { Api, type Failure } from '../shared/api';
import { mayOffer, sessionFeature } from '../shared/session';
import { Toasts } from '../shared/toasts';

/** How many jobs of a kind may run at once, on all machines together. */
@Component({
  selector: 'nl-job-limits',
  template: `
    <div class="card-paper part">
      <h2>Jobs at once</h2>
      <p class="muted small">At most so many of each kind run at the same time, on all machines together.</p>
      @if (limits.hasValue()) {
        <div class="grid">
          @for (limit of limits.value().limits; track limit.kind) {
            <label [for]="'limit-' + limit.kind">{{ words[limit.kind] }}</label>
            <input
              #field
              [id]="'limit-' + limit.kind"
              type="number"
              min="1"
              max="256"
              class="form-control form-control-sm mono"
              [value]="limit.most"
              [disabled]="!mayKeep()"
              (change)="set(limit.kind, +field.value)"
            />
          }
        </div>
      } @else if (limits.error()) {
        <p class="m-0" role="alert">The limits cannot be shown just now.</p>
      }
    </div>
  `,
  styles: `
    .part {
      padding: 14px 18px;
      margin-bottom: 14px;
      max-width: 900px;
    }
    h2 {
      font-size: 1rem;
    }
    .grid {
      display: grid;
      grid-template-columns: repeat(2, minmax(0, 1fr) 76px);
      gap: 6px 14px;
      align-items: center;
    }
  `,
  changeDetection: ChangeDetectionStrategy.OnPush,
})
export class JobLimits {
  private readonly api = inject(Api);
  private readonly toasts = inject(Toasts);
  private readonly person = inject(Store).selectSignal(sessionFeature.selectPerson);
  protected readonly mayKeep = computed(() => mayOffer(this.person(), 'keep'));
  protected readonly words = JOB_WORDS;
  protected readonly limits = resource({ loader: () => firstValueFrom(this.api.call('jobLimits', null)) });

  protected set(kind: JobKind, most: number): void {
    const limits: Limits['limits'] = [{ kind, most }];
    if (!Number.isInteger(most) || most < 1 || most > 256) {
      this.toasts.failed('A limit is a whole number from 1 to 256.');
      return void this.limits.reload();
    }
    this.api.call('setJobLimits', { limits }).subscribe({
      next: (now) => {
        this.limits.set(now);
        this.toasts.done(`${JOB_WORDS[kind]}: ${most} at once.`);
      },
      error: (failure: Failure) => this.toasts.failed(failure.message),
    });
  }
}
