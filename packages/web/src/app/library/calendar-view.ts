import { ChangeDetectionStrategy, Component, computed, effect, inject, input, output, signal } from '@angular/core';
import { HeatmapChart } from 'echarts/charts';
import { CalendarComponent, TooltipComponent, VisualMapComponent } from 'echarts/components';
import * as echarts from 'echarts/core';
import { SVGRenderer } from 'echarts/renderers';
import { NgxEchartsDirective, provideEchartsCore } from 'ngx-echarts';
import { combine, parseQuery, printQuery, type Query } from '@larder/core/query';
import type { DayCount } from '@larder/core/search';
import { Api, type Failure } from '../shared/api';
import { tokenColour } from '../shared/colours';
import { Fields } from '../shared/fields';
import { counted, formatCount, formatDay } from '../shared/format';
import { Icon } from '../shared/icon';
import { Settings } from '../shared/settings';
import { PickedStrip } from './picked-strip';

echarts.use([CalendarComponent, HeatmapChart, SVGRenderer, TooltipComponent, VisualMapComponent]);

const DAY_MS = 86_400_000;
/** Height of a year, of what stands above it, and of the space below. */
const [YEAR, ABOVE, BETWEEN] = [134, 46, 26] as const;
const monthFormat = new Intl.DateTimeFormat('en-GB', { month: 'long', year: 'numeric', timeZone: 'UTC' });

interface Month {
  readonly label: string;
  readonly days: readonly DayCount[];
}

/** What was found, by the day it was shot on: years as calendars, and the days as a list. */
@Component({
  selector: 'nl-calendar-view',
  imports: [Icon, NgxEchartsDirective, PickedStrip],
  providers: [provideEchartsCore({ echarts })],
  templateUrl: './calendar-view.html',
  styleUrl: './at-a-glance.scss',
  styles: `
    .chart {
      overflow: auto;
    }
  `,
  changeDetection: ChangeDetectionStrategy.OnPush,
})
export class CalendarView {
  readonly query = input.required<string>();
  readonly revision = input.required<number>();
  /** To be searched for beside the query. */
  readonly narrowed = output<Query>();
  readonly chosen = output<readonly number[]>();
  private readonly api = inject(Api);
  private readonly fields = inject(Fields);
  private readonly settings = inject(Settings);
  protected readonly days = signal<readonly DayCount[] | null>(null);
  protected readonly failure = signal<string | null>(null);
  protected readonly day = signal<DayCount | null>(null);
  protected readonly count = formatCount;
  protected readonly formatDay = formatDay;
  private readonly years = computed(() =>
    [...new Set((this.days() ?? []).map(({ dayMs }) => new Date(dayMs).getUTCFullYear()))].reverse(),
  );
  protected readonly height = computed(() => this.years().length * (YEAR + ABOVE + BETWEEN) + BETWEEN);
  protected readonly spoken = computed(() =>
    (this.days() ?? []).map(({ dayMs, count }) => `${formatDay(dayMs)}: ${counted(count, 'asset')}`).join('; '),
  );
  /** The newest first, as people come back to what they shot last. */
  protected readonly months = computed((): readonly Month[] => {
    const months = new Map<string, DayCount[]>();
    for (const day of (this.days() ?? []).toReversed()) {
      const label = monthFormat.format(day.dayMs);
      months.set(label, [...(months.get(label) ?? []), day]);
    }
    return [...months].map(([label, days]) => ({ label, days }));
  });
  protected readonly part = computed((): Query | null => {
    const day = this.day();
    return day && { kind: 'field', field: 'shot', test: { op: 'span', from: day.dayMs, to: day.dayMs + DAY_MS } };
  });
  protected readonly within = computed(() => {
    const [part, registry] = [this.part(), this.fields.registry()];
    return part ? printQuery(combine('all', [parseQuery(this.query(), registry).tree, part]), registry) : '';
  });

  protected readonly options = computed(() => {
    // Read again when the theme changes.
    this.settings.theme();
    const muted = { color: tokenColour('--nl-muted'), fontFamily: 'Source Sans 3 Variable' };
    const line = tokenColour('--nl-line');
    const days = this.days() ?? [];
    const most = Math.max(1, ...days.map(({ count }) => count));
    return {
      animation: false,
      tooltip: {
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
        yearLabel: { ...muted, position: 'top', fontFamily: 'Bitter Variable', fontSize: 16, margin: 24 },
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

  constructor() {
    effect((onCleanup) => {
      const asked = this.api.call('days', { query: this.query(), atLeast: this.revision() }).subscribe({
        next: ({ days }) => {
          this.days.set(days);
          this.failure.set(null);
          this.day.update((day) => days.find(({ dayMs }) => dayMs === day?.dayMs) ?? null);
        },
        error: ({ message }: Failure) => this.failure.set(message),
      });
      onCleanup(() => asked.unsubscribe());
    });
  }

  protected click({ value }: { value?: [string, number] }): void {
    const dayMs = value ? Date.parse(value[0]) : NaN;
    this.day.set(this.days()?.find((day) => day.dayMs === dayMs) ?? null);
  }
}
