import { inject } from '@angular/core';
import { Actions, createEffect, ofType } from '@ngrx/effects';
import { concatLatestFrom } from '@ngrx/operators';
import { createActionGroup, createFeature, createReducer, emptyProps, on, props, Store } from '@ngrx/store';
import { catchError, concatMap, map, of, switchMap } from 'rxjs';
import { MAX_WINDOW, type Asset } from '@larder/contract';
import { Api, type Failure } from '../shared/api';
import { liveActions } from '../shared/live.actions';
import { Toasts } from '../shared/toasts';

/** The pull list: what a person picked to go into a project. Kept on the server, so it is there on every machine. */
export const pullActions = createActionGroup({
  source: 'Pull list',
  events: {
    Loaded: props<{ assetIds: readonly number[] }>(),
    'Rows loaded': props<{ assets: readonly Asset[] }>(),
    Add: props<{ assetIds: readonly number[] }>(),
    Remove: props<{ assetId: number }>(),
    Clear: emptyProps(),
  },
});

export interface PullState {
  readonly assetIds: readonly number[];
  readonly assets: Readonly<Record<number, Asset>>;
}

export const pullFeature = createFeature({
  name: 'pull',
  reducer: createReducer<PullState>(
    { assetIds: [], assets: {} },
    on(pullActions.loaded, (state, { assetIds }) => ({ ...state, assetIds })),
    on(pullActions.rowsLoaded, (state, { assets }) => ({
      ...state,
      assets: { ...state.assets, ...Object.fromEntries(assets.map((asset) => [asset.id, asset])) },
    })),
    on(pullActions.add, (state, { assetIds }) => ({
      ...state,
      assetIds: [...new Set([...state.assetIds, ...assetIds])],
    })),
    on(pullActions.remove, (state, { assetId }) => ({
      ...state,
      assetIds: state.assetIds.filter((id) => id !== assetId),
    })),
    on(pullActions.clear, (state) => ({ ...state, assetIds: [] })),
  ),
});

export const savePull$ = createEffect(
  (actions$ = inject(Actions), store = inject(Store), api = inject(Api), toasts = inject(Toasts)) =>
    actions$.pipe(
      ofType(pullActions.add, pullActions.remove, pullActions.clear),
      concatLatestFrom(() => store.select(pullFeature.selectAssetIds)),
      concatMap(([, assetIds]) =>
        api.call('setPull', { assetIds }).pipe(
          map(({ assetIds: kept }) => pullActions.loaded({ assetIds: kept })),
          catchError((failure: Failure) => {
            toasts.failed(`The pull list was not saved. ${failure.message}`);
            return of({ type: 'ignored' });
          }),
        ),
      ),
    ),
  { functional: true },
);

export const pullFromServer$ = createEffect(
  (actions$ = inject(Actions), api = inject(Api)) =>
    actions$.pipe(
      ofType(liveActions.connected),
      switchMap(() =>
        api.call('pull', null).pipe(
          map(({ assetIds }) => pullActions.loaded({ assetIds })),
          catchError(() => of({ type: 'ignored' })),
        ),
      ),
    ),
  { functional: true },
);

export const pullRows$ = createEffect(
  (actions$ = inject(Actions), store = inject(Store), api = inject(Api)) =>
    actions$.pipe(
      ofType(pullActions.loaded, liveActions.changed),
      concatLatestFrom(() => store.select(pullFeature.selectPullState)),
      switchMap(([action, { assetIds, assets }]) => {
        const touched =
          action.type === liveActions.changed.type ? new Set(action.changed.map((change) => change.id)) : null;
        const ids = assetIds.filter((id) => (touched ? touched.has(id) : !assets[id])).slice(0, MAX_WINDOW);
        return ids.length === 0
          ? of({ type: 'ignored' })
          : api.call('rows', { ids }).pipe(
              map((rows) => pullActions.rowsLoaded(rows)),
              catchError(() => of({ type: 'ignored' })),
            );
      }),
    ),
  { functional: true },
);
