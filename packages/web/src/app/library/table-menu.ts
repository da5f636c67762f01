import { ChangeDetectionStrategy, Component, computed, inject, input } from '@angular/core';
import { RouterLink } from '@angular/router';
import { NgbDropdown, NgbDropdownItem, NgbDropdownMenu, NgbDropdownToggle } from '@ng-bootstrap/ng-bootstrap';
import { FILE_PATHS, TABLE_FORMATS, type AskedOrder } from '@larder/contract';
import { Fields } from '../shared/fields';
import { Icon } from '../shared/icon';
import { placesOf } from '../shared/ledger-places';
import { Settings } from '../shared/settings';
import { ListSidecars } from './list-sidecars';

/** Takes what a list shows along, as a table in the ledger's columns or as XMP sidecars; and reads them in. */
@Component({
  selector: 'nl-table-menu',
  imports: [Icon, ListSidecars, NgbDropdown, NgbDropdownItem, NgbDropdownMenu, NgbDropdownToggle, RouterLink],
  template: `
    <div ngbDropdown placement="bottom-end">
      <button
        type="button"
        class="btn btn-plain btn-sm"
        ngbDropdownToggle
        title="Tables and XMP sidecars, to take along or to read in"
        aria-label="Take along or read in"
      >
        <nl-icon name="download" />
      </button>
      <div ngbDropdownMenu>
        @for (each of downloads(); track each.format) {
          <a ngbDropdownItem [href]="each.path" download>
            <nl-icon name="download" /> Take this list along as {{ each.format.toUpperCase() }}
          </a>
        }
        @if (mayRead()) {
          <nl-list-sidecars [query]="query()" />
          <a ngbDropdownItem routerLink="/table"><nl-icon name="upload" /> Read a table in …</a>
        }
      </div>
    </div>
  `,
  changeDetection: ChangeDetectionStrategy.OnPush,
})
export class TableMenu {
  readonly query = input.required<string>();
  /** In which the list is shown. */
  readonly order = input.required<AskedOrder>();
  readonly mayRead = input.required<boolean>();
  private readonly settings = inject(Settings);
  private readonly fields = inject(Fields);
  protected readonly downloads = computed(() => {
    const columns = placesOf(this.settings.columns(), this.fields.registry())
      .filter(({ shown }) => shown)
      .map(({ colId }) => colId);
    return TABLE_FORMATS.map((format) => ({
      format,
      path: FILE_PATHS.tableOf(format, this.query(), columns, this.order()),
    }));
  });
}
