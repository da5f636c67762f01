import { ChangeDetectionStrategy, Component, computed, inject, resource, signal } from '@angular/core';
import { RouterLink } from '@angular/router';
import { NgbPagination } from '@ng-bootstrap/ng-bootstrap';
import { Store } from '@ngrx/store';
import { firstValueFrom } from 'rxjs';
import { UNDERWAY, type Asset, type JobKind, type TwinGroup, type TwinLikeness } from '@larder/contract';
import { libraryActions } from '../library/state/library.actions';
import { Api, troubleOf, type Failure } from '../shared/api';
import { counted, formatBytes } from '../shared/format';
import { Icon } from '../shared/icon';
import { jobs } from '../jobs/state';
import { mayOffer, sessionFeature } from '../shared/session';
import { shownPage } from '../shared/shown-page';
import { StateBadge } from '../shared/state-badge';
import { Thumb } from '../shared/thumb';
import { Toasts } from '../shared/toasts';

const PAGE = 25;
/** Jobs that tell more of twins without a change of the library. */
const TELLING: readonly JobKind[] = ['verify', 'compare'];

const LIKENESS: Readonly<Record<TwinLikeness, { readonly word: string; readonly help: string }>> = {
  exact: { word: 'Same bytes', help: 'All of the files was read, and is equal' },
  ends: {
    word: 'Same size, beginning and end',
    help: 'Not all of them were read whole: they may differ in between, as stems of one piece of music do',
  },
  open: {
    word: 'Same size, beginning and end; some were read and differ',
    help: 'Of which of them the others are is known when these are read whole too',
  },
  equivalent: {
    word: 'Same frames, another form',
    help: 'Reel, timecode, length and rate are equal; the files are not',
  },
  near: {
    word: 'Alike',
    help: 'Found by comparing pictures and sound: it may be one recording in another form, or another one that looks and sounds like it',
  },
};

/** What can differ between files of one recording, in words. */
const FACTS: readonly { readonly word: string; of(asset: Asset): unknown }[] = [
  { word: 'name', of: ({ name }) => name },
  { word: 'size', of: ({ bytes }) => bytes },
  { word: 'codec', of: ({ codec }) => codec },
  { word: 'raster', of: ({ height, width }) => `${width} ${height}` },
  { word: 'sound', of: ({ sound }) => sound?.channels ?? null },
  { word: 'title', of: ({ title }) => title },
  { word: 'verdict', of: ({ verdict }) => verdict },
  { word: 'tags', of: ({ tags }) => [...tags].sort().join() },
  { word: 'markers', of: ({ markers }) => [...markers].sort().join() },
];

const NEAR_WORDS = {
  picture: { true: 'nearly the same pictures', false: 'other pictures' },
  sound: { true: 'nearly the same sound', false: 'another sound' },
} as const;
/** What is nearly the same, in words. */
const sameWords = (same: TwinGroup['same']): string =>
  (['picture', 'sound'] as const)
    .flatMap((sense) => {
      const is = same?.[sense] ?? null;
      return is === null ? [] : [NEAR_WORDS[sense][`${is}`]];
    })
    .join(', ');

/** What is catalogued more than once: what differs, and which one is kept, with all that is said of the others. */
@Component({
  selector: 'nl-twins',
  imports: [Icon, NgbPagination, RouterLink, StateBadge, Thumb],
  templateUrl: './twins.html',
  styleUrl: './twins.scss',
  changeDetection: ChangeDetectionStrategy.OnPush,
})
export class TwinsPage {
  private readonly api = inject(Api);
  private readonly store = inject(Store);
  private readonly toasts = inject(Toasts);
  private readonly person = this.store.selectSignal(sessionFeature.selectPerson);
  private readonly revision = this.store.selectSignal(sessionFeature.selectRevision);
  private readonly allJobs = this.store.selectSignal(jobs.select);
  protected readonly mayKeep = computed(() => mayOffer(this.person(), 'keep'));
  /** How many jobs read files whole or compare them; once one ends, more is known. */
  private readonly reading = computed(
    () =>
      (this.allJobs().value?.jobs ?? []).filter(({ kind, state }) => TELLING.includes(kind) && UNDERWAY.includes(state))
        .length,
  );
  protected readonly page = signal(1);
  protected readonly pageSize = PAGE;
  protected readonly list = resource({
    params: () => ({ page: this.page(), revision: this.revision(), reading: this.reading() }),
    loader: ({ params }) =>
      firstValueFrom(this.api.call('twinList', { offset: (params.page - 1) * PAGE, limit: PAGE })),
  });
  protected readonly shown = shownPage(this.list, this.page, { rows: ({ groups }) => groups, size: PAGE });
  /** Whom a person chose to keep, by the first asset of a group. */
  private readonly chosen = signal<ReadonlyMap<string, number>>(new Map());
  protected readonly busy = signal(false);
  protected readonly groups = computed(() => (this.shown()?.groups ?? []).map((group) => this.linesOf(group)));
  /** What could still differ in between, by its groups. */
  protected readonly unread = computed(() => this.groups().filter(({ isUnread }) => isUnread));
  /** Those of the same bytes of which the suggested one is there: nobody has to look at them one by one. */
  protected readonly plain = computed(() =>
    this.groups().filter(({ canKeep, group }) => group.likeness === 'exact' && canKeep),
  );
  protected readonly failed = computed(() => troubleOf(this.list));
  protected readonly counted = counted;
  protected readonly bytes = formatBytes;
  protected readonly likeness = LIKENESS;

