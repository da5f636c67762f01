import { inject } from '@angular/core';
import { Actions, createEffect, ofType } from '@ngrx/effects';
import { createAction, createFeature, createReducer, on, props, Store } from '@ngrx/store';
import { catchError, filter, map, merge, of, switchMap, takeUntil, throttleTime } from 'rxjs';
import type { AnswerOf, Entity, RouteName } from '@larder/contract';
import { Api, type Failure } from './api';
import { liveActions } from './live.actions';
import { sessionActions, sessionFeature } from './session';

/** What the server last said to one question. */
export interface ServerState<T> {
  readonly value: T | null;
  readonly failure: Failure | null;
  /** Somebody on the screen wants it, so it is asked again when it may have changed. */
  readonly wanted: boolean;
}

const FOLLOW_MS = 400;

/**
 * A slice of state that holds the answer to a question without parameters and follows what happens on the server: asked when
 * first wanted, after a reconnection, and whenever one of these entities, or with `jobs` a job, changes.
 */
export function serverSlice<Name extends RouteName, Key extends string>(
  name: Key,
  route: Name,
  follows: { readonly entities: readonly Entity[]; readonly jobs?: boolean },
) {
  type Value = AnswerOf<Name>;
  const wanted = createAction(`[${name}] Wanted`);
  const loaded = createAction(`[${name}] Loaded`, props<{ value: Value }>());
  const failed = createAction(`[${name}] Failed`, props<{ failure: Failure }>());
  const initial: ServerState<Value> = { value: null, failure: null, wanted: false };

  const feature = createFeature({
    name,
    reducer: createReducer(
      initial,
      on(wanted, (state): ServerState<Value> => ({ ...state, wanted: true })),
      on(loaded, (state, { value }): ServerState<Value> => ({ ...state, value: value, failure: null })),
      on(failed, (state, { failure }): ServerState<Value> => ({ ...state, failure })),
      on(sessionActions.signedOut, () => initial),
    ),
  });
  const select = (state: object): ServerState<Value> => (state as Record<string, ServerState<Value>>)[name] ?? initial;

  const load$ = createEffect(
    (actions$ = inject(Actions), store = inject(Store), api = inject(Api)) => {
      const changed = actions$.pipe(
        ofType(liveActions.connected, liveActions.changed, liveActions.jobs),
        filter(
          (action) =>
            action.type === liveActions.connected.type ||
            (action.type === liveActions.jobs.type
              ? follows.jobs === true
              : action.changed.some(({ entity }) => follows.entities.includes(entity))),
        ),
        throttleTime(FOLLOW_MS, undefined, { leading: true, trailing: true }),
      );
      const state = store.selectSignal(select);
      const person = store.selectSignal(sessionFeature.selectPerson);
      return merge(actions$.pipe(ofType(wanted)), changed).pipe(
        filter(() => state().wanted && person() !== null),
        switchMap(() =>
          api.call(route, null as never).pipe(
            map((value) => loaded({ value })),
            catchError((failure: Failure) => of(failed({ failure }))),
            // What was asked for one person is not kept for the next.
            takeUntil(actions$.pipe(ofType(sessionActions.signedOut))),
          ),
        ),
      );
    },
    { functional: true },
  );
  return { wanted, loaded, failed, feature, select: select, load$ };
}
