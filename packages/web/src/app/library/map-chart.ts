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
import { takeUntilDestroyed, toSignal } from '@angular/core/rxjs-interop';
import { ScatterChart } from 'echarts/charts';
import { GeoComponent } from 'echarts/components';
import * as echarts from 'echarts/core';
import { SVGRenderer } from 'echarts/renderers';
import { NgxEchartsDirective, provideEchartsCore } from 'ngx-echarts';
import { debounceTime, from, map, Subject } from 'rxjs';
import { feature } from 'topojson-client';
import { metresBetween, type Box } from '@larder/core/position';
import type { MapWindow, Town } from '@larder/contract';
import { tokenColour } from '../shared/colours';
import { formatCount, formatMetres } from '../shared/format';
import { Icon } from '../shared/icon';
import { Settings } from '../shared/settings';
import { fromMercator, toMercator } from './mercator';

echarts.use([GeoComponent, ScatterChart, SVGRenderer]);

/** A moment of rest after the map was moved. */
const REST_MS = 180;
const SCALE_PIXELS = 110;
const CLOSEST = 400_000;

/** The map itself: the world's outlines (Natural Earth's, as the package world-atlas ships them), spots and towns on it. */
@Component({
  selector: 'nl-map-chart',
  imports: [Icon, NgxEchartsDirective],
  providers: [provideEchartsCore({ echarts })],
  template: `
    <!-- Another beginning is another chart: one that was moved keeps where it was. -->
    @for (shown of options() ? [options()] : []; track shown) {
      <div
        echarts
        class="canvas"
        [options]="$any(shown)"
        [initOpts]="{ renderer: 'svg' }"
        role="img"
        aria-label="Map; the same as a list beside it"
        (chartInit)="begin($event)"
      ></div>
    }
    <div class="over">
      <button type="button" class="btn btn-plain btn-sm" (click)="zoom(2)" title="Closer">
        <nl-icon name="plus" /><span class="visually-hidden">Closer</span>
      </button>
      <button type="button" class="btn btn-plain btn-sm" (click)="zoom(0.5)" title="Further away">
        <nl-icon name="minus" /><span class="visually-hidden">Further away</span>
      </button>
      <button type="button" class="btn btn-plain btn-sm" (click)="whole.emit()" title="Show all of it">
        <nl-icon name="full" /><span class="visually-hidden">Show all of it</span>
      </button>
    </div>
    @if (scale(); as bar) {
      <div class="scale mono" [style.width.px]="bar.pixels">{{ bar.text }}</div>
    }
  `,
  styles: `
    :host {
      display: block;
      position: relative;
      min-width: 0;
      min-height: 0;
    }
    .canvas {
      position: absolute;
      inset: 0;
    }
    .over {
      position: absolute;
      right: 10px;
      top: 10px;
      display: flex;
      flex-direction: column;
      gap: 4px;
    }
    .scale {
      position: absolute;
      left: 14px;
      bottom: 12px;
      border-bottom: 2px solid var(--nl-ink);
      background: color-mix(in srgb, var(--nl-card) 80%, transparent);
      font-size: 0.78rem;
      text-align: center;
      white-space: nowrap;
      pointer-events: none;
    }
  `,
  changeDetection: ChangeDetectionStrategy.OnPush,
})
export class MapChart {
  /** What is seen at first. */
  readonly opening = input.required<Box>();
  readonly spots = input.required<MapWindow['clusters']>();
  readonly towns = input.required<readonly Town[]>();
  /** The spot that is picked, by the id of its first. */
  readonly picked = input.required<number | null>();
  /** What is seen, after people have moved it. */
  readonly moved = output<Box>();
  readonly pick = output<number>();
  readonly whole = output();
  private readonly settings = inject(Settings);
  private readonly outlined = toSignal(
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
  private readonly stirred = new Subject<void>();
  protected readonly scale = signal<{ readonly pixels: number; readonly text: string } | null>(null);

  protected readonly options = computed(() => {
    const { west, north, east, south } = this.opening();
    if (!this.outlined()) return null;
    this.settings.theme();
    return {
      animation: false,
      geo: {
        ...{ map: 'world', roam: true, silent: true },
        projection: { project: toMercator, unproject: fromMercator },
        boundingCoords: [
          [west, north],
          [east, south],
        ],
        ...{ layoutCenter: ['50%', '50%'], layoutSize: '100%' },
        scaleLimit: { min: 1 / CLOSEST, max: CLOSEST },
        itemStyle: { areaColor: tokenColour('--nl-card'), borderColor: tokenColour('--nl-muted'), borderWidth: 0.6 },
      },
      ...untracked(() => this.series()),
    };
  });

  constructor() {
    this.stirred.pipe(debounceTime(REST_MS), takeUntilDestroyed()).subscribe(() => this.look());
    effect(() => {
      const series = this.series();
      untracked(() => this.chart?.setOption(series));
    });
    effect(() => {
      this.options();
      untracked(() => this.stirred.next());
    });
  }

  protected begin(chart: echarts.ECharts): void {
    this.chart = chart;
    chart.on('georoam', () => this.stirred.next());
    chart.on('click', ({ data }) => {
      const { id } = (data ?? {}) as { id?: number };
      if (id !== undefined) this.pick.emit(id);
    });
    this.stirred.next();
  }

  protected zoom(by: number): void {
    const chart = this.chart;
    if (!chart) return;
    const [originX, originY] = [chart.getWidth() / 2, chart.getHeight() / 2];
    chart.dispatchAction({ type: 'geoRoam', componentType: 'geo', geoIndex: 0, zoom: by, originX, originY });
    this.stirred.next();
  }

  private look(): void {
    const chart = this.chart;
    if (!chart || chart.isDisposed() || chart.getWidth() === 0) return;
    const [west, north] = this.placeAt(chart, 0, 0);
    const [east, south] = this.placeAt(chart, chart.getWidth(), chart.getHeight());
    if (![west, north, east, south].every(Number.isFinite)) return;
    this.moved.emit({
      south: Math.max(-90, south),
      north: Math.min(90, north),
      west: Math.max(-180, west),
      east: Math.min(180, east),
    });
    this.measure(chart);
  }

  /**
   * The place under a pixel: [longitude, latitude]. The chart's own way back (`convertFromPixel` of ECharts 6.1) unprojects before it
   * takes back the movement, which is wrong; so its way there is turned round, which on the projected map is a stretch and a shift.
   */
  private placeAt(chart: echarts.ECharts, x: number, y: number): [number, number] {
    const [near, far] = [toMercator([0, 0]), toMercator([90, 45])] as [[number, number], [number, number]];
    const [from, to] = [
      chart.convertToPixel({ geoIndex: 0 }, [0, 0]),
      chart.convertToPixel({ geoIndex: 0 }, [90, 45]),
    ] as [[number, number], [number, number]];
    const back = (pixel: number, axis: 0 | 1) =>
      near[axis] + ((pixel - from[axis]) / (to[axis] - from[axis])) * (far[axis] - near[axis]);
    return fromMercator([back(x, 0), back(y, 1)]) as [number, number];
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
    const chosen = this.picked();
    this.settings.theme();
    const text = { fontFamily: 'Source Sans 3 Variable', show: true };
    return {
      series: [
        {
          ...{ id: 'towns', type: 'scatter', coordinateSystem: 'geo', silent: true, symbolSize: 4, z: 2 },
          itemStyle: { color: tokenColour('--nl-muted') },
          label: { ...text, formatter: '{b}', position: 'right', color: tokenColour('--nl-muted'), fontSize: 11 },
          labelLayout: { hideOverlap: true },
          data: this.towns().map(({ name, latitude, longitude }) => ({ name, value: [longitude, latitude] })),
        },
        {
          ...{ id: 'spots', type: 'scatter', coordinateSystem: 'geo', z: 5 },
          label: { ...text, color: tokenColour('--nl-accent-ink'), fontWeight: 600 },
          data: this.spots().map((spot) => ({
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
