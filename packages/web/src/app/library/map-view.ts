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
import { toObservable, toSignal } from '@angular/core/rxjs-interop';
import { ScatterChart } from 'echarts/charts';
import { GeoComponent } from 'echarts/components';
import * as echarts from 'echarts/core';
import { SVGRenderer } from 'echarts/renderers';
import { NgxEchartsDirective, provideEchartsCore } from 'ngx-echarts';
import { catchError, debounceTime, from, map, of, Subject, switchMap } from 'rxjs';
import { feature } from 'topojson-client';
import { combine, parseQuery, printQuery, type Query } from '@larder/core/query';
import { metresBetween, type Box } from '@larder/core/position';
import type { MapWindow, NearestTown } from '@larder/contract';
import { Api, type Failure } from '../shared/api';
import { tokenColour } from '../shared/colours';
import { Fields } from '../shared/fields';
import { counted, formatCount, formatMetres } from '../shared/format';
import { Icon } from '../shared/icon';
import { Settings } from '../shared/settings';
import { placeInWords, fromMercator, paddedBox, roundMetres, toMercator } from './mercator';
import { PickedStrip } from './picked-strip';

echarts.use([GeoComponent, ScatterChart, SVGRenderer]);

type Spot = MapWindow['clusters'][number];

/** Spots side by side across the map at most, so that their numbers do not cover each other. */
const SPOTS_ACROSS = 14;
/** A moment of rest after the map was moved. */
const REST_MS = 180;
const SCALE_PIXELS = 110;
const CLOSEST = 400_000;

