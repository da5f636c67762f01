import {
  ChangeDetectionStrategy,
  Component,
  computed,
  ElementRef,
  inject,
  input,
  linkedSignal,
  signal,
  viewChild,
} from '@angular/core';
import { Router } from '@angular/router';
import { Store } from '@ngrx/store';
import { NOTCHES, placeOfMs, type SpokenHow, type SpokenPlace, type SpokenSort } from '@larder/core/dialogue';
import type { NewMarker } from '@larder/core/markers';
import { parseQuery, wordQueryIssue } from '@larder/core/query';
import type { Asset, SpokenAnswer } from '@larder/contract';
import { BinDialog } from '../bins/bin-dialog';
import { libraryActions } from '../library/state/library.actions';
import { libraryFeature } from '../library/state/library.reducer';
import { PullDialog } from '../projects/pull-dialog';
import { Api, type Failure } from '../shared/api';
import { askedAnew } from '../shared/asked-anew';
import { Fields } from '../shared/fields';
import { callOf, counted, formatCount, placeText } from '../shared/format';
import { Icon } from '../shared/icon';
import { Keys } from '../shared/keys';
import { mayOffer, sessionFeature } from '../shared/session';
import { Settings } from '../shared/settings';
import { StateBadge } from '../shared/state-badge';
import { Thumb } from '../shared/thumb';
import { Toasts } from '../shared/toasts';
import { WantedHit } from '../shared/wanted-hit';
import { Writes } from '../shared/writes';
import { HitStrip } from './hit-strip';
import { Strictness } from './strictness';

/** Files whose hits are read at once, and the most that the server tells at once. */
const PAGE = 25;
const MOST = 100;
/** Before a hit so much is played, so that one hears how it comes to be said. */
const PRE_ROLL_MS = 1500;
const WITHIN_S = 10;
/** As the server takes them. */
const [LEAST_WITHIN_S, MOST_WITHIN_S] = [0.1, 3600];
/** Hits that go into a string-out at once. */
const MOST_CUT = 2000;

const HOW_LABELS: Readonly<Record<SpokenHow, string>> = {
  all: 'all of it in one file',
  any: 'any of it',
  near: 'all of it close together',
};
const SORT_LABELS: Readonly<Record<SpokenSort, string>> = {
  best: 'Likeliest first',
  most: 'Most hits first',
  newest: 'Last catalogued first',
};

type File = SpokenAnswer['files'][number];

interface ShownHit extends SpokenPlace {
  readonly dismissed: boolean;
  readonly id: string;
  readonly place: string;
  readonly title: string;
}

interface ShownFile {
  readonly asset: Asset;
  readonly call: string;
  readonly count: number;
  readonly best: number;
  readonly durationMs: number;
  readonly places: readonly SpokenPlace[];
  readonly hits: readonly ShownHit[];
  readonly more: number;
}

/** A hit by its file and its place among the hits of that. */
interface At {
  readonly assetId: number;
  readonly at: number;
}

/** Hits of a file that are written out at once; all are on its strip. */
const WRITTEN = 6;

/** Speech of the whole library: what was said where, as strictly as one likes, gone through with the sound running. */
@Component({
  selector: 'nl-dialogue',
  imports: [HitStrip, Icon, StateBadge, Strictness, Thumb],
  templateUrl: './dialogue.html',
  styleUrl: './dialogue.scss',
  changeDetection: ChangeDetectionStrategy.OnPush,
})
export class Dialogue {
  /** From the address: what is looked for in speech and how, and what else holds of the files. */
  readonly said = input<string | undefined>();
  readonly how = input<string | undefined>();
  readonly within = input<string | undefined>();
  readonly notch = input<string | undefined>();
  readonly sort = input<string | undefined>();
  readonly q = input<string | undefined>();
  private readonly api = inject(Api);
  private readonly binDialog = inject(BinDialog);
  private readonly fields = inject(Fields);
  private readonly pullDialog = inject(PullDialog);
  private readonly router = inject(Router);
  private readonly settings = inject(Settings);
  private readonly store = inject(Store);
  private readonly toasts = inject(Toasts);
  private readonly wanted = inject(WantedHit);
  private readonly writes = inject(Writes);
  private readonly host = inject<ElementRef<HTMLElement>>(ElementRef).nativeElement;
  private readonly box = viewChild.required<ElementRef<HTMLInputElement>>('box');
  private readonly person = this.store.selectSignal(sessionFeature.selectPerson);
  private readonly revision = this.store.selectSignal(sessionFeature.selectRevision);
  /** What the details take a hit to be one of. */
  private readonly librarySearch = this.store.selectSignal(libraryFeature.selectSearch);

