import { ChangeDetectionStrategy, Component, input, output } from '@angular/core';
import { formatCount } from '../shared/format';
import { Icon } from '../shared/icon';

/** The label of a group, as large as a picture, at the beginning of what stands beneath it. */
@Component({
  selector: 'nl-group-heading',
  imports: [Icon],
  template: `
    <span class="field">{{ field() }}</span>
    <strong dir="auto" [title]="label()">{{ label() }}</strong>
    <span class="count mono">{{ number(count()) }}</span>
    <span class="acts">
      <button
        type="button"
        class="btn btn-plain btn-sm"
        [attr.aria-expanded]="!folded()"
        [title]="folded() ? 'Show what is in this group' : 'Fold this group away'"
        (click)="toggled.emit()"
      >
        <nl-icon [name]="folded() ? 'right' : 'down'" /><span class="visually-hidden">{{
          folded() ? 'Unfold' : 'Fold'
        }}</span>
      </button>
      <button type="button" class="btn btn-plain btn-sm" title="Select all of this group" (click)="chosen.emit()">
        <nl-icon name="check" /><span class="visually-hidden">Select all of {{ label() }}</span>
      </button>
      @if (narrows()) {
        <button type="button" class="btn btn-plain btn-sm" title="Show only this group" (click)="narrowed.emit()">
          <nl-icon name="search" /><span class="visually-hidden">Show only {{ label() }}</span>
        </button>
      }
    </span>
  `,
  styles: `
    :host {
      display: flex;
      flex-direction: column;
      min-width: 0;
      overflow: hidden;
      padding: 10px 12px;
      border: 1px solid var(--nl-line);
      border-left: 4px solid var(--nl-accent);
      border-radius: var(--nl-radius);
      background: var(--nl-sunk);
    }
    .field {
      font-size: 0.78rem;
      color: var(--nl-muted);
    }
    strong {
      font-family: var(--nl-serif);
      font-size: 1.125rem;
      line-height: 1.25;
      display: -webkit-box;
      -webkit-box-orient: vertical;
      -webkit-line-clamp: 3;
      overflow: hidden;
      overflow-wrap: anywhere;
    }
    .count {
      color: var(--nl-muted);
    }
    .acts {
      display: flex;
      gap: 4px;
      margin-top: auto;
    }
  `,
  host: { role: 'group', '[attr.aria-label]': 'label()' },
  changeDetection: ChangeDetectionStrategy.OnPush,
})
export class GroupHeading {
  readonly label = input.required<string>();
  /** What the list is cut by. */
  readonly field = input.required<string>();
  readonly count = input.required<number>();
  readonly folded = input.required<boolean>();
  /** A search finds what is in it. */
  readonly narrows = input.required<boolean>();
  readonly toggled = output();
  readonly chosen = output();
  readonly narrowed = output();
  protected readonly number = formatCount;
}
