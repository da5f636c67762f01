import { ChangeDetectionStrategy, Component, computed, inject, input, output } from '@angular/core';
import { BarChart } from 'echarts/charts';
import { GridComponent, TooltipComponent } from 'echarts/components';
import * as echarts from 'echarts/core';
import { SVGRenderer } from 'echarts/renderers';
import { NgxEchartsDirective, provideEchartsCore } from 'ngx-echarts';
import { tokenColour, tooltipLooks } from '../shared/colours';
import { counted, formatDay } from '../shared/format';
import { Settings } from '../shared/settings';

echarts.use([BarChart, GridComponent, TooltipComponent, SVGRenderer]);

/** Assets by the day they were shot on; a click on a day searches for it. */
@Component({
  selector: 'nl-day-chart',
  imports: [NgxEchartsDirective],
  providers: [provideEchartsCore({ echarts })],
  template: `<div
    echarts
    [options]="options()"
    [initOpts]="{ renderer: 'svg' }"
    class="chart"
    role="img"
    [attr.aria-label]="spoken()"
    (chartClick)="click($any($event))"
  ></div>`,
  styles: `
    .chart {
      height: 150px;
    }
  `,
  changeDetection: ChangeDetectionStrategy.OnPush,
})
export class DayChart {
  readonly days = input.required<readonly { readonly day: string; readonly count: number }[]>();
  readonly chosen = output<string>();
  private readonly settings = inject(Settings);
  protected readonly spoken = computed(() =>
    this.days()
      .map(({ day, count }) => `${formatDay(Date.parse(day))}: ${counted(count, 'asset')}`)
      .join('; '),
  );

  protected readonly options = computed(() => {
    // Read again when the theme changes.
    this.settings.theme();
    const text = { color: tokenColour('--nl-muted'), fontFamily: 'Source Sans 3 Variable' };
    return {
      animation: false,
      grid: { left: 30, right: 6, top: 10, bottom: 24 },
      tooltip: { ...tooltipLooks(), trigger: 'axis', axisPointer: { type: 'shadow' } },
      xAxis: {
        type: 'category',
        data: this.days().map(({ day }) => formatDay(Date.parse(day))),
        axisLabel: { ...text, hideOverlap: true },
        axisLine: { lineStyle: { color: tokenColour('--nl-line') } },
        axisTick: { show: false },
      },
      yAxis: {
        type: 'value',
        minInterval: 1,
        axisLabel: text,
        splitLine: { lineStyle: { color: tokenColour('--nl-line') } },
      },
      series: [
        {
          type: 'bar',
          name: 'Assets',
          data: this.days().map(({ count }) => count),
          barMaxWidth: 34,
          itemStyle: { color: tokenColour('--nl-accent'), borderRadius: [2, 2, 0, 0] },
        },
      ],
    };
  });

  protected click(event: { dataIndex: number }): void {
    const day = this.days()[event.dataIndex]?.day;
    if (day) this.chosen.emit(day);
  }
}