  protected readonly mayLog = computed(() => mayOffer(this.person(), 'log'));
  protected readonly mayCut = computed(() => mayOffer(this.person(), 'cut'));
  protected readonly hows = Object.entries(HOW_LABELS).map(([how, label]) => ({ how, label }));
  protected readonly sorts = Object.entries(SORT_LABELS).map(([sort, label]) => ({ sort, label }));
  protected readonly counted = counted;
  protected readonly count = formatCount;

  protected readonly asksFor = computed(() => this.said() ?? '');
  protected readonly isHow = computed(() =>
    Object.hasOwn(HOW_LABELS, this.how() ?? '') ? (this.how() as SpokenHow) : 'all',
  );
  protected readonly isSort = computed(() =>
    Object.hasOwn(SORT_LABELS, this.sort() ?? '') ? (this.sort() as SpokenSort) : 'best',
  );
  protected readonly withinS = computed(() => {
    const seconds = Number(this.within() ?? WITHIN_S);
    return seconds >= LEAST_WITHIN_S && seconds <= MOST_WITHIN_S ? seconds : WITHIN_S;
  });
  protected readonly atNotch = computed(() => {
    const at = Number(this.notch() ?? 0);
    return NOTCHES[at] ? at : 0;
  });
  protected readonly narrowing = computed(() => (this.q() ?? '').trim());
  /** A search that cannot be read narrows nothing: it is said what is wrong with it. */
  protected readonly issue = computed(() => {
    const [issue] = parseQuery(this.narrowing(), this.fields.registry()).issues;
    return issue ? wordQueryIssue(issue) : null;
  });
  protected readonly limit = signal(PAGE);

  private readonly asked = askedAnew(
    computed(() => ({
      ...{ said: this.asksFor(), how: this.isHow(), withinS: this.withinS(), notch: this.atNotch() },
      ...{ sort: this.isSort(), query: this.issue() ? '' : this.narrowing(), limit: this.limit() },
      atLeast: this.revision(),
    })),
    (question) => this.api.call('spoken', question),
  );
  protected readonly failure = this.asked.failure;
  protected readonly again = this.asked.again;
  protected readonly answer = this.asked.value;
  protected readonly isAsking = computed(() => this.asksFor().trim() !== '');
  protected readonly found = computed(() => this.answer()?.notches[this.atNotch()] ?? { files: 0, hits: 0 });
  /** What the next looser notch that finds more would bring. */
  protected readonly looser = computed(() => {
    const notches = this.answer()?.notches ?? [];
    const at = notches.findIndex(({ hits }, at) => at > this.atNotch() && hits > this.found().hits);
    return at < 0 ? null : { at, hits: (notches[at]?.hits ?? 0) - this.found().hits };
  });
  protected readonly unspeakable = computed(() =>
    (this.answer()?.items ?? []).filter(({ sounds }) => sounds === '').map(({ text }) => text),
  );
  protected readonly files = computed((): readonly ShownFile[] => (this.answer()?.files ?? []).map(shownFile));
  protected readonly more = computed(() => Math.max(0, this.found().files - this.files().length));
  protected readonly mayHaveMore = computed(() => this.limit() < MOST);
  /** Hits that were dismissed a moment ago, or are wanted again; until the next answer. */
  private readonly changed = linkedSignal({
    source: () => this.answer(),
    computation: (): ReadonlyMap<string, boolean> => new Map(),
  });
  /** Those that were dismissed are shown too. */
  protected readonly showsDismissed = signal(false);
  protected readonly dismissed = computed(() =>
    this.files().reduce((sum, { hits }) => sum + hits.filter((hit) => this.isDismissed(hit)).length, 0),
  );
  private readonly hits = computed((): readonly At[] =>
    this.files().flatMap(({ asset, hits }) =>
      hits.flatMap((hit, at) => (this.isDismissed(hit) ? [] : [{ assetId: asset.id, at }])),
    ),
  );
  /** The hit that was gone to; of another search there is none yet. */
  protected readonly current = linkedSignal({
    source: () => [this.asksFor(), this.isHow(), this.withinS(), this.atNotch(), this.narrowing()].join('\n'),
    computation: (): At | null => null,
  });

