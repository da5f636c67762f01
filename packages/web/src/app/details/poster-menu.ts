import { ChangeDetectionStrategy, Component, computed, inject, output } from '@angular/core';
import { NgbDropdown, NgbDropdownItem, NgbDropdownMenu, NgbDropdownToggle } from '@ng-bootstrap/ng-bootstrap';
import { POSTER_WAYS, type PosterWay } from '@larder/contract';
import { Icon } from '../shared/icon';
import { POSTER_LABELS, SelectionLog } from './selection-log';

/** By which frame one clip, or each of many, is shown. */
@Component({
  selector: 'nl-poster-menu',
  imports: [Icon, NgbDropdown, NgbDropdownItem, NgbDropdownMenu, NgbDropdownToggle],
  template: `
    <div ngbDropdown [placement]="['bottom-end', 'top-end']" container="body">
      <button type="button" class="btn btn-quiet btn-sm" ngbDropdownToggle title="The frame it is shown by">
        <nl-icon name="still" />Poster frame
      </button>
      <div ngbDropdownMenu>
        @for (way of ways(); track way) {
          <button type="button" ngbDropdownItem [attr.data-way]="way" (click)="chosen.emit(way)">
            {{ labels[way].replace('Poster frame: ', '') }}
            @if (way === 'frame') {
              <kbd>Shift P</kbd>
            }
          </button>
        }
      </div>
    </div>
  `,
  changeDetection: ChangeDetectionStrategy.OnPush,
})
export class PosterMenu {
  readonly chosen = output<PosterWay>();
  private readonly log = inject(SelectionLog);
  protected readonly labels = POSTER_LABELS;
  /** Only a single clip stands somewhere. */
  protected readonly ways = computed(() => POSTER_WAYS.filter((way) => way !== 'frame' || this.log.single() !== null));
}