  constructor() {
    this.store.dispatch(jobs.wanted());
  }

  private linesOf(group: TwinGroup) {
    const key = `${group.likeness} ${group.twins.map(({ asset }) => asset.id).join()}`;
    const keep = this.chosen().get(key) ?? group.suggested;
    const isOpen = group.likeness === 'open';
    const kept = group.twins.find(({ asset }) => asset.id === keep);
    const differs = FACTS.filter(({ of }) => new Set(group.twins.map(({ asset }) => of(asset))).size > 1);
    return {
      ...{ group, key, keep, isOpen, canKeep: !isOpen && kept?.asset.state === 'online' },
      isUnread: isOpen || group.likeness === 'ends',
      // What is only alike is merged one by one: each may be another recording.
      isMany: group.likeness === 'near' && group.twins.length > 2,
      differs: differs.map(({ word }) => word).join(', '),
      same: sameWords(group.same),
      lines: group.twins.map(({ asset, uses }) => ({
        asset,
        file: [
          this.bytes(asset.bytes),
          ...(asset.codec ? [asset.codec] : []),
          ...(asset.width && asset.height ? [`${asset.width} × ${asset.height}`] : []),
        ].join(', '),
        said: [
          ...(asset.title ? [`“${asset.title}”`] : []),
          ...(asset.tags.length > 0 ? [asset.tags.join(', ')] : []),
          ...(asset.markers.length > 0 ? [counted(asset.markers.length, 'marker')] : []),
        ].join(' · '),
        used: [
          ...(uses.stringOuts > 0 ? [counted(uses.stringOuts, 'string-out')] : []),
          ...(asset.bins.length > 0 ? [counted(asset.bins.length, 'bin')] : []),
          ...(uses.subclips > 0 ? [counted(uses.subclips, 'subclip')] : []),
        ].join(', '),
      })),
    };
  }

  protected choose(key: string, assetId: number): void {
    this.chosen.update((chosen) => new Map(chosen).set(key, assetId));
  }

  /** Has files read from beginning to end; what differs is no twin then. */
  protected read(groups: readonly { readonly group: TwinGroup }[]): void {
    const assetIds = groups.flatMap(({ group }) => group.twins.map(({ asset }) => asset.id));
    this.api.call('verify', { assetIds }).subscribe({
      next: () => this.toasts.done(`${counted(assetIds.length, 'file')} will be read whole; see Jobs.`),
      error: (failure: Failure) => this.toasts.failed(failure.message),
    });
  }

  /** Takes what only looks or sounds alike off the list, or puts it back. */
  protected part(group: Pick<TwinGroup, 'twins'>, apart: boolean): void {
    this.busy.set(true);
    this.api.call('partTwins', { assetIds: group.twins.map(({ asset }) => asset.id), apart }).subscribe({
      next: () => {
        this.busy.set(false);
        this.list.reload();
        if (apart)
          this.toasts.done('Noted: not the same. They are not listed as twins any more.', {
            label: 'Undo',
            run: () => this.part(group, false),
          });
      },
      error: (failure: Failure) => this.failedTo(failure),
    });
  }

  private failedTo(failure: Failure): void {
    this.busy.set(false);
    this.toasts.failed(failure.message);
  }

  protected keep(
    groups: readonly {
      readonly keep: number;
      readonly group: { readonly twins: readonly { readonly asset: Pick<Asset, 'id'> }[] };
    }[],
  ): void {
    const asked = groups.map(({ group, keep }) => ({
      keep,
      others: group.twins.flatMap(({ asset }) => (asset.id === keep ? [] : [asset.id])),
    }));
    this.busy.set(true);
    this.api.call('keepTwins', { groups: asked }).subscribe({
      next: ({ group }) => {
        this.busy.set(false);
        this.list.reload();
        const others = asked.reduce((sum, each) => sum + each.others.length, 0);
        const files = others === 1 ? 'Its file stays where it is' : 'Their files stay where they are';
        this.toasts.done(
          `${counted(others, 'asset')} merged. ${files}, as ${others === 1 ? 'another place' : 'other places'}.`,
          {
            label: 'Undo',
            run: () => this.store.dispatch(libraryActions.undo({ group })),
          },
        );
      },
      error: (failure: Failure) => this.failedTo(failure),
    });
  }
}
