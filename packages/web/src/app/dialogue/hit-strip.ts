import { ChangeDetectionStrategy, Component, computed, input, output } from '@angular/core';
import type { SpokenPlace } from '@larder/core/dialogue';

interface Tick {
  readonly at: number;
  readonly left: number;
  readonly strength: number;
}

/** Where in a file something was found: a line as long as the file, with a stroke for each hit, the likelier the stronger. */
@Component({
  selector: 'nl-hit-strip',
  template: `
    @for (tick of ticks(); track tick.at) {
      <i
        [style.left.%]="tick.left"
        [style.opacity]="tick.strength"
        [class.now]="tick.at === current()"
        [attr.data-at]="tick.at"
      ></i>
    }
  `,
  styles: `
    :host {
      display: block;
      position: relative;
      height: 18px;
      border-radius: 2px;
      background: var(--nl-sunk);
      cursor: pointer;
    }
    i {
      position: absolute;
      top: 2px;
      bottom: 2px;
      width: 3px;
      margin-left: -1px;
      background: var(--nl-accent);
    }
    i.now {
      top: -2px;
      bottom: -2px;
      opacity: 1 !important;
      outline: 1px solid var(--nl-ink);
    }
  `,
  host: { '(click)': 'point($event)', 'aria-hidden': 'true' },
  changeDetection: ChangeDetectionStrategy.OnPush,
})
export class HitStrip {
  readonly hits = input.required<readonly SpokenPlace[]>();
  readonly durationMs = input.required<number>();
  readonly current = input<number | null>(null);
  /** The hit nearest to where it was clicked. */
  readonly chosen = output<number>();
  protected readonly ticks = computed((): readonly Tick[] => {
    const length = Math.max(1, this.durationMs());
    return this.hits().map(({ confidence, startMs }, at) => ({
      at,
      left: (Math.min(startMs, length) / length) * 100,
      strength: FAINTEST + ((1 - FAINTEST) * confidence) / 100,
    }));
  });

  protected point(event: MouseEvent): void {
    const box = (event.currentTarget as HTMLElement).getBoundingClientRect();
    const left = ((event.clientX - box.left) / Math.max(1, box.width)) * 100;
    const [nearest] = this.ticks().toSorted((a, b) => Math.abs(a.left - left) - Math.abs(b.left - left));
    if (nearest) this.chosen.emit(nearest.at);
  }
}

/** What is hardly likely is seen all the same. */
const FAINTEST = 0.3;
