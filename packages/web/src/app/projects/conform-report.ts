import { ChangeDetectionStrategy, Component, computed, input } from '@angular/core';
import { RouterLink } from '@angular/router';
import { countingById, formatTimecode } from '@larder/core/timecode';
import type { ConformAnswer } from '@larder/contract';
import { counted } from '../shared/format';
import { Icon } from '../shared/icon';

const MATCHED: Readonly<Record<string, string>> = {
  asset: 'by asset number',
  file: 'by file',
  'reel-and-timecode': 'by reel and timecode',
  name: 'by name',
};

/** Event by event: which media it found, how, and what stands in its way. */
@Component({
  selector: 'nl-conform-report',
  imports: [Icon, RouterLink],
  template: `
    <p class="verdict" [class.bad]="!report().clean" data-test="conform">
      <nl-icon [name]="report().clean ? 'check' : 'warning'" />{{ said() }}
    </p>
    @for (issue of report().issues; track $index) {
      <p class="m-0 bad">{{ issue }}</p>
    }
    <table class="table table-sm">
      <thead>
        <tr>
          <th>Event</th>
          <th>Source in, out</th>
          <th>Record</th>
          <th class="wide">Media</th>
        </tr>
      </thead>
      <tbody>
        @for (row of rows(); track row.number) {
          <tr>
            <td class="mono">{{ row.number }}</td>
            <td class="mono">{{ row.from }}<br />{{ row.to }}</td>
            <td class="mono">{{ row.record }}</td>
            <td>
              @if (row.asset; as asset) {
                <a routerLink="/library" [queryParams]="{ q: 'name:&quot;' + asset.name + '&quot;' }">{{
                  asset.name
                }}</a>
                <span class="muted small">, {{ row.matched }}</span>
              } @else {
                <span class="bad">not found</span>
              }
              <div [class.bad]="row.words.length > 0">{{ row.words.join(' ') || 'fits' }}</div>
            </td>
          </tr>
        }
      </tbody>
    </table>
  `,
  styles: `
    .verdict {
      display: flex;
      align-items: center;
      gap: 6px;
      font-weight: 600;
      color: var(--nl-good);
      margin: 4px 0;
    }
    .bad,
    .verdict.bad {
      color: var(--nl-bad);
    }
    table {
      --bs-table-bg: transparent;
      --bs-table-color: var(--nl-ink);
      font-size: 0.875rem;
      margin: 0;
    }
    td {
      color: inherit;
      overflow-wrap: anywhere;
    }
    .mono {
      white-space: nowrap;
    }
    .wide {
      width: 100%;
    }
  `,
  changeDetection: ChangeDetectionStrategy.OnPush,
})
export class ConformReportView {
  readonly report = input.required<ConformAnswer>();
  protected readonly said = computed(() => {
    const { events, clean, counting } = this.report();
    const troubled = events.filter((event) => event.words.length > 0).length;
    if (clean)
      return `Conforms: ${counted(events.length, 'event')} at ${counting}, each inside its media to the frame.`;
    return troubled > 0
      ? `${counted(troubled, 'event')} of ${events.length} ${troubled === 1 ? 'needs' : 'need'} a look.`
      : 'All events fit, but the list could not be read whole.';
  });
  private readonly listCounting = computed(() => countingById(this.report().counting));
  protected readonly rows = computed(() =>
    this.report().events.map(({ event, asset, matchedBy, words }) => ({
      number: event.number,
      from: formatTimecode(event.source.start, event.sourceCounting),
      to: formatTimecode(event.source.end, event.sourceCounting),
      record: formatTimecode(event.record.start, this.listCounting() ?? event.sourceCounting),
      asset,
      matched: matchedBy ? MATCHED[matchedBy] : '',
      words,
    })),
  );
}
