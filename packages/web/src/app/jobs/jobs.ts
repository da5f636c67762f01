import { ChangeDetectionStrategy, Component, computed, inject, input, resource, signal } from '@angular/core';
import { Router, RouterLink } from '@angular/router';
import { Store } from '@ngrx/store';
import { firstValueFrom, type Observable } from 'rxjs';
import { FILE_PATHS, JOB_STATES, type IngestState, type Job, type JobKind, type JobState } from '@larder/contract';
import { Api, type Failure } from '../shared/api';
import { counted, formatBytes, formatCount, formatMoment } from '../shared/format';
import { Icon } from '../shared/icon';
import { NothingFits, quick, QuickBox } from '../shared/quick-box';
import { mayOffer, sessionFeature } from '../shared/session';
import { Toasts } from '../shared/toasts';
import { JobProgress } from './job-progress';
import { jobs } from './state';

export const JOB_WORDS: Readonly<Record<JobKind, string>> = {
  scan: 'Scan',
  presence: 'Presence check',
  ingest: 'Ingest',
  poster: 'Poster',
  renditions: 'Proxy, filmstrip, sound',
  mezzanine: 'Mezzanine',
  compare: 'Compare pictures and sound',
  verify: 'Fixity check',
  'find-missing': 'Look for missing files',
  mend: 'Mend links',
  restore: 'Fetch from the archive',
  table: 'Read a table',
  sidecars: 'XMP sidecars',
  recognise: 'Speech recognition',
};
const STATE_WORDS: Readonly<Record<JobState, string>> = {
  running: 'Running',
  queued: 'Waiting',
  paused: 'Paused',
  failed: 'Failed',
  cancelled: 'Cancelled',
  done: 'Done',
};
const ITEM_WORDS: Readonly<Record<IngestState, string>> = {
  failed: 'failed',
  working: 'being brought in',
  skipped: 'skipped',
  waiting: 'waiting',
  done: 'in',
};

type Deed = 'cancelJob' | 'retryJob' | 'pauseJob' | 'resumeJob';

/** Everything that works in the background: how far it is, and what went wrong. */
@Component({
  selector: 'nl-jobs',
  imports: [Icon, JobProgress, NothingFits, QuickBox, RouterLink],
  templateUrl: './jobs.html',
  styleUrl: './jobs.scss',
  changeDetection: ChangeDetectionStrategy.OnPush,
})
export class Jobs {
  /** From the address: the job that is looked into. */
  readonly job = input<string>();
  private readonly store = inject(Store);
  private readonly api = inject(Api);
  private readonly router = inject(Router);
  private readonly toasts = inject(Toasts);
  protected readonly state = this.store.selectSignal(jobs.select);
  private readonly person = this.store.selectSignal(sessionFeature.selectPerson);
  protected readonly mayKeep = computed(() => mayOffer(this.person(), 'keep'));
  protected readonly exported = FILE_PATHS.exported;
  protected readonly states: readonly JobState[] = ['running', 'queued', 'paused', 'failed', 'cancelled', 'done'];
  protected readonly itemStates: readonly IngestState[] = ['failed', 'working', 'skipped', 'waiting', 'done'];
  protected readonly words = STATE_WORDS;
  protected readonly itemWords = ITEM_WORDS;
  protected readonly kinds = JOB_WORDS;
  protected readonly count = formatCount;
  protected readonly bytes = formatBytes;
  protected readonly counted = counted;
  protected readonly shown = signal<JobState | null>(null);
  protected readonly quick = quick();
  private readonly all = computed(() => this.state().value?.jobs ?? []);
  protected readonly ofState = computed(() =>
    this.all().filter(({ state }) => this.shown() === null || state === this.shown()),
  );
  protected readonly rows = computed(() =>
    this.ofState().filter((job) => this.quick.fits()(JOB_WORDS[job.kind], job.subject, job.message)),
  );
  protected readonly tally = computed(
    () =>
      Object.fromEntries(
        JOB_STATES.map((state) => [state, this.all().filter((job) => job.state === state).length]),
      ) as Record<JobState, number>,
  );
  protected readonly opened = computed(() => Number(this.job() ?? 0));
  private readonly openedJob = computed(() => this.all().find(({ id }) => id === this.opened()));
  protected readonly report = resource({
    params: () => {
      const job = this.openedJob();
      return job?.kind === 'ingest' ? { id: job.id, done: job.done, state: job.state } : undefined;
    },
    loader: ({ params: { id } }) => firstValueFrom(this.api.call('ingestReport', null, id)),
  });

  constructor() {
    this.store.dispatch(jobs.wanted());
  }

  protected when = (job: Job): string => formatMoment(job.endedMs ?? job.updatedMs);

  protected isOpen(job: Job): boolean {
    return job.id === this.opened();
  }

  protected open(job: Job): void {
    void this.router.navigate([], { queryParams: { job: this.isOpen(job) ? null : job.id } });
  }

  protected deed(deed: Deed, job: Job): void {
    this.send(this.api.call(deed, null, job.id));
  }

  protected turn(when: 'first' | 'last', job: Job): void {
    this.send(this.api.call('jobPriority', { when }, job.id));
  }

  private send(asked: Observable<unknown>): void {
    asked.subscribe({
      next: () => this.store.dispatch(jobs.wanted()),
      error: (failure: Failure) => this.toasts.failed(failure.message),
    });
  }
}
