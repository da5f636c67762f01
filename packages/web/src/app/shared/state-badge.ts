import { ChangeDetectionStrategy, Component, computed, input } from '@angular/core';
import { NgbTooltip } from '@ng-bootstrap/ng-bootstrap';
import type { Asset } from '@larder/contract';
import { formatMoment } from './format';
import { Icon } from './icon';
import { STATE_LABELS } from './icons';

/** Where an original stands, as an icon and a word; nothing while all is well, unless asked for. */
@Component({
  selector: 'nl-state',
  imports: [Icon, NgbTooltip],
  template: `@if (always() || asset().state !== 'online') {
    <span class="state" [class]="asset().state" [ngbTooltip]="help()" container="body"
      ><nl-icon [name]="label().icon" />{{ label().word }}</span
    >
  }`,
  styles: `
    .state {
      display: inline-flex;
      align-items: center;
      gap: 4px;
      font-size: 0.8rem;
      font-weight: 600;
      padding: 0 6px;
      border-radius: 3px;
      background: var(--nl-card);
      color: var(--nl-ink);
      border: 1px solid var(--nl-line);
    }
    .missing,
    .changed {
      color: var(--nl-bad);
      border-color: var(--nl-bad);
    }
    .offline {
      color: var(--nl-warn);
      border-color: var(--nl-warn);
    }
    .online {
      color: var(--nl-good);
    }
  `,
  changeDetection: ChangeDetectionStrategy.OnPush,
})
export class StateBadge {
  readonly asset = input.required<Pick<Asset, 'state' | 'stateSinceMs'>>();
  readonly always = input(false);
  protected readonly label = computed(() => STATE_LABELS[this.asset().state]);
  protected readonly help = computed(() => `${this.label().help} Since ${formatMoment(this.asset().stateSinceMs)}.`);
}
