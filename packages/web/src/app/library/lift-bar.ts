import { ChangeDetectionStrategy, Component, inject, input, output } from '@angular/core';
import { Icon } from '../shared/icon';
import { Keys } from '../shared/keys';

/** Whether a list holds only what a search finds, or everything, with that standing out; then one steps from one to the next. */
@Component({
  selector: 'nl-lift-bar',
  imports: [Icon],
  template: `
    <div class="btn-group" role="group" aria-label="What the list holds">
      <button
        type="button"
        class="btn btn-plain btn-sm"
        [class.active]="!on()"
        [attr.aria-pressed]="!on()"
        (click)="changed.emit(false)"
        title="The list holds what the search finds (Shift L)"
      >
        Only matches
      </button>
      <button
        type="button"
        class="btn btn-plain btn-sm"
        [class.active]="on()"
        [attr.aria-pressed]="on()"
        (click)="changed.emit(true)"
        title="Everything stays in its place, and what the search finds stands out (Shift L)"
      >
        All, matches lifted
      </button>
    </div>
    @if (on()) {
      <button
        type="button"
        class="btn btn-plain btn-sm"
        [disabled]="count() === 0"
        (click)="stepped.emit(true)"
        title="The match before (,)"
      >
        <nl-icon name="up" /><span class="visually-hidden">The match before</span>
      </button>
      <button
        type="button"
        class="btn btn-plain btn-sm"
        [disabled]="count() === 0"
        (click)="stepped.emit(false)"
        title="The next match (.)"
      >
        <nl-icon name="down" /><span class="visually-hidden">The next match</span>
      </button>
    }
  `,
  styles: `
    :host {
      display: flex;
      gap: 6px;
      white-space: nowrap;
    }
  `,
  changeDetection: ChangeDetectionStrategy.OnPush,
})
export class LiftBar {
  readonly on = input.required<boolean>();
  /** How many stand out; null while that is not known. */
  readonly count = input.required<number | null>();
  readonly changed = output<boolean>();
  /** On to the next match, or backwards to the one before. */
  readonly stepped = output<boolean>();

  constructor() {
    const keys = inject(Keys);
    keys.on('list.lift', () => this.changed.emit(!this.on()));
    // Elsewhere these keys are nobody's.
    const step = (backwards: boolean) => (): boolean => {
      if (!this.on()) return false;
      this.stepped.emit(backwards);
      return true;
    };
    keys.on('list.match-before', step(true));
    keys.on('list.match-next', step(false));
  }
}
