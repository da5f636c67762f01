import {
  ChangeDetectionStrategy,
  Component,
  computed,
  ElementRef,
  inject,
  input,
  linkedSignal,
  output,
  signal,
} from '@angular/core';
import { Router } from '@angular/router';
import { NgbDropdownModule } from '@ng-bootstrap/ng-bootstrap';
import { Store } from '@ngrx/store';
import { heardQuery, placeOfMs, readSpoken, type SpokenPlace, type SpokenSort } from '@larder/core/dialogue';
import { combine, parseQuery, printQuery } from '@larder/core/query';
import { HIT_FORMATS, type Asset, type HitFormat, type SpokenAnswer } from '@larder/contract';
import { BinDialog } from '../bins/bin-dialog';
import { binActions } from '../bins/state';
import { LiveBinDialog } from '../bins/live-bin-dialog';
import { PullDialog } from '../projects/pull-dialog';
import { Api, type Failure } from '../shared/api';
import { askedAnew } from '../shared/asked-anew';
import { Fields } from '../shared/fields';
import { callOf, counted, formatCount, placeText } from '../shared/format';
import { Icon } from '../shared/icon';
import { Keys } from '../shared/keys';
import { mayOffer, sessionFeature } from '../shared/session';
import { saveFile } from '../shared/save-file';
import { StateBadge } from '../shared/state-badge';
import { Thumb } from '../shared/thumb';
import { Toasts } from '../shared/toasts';
import { Hearing } from './hearing';
import { HitStrip } from './hit-strip';
import { Keeping, type Kept } from './keeping';
import { searchOf, type SpeechAsked } from './speech-asked';
import { Strictness } from './strictness';

/** Files whose hits are read at once, and the most that the server tells at once. */
const PAGE = 25;
const MOST = 100;
const SORT_LABELS: Readonly<Record<SpokenSort, string>> = {
  best: 'Likeliest first',
  most: 'Most hits first',
  newest: 'Last catalogued first',
};

