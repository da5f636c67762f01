import {
  ChangeDetectionStrategy,
  Component,
  computed,
  DestroyRef,
  effect,
  inject,
  input,
  signal,
  untracked,
  type WritableSignal,
} from '@angular/core';
import { ChannelSound } from './channel-sound';
import { Icon } from './icon';

/** What a meter shows at its lower end, in decibels below full scale. */
const FLOOR_DB = -60;
/** Channels that loudspeakers have, and that browsers mix the sound of an element down to. */
const MIXED = 2;
/** Fall of a bar, in decibels a second: quick enough to follow speech, slow enough to read. */
const FALL_DB = 30;

/** An element's sound taken into the browser's graph of sound, which it can be only once and never leaves again. */
interface Tap {
  readonly context: AudioContext;
  readonly source: MediaElementAudioSourceNode;
}
const taps = new WeakMap<HTMLMediaElement, Tap>();

function tapOf(media: HTMLMediaElement): Tap {
  let tap = taps.get(media);
  if (!tap) {
    const context = new AudioContext();
    taps.set(media, (tap = { context, source: context.createMediaElementSource(media) }));
    // Browsers let sound begin only with an act of the person, such as playing.
    media.addEventListener('play', () => void context.resume());
  }
  return tap;
}

/**
 * The level of each channel of what an element plays, and buttons to hear one or some alone, or without one or some. Odd channels are heard at the left
 * and even ones at the right; those that are heard alone are in the middle.
 */
@Component({
  selector: 'nl-channel-meters',
  imports: [Icon],
  template: `
    <div class="meters" role="group" aria-label="Channels">
      @for (level of levels(); track $index) {
        <div class="channel" [class.alone]="solo().has($index)" [class.silent]="!heard($index)">
          <span class="tube"><span class="bar" [class.hot]="level > -3" [style.height.%]="height(level)"></span></span>
          <button
            type="button"
            class="mono"
            [attr.aria-pressed]="solo().has($index)"
            [attr.aria-label]="'Hear channel ' + ($index + 1) + ' alone'"
            [title]="'Channel ' + ($index + 1) + ': hear it alone'"
            (click)="toggle(solo, $index)"
          >
            {{ $index + 1 }}
          </button>
          <button
            type="button"
            [attr.aria-pressed]="muted().has($index)"
            [attr.aria-label]="'Silence channel ' + ($index + 1)"
            [title]="'Channel ' + ($index + 1) + ': ' + (muted().has($index) ? 'hear it again' : 'silence it')"
            (click)="toggle(muted, $index)"
          >
            <nl-icon [name]="muted().has($index) ? 'silent' : 'sound'" />
          </button>
        </div>
      }
      @if (note(); as words) {
        <span class="note">{{ words }}</span>
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
      width: 28px;
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
    .channel.silent button {
      color: var(--nl-muted);
    }
    .note {
      align-self: end;
      font-size: 0.78rem;
      color: var(--nl-muted);
    }
    button {
      width: 100%;
      padding: 0;
      border: 0;
      background: none;
      color: inherit;
      font-weight: inherit;
    }
    button[aria-pressed='true'] {
      text-decoration: underline;
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
  protected readonly muted = signal<ReadonlySet<number>>(new Set());
  /** Where the browser mixes channels down, all of them come in pieces from here. */
  readonly pieces = input<((fromMs: number) => string) | null>(null);
  protected readonly trouble = signal(false);
  /** Without pieces, more than two are heard as the browser mixes them. */
  private readonly shown = computed(() =>
    this.pieces() === null ? Math.min(MIXED, this.channels()) : this.channels(),
  );
  protected readonly note = computed(() =>
    this.trouble()
      ? 'The channels cannot be heard one by one just now.'
      : this.shown() < this.channels()
        ? `${this.channels()} channels, mixed to ${MIXED} here`
        : '',
  );
  private tap: Tap | null = null;
  private sound: ChannelSound | null = null;
  private gains: GainNode[][] = [];
  private analysers: AnalyserNode[] = [];
  private timer = 0;

  constructor() {
    effect(() => {
      const count = this.shown();
      this.levels.set(Array.from({ length: count }, () => FLOOR_DB));
      this.solo.set(new Set());
      this.muted.set(new Set());
    });
    effect((onCleanup) => {
      const media = this.media();
      if (!media || this.channels() === 0 || typeof AudioContext === 'undefined') return;
      const [channels, pieces] = [this.shown(), this.pieces()];
      untracked(() => this.connect(media, channels, channels > MIXED ? pieces : null));
      onCleanup(() => this.disconnect());
    });
    effect(() => {
      this.solo();
      this.muted();
      untracked(() => this.apply());
    });
    inject(DestroyRef).onDestroy(() => this.disconnect());
  }

  protected height(level: number): number {
    return Math.max(0, Math.min(100, ((level - FLOOR_DB) / -FLOOR_DB) * 100));
  }

  protected heard(channel: number): boolean {
    return !this.muted().has(channel) && (this.solo().size === 0 || this.solo().has(channel));
  }

  protected toggle(which: WritableSignal<ReadonlySet<number>>, channel: number): void {
    which.update((before) => {
      const after = new Set(before);
      if (!after.delete(channel)) after.add(channel);
      return after;
    });
  }

  private connect(media: HTMLMediaElement, channels: number, pieces: ((fromMs: number) => string) | null): void {
    const tap = tapOf(media);
    const { context, source } = tap;
    const splitter = context.createChannelSplitter(channels);
    const merger = context.createChannelMerger(2);
    merger.connect(context.destination);
    this.trouble.set(false);
    if (pieces) this.sound = new ChannelSound(media, context, splitter, pieces, () => this.trouble.set(true));
    else {
      source.disconnect();
      source.connect(splitter);
    }
    this.tap = tap;
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
    this.apply();
    if (!media.paused) void context.resume();
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

  private apply(): void {
    const mono = this.gains.length === 1;
    const alone = this.solo().size > 0;
    this.gains.forEach((sides, channel) =>
      sides.forEach((gain, side) => {
        gain.gain.value = this.heard(channel) && (alone || mono || channel % 2 === side) ? 1 : 0;
      }),
    );
  }

  /** The element plays on without meters, as the browser mixes its channels. */
  private disconnect(): void {
    cancelAnimationFrame(this.timer);
    this.sound?.close();
    this.sound = null;
    if (this.tap) {
      this.tap.source.disconnect();
      this.tap.source.connect(this.tap.context.destination);
    }
    this.tap = null;
    [this.gains, this.analysers] = [[], []];
    this.levels.update((levels) => levels.map(() => FLOOR_DB));
  }
}
