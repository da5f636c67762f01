import { ChangeDetectionStrategy, Component, input, output } from '@angular/core';

/** In place of the chart, which draws into a layout that the tests' document has none of: its days as text and buttons. */
@Component({
  selector: 'nl-day-chart',
  template: `@for (each of days(); track each.day) {
    <button type="button" (click)="chosen.emit(each.day)">{{ each.day }}: {{ each.count }}</button>
  }`,
  changeDetection: ChangeDetectionStrategy.OnPush,
})
export class DayChart {
  readonly days = input.required<readonly { readonly day: string; readonly count: number }[]>();
  readonly chosen = output<string>();
}
