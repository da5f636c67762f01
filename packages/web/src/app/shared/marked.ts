import { Injectable, signal } from '@angular/core';
import type { Marks } from './player';

export const NO_MARKS: Marks = { in: null, out: null };

/** In and out of the asset that is looked at: what is done next may be meant for just that stretch. */
@Injectable({ providedIn: 'root' })
export class Marked {
  readonly marks = signal<Marks>(NO_MARKS);

  /** The stretch, if both its ends are marked. */
  stretch(): { readonly start: number; readonly end: number } | null {
    const { in: start, out: end } = this.marks();
    return start === null || end === null ? null : { start, end };
  }
}
