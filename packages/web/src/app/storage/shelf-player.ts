import {
  ChangeDetectionStrategy,
  Component,
  computed,
  DestroyRef,
  effect,
  type ElementRef,
  inject,
  input,
  linkedSignal,
  signal,
  viewChild,
} from '@angular/core';
import { countingById, countingForRate, formatTimecode, rational, type Counting } from '@larder/core/timecode';
import { FILE_PATHS, type Inspection } from '@larder/contract';
import { followFrames, frameAt } from '../shared/follow-frames';
import { Icon } from '../shared/icon';
import { KIND_LABELS } from '../shared/icons';
import { Keys } from '../shared/keys';
import { ChannelMeters } from '../shared/channel-meters';

/** Sound alone is scrubbed in steps of this many a second. */
const SOUND_COUNTING = countingById('25') as Counting;

/**
 * Plays a file of a storage that need not be catalogued: standing, it shows one frame that the server decodes; running, a stream
 * that is made while it plays.
 */
@Component({
  selector: 'nl-shelf-player',
  imports: [ChannelMeters, Icon],
  template: `
    <div class="stage" [class.sound]="isSound()">
      @if (picture(); as src) {
        <img
          [src]="src"
          [alt]="'Frame ' + frame() + ' of ' + facts().name"
          (load)="arrived()"
          (error)="arrived()"
          [attr.data-frame]="shown()"
        />
      }
      @if (stream(); as src) {
        <video
          #media
          [src]="src"
          autoplay
          playsinline
          (ended)="stop()"
          (error)="failed()"
          [attr.aria-label]="'Picture of ' + facts().name"
        ></video>
      } @else if (isSound()) {
        <nl-icon [name]="kind().icon" size="2.4em" />
      }
    </div>
    @if (total() > 1) {
      <input
        type="range"
        min="0"
        [max]="total() - 1"
        step="1"
        [value]="frame()"
        (input)="seek(+$any($event.target).value)"
        aria-label="Position"
        [attr.aria-valuetext]="timecode()"
        tabindex="-1"
      />
      <div class="controls">
        <button
          type="button"
          class="btn btn-quiet btn-sm"
          (click)="toggle()"
          [title]="playing() ? 'Pause (Space)' : 'Play (Space)'"
          [attr.aria-label]="playing() ? 'Pause' : 'Play'"
        >
          <nl-icon [name]="playing() ? 'pause' : 'play'" size="1.2em" />
        </button>
        <span class="mono" data-test="shelf-timecode">{{ timecode() }}</span>
        @if (!isSound()) {
          <span class="mono muted" data-test="shelf-frame">{{ frame() }} / {{ total() }}</span>
        }
        <span class="space"></span>
        @if (facts().channels > 0) {
          <nl-channel-meters [channels]="metered()" [media]="element()" />
        }
      </div>
    }
    @if (trouble()) {
      <p class="muted small m-0" role="alert">The browser cannot play what the server makes of this.</p>
    }
  `,
  styleUrl: './shelf-player.scss',
  changeDetection: ChangeDetectionStrategy.OnPush,
})
export class ShelfPlayer {
  readonly storageId = input.required<number>();
  readonly facts = input.required<Inspection>();
  /** The rate at which somebody wants a sequence to play; null for what it has. */
  readonly sequenceRate = input<string | null>(null);

  private readonly media = viewChild<ElementRef<HTMLVideoElement>>('media');
  protected readonly element = computed(() => this.media()?.nativeElement ?? null);
  private readonly path = computed(() => this.facts().path);
  protected readonly frame = linkedSignal({ source: this.path, computation: () => 0 });
  /** The frame that the picture is of. */
  protected readonly shown = linkedSignal({ source: this.path, computation: () => 0 });
  protected readonly from = linkedSignal<string, number | null>({ source: this.path, computation: () => null });
  protected readonly trouble = linkedSignal({ source: this.path, computation: () => false });
  private readonly loading = signal(false);

  protected readonly kind = computed(() => KIND_LABELS[this.facts().kind]);
  protected readonly isSound = computed(() => this.facts().kind === 'audio');
  protected readonly playing = computed(() => this.from() !== null);
  protected readonly metered = computed(() => Math.min(8, this.facts().channels));
  private readonly counting = computed<Counting>(() => {
    const { kind, rate } = this.facts();
    const chosen = kind === 'sequence' && this.sequenceRate() ? countingById(this.sequenceRate() ?? '') : null;
    return chosen ?? (rate ? countingForRate(rational(rate.num, rate.den), rate.dropFrame) : SOUND_COUNTING);
  });
  protected readonly total = computed(() => {
    const { durationFrames, durationMs, kind } = this.facts();
    return durationFrames ?? (kind === 'audio' ? Math.round(((durationMs ?? 0) * 25) / 1000) : 0);
  });
  protected readonly timecode = computed(() =>
    formatTimecode((this.facts().startFrame ?? 0) + this.frame(), this.counting()),
  );
  protected readonly picture = computed(() =>
    ['video', 'sequence', 'still'].includes(this.facts().kind)
      ? FILE_PATHS.shelfFrame(this.storageId(), this.path(), this.shown(), this.sequenceRate())
      : null,
  );
  protected readonly stream = computed(() => {
    const from = this.from();
    return from === null ? null : FILE_PATHS.shelfPlay(this.storageId(), this.path(), from, this.sequenceRate());
  });

  constructor() {
    const keys = inject(Keys);
    const when = (use: () => void) => () => (this.total() > 1 ? void use() : false);
    keys.on(
      'play.toggle',
      when(() => this.toggle()),
    );
    keys.on(
      'play.stop',
      when(() => this.stop()),
    );
    keys.on(
      'play.forward',
      when(() => this.play()),
    );
    keys.on(
      'play.frame-back',
      when(() => this.step(-1)),
    );
    keys.on(
      'play.frame-on',
      when(() => this.step(1)),
    );
    effect((onCleanup) => {
      const element = this.element();
      const from = this.from();
      if (element && from !== null) onCleanup(this.follow(element, from));
    });
    inject(DestroyRef).onDestroy(() => this.from.set(null));
  }

  /** Counts what the stream shows, from the frame on which it began. */
  private follow(element: HTMLVideoElement, from: number): () => void {
    return followFrames(element, this.isSound(), (seconds) =>
      this.frame.set(this.inside(from + frameAt(seconds, this.counting().rate))),
    );
  }

  private inside(frame: number): number {
    return Math.min(Math.max(0, frame), Math.max(0, this.total() - 1));
  }

  protected toggle(): void {
    if (this.playing()) this.stop();
    else this.play();
  }

  private play(): void {
    if (this.playing()) return;
    this.trouble.set(false);
    const atEnd = this.frame() >= this.total() - 1;
    this.from.set(atEnd ? 0 : this.frame());
  }

  protected stop(): void {
    this.from.set(null);
    this.ask();
  }

  protected failed(): void {
    if (!this.playing()) return;
    this.trouble.set(true);
    this.stop();
  }

  protected step(frames: number): void {
    this.seek(this.frame() + frames);
  }

  protected seek(frame: number): void {
    this.from.set(null);
    this.frame.set(this.inside(frame));
    this.ask();
  }

  /** One picture is asked for at a time; when it is there, the one that is wanted by then. */
  private ask(): void {
    if (this.loading() || this.shown() === this.frame()) return;
    this.loading.set(this.picture() !== null);
    this.shown.set(this.frame());
  }

  protected arrived(): void {
    this.loading.set(false);
    if (!this.playing()) this.ask();
  }
}
