import { ChangeDetectionStrategy, Component, computed, inject, input, resource } from '@angular/core';
import { RouterLink } from '@angular/router';
import { firstValueFrom } from 'rxjs';
import type { Asset } from '@larder/contract';
import { Api } from '../shared/api';
import { counted, formatBytes, formatMoment } from '../shared/format';
import { Icon } from '../shared/icon';

/** Of an original that is not where it should be: where it was seen last, what it was, and how all else in its folder is. */
@Component({
  selector: 'nl-last-seen',
  imports: [Icon, RouterLink],
  template: `
    <h3>Last seen</h3>
    @if (seen.hasValue()) {
      @if (seen.value(); as said) {
        @if (said.isListed) {
          <p>Never: a cut list names it, and its file is looked for by reel and timecode.</p>
        } @else {
          <p class="mono">{{ said.storage }}/{{ said.path }}</p>
          <p>
            {{ moment(said.seenMs) }}; {{ bytes(said.bytes) }}
            @if (said.xxh64; as hash) {
              , <span class="mono" title="xxHash64">{{ hash }}</span>
            }
          </p>
          <p class="muted">
            {{ asset().state === 'offline' ? 'Its storage has been away' : words() }} since
            {{ moment(asset().stateSinceMs) }}.
          </p>
          <p class="muted">In its folder: {{ folderWords() }}.</p>
        }
      }
    } @else if (seen.error()) {
      <p class="muted">Where it was seen last cannot be shown just now.</p>
    }
    @if (mayKeep() && asset().state !== 'offline') {
      <a
        class="btn btn-plain btn-sm"
        routerLink="/upkeep"
        [queryParams]="{ of: 'assets', assets: asset().parentId ?? asset().id }"
        ><nl-icon name="search" />Find it</a
      >
    }
  `,
  styles: `
    :host {
      display: grid;
      gap: 3px;
      font-size: 0.875rem;
    }
    h3 {
      margin: 8px 0 0;
      font-size: 0.875rem;
    }
    p {
      margin: 0;
      overflow-wrap: anywhere;
    }
    .btn {
      justify-self: start;
    }
  `,
  changeDetection: ChangeDetectionStrategy.OnPush,
})
export class LastSeen {
  readonly asset = input.required<Asset>();
  readonly mayKeep = input.required<boolean>();
  /** Goes up with everything that happens in the library. */
  readonly revision = input.required<number>();
  private readonly api = inject(Api);
  private readonly id = computed(() => this.asset().id);
  protected readonly seen = resource({
    params: () => ({ id: this.id(), revision: this.revision() }),
    loader: ({ params: { id } }) => firstValueFrom(this.api.call('lastSeen', null, id)),
  });
  protected readonly words = computed(() =>
    this.asset().state === 'changed' ? 'Another file has been there' : 'It has been missing',
  );
  protected readonly folderWords = computed(() => {
    const { changed, missing, online } = this.seen.hasValue()
      ? this.seen.value().folder
      : { changed: 0, missing: 0, online: 0 };
    const some = [
      ...(online > 0 ? [`${counted(online, 'file')} there`] : []),
      ...(missing > 0 ? [`${counted(missing, 'file')} missing`] : []),
      ...(changed > 0 ? [`${counted(changed, 'file')} changed`] : []),
    ];
    return some.length === 0 ? 'nothing that is catalogued' : some.join(', ');
  });
  protected readonly bytes = formatBytes;
  protected readonly moment = formatMoment;
}
