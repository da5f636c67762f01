import { ChangeDetectionStrategy, Component, computed, inject, input, output } from '@angular/core';
import { BarChart } from 'echarts/charts';
import { BrushComponent, GridComponent, TooltipComponent } from 'echarts/components';
import * as echarts from 'echarts/core';
import { SVGRenderer } from 'echarts/renderers';
import { NgxEchartsDirective, provideEchartsCore } from 'ngx-echarts';
import type { Spread } from '@larder/core/search';
import { tokenColour, tooltipLooks } from '../shared/colours';
import { counted } from '../shared/format';
import { Settings } from '../shared/settings';

echarts.use([BarChart, BrushComponent, GridComponent, SVGRenderer, TooltipComponent]);

/** How the dates, lengths or numbers of a list are spread: dragging over it chooses a stretch of them, which is then shown more finely. */
@Component({
  selector: 'nl-spread-chart',
  imports: [NgxEchartsDirective],
  providers: [provideEchartsCore({ echarts })],
  template: `
    <div
      echarts
      [options]="$any(options())"
      [initOpts]="{ renderer: 'svg' }"
      class="chart"
      role="img"
      title="Drag over it to choose a stretch, or click a bar"
      [attr.aria-label]="spoken()"
      (chartInit)="chart = $any($event)"
      (chartRendered)="arm()"
      (chartClick)="choose($any($event).dataIndex, $any($event).dataIndex)"
      (chartBrushEnd)="brush($any($event))"
    ></div>
    <div class="ends muted">
      <span>{{ ends().first }}</span><span>{{ ends().last }}</span>
    </div>
  `,
  styles: `
    :host {
      display: block;
      padding: 0 4px 4px;
    }
    .chart {
      height: 44px;
      cursor: crosshair;
    }
    .ends {
      display: flex;
      justify-content: space-between;
      gap: 8px;
      font-size: 0.72rem;
      font-variant-numeric: tabular-nums;
    }
  `,
  changeDetection: ChangeDetectionStrategy.OnPush,
})
export class SpreadChart {
  readonly spread = input.required<Spread>();
  /** What a bar, or the first and the last of several, stand for. */
  readonly label = input.required<(from: number, to: number) => string>();
  readonly picked = output<{ readonly from: number; readonly to: number }>();
  private readonly settings = inject(Settings);
  protected chart: echarts.ECharts | null = null;
  private armed: object | null = null;

  protected readonly spoken = computed(() =>
    this.spread()
      .bars.filter(({ count }) => count > 0)
      .map(({ from, to, count }) => `${this.label()(from, to)}: ${counted(count, 'asset')}`)
      .join('; '),
  );
  protected readonly ends = computed(() => {
    const { bars } = this.spread();
    const [first, last] = [bars[0], bars.at(-1)];
    return {
      first: first ? this.label()(first.from, first.to) : '',
      last: last && last !== first ? this.label()(last.from, last.to) : '',
    };
  });

  protected readonly options = computed(() => {
    // Read again when the theme changes.
    this.settings.theme();
    const colour = tokenColour('--nl-accent');
    const { bars } = this.spread();
    return {
      animation: false,
      grid: { left: 0, right: 0, top: 2, bottom: 2 },
      tooltip: {
        ...tooltipLooks(),
        trigger: 'axis',
        axisPointer: { type: 'none' },
        appendTo: 'body',
        formatter: ([{ dataIndex = 0 } = {}]: readonly { dataIndex?: number }[]) => {
          const bar = bars[dataIndex];
          return bar ? `${this.label()(bar.from, bar.to)}: ${counted(bar.count, 'asset')}` : '';
        },
      },
      brush: {
        ...{ xAxisIndex: 0, brushType: 'lineX', brushMode: 'single', removeOnClick: false },
        outOfBrush: { colorAlpha: 1 },
        brushStyle: { color: tokenColour('--nl-accent-soft'), borderColor: colour, opacity: 0.6 },
      },
      xAxis: { type: 'category', show: false, data: bars.map((_bar, at) => at) },
      yAxis: { type: 'value', show: false },
      series: [
        {
          type: 'bar',
          barCategoryGap: '12%',
          // A single one among thousands is still seen.
          barMinHeight: 2,
          itemStyle: { color: colour },
          data: bars.map(({ count }) => (count === 0 ? null : count)),
        },
      ],
    };
  });

  /** Dragging chooses, from the start and whatever is shown: with other options the chart forgets it. */
  protected arm(): void {
    if (this.armed === this.options()) return;
    this.armed = this.options();
    const brushOption = { brushType: 'lineX', brushMode: 'single' };
    this.chart?.dispatchAction({ type: 'takeGlobalCursor', key: 'brush', brushOption });
  }

  protected brush({ areas }: { readonly areas?: readonly { readonly coordRange?: readonly number[] }[] }): void {
    const [first, last] = areas?.[0]?.coordRange ?? [];
    if (first === undefined || last === undefined) return;
    // What is chosen is all that is shown from here on.
    this.chart?.dispatchAction({ type: 'brush', areas: [] });
    this.choose(first, last);
  }

  protected choose(first: number, last: number): void {
    const { bars } = this.spread();
    const [from, to] = [bars[Math.max(0, first)], bars[Math.min(bars.length - 1, last)]];
    if (from && to) this.picked.emit({ from: from.from, to: to.to });
  }
}
