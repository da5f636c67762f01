import { ChangeDetectionStrategy, Component, computed, inject, input, resource, signal } from '@angular/core';
import { FormsModule } from '@angular/forms';
import { RouterLink } from '@angular/router';
import { NgbPagination } from '@ng-bootstrap/ng-bootstrap';
import { Store } from '@ngrx/store';
import { firstValueFrom } from 'rxjs';
import { timecodesOf } from '@larder/core/relink';
import { countingById } from '@larder/core/timecode';
import { MOST_HANDLES_SECONDS, UNDERWAY, type RestoreRow } from '@larder/contract';
import { JobProgress } from '../jobs/job-progress';
import { jobs } from '../jobs/state';
import { Api, troubleOf, type Failure } from '../shared/api';
import { counted, formatBytes, formatCount, formatDay } from '../shared/format';
import { Icon } from '../shared/icon';
import { saveFile } from '../shared/save-file';
import { mayOffer, sessionFeature } from '../shared/session';
import { shownPage } from '../shared/shown-page';
import { Toasts } from '../shared/toasts';
import { storages } from '../storage/state';
import { lostIn, scopeWords } from './lost-scope';
import { LIKENESS_MEANS, LIKENESS_WORDS, percent } from './relink-words';

/** Enough for a long printed page, few enough to draw at once. */
const PAGE = 200;

/** What has to be fetched from wherever it is kept, or shot again: to be printed, taken along, or fetched from the archive. */
@Component({
  selector: 'nl-restore-list',
  imports: [FormsModule, Icon, JobProgress, NgbPagination, RouterLink],
  templateUrl: './restore-list.html',
  styleUrl: './restore-list.scss',
  changeDetection: ChangeDetectionStrategy.OnPush,
})
export class RestoreListPage {
  /** From the address, as in Upkeep; with `plan` only what that search did not find. */
  readonly of = input<string>();
  readonly id = input<string>();
  readonly named = input<string>();
  readonly folder = input<string>();
  readonly assets = input<string>();
  readonly plan = input<string>();
  private readonly store = inject(Store);
  private readonly api = inject(Api);
  private readonly toasts = inject(Toasts);
  private readonly person = this.store.selectSignal(sessionFeature.selectPerson);
  private readonly revision = this.store.selectSignal(sessionFeature.selectRevision);
  private readonly allJobs = this.store.selectSignal(jobs.select);
  private readonly allStorages = this.store.selectSignal(storages.select);
  protected readonly mayKeep = computed(() => mayOffer(this.person(), 'keep'));

  private readonly lost = computed(() =>
    lostIn({ of: this.of(), id: this.id(), folder: this.folder(), assets: this.assets() }),
  );
  private readonly planId = computed(() => {
    const id = Number(this.plan() ?? NaN);
    return Number.isSafeInteger(id) && id > 0 ? id : null;
  });
  protected readonly scope = computed(() =>
    this.planId() === null
      ? scopeWords(this.lost(), this.named())
      : 'Of what the last search did not find, or you rejected.',
  );
  /** Leads back to where one came from. */
  protected readonly back = computed(() => ({
    ...{ report: this.plan() ?? null, of: this.of() ?? null, id: this.id() ?? null, named: this.named() ?? null },
    ...{ folder: this.folder() ?? null, assets: this.assets() ?? null },
  }));

