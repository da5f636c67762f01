import { ChangeDetectionStrategy, Component, computed, inject, input } from '@angular/core';
import { NgbDropdown, NgbDropdownMenu, NgbDropdownToggle } from '@ng-bootstrap/ng-bootstrap';
import { Fields } from '../shared/fields';
import { Icon } from '../shared/icon';
import { Settings } from '../shared/settings';

/** Lines beneath a picture at most. */
const MOST_LINES = 3;

/** By what a list is cut into groups, and what stands beneath the pictures. */
@Component({
  selector: 'nl-arrange-menu',
  imports: [Icon, NgbDropdown, NgbDropdownMenu, NgbDropdownToggle],
  template: `
    <div ngbDropdown autoClose="outside" placement="bottom-end">
      <button
        type="button"
        class="btn btn-plain btn-sm"
        ngbDropdownToggle
        title="Arrange: groups, lines, size"
        [class.active]="settings.by() !== null"
      >
        <nl-icon name="arrange" /><span class="word">Arrange</span>
      </button>
      <div ngbDropdownMenu class="menu" aria-label="How the list is arranged">
        <label for="group-by">Group by</label>
        <select
          id="group-by"
          class="form-select form-select-sm"
          (change)="settings.by.set($any($event.target).value || null)"
        >
          <option value="" [selected]="settings.by() === null">Nothing: one list</option>
          @for (field of groupable(); track field.id) {
            <option [value]="field.id" [selected]="settings.by() === field.id">{{ field.label }}</option>
          }
        </select>
        @if (sheet()) {
          <fieldset>
            <legend>Beneath the pictures</legend>
            @for (place of places; track place) {
              <label class="visually-hidden" [for]="'line-' + place">Line {{ place + 1 }}</label>
              <select
                [id]="'line-' + place"
                class="form-select form-select-sm"
                (change)="say(place, $any($event.target).value)"
              >
                <option value="" [selected]="!lines()[place]">No further line</option>
                @for (field of fields(); track field.id) {
                  <option [value]="field.id" [selected]="lines()[place] === field.id">{{ field.label }}</option>
                }
              </select>
            }
          </fieldset>
          <label for="thumb">Size of the pictures</label>
          <input
            id="thumb"
            type="range"
            min="140"
            max="360"
            step="20"
            [value]="settings.thumb()"
            (input)="settings.thumb.set(+$any($event.target).value)"
          />
        }
      </div>
    </div>
  `,
  styles: `
    .menu {
      width: 250px;
      padding: 12px 14px;
    }
    label,
    legend {
      display: block;
      margin: 0 0 3px;
      font-size: 0.8125rem;
      font-weight: 650;
      color: var(--nl-muted);
    }
    fieldset {
      margin: 12px 0;
    }
    select {
      margin-bottom: 5px;
    }
    input[type='range'] {
      width: 100%;
      accent-color: var(--nl-accent);
    }
  `,
  changeDetection: ChangeDetectionStrategy.OnPush,
})
export class ArrangeMenu {
  /** The list is shown as a contact sheet. */
  readonly sheet = input.required<boolean>();
  protected readonly settings = inject(Settings);
  private readonly registry = inject(Fields).registry;
  protected readonly fields = computed(() =>
    this.registry().all.filter(({ retired, unordered }) => !retired && !unordered),
  );
  // Of a long text hardly two say the same.
  protected readonly groupable = computed(() => this.fields().filter(({ type }) => type !== 'longText'));
  protected readonly lines = this.settings.lines;
  protected readonly places = Array.from({ length: MOST_LINES }, (_unused, place) => place);

  protected say(place: number, id: string): void {
    const lines = [...this.lines()];
    lines[place] = id;
    // Each once, and none that is empty between.
    this.lines.set([...new Set(lines.filter(Boolean))]);
  }
}
