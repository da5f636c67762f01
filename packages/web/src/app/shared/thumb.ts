import { ChangeDetectionStrategy, Component, computed, input, signal } from '@angular/core';
import { FILE_PATHS, type Asset } from '@larder/contract';
import { Icon } from './icon';
import { KIND_LABELS } from './icons';
import { Waveform } from './waveform';

/** Frames in a filmstrip, side by side: as the server makes them. */
const STRIP_FRAMES = 20;

/** The picture of an asset: poster, scrubbed through its filmstrip by moving over it; the waveform of a sound; else its kind in words. */
@Component({
  selector: 'nl-thumb',
  imports: [Icon, Waveform],
  template: `
    @if (has('poster')) {
      <img class="poster" [src]="url('poster')" alt="" loading="lazy" draggable="false" />
      @if (at() !== null && has('filmstrip')) {
        <div
          class="strip"
          [style.background-image]="'url(' + url('filmstrip') + ')'"
          [style.background-size]="stripWidth + '% 100%'"
          [style.background-position-x]="position()"
        ></div>
        <div class="playhead" [style.left.%]="at()! * 100"></div>
      }
    } @else if (has('peaks')) {
      <nl-waveform [src]="url('peaks')" [quiet]="true" />
    } @else {
      <div class="none">
        <nl-icon [name]="kind().icon" size="1.6em" /><span>{{ kind().word }}</span>
      </div>
    }
  `,
  styles: `
    :host {
      display: block;
      position: relative;
      overflow: hidden;
      aspect-ratio: 16 / 9;
      background: var(--nl-stage);
      border-radius: 3px;
    }
    .poster {
      width: 100%;
      height: 100%;
      object-fit: contain;
      display: block;
    }
    .strip {
      position: absolute;
      inset: 0;
      background-repeat: no-repeat;
    }
    .playhead {
      position: absolute;
      top: 0;
      bottom: 0;
      width: 1px;
      background: #fff;
      box-shadow: 0 0 0 1px rgb(0 0 0 / 60%);
    }
    .none {
      height: 100%;
      display: grid;
      place-content: center;
      justify-items: center;
      gap: 4px;
      color: #b8b0a0;
      font-size: 0.8rem;
    }
    nl-waveform {
      position: absolute;
      inset: 12% 6%;
    }
  `,
  host: { '(pointermove)': 'move($event)', '(pointerleave)': 'at.set(null)' },
  changeDetection: ChangeDetectionStrategy.OnPush,
})
export class Thumb {
  readonly asset = input.required<Asset>();
  readonly scrub = input(true);
  /** How far along the pointer is, from 0 to 1; null when it is elsewhere. */
  protected readonly at = signal<number | null>(null);
  protected readonly kind = computed(() => KIND_LABELS[this.asset().kind]);
  protected readonly stripWidth = STRIP_FRAMES * 100;

  protected readonly position = computed(() => {
    const frames = this.asset().durationFrames ?? STRIP_FRAMES;
    // Short clips fill only a part of the strip.
    const filled = Math.ceil(frames / Math.max(1, Math.ceil(frames / STRIP_FRAMES)));
    const index = Math.min(filled - 1, Math.floor((this.at() ?? 0) * filled));
    return `${(index / (STRIP_FRAMES - 1)) * 100}%`;
  });

  protected has(kind: 'poster' | 'filmstrip' | 'peaks'): boolean {
    return this.asset().renditions.includes(kind);
  }

  protected url(kind: string): string {
    return kind === 'poster' ? FILE_PATHS.poster(this.asset()) : FILE_PATHS.rendition(this.asset().id, kind);
  }

  protected move(event: PointerEvent): void {
    if (!this.scrub() || event.pointerType === 'touch') return;
    const box = (event.currentTarget as HTMLElement).getBoundingClientRect();
    this.at.set(Math.min(0.999, Math.max(0, (event.clientX - box.left) / box.width)));
  }
}
