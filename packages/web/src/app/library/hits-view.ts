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
import { placeOfMs } from '@larder/core/dialogue';
import type { FieldRegistry } from '@larder/core/fields';
import { MARKER_KIND_LABELS, type Marker } from '@larder/core/markers';
import { excerpt, matchesIn, parseQuery, type Piece, type Query } from '@larder/core/query';
import type { AskedOrder, Asset, SpokenExcerpt } from '@larder/contract';
import { Api } from '../shared/api';
import { askedAnew } from '../shared/asked-anew';
import { Fields } from '../shared/fields';
import { callOf, counted, formatCount, placeText } from '../shared/format';
import { Icon } from '../shared/icon';
import { Keys } from '../shared/keys';
import { StateBadge } from '../shared/state-badge';
import { Thumb } from '../shared/thumb';
import { WantedHit } from '../shared/wanted-hit';

/** Assets whose hits are read at once. */
const PAGE = 50;
/** More at once the server does not tell; who wants to see further searches for less. */
const MOST = 500;

interface Hit {
  readonly id: string;
  readonly start: number;
  readonly place: string;
  /** In place of words where it has none. */
  readonly label: string;
  readonly spoken: boolean;
  readonly colour: Marker['colour'];
  readonly pieces: readonly Piece[];
  /** All of it at length, its kind and its colour in words. */
  readonly title: string;
}

interface AssetHits {
  readonly asset: Asset;
  readonly call: string;
  readonly hits: readonly Hit[];
  /** Hits of it that are not listed. */
  readonly more: number;
}

function markerHit(asset: Asset, marker: Marker, tree: Query, registry: FieldRegistry): Hit {
  const { id, start, end, kind, colour, name, note } = marker;
  const text = [name, note].filter(Boolean).join(' – ');
  const [found] = matchesIn(tree, { marker: [text] }, registry);
  const at = placeText(asset, start);
  const label = MARKER_KIND_LABELS[kind];
  return {
    ...{ id: `marker ${id}`, start, colour, label: `${label} without words`, spoken: false },
    title: [colour === 'none' ? label : `${label}, ${colour}`, text].filter(Boolean).join(': '),
    place: end === null ? at : `${at} – ${placeText(asset, end - 1)}`,
    pieces: found ? excerpt(found) : text === '' ? [] : [{ text, hit: false }],
  };
}

/** Letters before a hit: with more, it would not be seen on one line. */
const LEAD = 56;
const lastOf = (text: string): string => (text.length <= LEAD ? text : `… ${text.slice(-LEAD).trimStart()}`);

function spokenHit(asset: Asset, { startMs, before, hit, after, certainty }: SpokenExcerpt, at: number): Hit {
  const start = placeOfMs(startMs, asset.rate);
  const piece = (text: string, isHit: boolean) => (text === '' ? [] : [{ text, hit: isHit }]);
  const sure = certainty === null ? 'Said' : `Said, ${Math.round(certainty * 100)}% sure`;
  return {
    ...{
      id: `said ${asset.id} ${at}`,
      start,
      colour: 'none',
      label: 'Said',
      spoken: true,
      place: placeText(asset, start),
    },
    title: `${sure}: ${[before, hit, after].filter(Boolean).join(' ')}`,
    pieces: [
      ...piece(before && `${lastOf(before)} `, false),
      ...piece(hit, true),
      ...piece(after && ` ${after}`, false),
    ],
  };
}

/** What was found as places in time: each asset with the markers and the words spoken that say what was searched for, or with all of its markers. */
@Component({
  selector: 'nl-hits-view',
  imports: [Icon, StateBadge, Thumb],
  templateUrl: './hits-view.html',
  styleUrl: './hits-view.scss',
  changeDetection: ChangeDetectionStrategy.OnPush,
})
export class HitsView {
  readonly query = input.required<string>();
  readonly order = input.required<AskedOrder>();
  readonly revision = input.required<number>();
  readonly selected = input.required<ReadonlySet<number>>();
  readonly chosen = output<readonly number[]>();
  private readonly api = inject(Api);
  private readonly fields = inject(Fields);
  private readonly wanted = inject(WantedHit);
  private readonly host = inject<ElementRef<HTMLElement>>(ElementRef).nativeElement;
  private readonly limit = linkedSignal({ source: () => this.query(), computation: () => PAGE });
  private readonly asked = askedAnew(
    computed(() => ({ query: this.query(), sort: this.order(), limit: this.limit(), atLeast: this.revision() })),
    (question) => this.api.call('hits', question),
  );
  protected readonly failure = this.asked.failure;
  protected readonly again = this.asked.again;
  protected readonly answer = this.asked.value;
  protected readonly counted = counted;
  protected readonly count = formatCount;
  /** The hit that was gone to last. */
  protected readonly current = signal<string | null>(null);
  protected readonly groups = computed((): readonly AssetHits[] => {
    const registry = this.fields.registry();
    const { tree } = parseQuery(this.query(), registry);
    return (this.answer()?.assets ?? [])
      .map(({ asset, hits, said, more }) => ({
        asset,
        ...{ call: callOf(asset), more },
        hits: [
          ...hits.map((marker) => markerHit(asset, marker, tree, registry)),
          ...said.map((each, at) => spokenHit(asset, each, at)),
        ].sort((a, b) => a.start - b.start),
      }))
      .filter(({ hits }) => hits.length > 0);
  });
  /** How many are listed, and of how many assets; more of these are read when they are asked for. */
  protected readonly listed = computed(() => this.groups().reduce((sum, { hits }) => sum + hits.length, 0));
  protected readonly more = computed(() =>
    Math.max(0, (this.answer()?.total ?? 0) - (this.answer()?.assets.length ?? 0)),
  );
  protected readonly mayHaveMore = computed(() => this.limit() < MOST);

  constructor() {
    const keys = inject(Keys);
    keys.on('list.down', () => this.step(1));
    keys.on('list.up', () => this.step(-1));
  }

  protected showMore(): void {
    this.limit.update((limit) => Math.min(MOST, limit + PAGE));
  }

  protected go(asset: Asset, hit: Hit): void {
    this.current.set(hit.id);
    this.wanted.choose({ query: this.query(), assetId: asset.id, place: hit.start });
    this.chosen.emit([asset.id]);
  }

  private step(by: 1 | -1): boolean {
    const all = this.groups().flatMap(({ asset, hits }) => hits.map((hit) => ({ asset, hit })));
    const at = all.findIndex(({ hit }) => hit.id === this.current());
    const next = all[at < 0 ? 0 : at + by];
    if (!next) return false;
    this.go(next.asset, next.hit);
    this.host.querySelector(`[data-hit="${next.hit.id}"]`)?.scrollIntoView({ block: 'nearest' });
    return true;
  }
}
