import { inject, Injectable } from '@angular/core';
import { Store } from '@ngrx/store';
import { placeOfMs } from '@larder/core/dialogue';
import type { NewMarker } from '@larder/core/markers';
import { MAX_KEPT, type Asset, type Written } from '@larder/contract';
import type { Observable } from 'rxjs';
import { libraryActions } from '../library/state/library.actions';
import { Api, type Failure } from '../shared/api';
import { callOf, counted } from '../shared/format';
import { Toasts } from '../shared/toasts';
import { Writes } from '../shared/writes';

const LONGEST_MARKER = 200;
const LONGEST_SUBCLIP = 110;
/** What a subclip has before and after a hit, so that one hears how it comes to be said. */
const HANDLES_MS = 1000;

/** Where something is said, in milliseconds. */
export interface Kept {
  readonly asset: Asset;
  readonly startMs: number;
  readonly endMs: number;
  readonly name: string;
  readonly note: string;
}

/** Keeps what was found in what is said: as markers, or as subclips. */
@Injectable({ providedIn: 'root' })
export class Keeping {
  private readonly api = inject(Api);
  private readonly store = inject(Store);
  private readonly toasts = inject(Toasts);
  private readonly writes = inject(Writes);

  keep(kept: Kept): void {
    this.write(
      () => this.api.call('newMarker', markerOf(kept), kept.asset.id),
      'Hit kept as a marker',
      `Kept as a marker in “${callOf(kept.asset)}”.`,
    );
  }

  keepAll(all: readonly Kept[]): void {
    const markers = all.slice(0, MAX_KEPT).map((kept) => ({ ...markerOf(kept), assetId: kept.asset.id }));
    const what = counted(markers.length, 'hit');
    this.write(() => this.api.call('newMarkers', { markers }), `${what} kept as markers`, `${what} kept as markers.`);
  }

  /** Each with a second before and after it; what has no length in time has no parts. */
  asSubclips(all: readonly Kept[]): void {
    const subclips = all.slice(0, MAX_KEPT).flatMap(subclipOf);
    const what = counted(subclips.length, 'subclip');
    this.write(() => this.api.call('newSubclips', { subclips }), `${what} made of hits`, `${what} made of hits.`);
  }

  private write(ask: () => Observable<Written>, label: string, told: string): void {
    this.writes.inTurn(ask).subscribe({
      next: (written) => {
        this.store.dispatch(libraryActions.edited({ ...written, label }));
        this.toasts.done(told);
      },
      error: ({ message }: Failure) => this.toasts.failed(`Nothing was kept. ${message}`),
    });
  }
}

const lengthOf = ({ durationFrames, durationMs, rate }: Asset): number | null => (rate ? durationFrames : durationMs);

function markerOf({ asset, endMs, name, note, startMs }: Kept): NewMarker {
  return {
    ...{ kind: 'hit', colour: 'none', name: name.slice(0, LONGEST_MARKER), note },
    start: placeOfMs(startMs, asset.rate),
    end: Math.min(lengthOf(asset) ?? Infinity, placeOfMs(endMs, asset.rate) + 1),
  };
}

function subclipOf({ asset, endMs, name, startMs }: Kept) {
  const length = lengthOf(asset);
  if (length === null) return [];
  const from = placeOfMs(Math.max(0, startMs - HANDLES_MS), asset.rate);
  const out = Math.min(length, placeOfMs(endMs + HANDLES_MS, asset.rate) + 1);
  return out > from ? [{ assetId: asset.id, in: from, out, name: name.slice(0, LONGEST_SUBCLIP) }] : [];
}
