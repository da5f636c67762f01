import { ChangeDetectionStrategy, Component, computed, inject, input, output, signal } from '@angular/core';
import type { Query } from '@larder/core/query';
import type { DayCount } from '@larder/core/search';
import { Api } from '../shared/api';
import { Fields } from '../shared/fields';
import { counted, formatCount, formatDay } from '../shared/format';
import { Icon } from '../shared/icon';
import { askedAnew } from '../shared/asked-anew';
import { DaysChart } from './days-chart';
import { narrowed } from './narrowing';
import { PickedStrip } from './picked-strip';

const DAY_MS = 86_400_000;
const monthFormat = new Intl.DateTimeFormat('en-GB', { month: 'long', year: 'numeric', timeZone: 'UTC' });

interface Month {
  readonly label: string;
  readonly days: readonly DayCount[];
}

/** What was found, by the day it was shot on: years as calendars, and the days as a list. */
@Component({
  selector: 'nl-calendar-view',
  imports: [DaysChart, Icon, PickedStrip],
  templateUrl: './calendar-view.html',
  styleUrl: './at-a-glance.scss',
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
  private readonly asked = askedAnew(
    computed(() => ({ query: this.query(), atLeast: this.revision() })),
    (question) => this.api.call('days', question),
  );
  protected readonly failure = this.asked.failure;
  protected readonly again = this.asked.again;
  protected readonly days = computed(() => this.asked.value()?.days ?? null);
  protected readonly undated = computed(() => (this.asked.value()?.total ?? 0) - (this.asked.value()?.dated ?? 0));
  protected readonly counted = counted;
  /** The day that was picked, by its beginning; what is known of it is as of the last answer. */
  protected readonly picked = signal<number | null>(null);
  protected readonly day = computed(() => this.days()?.find(({ dayMs }) => dayMs === this.picked()) ?? null);
  protected readonly count = formatCount;
  protected readonly formatDay = formatDay;
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
  protected readonly within = computed(() => narrowed(this.query(), this.part(), this.fields.registry()));
}
