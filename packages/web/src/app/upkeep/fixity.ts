import { ChangeDetectionStrategy, Component, inject, resource } from '@angular/core';
import { RouterLink } from '@angular/router';
import { firstValueFrom } from 'rxjs';
import { FIXITY_WORDS } from '../details/places';
import { Api } from '../shared/api';
import { counted, formatCount, formatMoment } from '../shared/format';
import { Icon } from '../shared/icon';

/** Whether the bytes of originals are as they were when they were first looked at. */
@Component({
  selector: 'nl-fixity',
  imports: [Icon, RouterLink],
  template: `
    <h2>Fixity</h2>
    @if (summary.hasValue()) {
      @if (summary.value(); as said) {
        <p class="m-0">
          @if (said.checked + said.never === 0) {
            Nothing is catalogued yet.
          } @else {
            {{ counted(said.checked, 'asset') }} looked at byte by byte, {{ count(said.never) }} never.
          }
          @if (said.oldestMs !== null) {
            <span class="muted">The oldest look is of {{ moment(said.oldestMs) }}.</span>
          }
        </p>
        @for (bad of said.bad; track bad.assetId) {
          <p class="bad m-0">
            <nl-icon name="warning" />
            <a routerLink="/library" [queryParams]="{ q: 'name:&quot;' + bad.name + '&quot;' }">{{ bad.name }}</a>
            {{ words[bad.outcome] }}, {{ moment(bad.atMs) }}
          </p>
        } @empty {
          @if (said.checked > 0) {
            <p class="good m-0"><nl-icon name="check" />All of it was as it should be.</p>
          }
        }
        <p class="muted small m-0">
          A storage is checked from the Storage page, by hand or by a schedule of its own; a single asset from its
          details.
        </p>
      }
    } @else if (summary.error()) {
      <p class="m-0" role="alert">How the bytes are cannot be shown just now.</p>
    }
  `,
  styleUrl: './upkeep-card.scss',
  changeDetection: ChangeDetectionStrategy.OnPush,
})
export class Fixity {
  private readonly api = inject(Api);
  protected readonly words = FIXITY_WORDS;
  protected readonly count = formatCount;
  protected readonly counted = counted;
  protected readonly moment = formatMoment;
  protected readonly summary = resource({ loader: () => firstValueFrom(this.api.call('fixity', null)) });
}
