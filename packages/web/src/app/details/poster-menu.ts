import { ChangeDetectionStrategy, Component, computed, inject, output, viewChild } from '@angular/core';
import { NgbDropdown, NgbDropdownItem, NgbDropdownMenu, NgbDropdownToggle } from '@ng-bootstrap/ng-bootstrap';
import { POSTER_WAYS, type PosterWay } from '@larder/contract';
import { Icon } from '../shared/icon';
import { POSTER_LABELS, SelectionLog } from './selection-log';

/** By which frame one clip, or each of many, is shown. */
@Component({
  selector: 'nl-poster-menu',
  imports: [Icon, NgbDropdown, NgbDropdownItem, NgbDropdownMenu, NgbDropdownToggle],
  template: `
    <div ngbDropdown [placement]="['bottom-end', 'top-end']" container="body" autoClose="outside" #menu="ngbDropdown">
      <button type="button" class="btn btn-quiet btn-sm" ngbDropdownToggle title="The frame it is shown by">
        <nl-icon name="still" />Poster frame
      </button>
      <div ngbDropdownMenu>
        @for (way of ways(); track way) {
          @if (way === 'percent') {
            <form class="dropdown-item percent" (submit)="$event.preventDefault(); choose(way, percent.valueAsNumber)">
              <label for="poster-percent">at</label>
              <input
                #percent
                id="poster-percent"
                class="form-control form-control-sm"
                type="number"
                min="0"
                max="100"
                step="1"
                value="10"
                required
              />
              percent
              <button class="btn btn-plain btn-sm" [attr.data-way]="way">Take it</button>
            </form>
          } @else {
            <button type="button" ngbDropdownItem [attr.data-way]="way" (click)="choose(way)">
              {{ labels[way].replace('Poster frame: ', '') }}
              @if (way === 'frame') {
                <kbd>Shift P</kbd>
              }
            </button>
          }
        }
      </div>
    </div>
  `,
  styles: `
    .percent {
      display: flex;
      align-items: center;
      gap: 6px;

      input {
        width: 64px;
      }
    }
  `,
  changeDetection: ChangeDetectionStrategy.OnPush,
})
export class PosterMenu {
  readonly chosen = output<{ readonly way: PosterWay; readonly percent: number }>();
  private readonly menu = viewChild.required<NgbDropdown>('menu');
  private readonly log = inject(SelectionLog);
  protected readonly labels = POSTER_LABELS;
  /** Only a single clip stands somewhere. */
  protected readonly ways = computed(() => POSTER_WAYS.filter((way) => way !== 'frame' || this.log.single() !== null));

  protected choose(way: PosterWay, percent = 0): void {
    this.menu().close();
    this.chosen.emit({ way, percent });
  }
}
