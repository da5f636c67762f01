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
import { Store } from '@ngrx/store';
import { firstValueFrom } from 'rxjs';
import { valueText } from '@larder/core/fields';
import {
  keyHeading,
  MATCH_KEYS,
  useIssue,
  wordUseIssue,
  type ColumnUse,
  type MatchKey,
} from '@larder/core/interchange/table';
import { FILE_PATHS, type ReadTable, type TableChange, type TableLook, type TableProblemKind } from '@larder/contract';
import { JobProgress } from '../jobs/job-progress';
import { jobs } from '../jobs/state';
import { Api, type Failure } from '../shared/api';
import { Fields } from '../shared/fields';
import { counted, formatCount } from '../shared/format';
import { Icon } from '../shared/icon';
import { mayOffer, sessionFeature } from '../shared/session';
import { Toasts } from '../shared/toasts';

const PROBLEM_WORDS: Readonly<Record<TableProblemKind, readonly [one: string, many: string]>> = {
  'no-key': ['row does not say which asset it means', 'rows do not say which asset they mean'],
  'no-match': ['row matches no asset', 'rows match no asset'],
  several: ['row matches several assets', 'rows match several assets'],
  twice: ['row means an asset that another row means', 'rows mean an asset that another row means'],
  refused: ['cell is not taken by its field', 'cells are not taken by their fields'],
  conflict: ['cell would overwrite a colleague’s newer words', 'cells would overwrite colleagues’ newer words'],
};

type Option = Pick<ReadTable, 'empty' | 'otherTags'>;

/** A table on its way into the library: what its columns mean, what would come of it, what came of it. */
@Component({
  selector: 'nl-table',
  imports: [Icon, JobProgress, RouterLink],
  templateUrl: './table.html',
  styleUrl: './table.scss',
  changeDetection: ChangeDetectionStrategy.OnPush,
})
export class TablePage {
  /** From the address: the job in which a table was tried or read. */
  readonly report = input<string>();
  private readonly store = inject(Store);
  private readonly api = inject(Api);
  private readonly router = inject(Router);
  private readonly toasts = inject(Toasts);
  private readonly fields = inject(Fields);
  private readonly revision = this.store.selectSignal(sessionFeature.selectRevision);
  private readonly person = this.store.selectSignal(sessionFeature.selectPerson);
  private readonly allJobs = this.store.selectSignal(jobs.select);
  protected readonly mayLog = computed(() => mayOffer(this.person(), 'log'));
  protected readonly look = signal<TableLook | null>(null);
  protected readonly uses = signal<readonly ColumnUse[]>([]);
  protected readonly option = signal<Option>({ empty: 'leave', otherTags: 'keep' });
  protected readonly busy = signal(false);
  protected readonly undone = signal(false);
  protected readonly over = signal(false);
  protected readonly count = formatCount;
  protected readonly counted = counted;
  protected readonly keys = MATCH_KEYS.map((key) => ({ key, label: keyHeading(key) }));
  protected readonly groups = computed(() => {
    const registry = this.fields.registry();
    return registry.groups
      .map(({ id, label }) => ({
        label,
        fields: registry.settable.filter(({ group, retired }) => group === id && !retired),
      }))
      .filter(({ fields }) => fields.length > 0);
  });
  protected readonly issue = computed(() => {
    const issue = this.look() && useIssue(this.uses(), this.fields.registry());
    return issue ? wordUseIssue(issue) : null;
  });
  protected readonly hasTags = computed(() => this.uses().some(({ use }) => use === 'tags'));

  protected readonly job = computed(
    () => (this.allJobs().value?.jobs ?? []).find((job) => String(job.id) === this.report()) ?? null,
  );
  private readonly ended = computed(() => {
    const state = this.job()?.state;
    return state === 'done' || state === 'failed' || state === 'cancelled';
  });
  protected readonly answer = resource({
    params: () => (this.report() ? { id: Number(this.report()), ended: this.ended() } : undefined),
    loader: ({ params }) => firstValueFrom(this.api.call('tableReport', null, params.id)),
  });
  protected readonly outcome = computed(() => (this.answer.hasValue() ? this.answer.value().report : null));
  protected readonly problems = computed(() => {
    const outcome = this.outcome();
    if (!outcome) return [];
    return (Object.entries(outcome.problems) as [TableProblemKind, number][])
      .filter(([, count]) => count > 0)
      .map(([kind, count]) => ({ kind, count, words: PROBLEM_WORDS[kind][count === 1 ? 0 : 1] }));
  });

