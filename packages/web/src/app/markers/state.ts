import { inject } from '@angular/core';
import { Actions, createEffect, ofType } from '@ngrx/effects';
import { concatLatestFrom } from '@ngrx/operators';
import {
  createActionGroup,
  createFeature,
  createReducer,
  emptyProps,
  on,
  props,
  Store,
  type Action,
} from '@ngrx/store';
import { catchError, concatMap, filter, from, map, merge, mergeMap, of, switchMap, type Observable } from 'rxjs';
import type { Marker, NewMarker } from '@larder/core/markers';
import type { Written } from '@larder/contract';
import { libraryActions } from '../library/state/library.actions';
import { Api, type Failure } from '../shared/api';
import { liveActions } from '../shared/live.actions';
import { Toasts } from '../shared/toasts';
import { Writes } from '../shared/writes';

/** The markers of the asset that is looked at. */
export const markerActions = createActionGroup({
  source: 'Markers',
  events: {
    Open: props<{ assetId: number }>(),
    Loaded: props<{ assetId: number; markers: readonly Marker[] }>(),
    /** `naming`: the person goes on to name it. */
    Add: props<{ assetId: number; marker: NewMarker; naming: boolean }>(),
    Added: props<{ assetId: number; id: number; naming: boolean }>(),
    Change: props<{ id: number; marker: NewMarker; label: string }>(),
    Remove: props<{ ids: readonly number[]; label: string }>(),
    'Begin naming': props<{ id: number | null }>(),
    Failed: props<{ failure: Failure }>(),
    /** What is shown may not be so: asked again. */
    'Went stale': emptyProps(),
  },
});

export interface MarkersState {
  readonly assetId: number;
  readonly markers: readonly Marker[];
  /** They are those of the asset, even if there are none. */
  readonly loaded: boolean;
  /** The one that is being named or changed. */
  readonly naming: number | null;
  readonly failed: boolean;
}

const initial: MarkersState = { assetId: 0, markers: [], loaded: false, naming: null, failed: false };

const inOrder = (markers: readonly Marker[]): Marker[] => markers.toSorted((a, b) => a.start - b.start || a.id - b.id);

export const markersFeature = createFeature({
  name: 'markers',
  reducer: createReducer(
    initial,
    on(markerActions.open, (state, { assetId }): MarkersState =>
      state.assetId === assetId ? state : { ...initial, assetId },
    ),
    on(markerActions.loaded, (state, { assetId, markers }): MarkersState =>
      state.assetId === assetId ? { ...state, markers, loaded: true, failed: false } : state,
    ),
    // Shown at once; the number below zero is for until the server has given it one.
    on(markerActions.add, (state, { assetId, marker }): MarkersState =>
      state.assetId === assetId
        ? { ...state, markers: inOrder([...state.markers, { ...marker, id: -state.markers.length - 1, by: null }]) }
        : state,
    ),
    on(markerActions.added, (state, { assetId, id, naming }): MarkersState =>
      state.assetId === assetId && naming ? { ...state, naming: id } : state,
    ),
    on(markerActions.change, (state, { id, marker }): MarkersState => ({
      ...state,
      markers: inOrder(state.markers.map((each) => (each.id === id ? { ...each, ...marker } : each))),
    })),
    on(markerActions.remove, (state, { ids }): MarkersState => ({
      ...state,
      markers: state.markers.filter(({ id }) => !ids.includes(id)),
    })),
    on(markerActions.beginNaming, (state, { id }): MarkersState => ({ ...state, naming: id })),
    on(markerActions.failed, (state): MarkersState => ({ ...state, failed: true })),
  ),
});

export const loadMarkers$ = createEffect(
  (actions$ = inject(Actions), store = inject(Store), api = inject(Api)) =>
    merge(
      actions$.pipe(ofType(markerActions.open, markerActions.added, markerActions.wentStale, liveActions.connected)),
      actions$.pipe(
        ofType(liveActions.changed),
        concatLatestFrom(() => store.select(markersFeature.selectAssetId)),
        filter(([{ changed }, assetId]) => changed.some(({ entity, id }) => entity === 'asset' && id === assetId)),
      ),
    ).pipe(
      concatLatestFrom(() => store.select(markersFeature.selectAssetId)),
      filter(([, assetId]) => assetId > 0),
      switchMap(([, assetId]) =>
        api.call('markers', null, assetId).pipe(
          map(({ markers }) => markerActions.loaded({ assetId, markers })),
          catchError((failure: Failure) => of(markerActions.failed({ failure }))),
        ),
      ),
    ),
  { functional: true },
);

/** Each can be undone like any other change. */
export const writeMarkers$ = createEffect(
  (actions$ = inject(Actions), api = inject(Api), toasts = inject(Toasts), writes = inject(Writes)) => {
    const undoable = (written: Written, label: string) => libraryActions.edited({ ...written, label });
    return actions$.pipe(
      ofType(markerActions.add, markerActions.change, markerActions.remove),
      mergeMap((action) => {
        const done: Observable<Action> =
          action.type === markerActions.add.type
            ? api
                .call('newMarker', action.marker, action.assetId)
                .pipe(
                  concatMap((written) =>
                    from([
                      undoable(written, 'Marker set'),
                      markerActions.added({ assetId: action.assetId, id: written.id, naming: action.naming }),
                    ]),
                  ),
                )
            : action.type === markerActions.change.type
              ? api.call('changeMarker', action.marker, action.id).pipe(map((made) => undoable(made, action.label)))
              : api.call('removeMarkers', { ids: [...action.ids] }).pipe(map((made) => undoable(made, action.label)));
        return writes
          .inTurn(() => done)
          .pipe(
            catchError((failure: Failure) => {
              toasts.failed(`The marker was not saved. ${failure.message}`);
              return of(markerActions.wentStale());
            }),
          );
      }),
    );
  },
  { functional: true },
);
