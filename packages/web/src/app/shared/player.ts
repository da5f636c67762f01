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
  output,
  signal,
  untracked,
  viewChild,
} from '@angular/core';
import { NgbTooltip } from '@ng-bootstrap/ng-bootstrap';
import { formatTimecode, type Counting } from '@larder/core/timecode';
import { countingOf, FILE_PATHS, type Asset } from '@larder/contract';
import { Api } from './api';
import { followFrames, frameAt } from './follow-frames';
import { Icon } from './icon';
import { KIND_LABELS, STATE_LABELS } from './icons';
import { Keys } from './keys';
import { Waveform } from './waveform';

/** Each press of the shuttle key goes one further. */
const SPEEDS = [1, 2, 4, 8] as const;
/** Containers and codecs that the browser plays itself, for looking at an original before its proxy is made. */
const PLAYABLE = /\.(mp4|m4v|mov|webm|wav|mp3|m4a|flac|ogg|opus)$/i;

/**
 * Plays an asset frame by frame. Frames are counted at the asset's own rate; a frame is shown by seeking to its middle, since a
 * seek to its first instant may land on the one before.
 */
@Component({
  selector: 'nl-player',
  imports: [Icon, NgbTooltip, Waveform],
  templateUrl: './player.html',
  styleUrl: './player.scss',
  changeDetection: ChangeDetectionStrategy.OnPush,
})
export class Player {
  readonly asset = input.required<Asset>();
  /** Marks in frames from the first; null for none. */
  readonly in = input<number | null>(null);
  readonly out = input<number | null>(null);
  readonly marks = output<{ in: number | null; out: number | null }>();
  readonly withMarks = input(true);

  private readonly media = viewChild<ElementRef<HTMLVideoElement>>('media');
  /** By itself, so that what somebody logs of the asset does not send the player back to its start. */
  private readonly assetId = computed(() => this.asset().id);
  protected readonly frame = linkedSignal({ source: this.assetId, computation: () => 0 });
  protected readonly shuttle = signal(0);
  protected readonly broken = linkedSignal({ source: this.assetId, computation: () => false });
  protected readonly seconds = linkedSignal({ source: this.assetId, computation: () => 0 });

  protected readonly counting = computed<Counting | null>(() => countingOf(this.asset()));
  protected readonly total = computed(() => this.asset().durationFrames ?? 0);
  protected readonly isSound = computed(() => this.asset().kind === 'audio');
  protected readonly isStill = computed(() => this.asset().kind === 'still');
  private readonly lacksProxy = computed(
    () => !this.asset().renditions.includes('proxy') && !['unreadable', 'document'].includes(this.asset().kind),
  );
  protected readonly hasPeaks = computed(() => this.asset().renditions.includes('peaks'));
  protected readonly url = FILE_PATHS.rendition;

  /** The proxy if it is made, else the original if it is there and the browser plays its kind. */
  protected readonly source = computed(() => {
    const { id, renditions, state, path, kind } = this.asset();
    if (renditions.includes('proxy')) return FILE_PATHS.rendition(id, 'proxy');
    if ((state === 'online' || state === 'changed') && kind !== 'sequence' && PLAYABLE.test(path))
      return FILE_PATHS.original(id);
    return null;
  });
  protected readonly poster = computed(() =>
    this.asset().renditions.includes('poster') ? FILE_PATHS.rendition(this.asset().id, 'poster') : null,
  );
  protected readonly why = computed(() => {
    const { kind, reason, state } = this.asset();
    if (kind === 'document') return 'A document. Its file is under “From the file”.';
    if (kind === 'unreadable') return `This file cannot be read. ${reason ?? ''}`;
    if (this.broken()) return 'The browser cannot play this.';
    return state === 'online'
      ? 'Its proxy is being made. It plays here once it is ready.'
      : `${STATE_LABELS[state].word}, and no proxy was made before. ${STATE_LABELS[state].help}`;
  });
  protected readonly kindLabel = computed(() => KIND_LABELS[this.asset().kind]);

  protected readonly timecode = computed(() => {
    const counting = this.counting();
    if (counting) return formatTimecode((this.asset().startFrame ?? 0) + this.frame(), counting);
    const whole = Math.floor(this.seconds());
    return `${String(Math.floor(whole / 60)).padStart(2, '0')}:${String(whole % 60).padStart(2, '0')}.${String(Math.floor((this.seconds() % 1) * 10))}`;
  });
  protected readonly played = computed(() =>
    this.counting()
      ? this.frame() / Math.max(1, this.total() - 1)
      : this.seconds() / Math.max(0.001, (this.asset().durationMs ?? 0) / 1000),
  );
  protected readonly range = computed(() => {
    const last = Math.max(1, this.total());
    const [start, end] = [this.in() ?? 0, this.out() ?? last];
    return this.in() === null && this.out() === null
      ? null
      : { left: (start / last) * 100, width: ((end - start) / last) * 100 };
  });

