import { ChangeDetectionStrategy, Component, inject, Injectable, signal } from '@angular/core';
import { NgbActiveModal, NgbModal } from '@ng-bootstrap/ng-bootstrap';
import { ask } from '../shared/ask';
import { Fields } from '../shared/fields';
import type { FieldConflict } from '@larder/contract';
import { valueText, type SetValue } from '@larder/core/fields';
import type { Mine } from './state/library.actions';

/** Two people changed the same field: shows both, and asks which is to stand. */
@Component({
  selector: 'nl-conflict',
  template: `
    <div class="modal-header"><h2 class="h5 m-0" id="conflict-title">Somebody else changed this too</h2></div>
    <div class="modal-body">
      <p>
        While you were editing, a colleague saved something else in the same place. Nothing of theirs has been
        overwritten.
      </p>
      <table class="table table-sm">
        <thead>
          <tr>
            <th>Asset</th>
            <th>Field</th>
            <th>Theirs</th>
            <th>Yours</th>
          </tr>
        </thead>
        <tbody>
          @for (conflict of conflicts().slice(0, 8); track $index) {
            <tr>
              <td>{{ conflict.name }}</td>
              <td>{{ label(conflict.field) }}</td>
              <td>
                {{ text(conflict.field, conflict.theirs) || 'empty' }}
                <div class="muted small">{{ conflict.by ?? 'somebody' }}</div>
              </td>
              <td>{{ mineOf(conflict) }}</td>
            </tr>
          }
        </tbody>
      </table>
      @if (conflicts().length > 8) {
        <p class="muted">and {{ conflicts().length - 8 }} more</p>
      }
    </div>
    <div class="modal-footer">
      <button type="button" class="btn btn-plain" (click)="modal.dismiss()">Keep theirs</button>
      <button type="button" class="btn btn-primary" (click)="modal.close()">Use mine</button>
    </div>
  `,
  changeDetection: ChangeDetectionStrategy.OnPush,
})
class Conflict {
  protected readonly modal = inject(NgbActiveModal);
  readonly conflicts = signal<readonly FieldConflict[]>([]);
  private readonly fields = inject(Fields);
  readonly mine = signal<Mine>(() => undefined);
  protected readonly text = (field: string, value: SetValue | undefined): string =>
    valueText(value, this.fields.registry().byId(field)?.type);
  protected mineOf(conflict: FieldConflict): string {
    const mine = this.mine()(conflict);
    return mine === undefined ? 'what your change makes of it' : this.text(conflict.field, mine) || 'empty';
  }
  protected readonly label = (field: string): string => this.fields.registry().labelOf(field);
}

@Injectable({ providedIn: 'root' })
export class ConflictDialog {
  private readonly modals = inject(NgbModal);

  /** True if the person's own values are to be written over the others'. */
  async ask(conflicts: readonly FieldConflict[], mine: Mine): Promise<boolean> {
    const options = { ariaLabelledBy: 'conflict-title', size: 'lg' };
    const over = await ask(this.modals, Conflict, options, (shown) => {
      shown.conflicts.set(conflicts);
      shown.mine.set(mine);
    });
    return over !== null;
  }
}
