import { inject } from '@angular/core';
import { Actions, createEffect, ofType } from '@ngrx/effects';
import { concatLatestFrom } from '@ngrx/operators';
import { Store } from '@ngrx/store';
import { catchError, EMPTY, filter, from, map, merge, mergeMap, of, switchMap, tap, throttleTime } from 'rxjs';
import { Api, type Failure } from '../shared/api';
import { liveActions } from '../shared/live.actions';
import { Toasts } from '../shared/toasts';
import { shelfActions, shelfFeature, SHELF_WINDOW, type ShelfPageState } from './shelf.state';

/** While a scan runs, what is shown follows at this pace. */
const FOLLOW_MS = 1000;

const ask = (api: Api, { storageId, path, flat, only, epoch }: ShelfPageState, offset: number) =>
  storageId === null
    ? EMPTY
    : api.call('browse', { path, flat, only: [...only], offset, limit: SHELF_WINDOW }, storageId).pipe(
        map((answer) => shelfActions.loaded({ epoch, answer })),
        catchError((failure: Failure) => of(shelfActions.failed({ epoch, failure }))),
      );

export const openShelf$ = createEffect(
  (actions$ = inject(Actions), store = inject(Store), api = inject(Api)) =>
    actions$.pipe(
      ofType(shelfActions.opened),
      concatLatestFrom(() => store.select(shelfFeature.selectShelfState)),
      switchMap(([, state]) => ask(api, state, 0)),
    ),
  { functional: true },
);

/** Something was scanned, relinked or unplugged: the folder is looked at again, and so are the unfolded ones of the tree. */
export const followShelf$ = createEffect(
  (actions$ = inject(Actions), store = inject(Store), api = inject(Api)) =>
    actions$.pipe(
      ofType(liveActions.changed, liveActions.connected, liveActions.jobs),
      filter(
        (action) =>
          action.type === liveActions.connected.type ||
          (action.type === liveActions.jobs.type
            ? action.jobs.some(({ kind }) => kind === 'scan')
            : action.changed.some(({ entity }) => entity === 'asset' || entity === 'storage')),
      ),
      throttleTime(FOLLOW_MS, undefined, { leading: true, trailing: true }),
      concatLatestFrom(() => store.select(shelfFeature.selectShelfState)),
      filter(([, { storageId }]) => storageId !== null),
      switchMap(([, state]) =>
        merge(ask(api, state, 0), from(inTree(state)).pipe(mergeMap((path) => foldersOf(api, state, path), 2))),
      ),
    ),
  { functional: true },
);

/** Folders whose own folders the tree shows, but for the one that is asked for anyway. */
const inTree = ({ unfolded, path, flat }: ShelfPageState): string[] =>
  ['', ...unfolded].filter((each) => flat || each !== path);

const foldersOf = (api: Api, { storageId }: ShelfPageState, path: string) =>
  storageId === null
    ? EMPTY
    : api.call('browse', { path, limit: 0 }, storageId).pipe(
        map(({ folders }) => shelfActions.foldersLoaded({ storageId, path, folders })),
        // A folder that went is not in its parent's list any more.
        catchError(() => EMPTY),
      );

export const unfold$ = createEffect(
  (actions$ = inject(Actions), store = inject(Store), api = inject(Api)) =>
    merge(
      actions$.pipe(
        ofType(shelfActions.unfolded),
        map(({ path }) => [path]),
      ),
      // A folder opened by its address is found in the tree too.
      actions$.pipe(
        ofType(shelfActions.opened),
        concatLatestFrom(() => store.select(shelfFeature.selectShelfState)),
        map(([, { unfolded, folders }]) => ['', ...unfolded].filter((path) => folders[path] === undefined)),
      ),
    ).pipe(
      concatLatestFrom(() => store.select(shelfFeature.selectShelfState)),
      mergeMap(([paths, state]) => from(paths).pipe(mergeMap((path) => foldersOf(api, state, path), 2))),
    ),
  { functional: true },
);

export const shelfWindow$ = createEffect(
  (actions$ = inject(Actions), store = inject(Store), api = inject(Api)) =>
    actions$.pipe(
      ofType(shelfActions.windowNeeded),
      concatLatestFrom(() => store.select(shelfFeature.selectShelfState)),
      mergeMap(([{ start, end }, state]) => {
        const total = state.answer?.total ?? 0;
        const first = Math.floor(start / SHELF_WINDOW);
        const last = Math.floor(Math.max(start, Math.min(end, total) - 1) / SHELF_WINDOW);
        const windows = Array.from({ length: last - first + 1 }, (_unused, index) => (first + index) * SHELF_WINDOW);
        return from(windows.filter((offset) => offset < total && state.rows[offset] === undefined)).pipe(
          mergeMap((offset) => ask(api, state, offset)),
        );
      }),
    ),
  { functional: true },
);

export const scanFolders$ = createEffect(
  (actions$ = inject(Actions), store = inject(Store), api = inject(Api), toasts = inject(Toasts)) =>
    actions$.pipe(
      ofType(shelfActions.scanAsked),
      concatLatestFrom(() => store.select(shelfFeature.selectShelfState)),
      mergeMap(([{ folders }, { storageId }]) =>
        storageId === null
          ? EMPTY
          : api.call('scan', { folders: [...folders] }, storageId).pipe(
              tap(({ job }) => toasts.done(`${job.subject} is being scanned.`)),
              catchError((failure: Failure) => {
                toasts.failed(`Nothing is being scanned. ${failure.message}`);
                return EMPTY;
              }),
            ),
      ),
    ),
  { functional: true, dispatch: false },
);
