import { ChangeDetectionStrategy, Component, computed, inject, input, output } from '@angular/core';
import { HeatmapChart } from 'echarts/charts';
import { CalendarComponent, TooltipComponent, VisualMapComponent } from 'echarts/components';
import * as echarts from 'echarts/core';
import { SVGRenderer } from 'echarts/renderers';
import { NgxEchartsDirective, provideEchartsCore } from 'ngx-echarts';
import type { DayCount } from '@larder/core/search';
import { tokenColour, tooltipLooks } from '../shared/colours';
import { counted, formatDay } from '../shared/format';
import { Settings } from '../shared/settings';

echarts.use([CalendarComponent, HeatmapChart, SVGRenderer, TooltipComponent, VisualMapComponent]);

/** Height of a year, of what stands above it, and of the space below; in pixels. */
const [YEAR, ABOVE, BETWEEN] = [134, 54, 22] as const;

/** Years as calendars, the newest first, each day as dark as there is much of it. */
@Component({
  selector: 'nl-days-chart',
  imports: [NgxEchartsDirective],
  providers: [provideEchartsCore({ echarts })],
  template: `<div
    echarts
    [options]="$any(options())"
    [initOpts]="{ renderer: 'svg' }"
    [style.height.px]="height()"
    [style.min-width.px]="520"
    role="img"
    [attr.aria-label]="spoken()"
    (chartClick)="click($any($event))"
  ></div>`,
  styles: `
    :host {
      display: block;
      position: relative;
      overflow: auto;
      min-width: 0;
    }
  `,
  changeDetection: ChangeDetectionStrategy.OnPush,
})
export class DaysChart {
  readonly days = input.required<readonly DayCount[]>();
  readonly pick = output<number>();
  private readonly settings = inject(Settings);
  private readonly years = computed(() =>
    [...new Set(this.days().map(({ dayMs }) => new Date(dayMs).getUTCFullYear()))].reverse(),
  );
  protected readonly height = computed(() => this.years().length * (YEAR + ABOVE + BETWEEN) + BETWEEN);
  protected readonly spoken = computed(() =>
    this.days()
      .map(({ dayMs, count }) => `${formatDay(dayMs)}: ${counted(count, 'asset')}`)
      .join('; '),
  );
  protected readonly options = computed(() => {
    // Read again when the theme changes.
    this.settings.theme();
    const muted = { color: tokenColour('--nl-muted'), fontFamily: 'Source Sans 3 Variable' };
    const line = tokenColour('--nl-line');
    const days = this.days();
    const most = Math.max(1, ...days.map(({ count }) => count));
    return {
      animation: false,
      tooltip: {
        ...tooltipLooks(),
        formatter: ({ value }: { value: [string, number] }) =>
          `${formatDay(Date.parse(value[0]))}: ${counted(value[1], 'asset')}`,
      },
      visualMap: {
        ...{ show: false, min: 1, max: most },
        inRange: { color: [tokenColour('--nl-accent-soft'), tokenColour('--nl-accent')] },
      },
      calendar: this.years().map((year, index) => ({
        range: String(year),
        top: ABOVE + index * (YEAR + ABOVE + BETWEEN),
        ...{ left: 50, right: 20, height: YEAR },
        cellSize: 'auto',
        splitLine: { lineStyle: { color: tokenColour('--nl-muted'), width: 1 } },
        itemStyle: { color: tokenColour('--nl-card'), borderColor: line, borderWidth: 1 },
        yearLabel: { ...muted, position: 'top', fontFamily: 'Bitter Variable', fontSize: 16, margin: 28 },
        monthLabel: muted,
        dayLabel: { ...muted, firstDay: 1, nameMap: ['', 'Mo', '', 'We', '', 'Fr', ''] },
      })),
      series: this.years().map((year, index) => ({
        type: 'heatmap',
        coordinateSystem: 'calendar',
        calendarIndex: index,
        data: days
          .filter(({ dayMs }) => new Date(dayMs).getUTCFullYear() === year)
          .map(({ dayMs, count }) => [new Date(dayMs).toISOString().slice(0, 10), count]),
      })),
    };
  });

  protected click({ value }: { value?: [string, number] }): void {
    if (value) this.pick.emit(Date.parse(value[0]));
  }
}
