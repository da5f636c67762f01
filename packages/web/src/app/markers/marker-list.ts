import {
  ChangeDetectionStrategy,
  Component,
  computed,
  effect,
  type ElementRef,
  input,
  output,
  signal,
  viewChild,
} from '@angular/core';
import { fold } from '@larder/core/fields';
import { MARKER_COLOURS, MARKER_KIND_LABELS, MARKER_KINDS, markerText, type NewMarker } from '@larder/core/markers';
import { counted } from '../shared/format';
import { Icon } from '../shared/icon';

/** So many are shown at once; more are found by the filter. */
const SHOWN = 200;

/** A marker with where it stands, in words. Those that the server has not numbered yet are below zero. */
export interface ListedMarker extends NewMarker {
  readonly id: number | string;
  readonly by: string | null;
  readonly place: string;
}

export type MarkerId = ListedMarker['id'];

/** Markers in the order of their places: gone to, filtered, named, moved by frames, removed. Draws its inputs and tells what is done. */
@Component({
  selector: 'nl-marker-list',
  imports: [Icon],
  templateUrl: './marker-list.html',
  styleUrl: './marker-list.scss',
  changeDetection: ChangeDetectionStrategy.OnPush,
})
export class MarkerList {
  readonly markers = input.required<readonly ListedMarker[]>();
  /** The one that is being named or changed. */
  readonly naming = input.required<MarkerId | null>();
  readonly failed = input(false);
  readonly disabled = input(false);
  readonly gone = output<MarkerId>();
  readonly named = output<MarkerId | null>();
  readonly changed = output<{ readonly id: MarkerId; readonly change: Partial<NewMarker>; readonly label: string }>();
  readonly nudged = output<{ readonly id: MarkerId; readonly by: number }>();
  readonly removed = output<readonly MarkerId[]>();
  private readonly nameField = viewChild<ElementRef<HTMLInputElement>>('name');
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
      ? this.markers()
      : this.markers().filter((marker) =>
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

  protected pending({ id }: ListedMarker): boolean {
    return typeof id === 'number' && id < 0;
  }

  protected change(marker: ListedMarker, change: Partial<NewMarker>, label: string): void {
    const same = Object.entries(change).every(([key, value]) => marker[key as keyof NewMarker] === value);
    if (!same) this.changed.emit({ id: marker.id, change, label });
  }

  protected removeShown(): void {
    this.removed.emit(this.fitting().map(({ id }) => id));
  }
}
