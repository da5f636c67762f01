import { ChangeDetectionStrategy, Component, computed, inject, input } from '@angular/core';
import type { Asset } from '@larder/contract';
import { Markings } from './markings';

/** The marking that an asset has: its colour, and its name beside it. Nothing for one that has none. */
@Component({
  selector: 'nl-marked',
  template: `
    @if (marking(); as mark) {
      <span class="mark cut" [attr.data-colour]="mark.colour" [title]="'Marked as ' + mark.name"
        ><i></i>{{ mark.name }}</span
      >
    }
  `,
  styles: `
    :host {
      min-width: 0;
    }
    :host:empty {
      display: none;
    }
  `,
  changeDetection: ChangeDetectionStrategy.OnPush,
})
export class MarkedAs {
  readonly asset = input.required<Asset>();
  private readonly markings = inject(Markings);
  protected readonly marking = computed(() => this.markings.of(this.asset()));
}
