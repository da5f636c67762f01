import { inject } from '@angular/core';
import { Router } from '@angular/router';
import { Actions, createEffect, ofType } from '@ngrx/effects';
import { createActionGroup, props, Store } from '@ngrx/store';
import { catchError, concatMap, EMPTY, tap } from 'rxjs';
import { Api, type Failure } from '../shared/api';
import { serverSlice } from '../shared/server-slice';
import { Toasts } from '../shared/toasts';

/** Live bins with their counts, which change as assets do. */
export const bins = serverSlice('liveBins', 'liveBins', { entities: ['asset', 'storage', 'live-bin'] });

/** Bins that people fill by hand, by their paths. */
export const handBins = serverSlice('handBins', 'bins', { entities: ['bin'] });

export const binActions = createActionGroup({
  source: 'Bins',
  events: {
    Keep: props<{ name: string; query: string }>(),
    Remove: props<{ id: number; name: string }>(),
  },
});

export const keepBin$ = createEffect(
  (
    actions$ = inject(Actions),
    api = inject(Api),
    toasts = inject(Toasts),
    router = inject(Router),
    store = inject(Store),
  ) =>
    actions$.pipe(
      ofType(binActions.keep, binActions.remove),
      concatMap((action) => {
        const failed = catchError((failure: Failure) => {
          toasts.failed(`The bin was not changed. ${failure.message}`);
          return EMPTY;
        });
        const done = <T>(text: string, open: (value: T) => unknown[]) =>
          tap<T>((value) => {
            store.dispatch(bins.wanted());
            toasts.done(text);
            void router.navigate(open(value));
          });
        switch (action.type) {
          case binActions.keep.type:
            return api.call('newLiveBin', { name: action.name, query: action.query }).pipe(
              done(`Kept as “${action.name}”. It stays current by itself.`, (bin) => ['/bins', bin.id]),
              failed,
            );
          default:
            return api.call('removeLiveBin', null, action.id).pipe(
              done(`The bin “${action.name}” is gone; what it showed is where it was.`, () => ['/bins']),
              failed,
            );
        }
      }),
    ),
  { functional: true, dispatch: false },
);