  constructor() {
    const keys = inject(Keys);
    keys.on('hit.next', () => this.step(1));
    keys.on('hit.before', () => this.step(-1));
    keys.on('hit.keep', () => this.keep());
    keys.on('hit.dismiss', () => this.dismiss());
    keys.on('hit.speech', () => {
      this.box().nativeElement.focus();
      this.box().nativeElement.select();
    });
  }

  /** Each letter replaces the address, so that "back" leaves the search instead of spelling it backwards. */
  protected change(change: Readonly<Record<string, string | number | null>>): void {
    if ('said' in change) this.limit.set(PAGE);
    void this.router.navigate(['/dialogue'], {
      queryParams: change,
      queryParamsHandling: 'merge',
      replaceUrl: true,
    });
  }

  /** What cannot be is put as the nearest that can. */
  protected setWithin(box: HTMLInputElement): void {
    const seconds = Math.min(MOST_WITHIN_S, Math.max(LEAST_WITHIN_S, Number(box.value) || WITHIN_S));
    box.value = String(seconds);
    this.change({ within: seconds });
  }

  protected showMore(): void {
    this.limit.update((limit) => Math.min(MOST, limit + PAGE));
  }

  protected currentIn({ asset }: ShownFile): number | null {
    const current = this.current();
    return current?.assetId === asset.id ? current.at : null;
  }

  /** The hits of a file that are written out: those around the one that was gone to. */
  protected written(file: ShownFile): readonly ShownHit[] {
    const hits = this.showsDismissed() ? file.hits : file.hits.filter((hit) => !this.isDismissed(hit));
    const current = hits.findIndex((hit) => this.atOf(file, hit) === this.currentIn(file));
    const first = Math.max(0, Math.min(current - 2, hits.length - WRITTEN));
    return hits.slice(first, first + WRITTEN);
  }

  protected isDismissed({ dismissed, id }: ShownHit): boolean {
    return this.changed().get(id) ?? dismissed;
  }

  /** The hit that was gone to is not seen again when the same is looked for; or is, once more. */
  protected dismiss(): boolean {
    const found = this.currentHit();
    if (!found) return false;
    const dismissed = !this.isDismissed(found.hit);
    if (dismissed) this.step(1);
    this.api
      .call('dismissHit', {
        ...{ said: this.asksFor(), assetId: found.file.asset.id, startMs: found.hit.startMs, dismissed },
      })
      .subscribe({
        next: () => this.changed.update((all) => new Map(all).set(found.hit.id, dismissed)),
        error: ({ message }: Failure) => this.toasts.failed(message),
      });
    return true;
  }

  private currentHit(): { readonly file: ShownFile; readonly hit: ShownHit } | null {
    const current = this.current();
    const file = this.files().find(({ asset }) => asset.id === current?.assetId);
    const hit = file?.hits[current?.at ?? 0];
    return file && hit ? { file, hit } : null;
  }

