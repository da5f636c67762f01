import { HttpClient } from '@angular/common/http';
import {
  ChangeDetectionStrategy,
  Component,
  effect,
  type ElementRef,
  inject,
  input,
  resource,
  viewChild,
} from '@angular/core';
import { firstValueFrom } from 'rxjs';
import type { Peaks } from '@larder/core/audio';

/** The shape of a sound, drawn from its peaks; what has been played is darker. */
@Component({
  selector: 'nl-waveform',
  template: `<canvas #canvas aria-hidden="true"></canvas>`,
  styles: `
    :host {
      display: block;
    }
    canvas {
      width: 100%;
      height: 100%;
      display: block;
    }
  `,
  changeDetection: ChangeDetectionStrategy.OnPush,
})
export class Waveform {
  private readonly http = inject(HttpClient);
  readonly src = input.required<string>();
  /** Played so far, from 0 to 1. */
  readonly played = input(0);
  readonly quiet = input(false);
  private readonly canvas = viewChild.required<ElementRef<HTMLCanvasElement>>('canvas');
  private readonly peaks = resource({
    params: () => this.src(),
    loader: ({ params }) => firstValueFrom(this.http.get<Peaks>(params)),
  });

  constructor() {
    effect(() => {
      const { nativeElement } = this.canvas();
      if (this.peaks.hasValue()) draw(nativeElement, this.peaks.value(), this.played(), this.quiet());
    });
  }
}

function draw(canvas: HTMLCanvasElement, { pairs }: Peaks, played: number, quiet: boolean): void {
  const context = canvas.getContext('2d');
  if (!context) return;
  const scale = window.devicePixelRatio || 1;
  const [width, height] = [
    Math.max(1, Math.round(canvas.clientWidth * scale)),
    Math.max(1, Math.round(canvas.clientHeight * scale)),
  ];
  [canvas.width, canvas.height] = [width, height];
  const middle = height / 2;
  const count = pairs.length / 2;
  const [rest, done] = quiet ? ['#cfc6b2', '#cfc6b2'] : ['#8f8878', '#f1dfb0'];
  for (let x = 0; x < width; x += 1) {
    // The extremes of all pairs that fall into this column.
    const [from, to] = [
      Math.floor((x / width) * count),
      Math.max(Math.floor((x / width) * count) + 1, Math.floor(((x + 1) / width) * count)),
    ];
    let [low, high] = [0, 0];
    for (let pair = from; pair < to && pair < count; pair += 1)
      [low, high] = [Math.min(low, pairs[pair * 2] ?? 0), Math.max(high, pairs[pair * 2 + 1] ?? 0)];
    const top = middle - (high / 127) * middle;
    context.fillStyle = x / width < played ? done : rest;
    context.fillRect(x, top, 1, Math.max(1, middle - (low / 127) * middle - top));
  }
}
