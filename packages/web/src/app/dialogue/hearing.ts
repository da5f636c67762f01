import { inject, Injectable } from '@angular/core';
import { Store } from '@ngrx/store';
import { placeOfMs } from '@larder/core/dialogue';
import type { Asset } from '@larder/contract';
import { libraryActions } from '../library/state/library.actions';
import { libraryFeature } from '../library/state/library.reducer';
import { Settings } from '../shared/settings';
import { WantedHit } from '../shared/wanted-hit';

/** Before what was looked for so much is played, so that one hears how it comes to be said. */
const PRE_ROLL_MS = 1500;

/** Opens a file where something is said in it, and plays on. */
@Injectable({ providedIn: 'root' })
export class Hearing {
  private readonly settings = inject(Settings);
  private readonly store = inject(Store);
  private readonly wanted = inject(WantedHit);
  /** What the details take a hit to be one of. */
  private readonly librarySearch = this.store.selectSignal(libraryFeature.selectSearch);

  from(asset: Asset, startMs: number, before = PRE_ROLL_MS): void {
    this.wanted.choose({
      ...{ query: this.librarySearch(), assetId: asset.id, plays: true },
      place: placeOfMs(Math.max(0, startMs - before), asset.rate),
    });
    this.settings.details.set(true);
    this.store.dispatch(libraryActions.selectionFound({ ids: [asset.id], anchor: -1, focus: -1 }));
  }
}
