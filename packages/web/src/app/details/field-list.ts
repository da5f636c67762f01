import { ChangeDetectionStrategy, Component, inject, input } from '@angular/core';
import { FieldEdit } from './field-edit';
import { SelectionLog, type ShownField } from './selection-log';

/** Some fields of what is selected, to be filled in; two beside each other where they are short. */
@Component({
  selector: 'nl-fields',
  imports: [FieldEdit],
  template: `
    @for (each of fields(); track each.field.id) {
      <nl-field
        [class.wide]="each.field.type === 'longText' || each.field.type === 'names' || each.field.id === 'title'"
        [field]="each.field"
        [said]="each.said"
        [disabled]="!log.mayLog()"
        [revision]="log.revision()"
        [of]="log.ids()"
        (saved)="log.save($event)"
      />
    }
  `,
  styles: `
    :host {
      display: grid;
      grid-template-columns: repeat(2, minmax(0, 1fr));
      gap: 8px 10px;
    }
    .wide {
      grid-column: 1 / -1;
    }
  `,
  changeDetection: ChangeDetectionStrategy.OnPush,
})
export class FieldList {
  readonly fields = input.required<readonly ShownField[]>();
  protected readonly log = inject(SelectionLog);
}
