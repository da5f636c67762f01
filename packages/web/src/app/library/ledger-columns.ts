import { ChangeDetectionStrategy, Component, computed, inject } from '@angular/core';
import { NgbDropdown, NgbDropdownMenu, NgbDropdownToggle } from '@ng-bootstrap/ng-bootstrap';
import { Fields } from '../shared/fields';
import { Icon } from '../shared/icon';
import { Settings } from '../shared/settings';
import { placesOf } from '../shared/ledger-places';
import { Layouts } from './layouts';

/** Which columns the ledger shows, by the groups of their fields. */
@Component({
  selector: 'nl-ledger-columns',
  imports: [Icon, Layouts, NgbDropdown, NgbDropdownMenu, NgbDropdownToggle],
  template: `
    <div ngbDropdown autoClose="outside" placement="bottom-end">
      <button type="button" class="btn btn-plain btn-sm" ngbDropdownToggle title="Columns">
        <nl-icon name="columns" /><span class="word">Columns</span>
      </button>
      <div ngbDropdownMenu class="menu" aria-label="Columns of the ledger">
        <nl-layouts />
        @for (group of groups(); track group.label) {
          <fieldset>
            <legend>{{ group.label }}</legend>
            @for (column of group.columns; track column.id) {
              <label [title]="column.help">
                <input
                  type="checkbox"
                  class="form-check-input"
                  [attr.data-column]="column.id"
                  [checked]="column.shown"
                  [disabled]="column.id === 'name'"
                  (change)="toggle(column.id)"
                />{{ column.label }}
              </label>
            }
          </fieldset>
        }
      </div>
    </div>
  `,
  styles: `
    .menu {
      columns: 3;
      width: 560px;
      padding: 10px 14px;
    }
    fieldset {
      break-inside: avoid;
      margin-bottom: 8px;
    }
    legend {
      margin: 0 0 2px;
      font-size: 0.8125rem;
      font-weight: 650;
      color: var(--nl-muted);
    }
    label {
      display: flex;
      align-items: center;
      gap: 6px;
      padding: 1px 0;
      font-size: 0.875rem;
    }
    input {
      flex: none;
      margin: 0;
    }
  `,
  changeDetection: ChangeDetectionStrategy.OnPush,
})
export class LedgerColumns {
  protected readonly settings = inject(Settings);
  private readonly fields = inject(Fields);
  private readonly places = computed(() => placesOf(this.settings.columns(), this.fields.registry()));
  protected readonly groups = computed(() =>
    this.fields.registry().groups.map(({ id, label }) => ({
      label,
      columns: this.fields
        .registry()
        .all.filter(({ retired, asked }) => !retired && !asked)
        .filter((column) => column.group === id)
        .map((column) => ({
          ...column,
          shown: this.places().some(({ colId, shown }) => shown && colId === column.id),
        })),
    })),
  );

  protected toggle(id: string): void {
    this.settings.columns.set(
      this.places().map((place) => (place.colId === id ? { ...place, shown: !place.shown } : place)),
    );
  }
}
