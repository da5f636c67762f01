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
import { FormsModule } from '@angular/forms';
import { Router } from '@angular/router';
import { Store } from '@ngrx/store';
import { firstValueFrom } from 'rxjs';
import type { Agreement, EvidenceKind, Likeness } from '@larder/core/relink';
import type { RelinkMatch, RelinkProposal, RelinkRule } from '@larder/contract';
import { front } from '../front-page/state';
import { JobProgress } from '../jobs/job-progress';
import { jobs } from '../jobs/state';
import { Api, type Failure } from '../shared/api';
import { counted, formatBytes, formatMoment } from '../shared/format';
import { Icon } from '../shared/icon';
import type { IconName } from '../shared/icons';
import { mayOffer, sessionFeature } from '../shared/session';
import { Toasts } from '../shared/toasts';
import { storages } from '../storage/state';

const LIKENESS_WORDS: Readonly<Record<Likeness, string>> = {
  exact: 'Exact',
  equivalent: 'Equivalent',
  lookalike: 'Lookalike',
};
const EVIDENCE_WORDS: Readonly<Record<EvidenceKind, string>> = {
  checksum: 'Checksum',
  fingerprint: 'Fingerprint',
  size: 'Size',
  timecode: 'Timecode',
  duration: 'Duration',
  reel: 'Reel',
  name: 'Name',
  title: 'Name without additions',
  folder: 'Folder',
  rate: 'Rate',
  raster: 'Raster',
  channels: 'Channels',
  shot: 'Recorded',
  modified: 'Modified',
};
const AGREEMENT: Readonly<Record<Agreement, { icon: IconName; word: string }>> = {
  agrees: { icon: 'check', word: 'agrees' },
  disagrees: { icon: 'close', word: 'disagrees' },
  unknown: { icon: 'info', word: 'not known' },
};
import { Fixity } from './fixity';

/** Missing originals: look for them, weigh what is found, mend many links at once. */
@Component({
  selector: 'nl-upkeep',
  imports: [Fixity, FormsModule, Icon, JobProgress],
  templateUrl: './upkeep.html',
  styleUrl: './upkeep.scss',
  changeDetection: ChangeDetectionStrategy.OnPush,
})
export class Upkeep {
  /** From the address: the search for missing files whose report is shown. */
  readonly report = input<string>();
  private readonly store = inject(Store);
  private readonly api = inject(Api);
  private readonly router = inject(Router);
  private readonly toasts = inject(Toasts);
  private readonly revision = this.store.selectSignal(sessionFeature.selectRevision);
  private readonly person = this.store.selectSignal(sessionFeature.selectPerson);
  private readonly allJobs = this.store.selectSignal(jobs.select);
  protected readonly mayKeep = computed(() => mayOffer(this.person(), 'keep'));
  protected readonly status = this.store.selectSignal(front.select);
  protected readonly missing = computed(() => this.status().value?.byState.missing ?? null);
  protected readonly online = computed(() =>
    (this.store.selectSignal(storages.select)().value?.storages ?? []).filter((storage) => storage.state === 'online'),
  );

  private readonly pickedStorage = signal<number | null>(null);
  protected readonly storageId = computed(
    () => this.pickedStorage() ?? this.online().toSorted((a, b) => b.counts.missing - a.counts.missing)[0]?.id ?? null,
  );
  protected readonly folder = signal('');
  protected readonly folders = resource({
    params: () => this.storageId() ?? undefined,
    loader: ({ params }) => firstValueFrom(this.api.call('folders', null, params)),
  });

  protected readonly job = computed(
    () => (this.allJobs().value?.jobs ?? []).find((job) => String(job.id) === this.report()) ?? null,
  );
  private readonly finished = computed(
    () => this.job()?.state === 'done' || this.job()?.state === 'failed' || this.job()?.state === 'cancelled',
  );
  protected readonly found = resource({
    params: () =>
      this.report() && this.finished() ? { id: Number(this.report()), revision: this.revision() } : undefined,
    loader: ({ params }) => firstValueFrom(this.api.call('relinkReport', null, params.id)),
  });
  private readonly last = signal<readonly RelinkProposal[]>([]);
  protected readonly proposals = this.last.asReadonly();
  protected readonly withMatch = computed(() => this.proposals().filter((proposal) => proposal.matches.length > 0));
  private readonly lastRules = signal<readonly RelinkRule[]>([]);
  /** Rules with those of their files that can be ticked. */
  protected readonly rules = computed(() => {
    const free = new Set(
      this.withMatch()
        .filter((proposal) => this.isFree(proposal))
        .map(({ assetId }) => assetId),
    );
    return this.lastRules()
      .map((rule) => ({ rule, assetIds: rule.assetIds.filter((id) => free.has(id)) }))
      .filter(({ assetIds }) => assetIds.length > 0);
  });
  /** The place of the rule whose files alone are shown. */
  protected readonly only = signal<number | null>(null);
  protected readonly shown = computed(() => {
    const rule = this.rules()[this.only() ?? -1];
    return rule ? this.withMatch().filter(({ assetId }) => rule.assetIds.includes(assetId)) : this.withMatch();
  });
  protected readonly without = computed(() => this.proposals().filter((proposal) => proposal.matches.length === 0));
  /** The candidate chosen for each asset, by its place among the asset's candidates. */
  protected readonly choice = signal<Readonly<Record<number, number>>>({});
  protected readonly ticked = signal<ReadonlySet<number>>(new Set());
  protected readonly open = signal<number | null>(null);
  protected readonly busy = signal(false);

