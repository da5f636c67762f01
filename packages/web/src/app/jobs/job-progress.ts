import { ChangeDetectionStrategy, Component, computed, input } from '@angular/core';
import type { Job } from '@larder/contract';
import { counted, formatBytes, formatCount, formatWait } from '../shared/format';

/** How far a job is: a bar where the whole is known, what it says otherwise. */
@Component({
  selector: 'nl-job-progress',
  template: `
    @if (job().state === 'running') {
      <div
        class="bar"
        role="progressbar"
        [attr.aria-valuenow]="percent()"
        aria-valuemin="0"
        aria-valuemax="100"
        [attr.aria-label]="job().subject"
      >
        <div [style.width.%]="percent() ?? 4" [class.unknown]="percent() === null"></div>
      </div>
      <span class="small mono muted">{{ said() }}</span>
    } @else {
      <span class="small" [class.muted]="job().state !== 'failed'">{{ job().message ?? said() }}</span>
    }
  `,
  styles: `
    :host {
      display: block;
      min-width: 0;
      overflow-wrap: anywhere;
    }
    .bar {
      height: 6px;
      border-radius: 3px;
      background: var(--nl-sunk);
      overflow: hidden;
      border: 1px solid var(--nl-line);
    }
    .bar div {
      height: 100%;
      background: var(--nl-accent);
      transition: width 0.3s;
    }
    .unknown {
      opacity: 0.5;
    }
  `,
  changeDetection: ChangeDetectionStrategy.OnPush,
})
export class JobProgress {
  readonly job = input.required<Job>();
  protected readonly percent = computed(() => {
    const { done, total } = this.job();
    return total ? Math.min(100, Math.round((done / total) * 100)) : null;
  });
  /** How quick it is, and how long it will take at that. */
  private pace(): string {
    const { speed, done, total, unit } = this.job();
    if (!speed || !total) return '';
    const quick = unit === 'bytes' ? `${formatBytes(speed)}/s` : `${formatCount(Math.round(speed))}/s`;
    return `${quick}, ${formatWait((total - done) / speed)} left`;
  }

  protected readonly said = computed(() => {
    const { done, total, unit, message, state } = this.job();
    if (state === 'queued') return 'waiting for its turn';
    if (state === 'running' && message) return message;
    if (total && state === 'running')
      return [
        unit === 'bytes'
          ? `${formatBytes(done)} of ${formatBytes(total)}`
          : `${formatCount(done)} of ${formatCount(total)} ${unit}`,
        this.pace(),
      ]
        .filter(Boolean)
        .join(', ');
    if (unit === 'bytes') return done > 0 ? formatBytes(done) : '';
    // Units are plurals that end in s.
    return done > 0 ? counted(done, unit.replace(/s$/, ''), unit) : '';
  });
}
