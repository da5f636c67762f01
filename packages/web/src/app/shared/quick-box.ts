import {
  ChangeDetectionStrategy,
  Component,
  computed,
  input,
  model,
  signal,
  type Signal,
  type WritableSignal,
} from '@angular/core';
import { fold } from '@larder/core/fields';

/** Whether something says all the words of a quick search, each anywhere in what it says. */
export type Fits = (...texts: readonly (string | null)[]) => boolean;

/** What a quick box holds, and what fits it. Nothing written fits everything. */
export interface Quick {
  readonly text: WritableSignal<string>;
  readonly fits: Signal<Fits>;
}

export function quick(): Quick {
  const text = signal('');
  const fits = computed((): Fits => {
    const wanted = fold(text()).split(/\s+/).filter(Boolean);
    return (...texts) => {
      const said = fold(texts.join(' '));
      return wanted.every((word) => said.includes(word));
    };
  });
  return { text, fits };
}

/** Narrows the list that it stands above, and nothing else, while one types. */
@Component({
  selector: 'nl-quick-box',
  template: `<input
    #box
    class="form-control form-control-sm"
    type="search"
    autocomplete="off"
    spellcheck="false"
    [placeholder]="label()"
    [attr.aria-label]="label()"
    [value]="text()"
    (input)="text.set(box.value)"
    (keydown.escape)="clear($event)"
  />`,
  styles: `
    :host {
      display: block;
      min-width: 120px;
    }
  `,
  changeDetection: ChangeDetectionStrategy.OnPush,
})
export class QuickBox {
  readonly label = input.required<string>();
  readonly text = model.required<string>();

  /** The first press empties the box; only the next one is meant for what is around it. */
  protected clear(event: Event): void {
    if (this.text() === '') return;
    event.stopPropagation();
    this.text.set('');
  }
}

/** In place of a list of which nothing fits what its quick box says. */
@Component({
  selector: 'nl-nothing-fits',
  template: `<p class="muted m-0" role="status">
    Nothing here says <span class="mono words" dir="auto">{{ text() }}</span>.
    <button type="button" class="btn btn-plain btn-sm" (click)="text.set('')">Show all</button>
  </p>`,
  styles: `
    .words {
      overflow-wrap: anywhere;
      color: var(--nl-ink);
    }
  `,
  changeDetection: ChangeDetectionStrategy.OnPush,
})
export class NothingFits {
  /** What the box says. */
  readonly text = model.required<string>();
}
