import { inject } from '@angular/core';
import { Actions, createEffect, ofType } from '@ngrx/effects';
import { concatLatestFrom } from '@ngrx/operators';
import { createActionGroup, createFeature, createReducer, createSelector, on, props, Store } from '@ngrx/store';
import {
  catchError,
  concatMap,
  debounceTime,
  EMPTY,
  filter,
  forkJoin,
  map,
  merge,
  mergeMap,
  of,
  switchMap,
  tap,
  throttleTime,
} from 'rxjs';
import type { SortOrder } from '@larder/core/search';
import { isLogged, LOGGED_QUERY, MAX_WINDOW, type Asset } from '@larder/contract';
import { libraryActions } from '../library/state/library.actions';
import { libraryFeature } from '../library/state/library.reducer';
import { Api, type Failure } from '../shared/api';
import { liveActions } from '../shared/live.actions';
import { serverSlice } from '../shared/server-slice';

/** Where this person stopped logging, by what they were walking through. */
export const loggingPlaces = serverSlice('loggingPlaces', 'loggingPlaces', { entities: [] });

/** Walking through clips one by one. The list is that of the beginning: logging a clip must not move it about under the walk. */
export const walkActions = createActionGroup({
  source: 'Logging',
  events: {
    /** `at`: begin at this asset; else where this person stopped. */
    Begin: props<{ query: string; sort: SortOrder; at: number | null }>(),
    Begun: props<{ query: string; ids: readonly number[]; logged: readonly number[]; at: number }>(),
    Failed: props<{ failure: Failure }>(),
    Go: props<{ by: number }>(),
    'Go to next not logged': props<{ from: number }>(),
    Seen: props<{ assets: readonly Asset[] }>(),
  },
});

export interface WalkState {
  readonly query: string;
  readonly ids: readonly number[];
  readonly logged: ReadonlySet<number>;
  readonly index: number;
  readonly state: 'asking' | 'walking' | 'failed';
  readonly failure: Failure | null;
}

const initial: WalkState = { query: '', ids: [], logged: new Set(), index: 0, state: 'asking', failure: null };

const within = ({ ids }: WalkState, index: number): number => Math.min(Math.max(0, index), Math.max(0, ids.length - 1));

/** What is known anew of clips of the walk; the same state if nothing changed by it. */
function seen(state: WalkState, assets: readonly Asset[]): WalkState {
  const changed = assets.filter((asset) => state.logged.has(asset.id) !== isLogged(asset));
  if (changed.length === 0) return state;
  const logged = new Set(state.logged);
  for (const asset of changed)
    if (isLogged(asset)) logged.add(asset.id);
    else logged.delete(asset.id);
  return { ...state, logged };
}

export const walkFeature = createFeature({
  name: 'walk',
  reducer: createReducer(
    initial,
    on(walkActions.begin, (_state, { query }): WalkState => ({ ...initial, query })),
    on(walkActions.begun, (state, { query, ids, logged, at }): WalkState =>
      query === state.query
        ? { ...state, ids, logged: new Set(logged), index: Math.max(0, ids.indexOf(at)), state: 'walking' }
        : state,
    ),
    on(walkActions.failed, (state, { failure }): WalkState => ({ ...state, state: 'failed', failure })),
    on(walkActions.go, (state, { by }): WalkState => ({ ...state, index: within(state, state.index + by) })),
    on(walkActions.goToNextNotLogged, (state, { from }): WalkState => {
      const next = state.ids.findIndex((id, index) => index > from && !state.logged.has(id));
      return next < 0 ? state : { ...state, index: next };
    }),
    on(walkActions.seen, (state, { assets }) => seen(state, assets)),
  ),
  extraSelectors: ({ selectIds, selectIndex, selectLogged }) => ({
    selectCurrent: createSelector(selectIds, selectIndex, (ids, index): number | null => ids[index] ?? null),
    /** The next few, to have their rows before they are gone to. */
    selectAhead: createSelector(selectIds, selectIndex, (ids, index) => ids.slice(index + 1, index + 1 + AHEAD)),
    selectDone: createSelector(selectIds, selectLogged, (ids, logged) => ids.filter((id) => logged.has(id)).length),
  }),
});

const AHEAD = 8;
const FOLLOW_MS = 400;
const KEEP_MS = 800;

