import {
  ChangeDetectionStrategy,
  Component,
  computed,
  effect,
  inject,
  input,
  resource,
  signal,
  untracked,
} from '@angular/core';
import { Router, RouterLink } from '@angular/router';
import { NgbPagination } from '@ng-bootstrap/ng-bootstrap';
import { Store } from '@ngrx/store';
import { firstValueFrom } from 'rxjs';
import {
  RELINK_STATES,
  type Job,
  type RelinkDecided,
  type RelinkDecision,
  type RelinkItem as Item,
  type RelinkState,
  type Storage,
} from '@larder/contract';
import { JobProgress } from '../jobs/job-progress';
import { jobs } from '../jobs/state';
import { libraryActions } from '../library/state/library.actions';
import { Api, type Failure } from '../shared/api';
import { counted, formatCount } from '../shared/format';
import { Icon } from '../shared/icon';
import { sessionFeature } from '../shared/session';
import { Toasts } from '../shared/toasts';
import { MovedPath } from './moved-path';
import { PointDialog } from './point-dialog';
import { RelinkItem } from './relink-item';
import { renames, STATE_WORDS } from './relink-words';

/** So many leave room for what they are about. */
const FEW_RULES = 4;

/** Originals on one page: enough to go through, few enough to draw at once. */
const PAGE = 50;
const NOTHING_DECIDED: Omit<RelinkDecided, 'decision'> = { assetIds: [], rule: null, state: null, chosen: null };
const isOver = (job: Job | null): boolean => job !== null && ['done', 'failed', 'cancelled'].includes(job.state);

/** What a search for missing originals came to: looked through, decided, and then carried out in one step. */
@Component({
  selector: 'nl-relink-plan',
  imports: [Icon, JobProgress, MovedPath, NgbPagination, RelinkItem, RouterLink],
  templateUrl: './relink-plan.html',
  styleUrl: './relink-plan.scss',
  changeDetection: ChangeDetectionStrategy.OnPush,
})
export class RelinkPlan {
  readonly id = input.required<number>();
  readonly storages = input.required<readonly Storage[]>();
  readonly mayKeep = input.required<boolean>();
  private readonly store = inject(Store);
  private readonly api = inject(Api);
  private readonly router = inject(Router);
  private readonly toasts = inject(Toasts);
  private readonly dialog = inject(PointDialog);
  private readonly revision = this.store.selectSignal(sessionFeature.selectRevision);
  private readonly allJobs = this.store.selectSignal(jobs.select);

  protected readonly state = signal<RelinkState | null>(null);
  /** The place of the rule whose files alone are shown. */
  protected readonly rule = signal<number | null>(null);
  protected readonly page = signal(1);
  protected readonly pageSize = PAGE;
  /** How far the search is: first nothing is known, then what the catalogue says, then all of it. */
  private readonly searched = computed(() => {
    const job = (this.allJobs().value?.jobs ?? []).find(({ id }) => id === this.id());
    return job && `${job.state} ${job.message !== null}`;
  });
  protected readonly plan = resource({
    params: () => ({
      ...{ id: this.id(), revision: this.revision(), searched: this.searched() },
    }),
    loader: ({ params: { id } }) => firstValueFrom(this.api.call('relinkPlan', null, id)),
  });
  protected readonly found = resource({
    params: () => ({
      ...{ id: this.id(), state: this.state(), rule: this.rule(), page: this.page() },
      ...{ revision: this.revision(), searched: this.searched() },
    }),
    loader: ({ params: { id, page, rule, state } }) =>
      firstValueFrom(this.api.call('relinkItems', { state, rule, offset: (page - 1) * PAGE, limit: PAGE }, id)),
  });
  /** What was shown last stays while what comes next is on its way. */
  private readonly lastItems = signal<readonly Item[]>([]);
  private readonly lastTotal = signal(0);
  protected readonly items = this.lastItems.asReadonly();
  protected readonly total = this.lastTotal.asReadonly();