  protected readonly likenessWords = LIKENESS_WORDS;
  protected readonly evidenceWords = EVIDENCE_WORDS;
  protected readonly agreement = AGREEMENT;
  protected readonly counted = counted;

  constructor() {
    for (const slice of [front, storages, jobs]) this.store.dispatch(slice.wanted());
    effect(() => {
      if (!this.found.hasValue()) return;
      const { proposals, rules } = this.found.value();
      untracked(() => {
        this.lastRules.set(rules);
        this.only.set(null);
        const fresh = proposals.filter((proposal) => !this.last().some((old) => old.assetId === proposal.assetId));
        this.last.set(proposals);
        // Exact ones are ticked beforehand; everything else waits for a person's eye.
        const sure = fresh
          .filter(({ matches }) => matches[0]?.likeness === 'exact' && this.blocked(matches[0]) === null)
          .map(({ assetId }) => assetId);
        const still = new Set(proposals.map(({ assetId }) => assetId));
        this.ticked.update((ticked) => new Set([...ticked, ...sure].filter((id) => still.has(id))));
      });
    });
  }

  protected pickStorage(id: number): void {
    this.pickedStorage.set(id);
    this.folder.set('');
  }

  protected look(): void {
    const storageId = this.storageId();
    if (storageId === null) return;
    this.last.set([]);
    this.ticked.set(new Set());
    this.choice.set({});
    this.api.call('findMissing', { storageId, folder: this.folder(), assetIds: [] }).subscribe({
      next: ({ job }) => {
        this.store.dispatch(jobs.wanted());
        void this.router.navigate(['/upkeep'], { queryParams: { report: job.id } });
      },
      error: (failure: Failure) => this.toasts.failed(failure.message),
    });
  }

  protected matchOf({ assetId, matches }: RelinkProposal): RelinkMatch | undefined {
    return matches[this.choice()[assetId] ?? 0];
  }

  /** Why a candidate cannot be taken, in words; null if it can. */
  protected blocked(match: RelinkMatch): string | null {
    if (match.blockedBy.length > 0)
      return `Ruled out by its ${match.blockedBy.map((kind) => EVIDENCE_WORDS[kind].toLowerCase()).join(' and ')}.`;
    if (match.catalogued && !match.catalogued.untouched)
      return `It is asset #${match.catalogued.assetId} already, and somebody has logged or used it.`;
    return null;
  }

  private isFree(proposal: RelinkProposal): boolean {
    const match = this.matchOf(proposal);
    return match !== undefined && this.blocked(match) === null;
  }

  /** What a rule does to names, in words; empty where they are the same. */
  protected renames({ before, behind, extension }: RelinkRule): string {
    return [
      ...(extension ? [`.${extension.from} became .${extension.to}`] : []),
      ...(before ? [`“${before}” was put before the names`] : []),
      ...(behind ? [`“${behind}” was put behind them`] : []),
    ].join(', ');
  }

  protected areTicked(assetIds: readonly number[]): boolean {
    return assetIds.every((id) => this.ticked().has(id));
  }

  /** Ticks all files of a rule, or none where all are ticked. */
  protected tickRule(assetIds: readonly number[]): void {
    const on = !this.areTicked(assetIds);
    for (const id of assetIds) this.tick(id, on);
  }

  protected percent(match: RelinkMatch): string {
    const value = match.probability * 100;
    return value > 99.9 ? '> 99.9 %' : `${value.toFixed(value < 10 ? 1 : 0)} %`;
  }

  protected value(kind: EvidenceKind, text: string | null): string {
    if (text === null) return '–';
    if (kind === 'size') return `${formatBytes(Number(text))} (${text})`;
    if (kind === 'modified' || kind === 'shot') return formatMoment(Date.parse(text));
    return kind === 'fingerprint' ? `${text.slice(0, 12)}…` : kind === 'duration' ? `${text} frames` : text;
  }

  protected tick(assetId: number, on: boolean): void {
    this.ticked.update((ticked) => {
      const next = new Set(ticked);
      if (on) next.add(assetId);
      else next.delete(assetId);
      return next;
    });
  }

  protected choose(assetId: number, index: number): void {
    this.choice.update((choice) => ({ ...choice, [assetId]: index }));
  }

  protected toggle(assetId: number): void {
    this.open.update((open) => (open === assetId ? null : assetId));
  }

  protected mend(): void {
    const links = this.withMatch().flatMap((proposal) => {
      const match = this.matchOf(proposal);
      return match && this.ticked().has(proposal.assetId) && this.blocked(match) === null
        ? [{ assetId: proposal.assetId, storageId: match.storageId, path: match.path }]
        : [];
    });
    if (links.length === 0) return;
    this.busy.set(true);
    this.api.call('mend', { links }).subscribe({
      next: ({ folded }) => {
        this.busy.set(false);
        this.toasts.done(
          `${counted(links.length, 'link')} mended${folded.length > 0 ? `; ${counted(folded.length, 'second entry', 'second entries')} of the same files folded in` : ''}. No asset was doubled.`,
        );
        this.found.reload();
      },
      error: (failure: Failure) => {
        this.busy.set(false);
        this.toasts.failed(`Nothing was relinked. ${failure.message}`);
      },
    });
  }
}
