import {
  ChangeDetectionStrategy,
  Component,
  computed,
  effect,
  inject,
  type ElementRef,
  input,
  output,
  signal,
  untracked,
  viewChild,
} from '@angular/core';
import { FormsModule } from '@angular/forms';
import {
  typedValue,
  valueText,
  type Field,
  type FieldType,
  type SettableFieldId,
  type SetValue,
} from '@larder/core/fields';
import { Fields } from '../shared/fields';

/** What several assets say in a field: the same, or not. */
export type Shared<T> = { readonly same: true; readonly value: T } | { readonly same: false };

export interface FieldSaved {
  readonly field: SettableFieldId;
  readonly value: SetValue;
  /** The revision that the person was looking at when they began. */
  readonly seen: number;
}

const HINTS: Partial<Record<FieldType, string>> = {
  names: 'names, with commas between',
  dateMs: '2026-05-12',
  position: '50.4120, -3.5180',
  timecode: '10:00:00:00',
  url: 'https://',
};
const MIXED = 'Different values';

/** One field of what is selected, to be read and said anew. It is saved when it is left. */
@Component({
  selector: 'nl-field',
  imports: [FormsModule],
  template: `
    <label class="form-label" [for]="id()" [title]="field().help"
      >{{ field().label }}
      @if (field().unit; as unit) {
        <span class="muted">({{ unit }})</span>
      }
      @if (address(); as link) {
        <a [href]="link" target="_blank" rel="noopener noreferrer">open</a>
      }
    </label>
    @switch (field().type) {
      @case (listed() ? field().type : null) {
        <select
          [id]="id()"
          class="form-select form-select-sm"
          [disabled]="disabled()"
          [ngModel]="said().same ? text() : differing"
          (ngModelChange)="choose($event)"
        >
          @if (!said().same) {
            <option [value]="differing" disabled>{{ mixed }}</option>
          }
          <option value=""></option>
          @for (choice of field().choices; track choice) {
            <option [value]="choice">{{ choice }}</option>
          }
        </select>
      }
      @case ('choices') {
        <div class="choices" role="group" [id]="id()" [attr.aria-label]="field().label">
          @for (choice of field().choices; track choice) {
            <button
              type="button"
              class="btn btn-plain btn-sm"
              [class.active]="has(choice)"
              [attr.aria-pressed]="has(choice)"
              [disabled]="disabled()"
              (click)="flip(choice)"
            >
              {{ choice }}
            </button>
          }
          @if (!said().same) {
            <span class="muted">{{ mixed }}</span>
          }
        </div>
      }
      @case ('longText') {
        <textarea
          [id]="id()"
          class="form-control form-control-sm"
          dir="auto"
          rows="2"
          #box
          [value]="text()"
          [placeholder]="hint()"
          [disabled]="disabled()"
          [class.is-invalid]="issue()"
          (focus)="begin()"
          (blur)="save(box)"
          (keydown.control.enter)="leave($event)"
          (keydown.escape)="leave($event)"
        ></textarea>
      }
      @default {
        <input
          [id]="id()"
          class="form-control form-control-sm"
          dir="auto"
          #box
          [attr.inputmode]="field().type === 'number' ? 'decimal' : null"
          [value]="text()"
          [placeholder]="hint()"
          [disabled]="disabled()"
          [class.is-invalid]="issue()"
          (focus)="begin()"
          (blur)="save(box)"
          (keydown.enter)="leave($event)"
          (keydown.escape)="leave($event)"
          autocomplete="off"
        />
      }
    }
    @if (issue(); as words) {
      <div class="invalid-feedback d-block" role="alert">{{ words }}</div>
    }
  `,
  styles: `
    .choices {
      display: flex;
      flex-wrap: wrap;
      gap: 4px;
      max-height: 132px;
      position: relative;
      overflow: auto;
    }
  `,
  changeDetection: ChangeDetectionStrategy.OnPush,
})
export class FieldEdit {
  readonly field = input.required<Field & { readonly id: SettableFieldId }>();
  readonly said = input.required<Shared<SetValue>>();
  readonly disabled = input(false);
  /** What the window has been told of. */
  readonly revision = input.required<number>();
  /** The selection: with another one, what was begun is over. */
  readonly of = input.required<readonly number[]>();
  readonly saved = output<FieldSaved>();
  private readonly box = viewChild<ElementRef<HTMLInputElement | HTMLTextAreaElement>>('box');
  private readonly fields = inject(Fields);
  protected readonly mixed = MIXED;
  /** No value of any field. */
  protected readonly differing = '\n';
  protected readonly id = computed(() => `field-${this.field().id}`);
  protected readonly listed = computed(() => this.field().type === 'choice' || this.field().type === 'yesNo');
  protected readonly issue = signal<string | null>(null);
  /**
   * What the field held when it got the focus, and the revision the person was looking at. What is under the fingers is not changed
   * by what others save; whoever saves last is asked.
   */
  private readonly typing = signal<{ readonly held: string; readonly seen: number } | null>(null);
  protected readonly text = computed(() => {
    const [typing, said] = [this.typing(), this.said()];
    return typing ? typing.held : said.same ? valueText(said.value, this.field().type) : '';
  });
  protected readonly hint = computed(() => (this.said().same ? (HINTS[this.field().type] ?? '') : MIXED));

  constructor() {
    effect(() => {
      this.of();
      untracked(() => {
        this.issue.set(null);
        this.typing.set(null);
        // What was refused of one clip stayed there to be mended; of the next it would be a lie.
        const element = this.box()?.nativeElement;
        if (element) element.value = this.text();
      });
    });
  }

  /** Where a web address leads; only such as its schema lets through are followed. */
  protected readonly address = computed(() => {
    const said = this.said();
    return this.field().type === 'url' && said.same && typeof said.value === 'string' && /^https?:/.test(said.value)
      ? said.value
      : null;
  });

  private chosen(): readonly string[] {
    const said = this.said();
    return said.same && said.value !== null && typeof said.value === 'object' ? said.value : [];
  }

  protected has(choice: string): boolean {
    return this.chosen().includes(choice);
  }

  /** Says a choice or takes it back; kept in the order of the list. */
  protected flip(choice: string): void {
    const chosen = this.chosen();
    const { id, choices = [] } = this.field();
    const value = choices.filter((each) => chosen.includes(each) !== (each === choice));
    this.saved.emit({ field: id, value: value.length > 0 ? value : null, seen: this.revision() });
  }

  protected begin(): void {
    this.typing.set({ held: this.text(), seen: this.revision() });
  }

  protected choose(value: string): void {
    this.saved.emit({ field: this.field().id, value: value === '' ? null : value, seen: this.revision() });
  }

  /** Saves the field when it is left, if it was changed and is allowed. */
  protected save(element: HTMLInputElement | HTMLTextAreaElement): void {
    const [text, held, seen] = [element.value.trim(), this.text(), this.typing()?.seen ?? this.revision()];
    this.typing.set(null);
    this.issue.set(null);
    if (text === held) return;
    const { id } = this.field();
    const value = typedValue(this.field(), text);
    try {
      this.fields.registry().changes.validateSync({ [id]: value }, { strict: true });
      this.saved.emit({ field: id, value, seen });
    } catch (error) {
      // What was typed stays in the field, with what is wrong with it below.
      this.issue.set((error as Error).message);
    }
  }

  protected leave(event: Event): void {
    const element = event.target as HTMLInputElement;
    if (event instanceof KeyboardEvent && event.key === 'Escape') element.value = this.text();
    element.blur();
    event.preventDefault();
  }
}
