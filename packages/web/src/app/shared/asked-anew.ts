import { computed, inject, Injector, signal, type Signal } from '@angular/core';
import { takeUntilDestroyed, toObservable } from '@angular/core/rxjs-interop';
import { catchError, of, switchMap, throttleTime, type Observable } from 'rxjs';
import type { Failure } from './api';

/** During a scan the library changes all the time; what is gathered from it follows at this pace. */
const FOLLOW_MS = 400;

/** What the server says to a question: its last answer, and why there is no newer one. */
export interface AskedAnew<T> {
  readonly value: Signal<T | null>;
  readonly failure: Signal<string | null>;
  /** Asks the same once more. */
  again(): void;
}

/** Asks the server whenever the question is another, as it is while the library changes. Within an injection context. */
export function askedAnew<Question, T>(
  question: Signal<Question>,
  ask: (question: Question) => Observable<T>,
): AskedAnew<T> {
  const [value, failure] = [signal<T | null>(null), signal<string | null>(null)];
  const times = signal(0);
  // A new object each time, so that the same question is another to whoever follows it.
  const asking = computed(() => ({ question: question(), times: times() }));
  toObservable(asking, { injector: inject(Injector) })
    .pipe(
      throttleTime(FOLLOW_MS, undefined, { leading: true, trailing: true }),
      switchMap((asked) =>
        ask(asked.question).pipe(
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
  return { value, failure, again: () => times.update((before) => before + 1) };
}