  protected readonly isCut = signal(false);
  protected readonly handles = signal(2);
  protected readonly mostHandles = MOST_HANDLES_SECONDS;
  protected readonly page = signal(1);
  protected readonly pages = computed(() => Math.ceil((this.shown()?.total ?? 0) / PAGE));
  protected readonly pageSize = PAGE;
  private readonly asked = computed(() => ({
    ...{ lost: this.lost(), plan: this.planId(), isCut: this.isCut(), handlesSeconds: this.handles() },
  }));
  /** Goes up when what is fetched ends, well or not. */
  private readonly underway = computed(
    () =>
      (this.allJobs().value?.jobs ?? []).filter(({ kind, state }) => kind === 'restore' && UNDERWAY.includes(state))
        .length,
  );
  protected readonly list = resource({
    params: () => ({ ...this.asked(), page: this.page(), revision: this.revision(), underway: this.underway() }),
    loader: ({ params: { page, revision: _revision, underway: _underway, ...asked } }) =>
      firstValueFrom(this.api.call('restoreList', { ...asked, offset: (page - 1) * PAGE, limit: PAGE })),
  });
  protected readonly shown = shownPage(this.list, this.page, { rows: ({ rows }) => rows, size: PAGE });
  /** Where nothing has to be restored it is of no interest. */
  protected readonly archiveShown = computed(() => {
    const list = this.shown();
    return list && list.total > 0 ? list.archive : null;
  });
  protected readonly failed = computed(() => troubleOf(this.list));
  protected readonly lines = computed(() => (this.shown()?.rows ?? []).map((row) => this.lineOf(row)));

  /** Storages that the library may copy to. */
  protected readonly targets = computed(() =>
    (this.allStorages().value?.storages ?? []).filter(({ managed, state }) => managed && state === 'online'),
  );
  private readonly chosen = signal<number | null>(null);
  protected readonly target = computed(
    () => this.targets().find(({ id }) => id === this.chosen())?.id ?? this.targets()[0]?.id ?? null,
  );
  /** On this page, those that the archive has and that are not on their way. */
  protected readonly toFetch = computed(() =>
    this.lines().flatMap(({ isUnderway, row }) => (row.archived && !isUnderway ? [row.assetId] : [])),
  );

  protected readonly counted = counted;
  protected readonly count = formatCount;
  protected readonly bytes = formatBytes;
  protected readonly likenessWords = LIKENESS_WORDS;
  protected readonly likenessMeans = LIKENESS_MEANS;
  protected readonly percent = percent;

  constructor() {
    for (const slice of [storages, jobs]) this.store.dispatch(slice.wanted());
  }

  private lineOf(row: RestoreRow) {
    const counting = row.counting === null ? null : countingById(row.counting);
    const times = (row.ranges.length > 0 ? row.ranges : [null]).map((range) =>
      timecodesOf({ ...row, counting }, range),
    );
    const now = (this.allJobs().value?.jobs ?? []).find(({ id }) => id === row.job?.id) ?? row.job;
    return {
      row,
      times: times.flatMap((time) => time ?? []),
      job: now,
      isUnderway: now !== null && UNDERWAY.includes(now.state),
    };
  }

  /** What is needed of each, in words. */
  protected readonly wanted = computed(() =>
    this.isCut() ? `Only what is cut, with handles of ${counted(this.handles(), 'second')}.` : 'Whole clips.',
  );

  protected today(): string {
    return formatDay(Date.now());
  }

  protected cut(isCut: boolean): void {
    this.isCut.set(isCut);
    this.page.set(1);
  }

  protected setHandles(text: string): void {
    const seconds = Number(text);
    if (text.trim() !== '' && seconds >= 0 && seconds <= MOST_HANDLES_SECONDS) this.handles.set(seconds);
  }

  protected choose(id: string): void {
    this.chosen.set(Number(id));
  }

  protected print(): void {
    print();
  }

  protected save(): void {
    this.api.call('takeRestoreList', this.asked()).subscribe({
      next: saveFile,
      error: (failure: Failure) => this.toasts.failed(failure.message),
    });
  }

  protected fetch(assetIds: readonly number[]): void {
    const storageId = this.target();
    if (storageId === null) return;
    this.api.call('restore', { storageId, assetIds: [...assetIds] }).subscribe({
      next: ({ jobs: queued }) => {
        this.store.dispatch(jobs.wanted());
        this.list.reload();
        this.toasts.done(
          queued === 0
            ? 'These are on their way already.'
            : `${counted(queued, 'original')} asked for. Each is mended by itself when it is here.`,
        );
      },
      error: (failure: Failure) => this.toasts.failed(`Nothing was asked for. ${failure.message}`),
    });
  }
}
