import { ChangeDetectionStrategy, Component, computed, input } from '@angular/core';
import { NgIcon } from '@ng-icons/core';
import { ICONS, type IconName } from './icons';

/** An icon of the set. It says nothing by itself: a word stands beside it, or its button carries a label. */
@Component({
  selector: 'nl-icon',
  imports: [NgIcon],
  template: `<ng-icon [svg]="svg()" [size]="size()" aria-hidden="true" />`,
  styles: `
    :host {
      display: inline-flex;
      line-height: 1;
      /* Within running text it stands with the words. */
      vertical-align: -0.15em;
      flex: none;
    }
  `,
  changeDetection: ChangeDetectionStrategy.OnPush,
})
export class Icon {
  readonly name = input.required<IconName>();
  readonly size = input('1.05em');
  protected readonly svg = computed(() => ICONS[this.name()]);
}
