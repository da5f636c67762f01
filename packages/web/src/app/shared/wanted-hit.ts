import { Injectable, signal } from '@angular/core';

interface Chosen {
  /** The search that it is a hit of. */
  readonly query: string;
  readonly assetId: number;
  readonly place: number;
  /** It is played from there. */
  readonly plays?: boolean;
}

/** The hit that was chosen in a list of hits: while that is searched for, its asset is opened there, each time that it is chosen. */
@Injectable({ providedIn: 'root' })
export class WantedHit {
  private readonly chosen = signal<Chosen | null>(null);

  /** Where an asset is to be opened; null if no hit of it was chosen. Another each time. */
  placeIn(query: string, assetId: number): Pick<Chosen, 'place' | 'plays'> | null {
    const chosen = this.chosen();
    return chosen?.assetId === assetId && chosen.query === query ? chosen : null;
  }

  choose(chosen: Chosen): void {
    this.chosen.set({ ...chosen });
  }
}