  constructor() {
    this.store.dispatch(jobs.wanted());
    effect(() => {
      this.report();
      untracked(() => this.undone.set(false));
    });
  }

  protected chosen(event: Event): void {
    const box = event.target as HTMLInputElement;
    const [file] = box.files ?? [];
    if (file) this.send(file);
    box.value = '';
  }

  protected dropped(event: DragEvent): void {
    event.preventDefault();
    this.over.set(false);
    const file = event.dataTransfer?.files[0];
    if (file) this.send(file);
  }

  private send(file: File): void {
    this.busy.set(true);
    this.api.send<TableLook>(`${FILE_PATHS.tables}?name=${encodeURIComponent(file.name)}`, file).subscribe({
      next: (look) => {
        this.busy.set(false);
        this.look.set(look);
        this.uses.set(look.uses);
        if (this.report()) void this.router.navigate(['/table']);
      },
      error: (failure: Failure) => {
        this.busy.set(false);
        this.toasts.failed(`${file.name} was not sent. ${failure.message}`);
      },
    });
  }

  /** What a column's use is called in its list of choices. */
  protected keyOf(use: ColumnUse | undefined): string {
    if (use?.use === 'match') return `match ${use.key}`;
    return use?.use === 'field' ? `field ${use.field}` : (use?.use ?? 'none');
  }

  protected choose(column: number, key: string): void {
    const [use, what = ''] = key.split(' ');
    const chosen: ColumnUse =
      use === 'match'
        ? { use, key: what as MatchKey }
        : use === 'field'
          ? { use, field: what }
          : { use: use === 'tags' ? 'tags' : 'none' };
    this.uses.update((uses) => uses.map((each, index) => (index === column ? chosen : each)));
  }

  protected setOption(option: Partial<Option>): void {
    this.option.update((before) => ({ ...before, ...option }));
  }

  protected tryIt(): void {
    const look = this.look();
    if (!look) return;
    const { table, fileName } = look;
    const seenRevision = this.revision();
    this.ask({ table, fileName, uses: this.uses(), ...this.option(), keep: false, seenRevision });
  }

  /** The same that was tried, kept; what colleagues have said since then is not written over. */
  protected keep(): void {
    if (this.answer.hasValue()) this.ask({ ...this.answer.value().asked, keep: true });
  }

  private ask(asked: ReadTable): void {
    this.busy.set(true);
    this.api.call('readTable', asked).subscribe({
      next: ({ job }) => {
        this.busy.set(false);
        this.store.dispatch(jobs.wanted());
        void this.router.navigate(['/table'], { queryParams: { report: job.id } });
      },
      error: (failure: Failure) => {
        this.busy.set(false);
        this.toasts.failed(failure.message);
      },
    });
  }

  protected cancel(): void {
    const job = this.job();
    if (job) this.api.call('cancelJob', null, job.id).subscribe();
  }

  protected undo(group: string): void {
    this.busy.set(true);
    this.api.call('undo', { group }).subscribe({
      next: ({ changed }) => {
        this.busy.set(false);
        this.undone.set(true);
        this.toasts.done(`${counted(changed, 'asset')} put back as before the table.`);
      },
      error: (failure: Failure) => {
        this.busy.set(false);
        this.toasts.failed(`Not undone. ${failure.message}`);
      },
    });
  }

  protected back(): void {
    void this.router.navigate(['/table']);
  }

  protected anew(): void {
    this.look.set(null);
    this.back();
  }

  protected reportPath(): string {
    return FILE_PATHS.tableReport(Number(this.report()));
  }

  protected label(field: string): string {
    return this.fields.registry().labelOf(field);
  }

  protected text(change: TableChange, side: 'before' | 'after'): string {
    return valueText(change[side], this.fields.registry().byId(change.field)?.type) || 'empty';
  }
}
