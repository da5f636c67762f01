import {
  ChangeDetectionStrategy,
  Component,
  DestroyRef,
  effect,
  inject,
  input,
  signal,
  untracked,
} from '@angular/core';

/** What a meter shows at its lower end, in decibels below full scale. */
const FLOOR_DB = -60;
/** Fall of a bar, in decibels a second: quick enough to follow speech, slow enough to read. */
const FALL_DB = 30;

/**
 * The level of each channel of what an element plays, and a button to hear one or some alone. Odd channels are heard at the left
 * and even ones at the right; those that are heard alone are in the middle.
 */
@Component({
  selector: 'nl-channel-meters',
  template: `
    <div class="meters" role="group" aria-label="Channels">
      @for (level of levels(); track $index) {
        <button
          type="button"
          class="channel"
          [class.alone]="solo().has($index)"
          [attr.aria-pressed]="solo().has($index)"
          [attr.aria-label]="'Hear channel ' + ($index + 1) + ' alone'"
          [title]="'Channel ' + ($index + 1) + ': hear it alone'"
          (click)="toggle($index)"
        >
          <span class="tube"><span class="bar" [class.hot]="level > -3" [style.height.%]="height(level)"></span></span>
          <span class="mono">{{ $index + 1 }}</span>
        </button>
      }
    </div>
  `,
  styles: `
    .meters {
      display: flex;
      gap: 4px;
    }
    .channel {
      display: grid;
      gap: 2px;
      justify-items: center;
      width: 26px;
      padding: 3px 0 1px;
      border: 1px solid var(--nl-line);
      border-radius: 4px;
      background: var(--nl-card);
      color: var(--nl-ink);
      font-size: 0.75rem;
    }
    .channel.alone {
      background: var(--nl-accent-soft);
      border-color: var(--nl-accent);
      font-weight: 700;
    }
    .tube {
      display: flex;
      align-items: flex-end;
      width: 8px;
      height: 46px;
      background: var(--nl-sunk);
      border-radius: 2px;
      overflow: hidden;
    }
    .bar {
      width: 100%;
      background: var(--nl-good);
    }
    .bar.hot {
      background: var(--nl-bad);
    }
  `,
  changeDetection: ChangeDetectionStrategy.OnPush,
})
export class ChannelMeters {
  readonly channels = input.required<number>();
  /** What plays; null while nothing does. */
  readonly media = input<HTMLMediaElement | null>(null);
  protected readonly levels = signal<readonly number[]>([]);
  protected readonly solo = signal<ReadonlySet<number>>(new Set());
  private context: AudioContext | null = null;
  private gains: GainNode[][] = [];
  private analysers: AnalyserNode[] = [];
  private timer = 0;

  constructor() {
    effect(() => {
      const count = this.channels();
      this.levels.set(Array.from({ length: count }, () => FLOOR_DB));
      this.solo.set(new Set());
    });
    effect((onCleanup) => {
      const media = this.media();
      if (!media || this.channels() === 0 || typeof AudioContext === 'undefined') return;
      const channels = this.channels();
      // Once for each element: what is heard alone must not connect it anew, which browsers refuse.
      untracked(() => this.connect(media, channels));
      onCleanup(() => this.disconnect());
    });
    effect(() => this.apply(this.solo()));
    inject(DestroyRef).onDestroy(() => this.disconnect());
  }

  protected height(level: number): number {
    return Math.max(0, Math.min(100, ((level - FLOOR_DB) / -FLOOR_DB) * 100));
  }

  protected toggle(channel: number): void {
    this.solo.update((before) => {
      const after = new Set(before);
      if (!after.delete(channel)) after.add(channel);
      return after;
    });
  }

  private connect(media: HTMLMediaElement, channels: number): void {
    const context = new AudioContext();
    const splitter = context.createChannelSplitter(channels);
    const merger = context.createChannelMerger(2);
    context.createMediaElementSource(media).connect(splitter);
    merger.connect(context.destination);
    this.context = context;
    for (let channel = 0; channel < channels; channel += 1) {
      const analyser = context.createAnalyser();
      analyser.fftSize = 1024;
      splitter.connect(analyser, channel);
      this.analysers.push(analyser);
      this.gains.push(
        [0, 1].map((side) => {
          const gain = context.createGain();
          splitter.connect(gain, channel);
          gain.connect(merger, 0, side);
          return gain;
        }),
      );
    }
    this.apply(this.solo());
    void context.resume();
    let last = performance.now();
    const draw = () => {
      const now = performance.now();
      this.measure((now - last) / 1000);
      last = now;
      this.timer = requestAnimationFrame(draw);
    };
    this.timer = requestAnimationFrame(draw);
  }

  private measure(seconds: number): void {
    const samples = new Float32Array(1024);
    const before = this.levels();
    this.levels.set(
      this.analysers.map((analyser, channel) => {
        analyser.getFloatTimeDomainData(samples);
        const peak = samples.reduce((most, sample) => Math.max(most, Math.abs(sample)), 0);
        const level = peak > 0 ? 20 * Math.log10(peak) : FLOOR_DB;
        return Math.max(level, (before[channel] ?? FLOOR_DB) - FALL_DB * seconds, FLOOR_DB);
      }),
    );
  }

  private apply(solo: ReadonlySet<number>): void {
    const mono = this.gains.length === 1;
    this.gains.forEach((sides, channel) =>
      sides.forEach((gain, side) => {
        const open = solo.size > 0 ? solo.has(channel) : mono || channel % 2 === side;
        gain.gain.value = open ? 1 : 0;
      }),
    );
  }

  private disconnect(): void {
    cancelAnimationFrame(this.timer);
    void this.context?.close();
    this.context = null;
    [this.gains, this.analysers] = [[], []];
    this.levels.update((levels) => levels.map(() => FLOOR_DB));
  }
}
