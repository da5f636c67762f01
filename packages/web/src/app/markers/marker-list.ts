import {
  ChangeDetectionStrategy,
  Component,
  computed,
  effect,
  type ElementRef,
  inject,
  input,
  output,
  signal,
  viewChild,
} from '@angular/core';
import { Store } from '@ngrx/store';
import { fold } from '@larder/core/fields';
import {
  MARKER_COLOURS,
  MARKER_KIND_LABELS,
  MARKER_KINDS,
  markerText,
  nudged,
  type Marker,
  type NewMarker,
} from '@larder/core/markers';
import type { Asset } from '@larder/contract';
import { counted, placeText } from '../shared/format';
import { Icon } from '../shared/icon';
import { markerActions, markersFeature } from './state';
import { TimedNotes } from './timed-notes';

/** So many are shown at once; more are found by the filter. */
const SHOWN = 200;

/** The markers of an asset: gone to, filtered, named, moved by frames, removed. */
@Component({
  selector: 'nl-marker-list',
  imports: [Icon, TimedNotes],
  templateUrl: './marker-list.html',
  styleUrl: './marker-list.scss',
  changeDetection: ChangeDetectionStrategy.OnPush,
})
export class MarkerList {
  readonly asset = input.required<Asset>();
  readonly disabled = input(false);
  readonly gone = output<number>();
  private readonly store = inject(Store);
  private readonly nameField = viewChild<ElementRef<HTMLInputElement>>('name');
  protected readonly all = this.store.selectSignal(markersFeature.selectMarkers);
  protected readonly naming = this.store.selectSignal(markersFeature.selectNaming);
  protected readonly failed = this.store.selectSignal(markersFeature.selectFailed);
  protected readonly filter = signal('');
  protected readonly kinds = MARKER_KINDS;
  protected readonly kindLabels = MARKER_KIND_LABELS;
  protected readonly colours = MARKER_COLOURS;
  protected readonly counted = counted;
  /** So many are seen at a glance and need no filter. */
  protected readonly few = 4;
  private readonly fitting = computed(() => {
    const wanted = fold(this.filter().trim());
    return wanted === ''
      ? this.all()
      : this.all().filter((marker) =>
          fold(`${markerText(marker)} ${MARKER_KIND_LABELS[marker.kind]} ${marker.colour} ${marker.by ?? ''}`).includes(
            wanted,
          ),
        );
  });
  protected readonly shown = computed(() => this.fitting().slice(0, SHOWN));
  protected readonly more = computed(() => this.fitting().length - this.shown().length);

  constructor() {
    effect(() => {
      if (this.naming() !== null) this.nameField()?.nativeElement.focus();
    });
  }

  protected place(marker: Marker): string {
    return marker.end === null
      ? placeText(this.asset(), marker.start)
      : `${placeText(this.asset(), marker.start)} – ${placeText(this.asset(), marker.end - 1)}`;
  }

  protected edit(id: number | null): void {
    this.store.dispatch(markerActions.beginNaming({ id }));
  }

  protected change({ id, by: _by, ...marker }: Marker, change: Partial<NewMarker>, label: string): void {
    const same = Object.entries(change).every(([key, value]) => marker[key as keyof NewMarker] === value);
    if (!same) this.store.dispatch(markerActions.change({ id, marker: { ...marker, ...change }, label }));
  }

  protected nudge(marker: Marker, by: number): void {
    const { durationFrames, durationMs } = this.asset();
    // A frame, or a tenth of a second of a sound.
    const moved = nudged(marker, durationFrames === null ? by * 100 : by, durationFrames ?? durationMs ?? 0);
    this.change(marker, { start: moved.start, end: moved.end }, 'Marker moved');
    this.gone.emit(moved.start);
  }

  protected remove(ids: readonly number[]): void {
    this.store.dispatch(markerActions.remove({ ids, label: `${counted(ids.length, 'marker')} removed` }));
  }

  protected removeShown(): void {
    this.remove(this.fitting().map(({ id }) => id));
  }
}
