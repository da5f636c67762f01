import { ChangeDetectionStrategy, Component, computed, inject, input } from '@angular/core';
import { Router, RouterLink } from '@angular/router';
import { Store } from '@ngrx/store';
import type { FindMissing } from '@larder/contract';
import { front } from '../front-page/state';
import { JobProgress } from '../jobs/job-progress';
import { jobs } from '../jobs/state';
import { Api, type Failure } from '../shared/api';
import { counted } from '../shared/format';
import { mayOffer, sessionFeature } from '../shared/session';
import { Toasts } from '../shared/toasts';
import { storages } from '../storage/state';
import { Fixity } from './fixity';
import { HealthCard } from './health';
import { LookForm } from './look-form';
import { lostIn, scopeWords } from './lost-scope';
import { RelinkPlan } from './relink-plan';
import { TwinsCard } from './twins-card';

/** Missing originals: look for them, weigh what is found, mend many links at once. */
@Component({
  selector: 'nl-upkeep',
  imports: [Fixity, HealthCard, JobProgress, LookForm, RelinkPlan, RouterLink, TwinsCard],
  templateUrl: './upkeep.html',
  styleUrl: './upkeep.scss',
  changeDetection: ChangeDetectionStrategy.OnPush,
})
export class Upkeep {
  /** From the address: the search for missing files whose plan is shown, and what is looked for. */
  readonly report = input<string>();
  readonly of = input<string>();
  readonly id = input<string>();
  readonly named = input<string>();
  readonly folder = input<string>();
  readonly assets = input<string>();
  private readonly store = inject(Store);
  private readonly api = inject(Api);
  private readonly router = inject(Router);
  private readonly toasts = inject(Toasts);
  private readonly person = this.store.selectSignal(sessionFeature.selectPerson);
  private readonly allJobs = this.store.selectSignal(jobs.select);
  protected readonly mayKeep = computed(() => mayOffer(this.person(), 'keep'));
  private readonly status = this.store.selectSignal(front.select);
  protected readonly missing = computed(() => this.status().value?.byState.missing ?? null);
  private readonly changed = computed(() => this.status().value?.byState.changed ?? 0);
  protected readonly nothing = computed(() => this.missing() === 0 && this.changed() === 0);
  private readonly allStorages = this.store.selectSignal(storages.select);
  protected readonly online = computed(() =>
    (this.allStorages().value?.storages ?? []).filter((storage) => storage.state === 'online'),
  );

  protected readonly away = computed(() =>
    (this.allStorages().value?.storages ?? []).filter((storage) => storage.state === 'offline'),
  );

  /** Not while it is not known yet. */
  protected readonly isNoneOnline = computed(() => this.allStorages().value !== null && this.online().length === 0);

  protected readonly lost = computed(() =>
    lostIn({ of: this.of(), id: this.id(), folder: this.folder(), assets: this.assets() }),
  );
  protected readonly scope = computed(() => scopeWords(this.lost(), this.named()));

  protected readonly job = computed(
    () => (this.allJobs().value?.jobs ?? []).find((job) => String(job.id) === this.report()) ?? null,
  );
  /** The plan that is shown; of a search that still runs what the catalogue says. */
  protected readonly planId = computed(() => {
    const id = Number(this.report() ?? 0);
    return Number.isSafeInteger(id) && id > 0 && ['done', 'running'].includes(this.job()?.state ?? 'done') ? id : null;
  });

  protected readonly counted = counted;

  constructor() {
    for (const slice of [front, storages, jobs]) this.store.dispatch(slice.wanted());
  }

  protected checkPresence(): void {
    this.api.call('checkPresence', null).subscribe({
      next: ({ jobs: queued }) => {
        this.store.dispatch(jobs.wanted());
        this.toasts.done(
          queued === 0
            ? 'No storage is there to be looked at.'
            : `${counted(queued, 'storage')} will be looked over; see Jobs. What is new there is left alone.`,
        );
      },
      error: (failure: Failure) => this.toasts.failed(failure.message),
    });
  }

  protected look(asked: FindMissing): void {
    this.api.call('findMissing', asked).subscribe({
      next: ({ job }) => {
        this.store.dispatch(jobs.wanted());
        void this.router.navigate([], { queryParams: { report: job.id }, queryParamsHandling: 'merge' });
      },
      error: (failure: Failure) => this.toasts.failed(failure.message),
    });
  }
}