  protected atOf(file: ShownFile, hit: ShownHit): number {
    return file.hits.indexOf(hit);
  }

  /** Opens the file a little before the hit, and plays on. */
  protected go({ asset, places }: ShownFile, at: number): void {
    const place = places[at];
    if (!place) return;
    this.current.set({ assetId: asset.id, at });
    this.wanted.choose({
      ...{ query: this.librarySearch(), assetId: asset.id, plays: true },
      place: placeOfMs(Math.max(0, place.startMs - PRE_ROLL_MS), asset.rate),
    });
    this.settings.details.set(true);
    this.store.dispatch(libraryActions.selectionFound({ ids: [asset.id], anchor: -1, focus: -1 }));
  }

  private step(by: 1 | -1): boolean {
    const current = this.current();
    const all = this.hits();
    const now = all.findIndex(({ assetId, at }) => assetId === current?.assetId && at === current.at);
    const next = all[now < 0 ? (by > 0 ? 0 : all.length - 1) : now + by];
    const file = this.files().find(({ asset }) => asset.id === next?.assetId);
    if (!next || !file) return false;
    this.go(file, next.at);
    this.host.querySelector(`[data-file="${next.assetId}"]`)?.scrollIntoView({ block: 'nearest' });
    return true;
  }

  /** The hit that was gone to becomes a marker: what was looked for, and how likely it is. */
  protected keep(): boolean {
    const found = this.currentHit();
    if (!found || !this.mayLog()) return false;
    const { file, hit } = found;
    const { asset } = file;
    const { durationFrames, durationMs, rate } = asset;
    const length = (rate ? durationFrames : durationMs) ?? Infinity;
    const sure = hit.spelled ? 'as spelled' : `heard as “${hit.heard}”`;
    const marker: NewMarker = {
      ...{ kind: 'hit', colour: 'none', name: this.asksFor().slice(0, 200) },
      start: placeOfMs(hit.startMs, rate),
      end: Math.min(length, placeOfMs(hit.endMs, rate) + 1),
      note: `${hit.confidence}% likely, ${sure}`,
    };
    this.writes
      .inTurn(() => this.api.call('newMarker', marker, asset.id))
      .subscribe({
        next: (written) => {
          this.store.dispatch(libraryActions.edited({ ...written, label: 'Hit kept as a marker' }));
          this.toasts.done(`Kept as a marker in “${file.call}”.`);
        },
        error: ({ message }: Failure) => this.toasts.failed(`The hit was not kept. ${message}`),
      });
    return true;
  }

  /** The hits that are listed, one after the other. */
  protected async toStringOut(): Promise<void> {
    const hits = this.files().flatMap(({ asset, hits }) =>
      hits.flatMap((hit) =>
        this.isDismissed(hit) ? [] : [{ assetId: asset.id, startMs: hit.startMs, endMs: hit.endMs }],
      ),
    );
    const made = await this.pullDialog.askOf(hits.slice(0, MOST_CUT), `Said: ${this.asksFor()}`.slice(0, 120));
    if (made) void this.router.navigate(['/string-outs', made.id]);
  }

  protected async toBin(): Promise<void> {
    const ids = this.files().map(({ asset }) => asset.id);
    const path = await this.binDialog.ask(ids);
    if (path !== null) this.toasts.done(`${counted(ids.length, 'asset')} put into “${path}”.`);
  }
}

function shownFile({ asset, best, count, hits }: File): ShownFile {
  return {
    ...{ asset, best, count, places: hits, call: callOf(asset), durationMs: asset.durationMs ?? 0 },
    hits: hits.map((hit, at) => ({
      ...hit,
      id: `${asset.id}-${at}`,
      place: placeText(asset, placeOfMs(hit.startMs, asset.rate)),
      title: `${hit.confidence}% likely: ${[hit.before, hit.heard, hit.after].filter(Boolean).join(' ')}`,
    })),
    more: count - hits.length,
  };
}
