import { ChangeDetectionStrategy, Component, computed, input, output } from '@angular/core';
import { counted, formatCount } from '../shared/format';
import { Icon } from '../shared/icon';

/** A word that is looked for or not, at a press; with how often it is said, where that is known. */
@Component({
  selector: 'nl-word-chip',
  imports: [Icon],
  template: `
    <button
      type="button"
      [attr.aria-pressed]="chosen()"
      [class.active]="chosen()"
      [disabled]="refused() !== '' && !chosen()"
      [title]="title()"
      (click)="toggled.emit()"
    >
      <nl-icon [name]="chosen() ? 'check' : 'plus'" size="0.9em" /><span dir="auto">{{ word() }}</span>
      @if (said(); as count) {
        &ngsp;<span class="mono n">{{ formatted(count.hits) }}</span>
      }
    </button>
  `,
  styles: `
    button {
      display: inline-flex;
      align-items: center;
      gap: 4px;
      padding: 1px 8px 2px 6px;
      border: 1px solid var(--nl-line);
      border-radius: var(--nl-radius);
      background: var(--nl-card);
      color: var(--nl-ink);
      font-size: 0.875rem;
      line-height: 1.4;
    }
    button:disabled {
      opacity: 0.55;
    }
    .active {
      background: var(--nl-accent-soft);
      border-color: var(--nl-accent);
    }
    .n {
      color: var(--nl-muted);
      font-size: 0.75rem;
    }
  `,
  changeDetection: ChangeDetectionStrategy.OnPush,
})
export class WordChip {
  readonly word = input.required<string>();
  readonly said = input<{ readonly files: number; readonly hits: number } | null>(null);
  readonly chosen = input.required<boolean>();
  /** Why no more can be chosen; empty where more can. */
  readonly refused = input('');
  readonly toggled = output();
  protected readonly formatted = formatCount;
  protected readonly title = computed(() => {
    const count = this.said();
    if (this.refused() && !this.chosen()) return this.refused();
    const said = count ? `Said ${counted(count.hits, 'time')} in ${counted(count.files, 'file')}. ` : '';
    return said + (this.chosen() ? 'Looked for; press to leave it out.' : 'Press to look for it as well.');
  });
}
