import { ChangeDetectionStrategy, Component, computed, inject, input, output } from '@angular/core';
import { Store } from '@ngrx/store';
import { nudged, type Marker, type NewMarker } from '@larder/core/markers';
import type { Asset } from '@larder/contract';
import { counted, placeText } from '../shared/format';
import { MarkerList, type ListedMarker, type MarkerId } from './marker-list';
import { markerActions, markersFeature } from './state';
import { TimedNotes } from './timed-notes';

/** The markers of the asset that is looked at, and its captions in and out. */
@Component({
  selector: 'nl-asset-markers',
  imports: [MarkerList, TimedNotes],
  template: `
    <nl-marker-list
      [markers]="listed()"
      [naming]="naming()"
      [failed]="failed()"
      [disabled]="disabled()"
      (gone)="go($event)"
      (named)="name($event)"
      (changed)="change($event)"
      (nudged)="nudge($event)"
      (removed)="remove($event)"
    />
    <nl-timed-notes [asset]="asset()" [mayLog]="!disabled()" [any]="all().length > 0" />
  `,
  styles: `
    :host {
      display: grid;
      gap: 4px;
    }
  `,
  changeDetection: ChangeDetectionStrategy.OnPush,
})
export class AssetMarkers {
  readonly asset = input.required<Asset>();
  readonly disabled = input(false);
  /** A place of the asset. */
  readonly gone = output<number>();
  private readonly store = inject(Store);
  protected readonly all = this.store.selectSignal(markersFeature.selectMarkers);
  protected readonly naming = this.store.selectSignal(markersFeature.selectNaming);
  protected readonly failed = this.store.selectSignal(markersFeature.selectFailed);
  protected readonly listed = computed(() =>
    this.all().map((marker): ListedMarker => ({ ...marker, place: this.placeOf(marker) })),
  );

  private placeOf({ start, end }: Marker): string {
    const at = (place: number) => placeText(this.asset(), place);
    return end === null ? at(start) : `${at(start)} – ${at(end - 1)}`;
  }

  private with(id: MarkerId, act: (marker: Marker) => void): void {
    const marker = this.all().find((each) => each.id === id);
    if (marker) act(marker);
  }

  protected go(id: MarkerId): void {
    this.with(id, ({ start }) => this.gone.emit(start));
  }

  protected name(id: MarkerId | null): void {
    this.store.dispatch(markerActions.beginNaming({ id: id === null ? null : Number(id) }));
  }

  protected change({ id, change, label }: { id: MarkerId; change: Partial<NewMarker>; label: string }): void {
    this.with(id, ({ id: number, by: _by, ...marker }) =>
      this.store.dispatch(markerActions.change({ id: number, marker: { ...marker, ...change }, label })),
    );
  }

  protected nudge({ id, by }: { id: MarkerId; by: number }): void {
    const { durationFrames, durationMs } = this.asset();
    this.with(id, (marker) => {
      // A frame, or a tenth of a second of a sound.
      const { start, end } = nudged(marker, durationFrames === null ? by * 100 : by, durationFrames ?? durationMs ?? 0);
      if (start !== marker.start) this.change({ id, change: { start, end }, label: 'Marker moved' });
      this.gone.emit(start);
    });
  }

  protected remove(ids: readonly MarkerId[]): void {
    this.store.dispatch(
      markerActions.remove({ ids: ids.map(Number), label: `${counted(ids.length, 'marker')} removed` }),
    );
  }
}