const HIT_LABELS: Readonly<Record<HitFormat, string>> = {
  csv: 'All hits as a list of markers (CSV)',
  edl: 'All hits as a cut list (EDL)',
  otio: 'All hits as a cut list (OpenTimelineIO)',
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

/** What was said where, file by file, as strictly as one likes, gone through with the sound running. */
@Component({
  selector: 'nl-spoken-files',
  imports: [HitStrip, Icon, NgbDropdownModule, StateBadge, Strictness, Thumb],
  templateUrl: './spoken-files.html',
  styleUrl: './spoken-files.scss',
  changeDetection: ChangeDetectionStrategy.OnPush,
})
export class SpokenFiles {
  readonly asking = input.required<SpeechAsked>();
  readonly sort = input<string | undefined>();
  /** Of the address. */
  readonly changed = output<Readonly<Record<string, string | number | null>>>();
  private readonly api = inject(Api);
  private readonly binDialog = inject(BinDialog);
  private readonly liveBins = inject(LiveBinDialog);
  private readonly fields = inject(Fields);
  private readonly store = inject(Store);
  private readonly pullDialog = inject(PullDialog);
  private readonly router = inject(Router);
  private readonly toasts = inject(Toasts);
  private readonly hearing = inject(Hearing);
  private readonly keeping = inject(Keeping);
  private readonly host = inject<ElementRef<HTMLElement>>(ElementRef).nativeElement;
  private readonly person = this.store.selectSignal(sessionFeature.selectPerson);

  protected readonly mayLog = computed(() => mayOffer(this.person(), 'log'));
  protected readonly mayCut = computed(() => mayOffer(this.person(), 'cut'));
  protected readonly sorts = Object.entries(SORT_LABELS).map(([sort, label]) => ({ sort, label }));
  protected readonly formats = HIT_FORMATS.map((format) => ({ format, label: HIT_LABELS[format] }));
  protected readonly counted = counted;
  protected readonly count = formatCount;

  protected readonly isSort = computed(() =>
    Object.hasOwn(SORT_LABELS, this.sort() ?? '') ? (this.sort() as SpokenSort) : 'best',
  );
  protected readonly narrowing = computed(() => this.asking().query);
  protected readonly atNotch = computed(() => this.asking().notch);
  /** Of another search the first are listed. */
  protected readonly limit = linkedSignal({ source: () => this.asking().said, computation: () => PAGE });

  private readonly asked = askedAnew(
    computed(() => ({ ...this.asking(), sort: this.isSort(), limit: this.limit() })),
    (question) => this.api.call('spoken', question),
  );
  protected readonly failure = this.asked.failure;
  protected readonly again = this.asked.again;
  protected readonly answer = this.asked.value;
  protected readonly isAsking = computed(() => this.asking().said.trim() !== '');
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
  private readonly dismissals = linkedSignal({
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
    source: () => searchOf(this.asking()),
    computation: (): At | null => null,
  });

  constructor() {
    const keys = inject(Keys);
    keys.on('hit.next', () => this.step(1));
    keys.on('hit.before', () => this.step(-1));
    keys.on('hit.keep', () => this.keep());
    keys.on('hit.dismiss', () => this.dismiss());
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
    return this.dismissals().get(id) ?? dismissed;
  }

  /** The hit that was gone to is not seen again when the same is looked for; or is, once more. */
  protected dismiss(): boolean {
    const found = this.currentHit();
    if (!found) return false;
    const dismissed = !this.isDismissed(found.hit);
    if (dismissed) this.step(1);
    this.api
      .call('dismissHit', {
        ...{ said: this.asking().said, assetId: found.file.asset.id, startMs: found.hit.startMs, dismissed },
      })
      .subscribe({
        next: () => this.dismissals.update((all) => new Map(all).set(found.hit.id, dismissed)),
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
    this.hearing.from(asset, place.startMs);
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
    this.keeping.keep(this.keptOf(found.file, found.hit));
    return true;
  }

  private keptOf({ asset }: ShownFile, { confidence, endMs, heard, spelled, startMs }: ShownHit): Kept {
    const sure = spelled ? 'as spelled' : `heard as “${heard}”`;
    return { asset, startMs, endMs, name: this.asking().said, note: `${confidence}% likely, ${sure}` };
  }

  /** The hits that are listed and were not dismissed. */
  private listed(): Kept[] {
    return this.files().flatMap((file) =>
      file.hits.flatMap((hit) => (this.isDismissed(hit) ? [] : [this.keptOf(file, hit)])),
    );
  }

  protected keepAll(): void {
    this.keeping.keepAll(this.listed());
  }

  protected asSubclips(): void {
    this.keeping.asSubclips(this.listed());
  }

  /** One after the other. */
  protected async toStringOut(): Promise<void> {
    const hits = this.listed().map(({ asset, endMs, startMs }) => ({ assetId: asset.id, startMs, endMs }));
    const name = `Said: ${this.asking().said}`;
    const made = await this.pullDialog.askOf(hits, { name, what: 'hit', handlesS: 1 });
    if (made) void this.router.navigate(['/string-outs', made.id]);
  }

  /** The search, with what else holds of the files, goes on being answered. */
  protected async toLiveBin(): Promise<void> {
    const { how, notch, query, said, withinS } = this.asking();
    const heard = heardQuery({ items: readSpoken(said), how, withinMs: Math.round(withinS * 1000) }, notch);
    const fields = this.fields.registry();
    const search = printQuery(combine('all', [parseQuery(query, fields).tree, heard]), fields);
    const bin = await this.liveBins.keep({ name: `Said: ${said}`.slice(0, 60), query: search });
    if (!bin) return;
    this.store.dispatch(binActions.kept({ bin }));
    this.toasts.done(`Kept as the live bin “${bin.name}”.`);
  }

  /** All hits that were not dismissed, listed or not. */
  protected takeAlong(format: HitFormat): void {
    this.api.call('takeHits', { ...this.asking(), sort: this.isSort(), format }).subscribe({
      next: saveFile,
      error: ({ message }: Failure) => this.toasts.failed(message),
    });
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
