import { ChangeDetectionStrategy, Component, input, output } from '@angular/core';
import type { Box } from '@larder/core/position';
import type { DayCount, Spread } from '@larder/core/search';
import type { MapWindow, Town } from '@larder/contract';

/** In place of charts, which draw into a layout that the tests' document has none of: what they are told, as text and buttons. */
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

@Component({
  selector: 'nl-days-chart',
  template: `@for (each of days(); track each.dayMs) {
    <button type="button" (click)="pick.emit(each.dayMs)">{{ each.dayMs }}: {{ each.count }}</button>
  }`,
  changeDetection: ChangeDetectionStrategy.OnPush,
})
export class DaysChart {
  readonly days = input.required<readonly DayCount[]>();
  readonly pick = output<number>();
}

@Component({
  selector: 'nl-spread-chart',
  template: `@for (bar of spread().bars; track bar.from) {
    <button type="button" (click)="picked.emit(bar)">{{ label()(bar.from, bar.to) }}: {{ bar.count }}</button>
  }`,
  changeDetection: ChangeDetectionStrategy.OnPush,
})
export class SpreadChart {
  readonly spread = input.required<Spread>();
  readonly label = input.required<(from: number, to: number) => string>();
  readonly picked = output<{ readonly from: number; readonly to: number }>();
}

@Component({
  selector: 'nl-totals-chart',
  template: `@for (bar of bars(); track $index) {
    <button type="button" [title]="bar.title" (click)="picked.emit($index)">{{ bar.name }}: {{ bar.count }}</button>
  }`,
  changeDetection: ChangeDetectionStrategy.OnPush,
})
export class TotalsChart {
  readonly bars =
    input.required<readonly { readonly name: string; readonly count: number; readonly title: string }[]>();
  readonly stands = input(false);
  readonly picked = output<number>();
}

@Component({
  selector: 'nl-map-chart',
  template: `
    @for (spot of spots(); track spot.id) {
      <button type="button" class="spot" [class.picked]="picked() === spot.id" (click)="pick.emit(spot.id)">
        {{ spot.count }}
      </button>
    }
    @for (town of towns(); track town.name) {
      <i>{{ town.name }}</i>
    }
    <button type="button" class="east" (click)="moved.emit({ south: 0, west: 90, north: 10, east: 120 })">East</button>
    <button type="button" class="whole" (click)="whole.emit()">All</button>
    <b>{{ opening().south }} to {{ opening().north }}</b>
  `,
  changeDetection: ChangeDetectionStrategy.OnPush,
})
export class MapChart {
  readonly opening = input.required<Box>();
  readonly spots = input.required<MapWindow['clusters']>();
  readonly towns = input.required<readonly Town[]>();
  readonly picked = input.required<number | null>();
  readonly moved = output<Box>();
  readonly pick = output<number>();
  readonly whole = output();
}