/** Where things were recorded: spots with how many there are, the towns around, and the same as a list. */
@Component({
  selector: 'nl-map-view',
  imports: [Icon, NgxEchartsDirective, PickedStrip],
  providers: [provideEchartsCore({ echarts })],
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
  private readonly settings = inject(Settings);
  protected readonly outlined = toSignal(
    // Only whoever looks at a map waits for the outlines.
    from(import('world-atlas/countries-50m.json')).pipe(
      map(({ default: world }) => {
        echarts.registerMap('world', feature(world, world.objects.countries) as never);
        return true;
      }),
    ),
    { initialValue: false },
  );
  private chart: echarts.ECharts | null = null;
  private readonly moved = new Subject<void>();
  /** What the chart shows; null before it does. */
  private readonly box = signal<Box | null>(null);
  protected readonly shown = signal<MapWindow | null>(null);
  protected readonly failure = signal<string | null>(null);
  protected readonly spot = signal<Spot | null>(null);
  protected readonly scale = signal<{ readonly pixels: number; readonly text: string } | null>(null);
  protected readonly count = formatCount;
  protected readonly counted = counted;
  /** All that was found lies within; the map is opened on it, and moved only by people from then on. */
  private readonly opening = signal<Box | null>(null);
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
  protected readonly within = computed(() => {
    const [part, registry] = [this.part(), this.fields.registry()];
    return part ? printQuery(combine('all', [parseQuery(this.query(), registry).tree, part]), registry) : '';
  });

  protected readonly options = computed(() => {
    const opening = this.opening();
    if (!opening || !this.outlined()) return null;
    this.settings.theme();
    return {
      animation: false,
      geo: {
        map: 'world',
        roam: true,
        silent: true,
        projection: { project: toMercator, unproject: fromMercator },
        boundingCoords: [
          [opening.west, opening.north],
          [opening.east, opening.south],
        ],
        ...{ left: 0, right: 0, top: 0, bottom: 0 },
        scaleLimit: { min: 0.000_001, max: CLOSEST },
        itemStyle: { areaColor: tokenColour('--nl-card'), borderColor: tokenColour('--nl-muted'), borderWidth: 0.6 },
      },
      ...this.series(),
    };
  });

  constructor() {
    this.moved.pipe(debounceTime(REST_MS)).subscribe(() => this.look());
    toObservable(computed(() => ({ query: this.query(), revision: this.revision(), box: this.box() })))
      .pipe(
        switchMap(({ query, revision, box }) =>
          this.api
            .call('map', { query, box, columns: SPOTS_ACROSS, atLeast: revision })
            .pipe(catchError((failure: Failure) => of(failure))),
        ),
      )
      .subscribe((answer) => {
        if ('message' in answer) return this.failure.set(answer.message);
        this.failure.set(null);
        this.shown.set(answer);
        this.spot.update((spot) => answer.clusters.find((each) => each.id === spot?.id) ?? null);
        if (answer.around && !this.opening()) this.opening.set(paddedBox(answer.around));
      });
    // Another search opens the map anew.
    effect(() => {
      this.query();
      untracked(() => {
        this.box.set(null);
        this.opening.set(null);
        this.spot.set(null);
      });
    });
    effect(() => {
      const series = this.series();
      untracked(() => this.chart?.setOption(series));
    });
  }

  protected begin(chart: echarts.ECharts): void {
    this.chart = chart;
    chart.on('georoam', () => this.moved.next());
    chart.on('click', (event) => {
      const id = (event.data as { id?: number } | undefined)?.id;
      this.spot.set(this.shown()?.clusters.find((spot) => spot.id === id) ?? null);
    });
    this.moved.next();
  }

  protected zoom(by: number): void {
    const chart = this.chart;
    if (!chart) return;
    const [originX, originY] = [chart.getWidth() / 2, chart.getHeight() / 2];
    chart.dispatchAction({ type: 'geoRoam', componentType: 'geo', geoIndex: 0, zoom: by, originX, originY });
    this.moved.next();
  }

  /** Back to where all of it is seen. */
  protected all(): void {
    const around = this.shown()?.around;
    this.box.set(null);
    this.opening.set(null);
    if (around) queueMicrotask(() => this.opening.set(paddedBox(around)));
  }

  protected title({ places, count }: Spot): string {
    return places.length > 0 ? places.join(', ') : counted(count, 'asset');
  }

  protected distance(town: NearestTown | null): string {
    if (!town) return '';
    return town.metres < 2000 ? `in ${town.name}` : `${formatMetres(town.metres)} ${town.side} of ${town.name}`;
  }

  protected whereabouts({ latitude, longitude, metres }: Spot): string {
    return `${placeInWords(latitude, longitude)}${metres > 0 ? `, within ${formatMetres(metres)}` : ''}`;
  }

  /** Asks for what the map shows now. */
  private look(): void {
    const chart = this.chart;
    if (!chart || chart.isDisposed() || chart.getWidth() === 0) return;
    const [west, north] = this.placeAt(chart, 0, 0);
    const [east, south] = this.placeAt(chart, chart.getWidth(), chart.getHeight());
    if (![west, north, east, south].every(Number.isFinite)) return;
    this.box.set({
      south: Math.max(-90, south),
      north: Math.min(90, north),
      west: Math.max(-180, west),
      east: Math.min(180, east),
    });
    this.measure(chart);
  }

  private placeAt(chart: echarts.ECharts, x: number, y: number): [number, number] {
    return chart.convertFromPixel({ geoIndex: 0 }, [x, y]) as [number, number];
  }

  /** A length on the map in round metres, across its middle. */
  private measure(chart: echarts.ECharts): void {
    const [x, y] = [chart.getWidth() / 2, chart.getHeight() / 2];
    const [a, b] = [this.placeAt(chart, x - SCALE_PIXELS / 2, y), this.placeAt(chart, x + SCALE_PIXELS / 2, y)];
    const metres = metresBetween({ latitude: a[1], longitude: a[0] }, { latitude: b[1], longitude: b[0] });
    const power = 10 ** Math.floor(Math.log10(metres));
    const round = [5, 2, 1].map((step) => step * power).find((step) => step <= metres) ?? power;
    this.scale.set({ pixels: (round / metres) * SCALE_PIXELS, text: formatMetres(round) });
  }

  private series() {
    const [spots, towns] = [this.shown()?.clusters ?? [], this.shown()?.towns ?? []];
    const chosen = this.spot()?.id;
    this.settings.theme();
    const text = { fontFamily: 'Source Sans 3 Variable', show: true };
    return {
      series: [
        {
          ...{ id: 'towns', type: 'scatter', coordinateSystem: 'geo', silent: true, symbolSize: 4, z: 2 },
          itemStyle: { color: tokenColour('--nl-muted') },
          label: { ...text, formatter: '{b}', position: 'right', color: tokenColour('--nl-muted'), fontSize: 11 },
          labelLayout: { hideOverlap: true },
          data: towns.map(({ name, latitude, longitude }) => ({ name, value: [longitude, latitude] })),
        },
        {
          ...{ id: 'spots', type: 'scatter', coordinateSystem: 'geo', z: 5 },
          label: { ...text, color: tokenColour('--nl-accent-ink'), fontWeight: 600 },
          data: spots.map((spot) => ({
            id: spot.id,
            value: [spot.longitude, spot.latitude],
            label: { formatter: formatCount(spot.count) },
            symbolSize: 22 + 7 * Math.log10(spot.count),
            itemStyle: {
              color: tokenColour('--nl-accent'),
              borderColor: tokenColour(spot.id === chosen ? '--nl-ink' : '--nl-card'),
              borderWidth: spot.id === chosen ? 4 : 2,
            },
          })),
        },
      ],
    };
  }
}

const roundedPlace = ({ latitude, longitude }: Spot) => ({
  latitude: Number(latitude.toFixed(5)),
  longitude: Number(longitude.toFixed(5)),
});
