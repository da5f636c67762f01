import {
  ChangeDetectionStrategy,
  Component,
  computed,
  effect,
  inject,
  input,
  output,
  signal,
  untracked,
} from '@angular/core';
import type { Query } from '@larder/core/query';
import type { Box } from '@larder/core/position';
import type { MapWindow, NearestTown } from '@larder/contract';
import { Api } from '../shared/api';
import { Fields } from '../shared/fields';
import { counted, formatCount, formatMetres } from '../shared/format';
import { Icon } from '../shared/icon';
import { askedAnew } from '../shared/asked-anew';
import { MapChart } from './map-chart';
import { paddedBox, placeInWords, roundMetres } from './mercator';
import { narrowed } from './narrowing';
import { PickedStrip } from './picked-strip';

type Spot = MapWindow['clusters'][number];

/** Spots side by side across the map at most, so that their numbers do not cover each other. */
const SPOTS_ACROSS = 14;

/** Where things were recorded: spots with how many there are, the towns around, and the same as a list. */
@Component({
  selector: 'nl-map-view',
  imports: [Icon, MapChart, PickedStrip],
  templateUrl: './map-view.html',
  styleUrl: './at-a-glance.scss',
  changeDetection: ChangeDetectionStrategy.OnPush,
})
export class MapView {
  readonly query = input.required<string>();
  readonly revision = input.required<number>();
  /** To be searched for beside the query. */
  readonly narrowed = output<Query>();
  readonly chosen = output<readonly number[]>();
  private readonly api = inject(Api);
  private readonly fields = inject(Fields);
  /** What the chart shows; null before it does. */
  protected readonly box = signal<Box | null>(null);
  private readonly asked = askedAnew(
    computed(() => ({ query: this.query(), box: this.box(), columns: SPOTS_ACROSS, atLeast: this.revision() })),
    (question) => this.api.call('map', question),
  );
  protected readonly shown = this.asked.value;
  protected readonly failure = this.asked.failure;
  protected readonly again = this.asked.again;
  /** The spot that was picked, by the id of its first; what is known of it is as of the last answer. */
  protected readonly picked = signal<number | null>(null);
  protected readonly spot = computed(() => this.shown()?.clusters.find(({ id }) => id === this.picked()) ?? null);
  protected readonly count = formatCount;
  protected readonly counted = counted;
  /** All that was found lies within; the map is opened on it, and moved only by people from then on. */
  protected readonly opening = signal<Box | null>(null);
  protected readonly spots = computed(() => [...(this.shown()?.clusters ?? [])].sort((a, b) => b.count - a.count));
  protected readonly unplaced = computed(() => (this.shown()?.total ?? 0) - (this.shown()?.placed ?? 0));

  protected readonly part = computed((): Query | null => {
    const spot = this.spot();
    // Somewhat more than the spot is wide, so that what lies on its edge is found as well.
    return (
      spot && {
        kind: 'field',
        field: 'position',
        test: { op: 'near', ...roundedPlace(spot), metres: roundMetres(spot.metres + 10) },
      }
    );
  });
  protected readonly within = computed(() => narrowed(this.query(), this.part(), this.fields.registry()));

  constructor() {
    effect(() => {
      const around = this.shown()?.around;
      untracked(() => {
        if (around && !this.opening()) this.opening.set(paddedBox(around));
      });
    });
    // Another search opens the map anew.
    effect(() => {
      this.query();
      untracked(() => {
        this.box.set(null);
        this.opening.set(null);
        this.picked.set(null);
      });
    });
  }

  /** Back to where all of it is seen. */
  protected all(): void {
    const around = this.shown()?.around;
    if (around) this.opening.set(paddedBox(around));
  }

  /** What people call the place; where nobody has said, where it lies. */
  protected title({ places, town, ...spot }: Spot): string {
    return places.join(', ') || this.distance(town) || placeInWords(spot.latitude, spot.longitude);
  }

  /** What stands below the title: what that does not say. */
  protected below({ places, town, ...spot }: Spot): string {
    return places.length > 0 ? this.distance(town) : placeInWords(spot.latitude, spot.longitude);
  }

  private distance(town: NearestTown | null): string {
    if (!town) return '';
    return town.metres < 2000 ? `in ${town.name}` : `${formatMetres(town.metres)} ${town.side} of ${town.name}`;
  }

  protected whereabouts({ latitude, longitude, metres, places, town }: Spot): string {
    const around = metres > 20 ? `, within ${formatMetres(metres)}` : '';
    const far = places.length > 0 ? ` · ${this.distance(town)}` : '';
    return `${placeInWords(latitude, longitude)}${around}${far}`;
  }
}

const roundedPlace = ({ latitude, longitude }: Spot) => ({
  latitude: Number(latitude.toFixed(5)),
  longitude: Number(longitude.toFixed(5)),
});
