import { ChangeDetectionStrategy, Component, computed, inject, input, output } from '@angular/core';
import type { NamedTotal, SpokenTotal } from '@larder/core/dialogue';
import { words, type FieldId } from '@larder/core/fields';
import { combine, parseQuery, printQuery, type Query } from '@larder/core/query';
import { Api } from '../shared/api';
import { askedAnew } from '../shared/asked-anew';
import { counted, formatDay, formatStretch } from '../shared/format';
import { Fields } from '../shared/fields';
import { Icon } from '../shared/icon';
import type { SpeechAsked } from './speech-asked';
import { Strictness } from './strictness';
import { TotalsChart, type TotalBar } from './totals-chart';

const DAY_MS = 86_400_000;
/** With more days than that, a bar is a month. */
const MOST_DAYS = 62;

/** A bar that stands for a stretch of time. */
interface TimeBar extends TotalBar {
  readonly from: number;
  readonly to: number;
}

/** How much is said of it: when, in which reels, and by whom. */
@Component({
  selector: 'nl-spoken-totals',
  imports: [Icon, Strictness, TotalsChart],
  templateUrl: './spoken-totals.html',
  styleUrls: ['./spoken-files.scss', './spoken-totals.scss'],
  changeDetection: ChangeDetectionStrategy.OnPush,
})
export class SpokenTotalsView {
  readonly asking = input.required<SpeechAsked>();
  /** Of the address. */
  readonly changed = output<Readonly<Record<string, string | number | null>>>();
  private readonly api = inject(Api);
  private readonly fields = inject(Fields);
  protected readonly counted = counted;

  private readonly asked = askedAnew(
    computed(() => this.asking()),
    (question) => this.api.call('spokenTotals', question),
  );
  protected readonly failure = this.asked.failure;
  protected readonly again = this.asked.again;
  protected readonly answer = this.asked.value;
  protected readonly found = computed(() => this.answer()?.notches[this.asking().notch] ?? { files: 0, hits: 0 });
  protected readonly undated = computed(() => this.answer()?.days.find(({ dayMs }) => dayMs === null)?.files ?? 0);
  protected readonly days = computed((): readonly TimeBar[] => {
    const days = (this.answer()?.days ?? []).flatMap(({ dayMs, ...total }) =>
      dayMs === null ? [] : [{ dayMs, total }],
    );
    const byMonth = days.length > MOST_DAYS;
    const bars = new Map<number, { total: SpokenTotal; from: number; to: number }>();
    for (const { dayMs, total } of days) {
      const date = new Date(dayMs);
      const month = [date.getUTCFullYear(), date.getUTCMonth()] as const;
      const from = byMonth ? Date.UTC(...month) : dayMs;
      const to = byMonth ? Date.UTC(month[0], month[1] + 1) : dayMs + DAY_MS;
      const before = bars.get(from)?.total ?? { hits: 0, files: 0 };
      bars.set(from, { total: { hits: before.hits + total.hits, files: before.files + total.files }, from, to });
    }
    return [...bars.values()].map(({ from, to, total }) => {
      const name = byMonth ? formatStretch(from, 'month') : formatDay(from);
      return { ...{ name, from, to, count: total.hits, title: titleOf(name, total) } };
    });
  });
  protected readonly reels = computed(() => barsOf(this.answer()?.reels ?? [], 'No reel'));
  protected readonly speakers = computed(() => barsOf(this.answer()?.speakers ?? [], 'Not named'));

  protected pickDays(at: number): void {
    const bar = this.days()[at];
    if (bar) this.narrow('shot', { ...part('shot'), test: { op: 'span', from: bar.from, to: bar.to } });
  }

  protected pickReel(at: number): void {
    const name = this.answer()?.reels[at]?.name;
    if (name === undefined) return;
    this.narrow(
      'reel',
      name === ''
        ? { ...part('reel'), test: { op: 'presence', present: false } }
        : { ...part('reel'), test: { op: 'whole', text: words(name).join(' ') } },
    );
  }

  /** In the search line, from where what was found is listed; what was asked of that field before is put aside. */
  private narrow(field: FieldId, asked: Query): void {
    const registry = this.fields.registry();
    const { tree } = parseQuery(this.asking().query, registry);
    const parts = tree.kind === 'all' ? tree.of : [tree];
    const others = parts.filter((each) => each.kind !== 'field' || each.field !== field);
    this.changed.emit({ q: printQuery(combine('all', [...others, asked]), registry), view: null });
  }
}

const part = (field: FieldId) => ({ kind: 'field', field }) as const;

const titleOf = (name: string, { files, hits }: SpokenTotal): string =>
  `${name}: ${counted(hits, 'hit')} in ${counted(files, 'file')}`;

const barsOf = (totals: readonly NamedTotal[], nobody: string): TotalBar[] =>
  totals.map(({ name, ...total }) => ({
    name: name || nobody,
    count: total.hits,
    title: titleOf(name || nobody, total),
  }));
