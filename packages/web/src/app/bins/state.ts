import { inject } from '@angular/core';
import { Router } from '@angular/router';
import { Actions, createEffect, ofType } from '@ngrx/effects';
import { createActionGroup, props, Store } from '@ngrx/store';
import { catchError, concatMap, EMPTY, tap } from 'rxjs';
import type { LiveBin } from '@larder/contract';
import { Api, type Failure } from '../shared/api';
import { serverSlice } from '../shared/server-slice';
import { Toasts } from '../shared/toasts';

/** Live bins with their counts, which change as assets and their use do. One whose bin is gone stands at the top. */
export const bins = serverSlice('liveBins', 'liveBins', {
  entities: ['asset', 'storage', 'live-bin', 'bin', 'string-out'],
});

/** Bins that people fill by hand, by their paths. */
export const handBins = serverSlice('handBins', 'bins', { entities: ['bin'] });

export const binActions = createActionGroup({
  source: 'Bins',
  events: {
    Kept: props<{ bin: LiveBin }>(),
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
      ofType(binActions.kept, binActions.remove),
      concatMap((action) => {
        const done = (text: string, open: unknown[]) => {
          store.dispatch(bins.wanted());
          toasts.done(text);
          void router.navigate(open);
        };
        switch (action.type) {
          case binActions.kept.type:
            done(`Kept as “${action.bin.name}”. It stays current by itself.`, ['/bins', action.bin.id]);
            return EMPTY;
          default:
            return api.call('removeLiveBin', null, action.id).pipe(
              tap(() => done(`The bin “${action.name}” is gone; what it showed is where it was.`, ['/bins'])),
              catchError((failure: Failure) => {
                toasts.failed(`The bin was not changed. ${failure.message}`);
                return EMPTY;
              }),
            );
        }
      }),
    ),
  { functional: true, dispatch: false },
);
