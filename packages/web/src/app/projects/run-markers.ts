import { ChangeDetectionStrategy, Component, computed, inject, input, linkedSignal, output } from '@angular/core';
import { Store } from '@ngrx/store';
import { nudged, type NewMarker } from '@larder/core/markers';
import type { RunMarker } from '@larder/core/sequence';
import { formatTimecode } from '@larder/core/timecode';
import { FILE_PATHS } from '@larder/contract';
import { counted } from '../shared/format';
import { Icon } from '../shared/icon';
import { MarkerList, type ListedMarker, type MarkerId } from '../markers/marker-list';
import { stringOutActions, stringOutFeature } from './string-out.state';

/** The markers of a string-out, by their place in the run. */
@Component({
  selector: 'nl-run-markers',
  imports: [Icon, MarkerList],
  template: `
    <nl-marker-list
      [markers]="listed()"
      [naming]="named()"
      [disabled]="disabled()"
      (gone)="go($event)"
      (named)="named.set($event)"
      (changed)="change($event.id, $event.change)"
      (nudged)="nudge($event)"
      (removed)="remove($event)"
    />
    @if (listed().length === 0) {
      <p class="muted m-0">
        @if (disabled()) {
          Nobody has set a marker yet.
        } @else {
          <kbd>M</kbd> sets one at the frame shown; it goes with its clip when clips move.
        }
      </p>
    }
    @if (away(); as number) {
      <p class="muted small m-0">{{ words(number, 'more marker') }} on frames that are trimmed away.</p>
    }
    @if (state().saved; as saved) {
      @if (listed().length > 0) {
        <div class="files">
          <a class="btn btn-quiet btn-sm" [href]="path(saved.id, 'vtt')" download title="The markers as WebVTT"
            ><nl-icon name="download" />WebVTT</a
          >
          <a class="btn btn-quiet btn-sm" [href]="path(saved.id, 'srt')" download title="The markers as SRT, text only"
            ><nl-icon name="download" />SRT</a
          >
        </div>
      }
    }
  `,
  styles: `
    :host {
      display: grid;
      gap: 8px;
    }
    .files {
      display: flex;
      gap: 4px;
    }
  `,
  changeDetection: ChangeDetectionStrategy.OnPush,
})
export class RunMarkers {
  readonly disabled = input.required<boolean>();
  /** One that was just set and is to be named. */
  readonly naming = input.required<string | null>();
  readonly gone = output<RunMarker>();
  private readonly store = inject(Store);
  protected readonly state = this.store.selectSignal(stringOutFeature.selectStringOutState);
  private readonly stringOut = this.store.selectSignal(stringOutFeature.selectStringOut);
  private readonly laidOut = this.store.selectSignal(stringOutFeature.selectLaidOutMarkers);
  protected readonly named = linkedSignal<MarkerId | null>(() => this.naming());
  protected readonly words = counted;
  protected readonly path = FILE_PATHS.cutList;
  protected readonly listed = computed(() => {
    const counting = this.stringOut()?.counting;
    return counting
      ? this.laidOut().map(({ marker, record: { start, end } }): ListedMarker => {
          const first = formatTimecode(start, counting);
          return {
            ...marker,
            place: marker.end === null ? first : `${first} – ${formatTimecode(end - 1, counting)}`,
          };
        })
      : [];
  });
  protected readonly away = computed(() => this.state().markers.length - this.listed().length);

  private with(id: MarkerId, act: (marker: RunMarker) => void): void {
    const marker = this.state().markers.find((each) => each.id === id);
    if (marker) act(marker);
  }

  protected go(id: MarkerId): void {
    this.with(id, (marker) => this.gone.emit(marker));
  }

  protected change(id: MarkerId, change: Partial<NewMarker>): void {
    const markers = this.state().markers.map((each) => (each.id === id ? { ...each, ...change } : each));
    this.store.dispatch(stringOutActions.mark({ markers }));
  }

  /** By frames of its clip, within what of it is in the run. */
  protected nudge({ id, by }: { id: MarkerId; by: number }): void {
    this.with(id, (marker) => {
      const item = this.state().items.find((each) => each.id === marker.itemId);
      if (!item) return;
      const { start, end } = nudged(marker, by, item.out);
      if (start === marker.start || start < item.in) return;
      this.change(id, { start, end });
      this.gone.emit({ ...marker, start, end });
    });
  }

  protected remove(ids: readonly MarkerId[]): void {
    const gone = new Set(ids);
    this.store.dispatch(stringOutActions.mark({ markers: this.state().markers.filter(({ id }) => !gone.has(id)) }));
  }
}
