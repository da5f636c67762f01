import { Injectable } from '@angular/core';
import { finalize, Observable } from 'rxjs';

/**
 * Everything that one window writes, one after the other: two quick keys on one clip must arrive in the order in which they were
 * pressed, and an undo means the change that is still on its way.
 */
@Injectable({ providedIn: 'root' })
export class Writes {
  private last: Promise<void> = Promise.resolve();

  /** What `work` gives, begun when everything before it is through. */
  inTurn<T>(work: () => Observable<T>): Observable<T> {
    return new Observable<T>((subscriber) => {
      const before = this.last;
      let through = (): void => undefined;
      this.last = new Promise((resolve) => (through = resolve));
      void before.then(() =>
        subscriber.closed ? through() : subscriber.add(work().pipe(finalize(through)).subscribe(subscriber)),
      );
    });
  }
}
