import { ChangeDetectionStrategy, Component, computed, inject, input, output } from '@angular/core';
import { BarChart } from 'echarts/charts';
import { GridComponent, TooltipComponent } from 'echarts/components';
import * as echarts from 'echarts/core';
import { SVGRenderer } from 'echarts/renderers';
import { NgxEchartsDirective, provideEchartsCore } from 'ngx-echarts';
import { tokenColour, tooltipLooks } from '../shared/colours';
import { formatCount } from '../shared/format';
import { Settings } from '../shared/settings';

echarts.use([BarChart, GridComponent, SVGRenderer, TooltipComponent]);

/** A bar: how much there is, under which name, and what is said of it. */
export interface TotalBar {
  readonly name: string;
  readonly count: number;
  readonly title: string;
}

/** Height of a bar lying, and of all that stand, in pixels. */
const [LYING, STANDING] = [24, 180] as const;

/** Room for the names of bars that lie, in pixels: the most, and about what a letter takes. */
const GUTTER = { most: 190, letter: 7.5 } as const;

/** How much there is of several things: lying beneath one another, or standing side by side for what goes on in time. */
@Component({
  selector: 'nl-totals-chart',
  imports: [NgxEchartsDirective],
  providers: [provideEchartsCore({ echarts })],
  template: `<div
    echarts
    [options]="$any(options())"
    [initOpts]="{ renderer: 'svg' }"
    [style.height.px]="height()"
    role="img"
    [attr.aria-label]="spoken()"
    (chartClick)="picked.emit($any($event).dataIndex)"
  ></div>`,
  styles: `
    :host {
      display: block;
      min-width: 0;
    }
  `,
  changeDetection: ChangeDetectionStrategy.OnPush,
})
export class TotalsChart {
  readonly bars = input.required<readonly TotalBar[]>();
  readonly stands = input(false);
  /** Which of the bars. */
  readonly picked = output<number>();
  private readonly settings = inject(Settings);

  protected readonly height = computed(() => (this.stands() ? STANDING : this.bars().length * LYING + 8));
  protected readonly spoken = computed(() =>
    this.bars()
      .map(({ title }) => title)
      .join('; '),
  );
  protected readonly options = computed(() => {
    // Read again when the theme changes.
    this.settings.theme();
    const [bars, stands] = [this.bars(), this.stands()];
    const words = { color: tokenColour('--nl-ink'), fontFamily: 'Source Sans 3 Variable', fontSize: 13 };
    const longest = Math.max(0, ...bars.map(({ name }) => name.length));
    const gutter = Math.min(GUTTER.most, 24 + longest * GUTTER.letter);
    const line = { lineStyle: { color: tokenColour('--nl-line') } };
    const names = {
      ...{ type: 'category', inverse: !stands, data: bars.map(({ name }) => name) },
      axisTick: { show: false },
      axisLine: line,
      axisLabel: stands ? { ...words, hideOverlap: true } : { ...words, width: gutter - 16, overflow: 'truncate' },
    };
    const counts = { type: 'value', show: stands, minInterval: 1, axisLabel: words, splitLine: line };
    return {
      animation: false,
      grid: stands ? { left: 44, right: 12, top: 12, bottom: 28 } : { left: gutter, right: 64, top: 4, bottom: 4 },
      tooltip: {
        ...tooltipLooks(),
        trigger: 'item',
        formatter: ({ dataIndex = 0 }: { dataIndex?: number }) =>
          // Reels and people may have any name, and the tooltip is written as markup.
          echarts.format.encodeHTML(bars[dataIndex]?.title ?? ''),
      },
      ...(stands ? { xAxis: names, yAxis: counts } : { xAxis: counts, yAxis: names }),
      series: [
        {
          type: 'bar',
          ...{ barMaxWidth: stands ? 40 : 14, barMinHeight: 2 },
          itemStyle: { color: tokenColour('--nl-accent') },
          label: {
            ...{ show: !stands, position: 'right', ...words },
            formatter: ({ value }: { value: number }) => formatCount(value),
          },
          data: bars.map(({ count }) => count),
        },
      ],
    };
  });
}