export const beginWalk$ = createEffect(
  (actions$ = inject(Actions), api = inject(Api)) =>
    actions$.pipe(
      ofType(walkActions.begin),
      switchMap(({ query, sort, at }) => {
        const among = query.trim() === '' ? LOGGED_QUERY : `(${query}) (${LOGGED_QUERY})`;
        return forkJoin([
          api.call('searchIds', { query, sort }),
          api.call('searchIds', { query: among }),
          api.call('loggingPlaces', null),
        ]).pipe(
          map(([{ ids }, logged, { places }]) => {
            const stopped = places.find((place) => place.query === query)?.assetId ?? 0;
            return walkActions.begun({ query, ids, logged: logged.ids, at: at ?? stopped });
          }),
          catchError((failure: Failure) => of(walkActions.failed({ failure }))),
        );
      }),
    ),
  { functional: true },
);

/** The clip that is logged is the selection, so that every key and field means it; those that follow are fetched ahead. */
export const selectCurrent$ = createEffect(
  (actions$ = inject(Actions), store = inject(Store)) =>
    actions$.pipe(
      ofType(walkActions.begun, walkActions.go, walkActions.goToNextNotLogged),
      concatLatestFrom(() => [
        store.select(walkFeature.selectCurrent),
        store.select(walkFeature.selectAhead),
        store.select(libraryFeature.selectSelected),
      ]),
      mergeMap(([, current, ahead, selected]) =>
        current === null
          ? EMPTY
          : [
              ...(selected.length === 1 && selected[0] === current
                ? []
                : [libraryActions.selectionFound({ ids: [current], anchor: -1, focus: -1 })]),
              libraryActions.rowsNeeded({ ids: [current, ...ahead] }),
            ],
      ),
    ),
  { functional: true },
);

/** What is logged here, and what others log of the same clips, counts at once. */
export const seeWalk$ = createEffect(
  (actions$ = inject(Actions), store = inject(Store), api = inject(Api)) => {
    const walk = store.selectSignal(walkFeature.selectWalkState);
    const entities = store.selectSignal(libraryFeature.selectEntities);
    const touched = new Set<number>();
    const own$ = actions$.pipe(
      ofType(libraryActions.edit, libraryActions.rowsLoaded),
      map((action) =>
        action.type === libraryActions.edit.type
          ? action.ids.flatMap((id) => entities()[id] ?? [])
          : action.assets.filter(({ id }) => walk().ids.includes(id)),
      ),
    );
    const others$ = actions$.pipe(
      ofType(liveActions.changed),
      filter(() => walk().state === 'walking'),
      tap(({ changed }) => {
        for (const { entity, id } of changed) if (entity === 'asset') touched.add(id);
      }),
      // All that was told since the last look, not only the last of it.
      throttleTime(FOLLOW_MS, undefined, { leading: false, trailing: true }),
      map(() => {
        const ours = new Set(walk().ids);
        const ids = [...touched].filter((id) => ours.has(id)).slice(0, MAX_WINDOW);
        touched.clear();
        return ids;
      }),
      filter((ids) => ids.length > 0),
      concatMap((ids) => api.call('rows', { ids }).pipe(catchError(() => EMPTY))),
      map(({ assets }) => assets),
    );
    return merge(own$, others$).pipe(
      filter((assets) => assets.length > 0),
      map((assets) => walkActions.seen({ assets })),
    );
  },
  { functional: true },
);

/** Remembers where the person is, on the server: they may go on at another machine. */
export const keepPlace$ = createEffect(
  (actions$ = inject(Actions), store = inject(Store), api = inject(Api)) =>
    actions$.pipe(
      ofType(walkActions.begun, walkActions.go, walkActions.goToNextNotLogged, walkActions.seen),
      debounceTime(KEEP_MS),
      concatLatestFrom(() => [
        store.select(walkFeature.selectWalkState),
        store.select(walkFeature.selectCurrent),
        store.select(walkFeature.selectDone),
      ]),
      switchMap(([, { query, ids }, assetId, done]) =>
        assetId === null
          ? EMPTY
          : api.call('setLoggingPlace', { query, assetId, done, total: ids.length }).pipe(catchError(() => EMPTY)),
      ),
    ),
  { functional: true, dispatch: false },
);
