import { ChangeDetectionStrategy, Component, computed, ElementRef, inject, input, output } from '@angular/core';
import { NOTCHES } from '@larder/core/dialogue';
import { counted, formatCount } from '../shared/format';

const STEPS: Readonly<Partial<Record<string, 1 | -1>>> = { ArrowRight: 1, ArrowDown: 1, ArrowLeft: -1, ArrowUp: -1 };

/** How strict a search of speech is, with how much each notch finds: one sees what loosening it brings. */
@Component({
  selector: 'nl-strictness',
  template: `
    <span class="small muted" id="strictness">How strict</span>
    <div role="radiogroup" aria-labelledby="strictness">
      @for (notch of notches(); track notch.name; let at = $index) {
        <button
          type="button"
          role="radio"
          [attr.aria-checked]="at === chosen()"
          [tabindex]="at === chosen() ? 0 : -1"
          [class.within]="at <= chosen()"
          [class.active]="at === chosen()"
          [title]="notch.title"
          (click)="picked.emit(at)"
          (keydown)="step($event)"
        >
          <span>{{ notch.label }}</span>
          <span class="mono n">{{ notch.hits }}</span>
        </button>
      }
    </div>
  `,
  styles: `
    :host {
      display: flex;
      align-items: center;
      gap: 8px;
    }
    [role='radiogroup'] {
      display: flex;
    }
    button {
      display: grid;
      justify-items: center;
      min-width: 82px;
      padding: 2px 8px 3px;
      border: 1px solid var(--nl-line);
      border-right-width: 0;
      background: var(--nl-card);
      color: var(--nl-ink);
      font-size: 0.8125rem;
      line-height: 1.25;
    }
    button:first-child {
      border-radius: var(--nl-radius) 0 0 var(--nl-radius);
    }
    button:last-child {
      border-right-width: 1px;
      border-radius: 0 var(--nl-radius) var(--nl-radius) 0;
    }
    .within {
      background: var(--nl-accent-soft);
    }
    .active {
      box-shadow: inset 0 -3px var(--nl-accent);
    }
    .n {
      font-size: 0.75rem;
      color: var(--nl-muted);
    }
  `,
  changeDetection: ChangeDetectionStrategy.OnPush,
})
export class Strictness {
  readonly counts = input<readonly { readonly files: number; readonly hits: number }[]>([]);
  /** By its place in `NOTCHES`. */
  readonly chosen = input.required<number>();
  readonly picked = output<number>();
  private readonly host = inject<ElementRef<HTMLElement>>(ElementRef).nativeElement;

  /** As in any group of radio buttons, arrows go to the next and choose it; the player does not hear of them. */
  protected step(event: KeyboardEvent): void {
    const by = STEPS[event.key];
    if (by === undefined) return;
    event.preventDefault();
    event.stopPropagation();
    const at = Math.min(NOTCHES.length - 1, Math.max(0, this.chosen() + by));
    this.host.querySelectorAll<HTMLElement>('[role="radio"]')[at]?.focus();
    if (at !== this.chosen()) this.picked.emit(at);
  }

  protected readonly notches = computed(() =>
    NOTCHES.map(({ floor, label, name }, at) => {
      const count = this.counts()[at];
      const found = count ? `: ${counted(count.hits, 'hit')} in ${counted(count.files, 'file')}` : '';
      const what = floor === null ? 'Words as they are spelled' : `Also what is ${floor}% likely or more`;
      return { name, label, hits: count ? formatCount(count.hits) : '–', title: what + found };
    }),
  );
}
