import {
  ChangeDetectionStrategy,
  Component,
  computed,
  DestroyRef,
  type ElementRef,
  inject,
  input,
  output,
  signal,
  viewChildren,
} from '@angular/core';
import type { LaidOutItem } from '@larder/core/sequence';
import { formatTimecode, type Counting } from '@larder/core/timecode';
import { FILE_PATHS, type Asset } from '@larder/contract';
import { secondsInto } from '../shared/follow-frames';
import { Icon } from '../shared/icon';

/**
 * Plays a string-out straight through. Two players take turns: while one shows a clip, the other has the next one loaded and
 * standing on its first frame, so that a cut is only a matter of which of them is seen.
 */
@Component({
  selector: 'nl-run-player',
  imports: [Icon],
  template: `
    <div class="stage">
      @for (side of [0, 1]; track side) {
        <video #video [class.shown]="front() === side" preload="auto" playsinline [attr.data-side]="side"></video>
      }
      @if (trouble(); as words) {
        <div class="why">{{ words }}</div>
      }
    </div>
    <div class="controls">
      <button type="button" class="btn btn-primary btn-sm" (click)="toggle()" [disabled]="laidOut().length === 0">
        <nl-icon [name]="playing() ? 'pause' : 'play'" />{{ playing() ? 'Pause' : 'Play through' }}
      </button>
      <span class="mono" data-test="record">{{ timecode() }}</span>
      <span class="muted small cut" dir="auto">{{ name() }}</span>
    </div>
  `,
  styles: `
    :host {
      display: block;
    }
    .stage {
      position: relative;
      aspect-ratio: 16 / 9;
      background: var(--nl-stage);
      border-radius: 3px;
      overflow: hidden;
    }
    video {
      position: absolute;
      inset: 0;
      width: 100%;
      height: 100%;
      object-fit: contain;
      visibility: hidden;
    }
    .shown {
      visibility: visible;
    }
    .why {
      position: absolute;
      inset: 0;
      display: grid;
      place-content: center;
      color: #ece5d6;
      padding: 20px;
      text-align: center;
      background: rgb(0 0 0 / 55%);
    }
    .controls {
      display: flex;
      align-items: center;
      gap: 10px;
      margin-top: 6px;
      min-width: 0;
    }
  `,
  changeDetection: ChangeDetectionStrategy.OnPush,
})
export class RunPlayer {
  readonly laidOut = input.required<readonly LaidOutItem[]>();
  readonly assets = input.required<Readonly<Record<number, Asset>>>();
  readonly counting = input.required<Counting>();
  /** The item that is on the screen. */
  readonly reached = output<string>();

  private readonly videos = viewChildren<ElementRef<HTMLVideoElement>>('video');
  protected readonly front = signal(0);
  protected readonly playing = signal(false);
  protected readonly trouble = signal<string | null>(null);
  private readonly index = signal(0);
  private readonly sourceFrame = signal<number | null>(null);
  private stopWatching: () => void = () => undefined;

  private readonly current = computed(() => this.laidOut()[this.index()]);
  protected readonly name = computed(() => this.current()?.media?.name ?? '');
  protected readonly timecode = computed(() => {
    const current = this.current();
    if (!current) return formatTimecode(0, this.counting());
    const into = Math.max(0, (this.sourceFrame() ?? current.item.in) - current.item.in);
    const rate = current.media?.counting.rate;
    const frames = rate
      ? Math.floor((into * rate.den * this.counting().rate.num) / (rate.num * this.counting().rate.den))
      : 0;
    return formatTimecode(current.record.start + frames, this.counting());
  });

  constructor() {
    inject(DestroyRef).onDestroy(() => this.pause());
  }

  /** The item that is on the screen, and the frame of its media; null while there is nothing to play. */
  place(): { readonly itemId: string; readonly frame: number } | null {
    const item = this.current()?.item;
    return item ? { itemId: item.id, frame: Math.min(this.sourceFrame() ?? item.in, item.out - 1) } : null;
  }

  toggle(): void {
    if (this.playing()) this.pause();
    else void this.play(this.index());
  }

  pause(): void {
    this.playing.set(false);
    this.stopWatching();
    for (const video of this.videos()) video.nativeElement.pause();
  }

  /** Plays from an item on; from where it stood if that one was being played. */
  async play(from: number): Promise<void> {
    this.trouble.set(null);
    const resumes = from === this.index() && this.sourceFrame() !== null && this.ready(this.front(), from);
    this.index.set(from);
    if (!resumes && !(await this.load(this.front(), from))) return;
    this.playing.set(true);
    await this.run();
  }

  private element(side: number): HTMLVideoElement {
    return (this.videos()[side] as ElementRef<HTMLVideoElement>).nativeElement;
  }

  private ready(side: number, index: number): boolean {
    return this.element(side).dataset['item'] === this.laidOut()[index]?.item.id;
  }

  /** Loads an item into a player and waits until its first frame can be shown. False, with the reason on the screen, if it cannot. */
  private async load(side: number, index: number): Promise<boolean> {
    const laid = this.laidOut()[index];
    const asset = laid && this.assets()[laid.item.assetId];
    const media = laid?.media;
    if (!laid || !asset || !media || !asset.renditions.includes('proxy')) {
      if (laid && side === this.front())
        this.trouble.set(
          asset
            ? `${asset.title ?? asset.name} has no proxy to play yet.`
            : 'This clip is not in the library any more.',
        );
      return false;
    }
    const video = this.element(side);
    const url = FILE_PATHS.rendition(asset.id, 'proxy');
    if (!video.src.endsWith(url)) video.src = url;
    video.dataset['item'] = laid.item.id;
    video.currentTime = secondsInto(laid.item.in, media.counting.rate);
    if (video.readyState >= 2 && !video.seeking) return true;
    return new Promise((resolve) => {
      video.addEventListener('seeked', () => resolve(true), { once: true });
      video.addEventListener('error', () => resolve(false), { once: true });
    });
  }

  private async run(): Promise<void> {
    const side = this.front();
    const laid = this.current();
    if (!laid?.media) return this.pause();
    this.reached.emit(laid.item.id);
    const video = this.element(side);
    // The next clip gets ready behind the scenes.
    void this.load(1 - side, this.index() + 1);
    const { num, den } = laid.media.counting.rate;
    this.stopWatching();
    let handle = 0;
    const onFrame = (_now: number, { mediaTime }: VideoFrameCallbackMetadata) => {
      const frame = Math.floor((mediaTime * num) / den + 0.01);
      this.sourceFrame.set(frame);
      if (frame >= laid.item.out - 1) return void this.next();
      handle = video.requestVideoFrameCallback(onFrame);
    };
    handle = video.requestVideoFrameCallback(onFrame);
    // The last frame of a file is followed by no other that could be noticed.
    const ended = () => void this.next();
    video.addEventListener('ended', ended, { once: true });
    this.stopWatching = () => {
      video.cancelVideoFrameCallback(handle);
      video.removeEventListener('ended', ended);
    };
    await video.play().catch(() => this.pause());
  }

  private async next(): Promise<void> {
    this.stopWatching();
    const next = this.index() + 1;
    this.element(this.front()).pause();
    this.sourceFrame.set(null);
    if (next >= this.laidOut().length) {
      this.index.set(0);
      return this.pause();
    }
    const side = 1 - this.front();
    if (!this.ready(side, next) && !(await this.load(side, next))) {
      this.front.set(side);
      this.index.set(next);
      await this.load(side, next);
      return this.pause();
    }
    this.front.set(side);
    this.index.set(next);
    if (this.playing()) await this.run();
  }
}