  private reverse: ReturnType<typeof setInterval> | null = null;
  /** The frame that was asked for and has not been shown yet. */
  private wanted: number | null = null;

  constructor() {
    const keys = inject(Keys);
    const when = (use: () => void) => () => {
      if (!this.media() && !this.isSound()) return false;
      return void use();
    };
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
      when(() => this.faster(1)),
    );
    keys.on(
      'play.back',
      when(() => this.faster(-1)),
    );
    keys.on(
      'play.frame-back',
      when(() => this.step(-1)),
    );
    keys.on(
      'play.frame-on',
      when(() => this.step(1)),
    );
    keys.on(
      'play.in',
      when(() => this.mark('in')),
    );
    keys.on(
      'play.out',
      when(() => this.mark('out')),
    );
    effect((onCleanup) => {
      const element = this.media()?.nativeElement;
      this.assetId();
      this.wanted = null;
      if (element) onCleanup(this.watch(element));
    });
    inject(DestroyRef).onDestroy(() => this.stopReverse());
    const api = inject(Api);
    effect(() => {
      const id = this.assetId();
      // What somebody looks at is made before everything else. Nothing depends on the answer.
      if (this.lacksProxy()) untracked(() => api.call('first', { assetId: id }).subscribe({ error: () => undefined }));
    });
  }

  private watch(element: HTMLVideoElement): () => void {
    return followFrames(element, this.isSound(), (seconds) => {
      this.seconds.set(seconds);
      const counting = this.counting();
      if (!counting) return;
      const shown = this.inside(frameAt(seconds, counting.rate));
      // A frame told after a seek was asked for is one on the way there: steps and marks pressed quickly would be lost.
      if (this.wanted !== null && this.wanted !== shown) return;
      this.wanted = null;
      this.frame.set(shown);
    });
  }

  private inside(frame: number): number {
    return Math.min(Math.max(0, frame), Math.max(0, this.total() - 1));
  }

  /** Shows exactly this frame. */
  seek(frame: number): void {
    const element = this.media()?.nativeElement;
    const counting = this.counting();
    if (!element || !counting) return;
    const target = this.inside(frame);
    this.wanted = target;
    this.frame.set(target);
    element.currentTime = ((target + 0.5) * counting.rate.den) / counting.rate.num;
  }

  protected seekTo(part: number): void {
    const element = this.media()?.nativeElement;
    if (this.counting()) this.seek(Math.round(part * Math.max(0, this.total() - 1)));
    else if (element)
      element.currentTime =
        part * (Number.isFinite(element.duration) ? element.duration : (this.asset().durationMs ?? 0) / 1000);
  }

  step(frames: number): void {
    this.stop();
    if (this.counting()) this.seek(this.frame() + frames);
    else {
      const element = this.media()?.nativeElement;
      if (element) element.currentTime = Math.max(0, element.currentTime + frames / 25);
    }
  }

  protected toggle(): void {
    if (this.shuttle() !== 0) this.stop();
    else this.run(1);
  }

  stop(): void {
    this.stopReverse();
    this.media()?.nativeElement.pause();
    this.shuttle.set(0);
  }

  protected faster(direction: 1 | -1): void {
    const now = this.shuttle();
    const index =
      Math.sign(now) === direction ? Math.min(SPEEDS.length - 1, SPEEDS.indexOf(Math.abs(now) as 1) + 1) : 0;
    this.run(direction * (SPEEDS[index] ?? 1));
  }

  private run(speed: number): void {
    const element = this.media()?.nativeElement;
    if (!element) return;
    this.stopReverse();
    this.shuttle.set(speed);
    if (speed > 0) {
      if (this.counting() && this.frame() >= this.total() - 1) this.seek(0);
      this.wanted = null;
      element.playbackRate = speed;
      void element.play().catch(() => this.shuttle.set(0));
      return;
    }
    // Browsers do not play backwards; stepping at the rate's pace does.
    element.pause();
    const counting = this.counting();
    const perTick = Math.max(1, Math.round(((counting ? counting.rate.num / counting.rate.den : 25) * -speed) / 12.5));
    this.reverse = setInterval(() => {
      if (this.frame() <= 0 && counting) return this.stop();
      if (counting) this.seek(this.frame() - perTick);
      else element.currentTime = Math.max(0, element.currentTime - perTick / 25);
    }, 80);
  }

  private stopReverse(): void {
    if (this.reverse) clearInterval(this.reverse);
    this.reverse = null;
  }

  protected ended(): void {
    this.shuttle.set(0);
  }

  protected mark(which: 'in' | 'out'): void {
    if (!this.withMarks() || !this.counting()) return;
    const frame = this.frame();
    const [start, end] = [this.in(), this.out()];
    // A mark that would turn the range around drops the other one.
    if (which === 'in') this.marks.emit({ in: frame, out: end !== null && end > frame ? end : null });
    else this.marks.emit({ in: start !== null && start <= frame ? start : null, out: frame + 1 });
  }
}
