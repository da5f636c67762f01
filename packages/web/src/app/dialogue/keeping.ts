import { inject, Injectable } from '@angular/core';
import { Store } from '@ngrx/store';
import { placeOfMs } from '@larder/core/dialogue';
import type { NewMarker } from '@larder/core/markers';
import type { Asset } from '@larder/contract';
import { libraryActions } from '../library/state/library.actions';
import { Api, type Failure } from '../shared/api';
import { callOf } from '../shared/format';
import { Toasts } from '../shared/toasts';
import { Writes } from '../shared/writes';

const LONGEST_NAME = 200;

/** Keeps what was found in what is said as a marker. */
@Injectable({ providedIn: 'root' })
export class Keeping {
  private readonly api = inject(Api);
  private readonly store = inject(Store);
  private readonly toasts = inject(Toasts);
  private readonly writes = inject(Writes);

  /** @param found what was found there, and where, in milliseconds */
  keep(
    asset: Asset,
    found: { readonly startMs: number; readonly endMs: number; readonly name: string; readonly note: string },
  ): void {
    const { durationFrames, durationMs, rate } = asset;
    const length = (rate ? durationFrames : durationMs) ?? Infinity;
    const marker: NewMarker = {
      ...{ kind: 'hit', colour: 'none', name: found.name.slice(0, LONGEST_NAME), note: found.note },
      start: placeOfMs(found.startMs, rate),
      end: Math.min(length, placeOfMs(found.endMs, rate) + 1),
    };
    this.writes
      .inTurn(() => this.api.call('newMarker', marker, asset.id))
      .subscribe({
        next: (written) => {
          this.store.dispatch(libraryActions.edited({ ...written, label: 'Hit kept as a marker' }));
          this.toasts.done(`Kept as a marker in “${callOf(asset)}”.`);
        },
        error: ({ message }: Failure) => this.toasts.failed(`The hit was not kept. ${message}`),
      });
  }
}
