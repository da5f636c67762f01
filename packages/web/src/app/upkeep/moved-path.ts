import { ChangeDetectionStrategy, Component, input } from '@angular/core';

/** Where something was, with where it is now below it where that is known; what is said of it stands under both. */
@Component({
  selector: 'nl-moved-path',
  template: `<div class="path">
      <span class="muted where">was {{ preposition() }}</span
      >&ngsp;<span class="mono">{{ was() }}</span>
    </div>
    @if (now(); as path) {
      <div class="path">
        <span class="muted where">now {{ preposition() }}</span
        >&ngsp;<span class="mono">{{ path }}</span>
      </div>
    }
    <ng-content />`,
  styles: `
    :host {
      display: block;
      flex: 1;
      min-width: 0;
    }

    .path {
      display: flex;
      gap: 8px;
      overflow-wrap: anywhere;
    }

    .where {
      flex: none;
      width: 52px;
    }
  `,
  changeDetection: ChangeDetectionStrategy.OnPush,
})
export class MovedPath {
  /** A storage, with the path in it. */
  readonly was = input.required<string>();
  readonly now = input<string | null>(null);
  /** Files are at a path, what was in a folder is in it. */
  readonly preposition = input<'at' | 'in'>('at');
}
