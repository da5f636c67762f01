import { ChangeDetectionStrategy, Component, computed, inject, Injectable, signal } from '@angular/core';
import { FormsModule } from '@angular/forms';
import { NgbActiveModal, NgbModal } from '@ng-bootstrap/ng-bootstrap';
import type { FieldChanges, SettableFieldId } from '@larder/core/fields';
import type { EditChange } from '../library/state/library.actions';
import { ask } from '../shared/ask';
import { Fields } from '../shared/fields';
import { counted } from '../shared/format';
import { choicesOf, type CopiedFields } from './copied-fields';

/** Which of the copied fields are to be said of what is selected. */
@Component({
  selector: 'nl-paste-form',
  imports: [FormsModule],
  template: `
    <form (ngSubmit)="paste()">
      <div class="modal-header">
        <h2 class="h5 m-0" id="paste-title">Say of {{ counted(count(), 'asset') }} what “{{ copied()?.from }}” says</h2>
      </div>
      <div class="modal-body">
        @for (choice of choices(); track choice.id) {
          <label class="d-flex gap-2 py-1 align-items-baseline">
            <input
              type="checkbox"
              class="form-check-input m-0 flex-shrink-0"
              [attr.data-field]="choice.id"
              [checked]="chosen().has(choice.id)"
              (change)="toggle(choice.id)"
            />
            <span class="flex-shrink-0" style="width: 130px">{{ choice.label }}</span>
            <span class="muted text-break">{{ choice.text }}</span>
          </label>
        } @empty {
          <p class="m-0">It says nothing that could be copied.</p>
        }
      </div>
      <div class="modal-footer">
        <span class="muted small me-auto">Tags are added to those that are there.</span>
        <button type="button" class="btn btn-plain" (click)="modal.dismiss()">Cancel</button>
        <button type="submit" class="btn btn-primary" [disabled]="chosen().size === 0">Paste</button>
      </div>
    </form>
  `,
  changeDetection: ChangeDetectionStrategy.OnPush,
})
class PasteForm {
  protected readonly modal = inject(NgbActiveModal);
  private readonly fields = inject(Fields);
  readonly count = signal(0);
  readonly copied = signal<CopiedFields | null>(null);
  protected readonly chosen = signal<ReadonlySet<string>>(new Set());
  protected readonly counted = counted;
  protected readonly choices = computed(() => {
    const copied = this.copied();
    return copied ? choicesOf(copied, this.fields.registry()) : [];
  });

  protected toggle(id: string): void {
    this.chosen.update((before) => {
      const after = new Set(before);
      if (!after.delete(id)) after.add(id);
      return after;
    });
  }

  protected paste(): void {
    const copied = this.copied();
    if (!copied) return;
    const set = Object.fromEntries(
      Object.entries(copied.set).filter(([id]) => this.chosen().has(id as SettableFieldId)),
    ) as FieldChanges;
    this.modal.close({ set, addTags: this.chosen().has('tag') ? copied.tags : [] } satisfies EditChange);
  }
}

@Injectable({ providedIn: 'root' })
export class PasteDialog {
  private readonly modals = inject(NgbModal);

  ask(copied: CopiedFields, count: number): Promise<EditChange | null> {
    return ask(this.modals, PasteForm, { ariaLabelledBy: 'paste-title', scrollable: true }, (form) => {
      form.copied.set(copied);
      form.count.set(count);
    });
  }
}
