import {
  ChangeDetectionStrategy,
  Component,
  computed,
  effect,
  type ElementRef,
  input,
  output,
  signal,
  untracked,
  viewChild,
} from '@angular/core';
import { FormsModule } from '@angular/forms';
import {
  fieldChangesSchema,
  typedValue,
  valueText,
  type Field,
  type SettableFieldId,
  type SetValue,
} from '@larder/core/fields';

/** What several assets say in a field: the same, or not. */
export type Shared<T> = { readonly same: true; readonly value: T } | { readonly same: false };

export interface FieldSaved {
  readonly field: SettableFieldId;
  readonly value: SetValue;
  /** The revision that the person was looking at when they began. */
  readonly seen: number;
}

const MIXED = 'Different values';

/** One field of what is selected, to be read and said anew. It is saved when it is left. */
@Component({
  selector: 'nl-field',
  imports: [FormsModule],
  template: `
    <label class="form-label" [for]="id()" [title]="field().help">{{ field().label }}</label>
    @switch (field().type) {
      @case ('choice') {
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
      @case ('longText') {
        <textarea
          [id]="id()"
          class="form-control form-control-sm"
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
          #box
          [attr.inputmode]="field().type === 'number' ? 'numeric' : null"
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
  protected readonly mixed = MIXED;
  /** No value of any field. */
  protected readonly differing = '\n';
  protected readonly id = computed(() => `field-${this.field().id}`);
  protected readonly issue = signal<string | null>(null);
  /**
   * What the field held when it got the focus, and the revision the person was looking at. What is under the fingers is not changed
   * by what others save; whoever saves last is asked.
   */
  private readonly typing = signal<{ readonly held: string; readonly seen: number } | null>(null);
  protected readonly text = computed(() => {
    const [typing, said] = [this.typing(), this.said()];
    return typing ? typing.held : said.same ? valueText(said.value) : '';
  });
  protected readonly hint = computed(() =>
    !this.said().same ? MIXED : this.field().type === 'names' ? 'names, with commas between' : '',
  );

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
      fieldChangesSchema.validateSync({ [id]: value }, { strict: true });
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
