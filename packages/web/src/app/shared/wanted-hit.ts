import { Injectable, signal } from '@angular/core';

/** The hit that was chosen in a list of hits: its asset is opened there, and gone to once more each time that it is chosen. */
@Injectable({ providedIn: 'root' })
export class WantedHit {
  private readonly chosen = signal<{ readonly assetId: number; readonly place: number } | null>(null);

  /** Where an asset is to be opened; null if no hit of it was chosen. Another each time. */
  placeIn(assetId: number): { readonly place: number } | null {
    const chosen = this.chosen();
    return chosen?.assetId === assetId ? chosen : null;
  }

  choose(assetId: number, place: number): void {
    this.chosen.set({ assetId, place });
  }

  forget(): void {
    this.chosen.set(null);
  }
}