  protected readonly tabs = computed(() => {
    const counts = this.plan.hasValue() ? this.plan.value().counts : null;
    return RELINK_STATES.map((state) => ({ state, count: counts?.[state] ?? 0, ...STATE_WORDS[state] })).filter(
      ({ count, state }) => count > 0 || state === this.state(),
    );
  });
  protected readonly everything = computed(() =>
    this.plan.hasValue() ? Object.values(this.plan.value().counts).reduce((sum, count) => sum + count, 0) : 0,
  );
  /** What is still lost after this plan: not found, ruled out, or rejected. */
  protected readonly unmended = computed(() => {
    if (!this.plan.hasValue()) return 0;
    const { blocked, rejected, unfound } = this.plan.value().counts;
    return blocked + rejected + unfound;
  });
  protected readonly accepted = computed(() => (this.plan.hasValue() ? this.plan.value().counts.accepted : 0));
  protected readonly lookedAt = computed(() => (this.plan.hasValue() ? this.plan.value().looked : 0));
  protected readonly rules = computed(() =>
    (this.plan.hasValue() ? this.plan.value().rules : [])
      .map((rule, place) => ({ rule, place }))
      .filter(({ rule: { accepted, decide } }) => accepted + decide > 0),
  );
  protected readonly allRules = signal(false);
  /** Those that explain most, and the one of which the files are shown. */
  protected readonly shownRules = computed(() =>
    this.rules().filter(({ place }, at) => this.allRules() || at < FEW_RULES || place === this.rule()),
  );
  protected readonly moreRules = computed(() => Math.max(0, this.rules().length - FEW_RULES));
  /** What mends it, as far as it is now. */
  protected readonly mending = computed(() => {
    const job = this.started() ?? (this.plan.hasValue() ? (this.plan.value().mending?.job ?? null) : null);
    return (this.allJobs().value?.jobs ?? []).find(({ id }) => id === job?.id) ?? job;
  });
  protected readonly isMending = computed(() => this.mending() !== null && !isOver(this.mending()));
  private readonly started = signal<Job | null>(null);
  /** The mend that was started here and is to be told of when it is over. */
  private awaited: number | null = null;

  protected readonly counted = counted;
  protected readonly count = formatCount;
  protected readonly renames = renames;

  constructor() {
    effect(() => {
      if (!this.found.hasValue()) return;
      const { items, total } = this.found.value();
      untracked(() => {
        this.lastItems.set(items);
        this.lastTotal.set(total);
        // The last of a page went elsewhere.
        if (items.length === 0 && total > 0) this.page.set(Math.ceil(total / PAGE));
      });
    });
    effect(() => {
      const job = this.mending();
      if (job === null || job.id !== this.awaited || !isOver(job)) return;
      this.awaited = null;
      untracked(() => void this.tell(job));
    });
  }

  protected show(state: RelinkState | null): void {
    this.state.set(state);
    this.page.set(1);
  }

  protected showRule(place: number): void {
    this.rule.set(this.rule() === place ? null : place);
    this.page.set(1);
  }

  protected decide(decision: RelinkDecision, of: Partial<RelinkDecided>): void {
    this.api.call('decideRelink', { ...NOTHING_DECIDED, ...of, decision }, this.id()).subscribe({
      next: (plan) => {
        this.plan.set(plan);
        this.found.reload();
      },
      error: (failure: Failure) => this.toasts.failed(failure.message),
    });
  }

  protected async point(item: Item): Promise<void> {
    const file = await this.dialog.ask(item, this.storages());
    if (!file) return;
    this.api.call('pointAt', { assetId: item.assetId, ...file }).subscribe({
      next: ({ job }) => {
        this.store.dispatch(jobs.wanted());
        void this.router.navigate([], { queryParams: { report: job.id }, queryParamsHandling: 'merge' });
      },
      error: (failure: Failure) => this.toasts.failed(failure.message),
    });
  }

  protected mend(): void {
    this.api.call('mend', null, this.id()).subscribe({
      next: ({ job }) => {
        this.awaited = job.id;
        this.started.set(job);
        this.store.dispatch(jobs.wanted());
      },
      error: (failure: Failure) => this.toasts.failed(`Nothing was relinked. ${failure.message}`),
    });
  }

  private async tell(job: Job): Promise<void> {
    const plan = await firstValueFrom(this.api.call('relinkPlan', null, this.id())).catch(() => null);
    if (plan) this.plan.set(plan);
    this.found.reload();
    if (job.state !== 'done') return;
    const { folded = 0, group = null } = plan?.mending ?? {};
    this.toasts.done(
      `${counted(job.done, 'link')} mended${folded > 0 ? `; ${counted(folded, 'second entry', 'second entries')} of the same files folded in` : ''}. No asset was doubled.`,
      group === null ? undefined : { label: 'Undo', run: () => this.store.dispatch(libraryActions.undo({ group })) },
    );
  }
}
