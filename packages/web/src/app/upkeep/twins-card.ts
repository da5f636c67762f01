import { ChangeDetectionStrategy, Component, inject, resource } from '@angular/core';
import { RouterLink } from '@angular/router';
import { Store } from '@ngrx/store';
import { firstValueFrom } from 'rxjs';
import { Api, troubleOf } from '../shared/api';
import { counted } from '../shared/format';
import { Icon } from '../shared/icon';
import { sessionFeature } from '../shared/session';

/** Whether anything is catalogued more than once, and the way to it. */
@Component({
  selector: 'nl-twins-card',
  imports: [Icon, RouterLink],
  template: `
    <h2>Twins</h2>
    @if (list.hasValue()) {
      @if (list.value().total > 0) {
        <p class="m-0">
          {{ counted(list.value().total, 'recording') }}
          {{ list.value().total === 1 ? 'is' : 'are' }} catalogued more than once.
          <a routerLink="/upkeep/twins">Look at them</a>
        </p>
      } @else {
        <p class="good m-0"><nl-icon name="check" />Nothing is catalogued more than once.</p>
      }
    } @else if (trouble()) {
      <p class="m-0" role="alert">What is catalogued more than once cannot be shown. {{ trouble() }}</p>
    }
  `,
  styleUrl: './upkeep-card.scss',
  changeDetection: ChangeDetectionStrategy.OnPush,
})
export class TwinsCard {
  private readonly api = inject(Api);
  private readonly revision = inject(Store).selectSignal(sessionFeature.selectRevision);
  protected readonly list = resource({
    params: () => this.revision(),
    loader: () => firstValueFrom(this.api.call('twinList', { offset: 0, limit: 1 })),
  });
  protected readonly counted = counted;
  protected readonly trouble = () => troubleOf(this.list);
}
