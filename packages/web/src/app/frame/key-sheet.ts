import { ChangeDetectionStrategy, Component, inject, Injectable } from '@angular/core';
import { NgbActiveModal, NgbModal } from '@ng-bootstrap/ng-bootstrap';
import { Icon } from '../shared/icon';
import { KEY_PLACES, KEY_TABLE, printKey, type KeyPlace } from '../shared/keys';

const PLACE_WORDS: Readonly<Record<KeyPlace, string>> = {
  everywhere: 'Everywhere',
  list: 'In a list',
  dialogue: 'Dialogue',
  player: 'Player',
  logging: 'Logging',
  'string-out': 'String-out',
};

/** Every key, printed from the table that also makes them work. */
@Component({
  selector: 'nl-key-sheet',
  imports: [Icon],
  template: `
    <div class="modal-header">
      <h2 class="h5 m-0" id="keys-title">Keys</h2>
      <button type="button" class="btn btn-quiet ms-auto" aria-label="Close" (click)="modal.dismiss()">
        <nl-icon name="close" />
      </button>
    </div>
    <div class="modal-body columns">
      @for (place of places; track place.id) {
        <section>
          <h3>{{ place.label }}</h3>
          <dl>
            @for (row of place.rows; track row.command) {
              <dt>
                <kbd>{{ print(row.key) }}</kbd>
              </dt>
              <dd>{{ row.label }}</dd>
            }
          </dl>
        </section>
      }
    </div>
  `,
  styles: `
    .columns {
      columns: 2;
      column-gap: 28px;
    }
    section {
      break-inside: avoid;
      margin-bottom: 14px;
    }
    h3 {
      font-size: 0.95rem;
    }
    dl {
      display: grid;
      grid-template-columns: 92px 1fr;
      gap: 3px 10px;
      margin: 0;
      font-size: 0.9rem;
    }
    dd {
      margin: 0;
    }
  `,
  changeDetection: ChangeDetectionStrategy.OnPush,
})
class KeySheetView {
  protected readonly modal = inject(NgbActiveModal);
  protected readonly print = printKey;
  protected readonly places = KEY_PLACES.map((id) => ({
    id,
    label: PLACE_WORDS[id],
    rows: KEY_TABLE.filter((row) => row.where === id),
  }));
}

@Injectable({ providedIn: 'root' })
export class KeySheet {
  private readonly modals = inject(NgbModal);

  open(): void {
    if (!this.modals.hasOpenModals())
      this.modals.open(KeySheetView, { ariaLabelledBy: 'keys-title', size: 'lg', scrollable: true });
  }
}
