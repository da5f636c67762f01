import { inject, Injector, signal, type Signal } from '@angular/core';
import { takeUntilDestroyed, toObservable } from '@angular/core/rxjs-interop';
import { catchError, of, switchMap, throttleTime, type Observable } from 'rxjs';
import type { Failure } from '../shared/api';

/** During a scan the library changes all the time; what is gathered from it follows at this pace. */
const FOLLOW_MS = 400;

/** What the server says to a question: its last answer, and why there is no newer one. */
export interface AskedAnew<T> {
  readonly value: Signal<T | null>;
  readonly failure: Signal<string | null>;
}

/** Asks the server whenever the question is another, as it is while the library changes. Within an injection context. */
export function askedAnew<Question, T>(
  question: Signal<Question>,
  ask: (question: Question) => Observable<T>,
): AskedAnew<T> {
  const [value, failure] = [signal<T | null>(null), signal<string | null>(null)];
  toObservable(question, { injector: inject(Injector) })
    .pipe(
      throttleTime(FOLLOW_MS, undefined, { leading: true, trailing: true }),
      switchMap((asked) =>
        ask(asked).pipe(
          catchError(({ message }: Failure) => {
            failure.set(message);
            return of(null);
          }),
        ),
      ),
      takeUntilDestroyed(),
    )
    .subscribe((answer) => {
      if (answer === null) return;
      failure.set(null);
      value.set(answer);
    });
  return { value, failure };
}
