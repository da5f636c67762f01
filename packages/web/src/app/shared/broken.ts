import { ChangeDetectionStrategy, Component, computed, input } from '@angular/core';
import { RouterLink } from '@angular/router';
import type { LostOf } from '@larder/contract';
import { counted } from './format';
import { Icon } from './icon';

/** Says of a bin, project or string-out how many of its originals are missing or changed, and leads to finding them; nothing where none are. */
@Component({
  selector: 'nl-broken',
  imports: [Icon, RouterLink],
  template: `@if (count() > 0) {
    <a
      routerLink="/upkeep"
      [queryParams]="address()"
      [title]="counted(count(), 'original') + ' missing or changed: find and relink'"
      [attr.aria-label]="counted(count(), 'original') + ' of ' + named() + ' missing or changed: find and relink'"
      ><nl-icon name="missing" />{{ short() ? count() : counted(count(), 'original') + ' missing' }}</a
    >
  }`,
  styles: `
    a {
      display: inline-flex;
      gap: 4px;
      align-items: center;
      color: var(--nl-bad);
      font-size: 0.85rem;
      white-space: nowrap;
    }
  `,
  changeDetection: ChangeDetectionStrategy.OnPush,
})
export class Broken {
  readonly count = input.required<number>();
  readonly of = input.required<Exclude<LostOf, 'everything' | 'assets'>>();
  readonly id = input.required<number>();
  readonly named = input.required<string>();
  /** The number alone, where there is little room. */
  readonly short = input(false);
  protected readonly counted = counted;
  protected readonly address = computed(() => ({ of: this.of(), id: this.id(), named: this.named() }));
}
