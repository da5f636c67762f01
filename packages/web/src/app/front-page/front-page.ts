import { ChangeDetectionStrategy, Component, computed, effect, inject, signal, untracked } from '@angular/core';
import { Router, RouterLink } from '@angular/router';
import { Store } from '@ngrx/store';
import type { Asset } from '@larder/contract';
import { bins } from '../bins/state';
import { loggingPlaces } from '../logging/state';
import { Api } from '../shared/api';
import { callOf, counted, formatCount } from '../shared/format';
import { Icon } from '../shared/icon';
import { KIND_LABELS, STATE_LABELS, type IconName } from '../shared/icons';
import { Thumb } from '../shared/thumb';
import { DayChart } from './day-chart';
import { front } from './state';

/** One row of pictures. */
const RECENT = 6;

interface Matter {
  readonly icon: IconName;
  readonly text: string;
  readonly path: string;
  readonly q?: string;
  readonly bad?: boolean;
}

/** What needs somebody, what came in, and the ways into the library. */
@Component({
  selector: 'nl-front-page',
  imports: [DayChart, Icon, RouterLink, Thumb],
  templateUrl: './front-page.html',
  styleUrl: './front-page.scss',
  changeDetection: ChangeDetectionStrategy.OnPush,
})
export class FrontPage {
  private readonly store = inject(Store);
  private readonly api = inject(Api);
  private readonly router = inject(Router);
  protected readonly state = this.store.selectSignal(front.select);
  protected readonly bins = computed(() => this.store.selectSignal(bins.select)().value?.bins ?? []);
  private readonly places = computed(() => this.store.selectSignal(loggingPlaces.select)().value?.places ?? []);
  protected readonly recent = signal<readonly Asset[]>([]);
  protected readonly count = formatCount;
  protected readonly counted = counted;
  protected readonly call = callOf;
  protected readonly status = computed(() => this.state().value);
  protected readonly kinds = computed(() =>
    Object.entries(KIND_LABELS)
      .map(([kind, label]) => ({ kind, ...label, count: this.status()?.byKind[kind] ?? 0 }))
      .filter((each) => each.count > 0),
  );

  /** Only what asks for a hand, worst first. */
  protected readonly matters = computed<Matter[]>(() => {
    const status = this.status();
    if (!status) return [];
    const { byState, jobs, untagged, unreadable } = status;
    const [stopped] = this.places();
    const all: (Matter | false)[] = [
      ...this.bins()
        .filter(({ watch }) => watch !== null && watch.cameIn > 0)
        .map(({ id, name, watch }): Matter => ({
          icon: 'bell',
          text: `${counted(watch?.cameIn ?? 0, 'asset')} came into “${name}”`,
          path: `/bins/${id}`,
        })),
      stopped !== undefined &&
        stopped.done < stopped.total && {
          icon: 'play',
          text: `Go on logging ${stopped.query || 'the whole library'}: ${formatCount(stopped.done)} of ${formatCount(stopped.total)}`,
          path: '/log',
          ...(stopped.query ? { q: stopped.query } : {}),
        },
      byState.missing > 0 && {
        icon: STATE_LABELS.missing.icon,
        text: `${counted(byState.missing, 'original')} missing: find and relink`,
        path: '/upkeep',
        bad: true,
      },
      byState.changed > 0 && {
        icon: STATE_LABELS.changed.icon,
        text: `${counted(byState.changed, 'file')} changed since ${byState.changed === 1 ? 'it was' : 'they were'} catalogued`,
        path: '/library',
        q: 'is:changed',
        bad: true,
      },
      byState.offline > 0 && {
        icon: STATE_LABELS.offline.icon,
        text: `${counted(byState.offline, 'asset')} on a storage that is not mounted`,
        path: '/storage',
      },
      unreadable > 0 && {
        icon: KIND_LABELS.unreadable.icon,
        text: `${counted(unreadable, 'file')} cannot be read`,
        path: '/library',
        q: 'kind:unreadable',
      },
      jobs.failed > 0 && { icon: 'warning', text: `${counted(jobs.failed, 'job')} failed`, path: '/jobs', bad: true },
      jobs.running + jobs.queued > 0 && {
        icon: 'again',
        text: `${counted(jobs.running + jobs.queued, 'job')} running or waiting`,
        path: '/jobs',
      },
      untagged > 0 && {
        icon: 'tags',
        text: `${counted(untagged, 'asset')} without a tag`,
        path: '/library',
        q: 'no:tag',
      },
    ];
    return all.filter((matter): matter is Matter => matter !== false);
  });

  constructor() {
    this.store.dispatch(front.wanted());
    this.store.dispatch(bins.wanted());
    this.store.dispatch(loggingPlaces.wanted());
    const ids = computed(() => (this.status()?.recent ?? []).slice(0, RECENT), {
      equal: (a, b) => a.join() === b.join(),
    });
    effect((onCleanup) => {
      const wanted = ids();
      if (wanted.length === 0) return untracked(() => this.recent.set([]));
      const asked = this.api
        .call('rows', { ids: wanted })
        .subscribe({ next: ({ assets }) => this.recent.set(assets), error: () => undefined });
      onCleanup(() => asked.unsubscribe());
    });
  }

  protected openDay(day: string): void {
    void this.router.navigate(['/library'], { queryParams: { q: `shot:${day}` } });
  }

  protected searchFor(asset: Asset): string {
    return `name:"${asset.name.replace(/"/g, '')}"`;
  }
}
