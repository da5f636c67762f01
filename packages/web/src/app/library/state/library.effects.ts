import { inject } from '@angular/core';
import { Actions, createEffect, ofType } from '@ngrx/effects';
import { concatLatestFrom } from '@ngrx/operators';
import { Store, type Action } from '@ngrx/store';
import {
  catchError,
  concatMap,
  EMPTY,
  filter,
  from,
  map,
  merge,
  mergeMap,
  of,
  race,
  switchMap,
  tap,
  throttle,
  throttleTime,
  timer,
  type Observable,
} from 'rxjs';
import type { FieldId } from '@larder/core/fields';
import { MAX_WINDOW, type Entity, type Written } from '@larder/contract';
import { Api, type Failure } from '../../shared/api';
import { Fields } from '../../shared/fields';
import { counted } from '../../shared/format';
import { liveActions } from '../../shared/live.actions';
import { sessionFeature } from '../../shared/session';
import { Toasts } from '../../shared/toasts';
import { Writes } from '../../shared/writes';
import { ConflictDialog } from '../conflict';
import { wordUndone } from '../undone-words';
import {
  libraryActions,
  type TakenWay,
  type EachAsked,
  type EditAsked,
  type Mine,
  type OperationAsked,
} from './library.actions';
import { libraryFeature, PAGE, pagesMissing, type LibraryState } from './library.reducer';

/** A key that is pressed while its forerunner is being answered waits for that, but no longer: who types fast is not answered each letter. */
const TYPING_MS = 90;
/** During a scan the library changes all the time; the list follows at this pace. */
const FOLLOW_MS = 400;

export const loadPages$ = createEffect(
  (actions$ = inject(Actions), store = inject(Store)) =>
    merge(
      actions$.pipe(
        ofType(libraryActions.queryChanged),
        // The first is asked at once.
        throttle(
          () => race(actions$.pipe(ofType(libraryActions.pageLoaded, libraryActions.pageFailed)), timer(TYPING_MS)),
          {
            leading: true,
            trailing: true,
          },
        ),
      ),
      actions$.pipe(
        ofType(
          libraryActions.sortChanged,
          libraryActions.groupBy,
          libraryActions.windowNeeded,
          libraryActions.wentStale,
          libraryActions.tryAgain,
        ),
      ),
    ).pipe(
      concatLatestFrom(() => store.select(libraryFeature.selectLibraryState)),
      filter(([, state]) => state.issues.length === 0),
      map(([, state]) => pagesMissing(state)),
      filter((pages) => pages.length > 0),
      map((pages) => libraryActions.pagesRequested({ pages })),
    ),
  { functional: true },
);

/** What is asked for of groups: the headings once for all the pages that are fetched together. */
const grouped = (by: FieldId | null, groups = false) => (by === null ? {} : { by, ...(groups ? { groups } : {}) });

/** The list that is shown, as the server is asked for it. */
const listed = ({ query, lift, sort }: Pick<LibraryState, 'query' | 'lift' | 'sort'>) => ({
  ...{ query, sort },
  ...(lift === null ? {} : { lift }),
});

export const fetchPages$ = createEffect(
  (actions$ = inject(Actions), store = inject(Store), api = inject(Api)) =>
    actions$.pipe(
      ofType(libraryActions.pagesRequested),
      concatLatestFrom(() => [
        store.select(libraryFeature.selectLibraryState),
        store.select(sessionFeature.selectRevision),
      ]),
      mergeMap(([{ pages }, { epoch, by, ...state }, atLeast]) =>
        from(pages).pipe(
          mergeMap((page, index) =>
            api
              .call('search', {
                ...listed(state),
                ...grouped(by, index === 0),
                offset: page * PAGE,
                limit: PAGE,
                atLeast,
              })
              .pipe(
                map(({ offset: _offset, ...answer }) => libraryActions.pageLoaded({ epoch, page, ...answer })),
                catchError((failure: Failure) => of(libraryActions.pageFailed({ epoch, page, failure }))),
              ),
          ),
        ),
      ),
    ),
  { functional: true },
);

const FOLLOWED: ReadonlySet<Entity> = new Set<Entity>([
  ...(['asset', 'storage', 'tag', 'bin', 'flag'] as const),
  // A search may refer to live bins, and ask whether anything is cut from an asset.
  ...(['live-bin', 'string-out'] as const),
]);

/** Somebody, or a worker, changed assets: what is on the screen is asked for again, and the rest when it is looked at. */
export const follow$ = createEffect(
  (actions$ = inject(Actions)) =>
    actions$.pipe(
      ofType(liveActions.changed, liveActions.connected),
      filter(
        (action) =>
          action.type === liveActions.connected.type || action.changed.some(({ entity }) => FOLLOWED.has(entity)),
      ),
      throttleTime(FOLLOW_MS, undefined, { leading: true, trailing: true }),
      map(() => libraryActions.wentStale()),
    ),
  { functional: true },
);

/** Rows that are selected but not on a page at hand are fetched for the details, as are those of the selection that changed. */
export const selectedRows$ = createEffect(
  (actions$ = inject(Actions), store = inject(Store), api = inject(Api)) =>
    merge(
      actions$.pipe(ofType(libraryActions.selectionFound, libraryActions.editFailed)),
      actions$.pipe(ofType(liveActions.changed), throttleTime(FOLLOW_MS, undefined, { leading: true, trailing: true })),
    ).pipe(
      concatLatestFrom(() => store.select(libraryFeature.selectLibraryState)),
      map(([action, { selected, entities }]) =>
        action.type === libraryActions.selectionFound.type ? selected.filter((id) => !entities[id]) : selected,
      ),
      filter((ids) => ids.length > 0 && ids.length <= MAX_WINDOW),
      switchMap((ids) =>
        api.call('rows', { ids }).pipe(
          map(({ assets }) => libraryActions.rowsLoaded({ assets })),
          catchError(() => of({ type: 'ignored' })),
        ),
      ),
    ),
  { functional: true },
);

export const neededRows$ = createEffect(
  (actions$ = inject(Actions), store = inject(Store), api = inject(Api)) =>
    actions$.pipe(
      ofType(libraryActions.rowsNeeded),
      concatLatestFrom(() => store.select(libraryFeature.selectEntities)),
      map(([{ ids }, entities]) => ids.filter((id) => !entities[id]).slice(0, MAX_WINDOW)),
      filter((ids) => ids.length > 0),
      switchMap((ids) =>
        api.call('rows', { ids }).pipe(
          map(({ assets }) => libraryActions.rowsLoaded({ assets })),
          catchError(() => of({ type: 'ignored' })),
        ),
      ),
    ),
  { functional: true },
);

export const selectRange$ = createEffect(
  (actions$ = inject(Actions), store = inject(Store), api = inject(Api)) =>
    actions$.pipe(
      ofType(libraryActions.select),
      filter(({ mode }) => mode === 'range'),
      concatLatestFrom(() => store.select(libraryFeature.selectLibraryState)),
      switchMap(([{ index }, { anchor: was, order, by, ...state }]) => {
        const anchor = Math.max(0, was);
        const [start, end] = [Math.min(anchor, index), Math.max(anchor, index) + 1];
        const known = Array.from({ length: end - start }, (_unused, offset) => order[start + offset]);
        const found = (ids: readonly number[]) => libraryActions.selectionFound({ ids, anchor, focus: index });
        if (known.every((id) => id !== undefined)) return of(found(known));
        return api.call('searchIds', { ...listed(state), ...grouped(by), offset: start, limit: end - start }).pipe(
          map(({ ids }) => found(ids)),
          catchError(() => of({ type: 'ignored' })),
        );
      }),
    ),
  { functional: true },
);

export const selectPlaces$ = createEffect(
  (actions$ = inject(Actions), store = inject(Store), api = inject(Api)) =>
    actions$.pipe(
      ofType(libraryActions.selectPlaces),
      concatLatestFrom(() => store.select(libraryFeature.selectLibraryState)),
      switchMap(([{ first, count }, { by, ...state }]) =>
        api.call('searchIds', { ...listed(state), ...grouped(by), offset: first, limit: count }).pipe(
          map(({ ids }) => libraryActions.selectionFound({ ids, anchor: first, focus: first })),
          catchError(() => of({ type: 'ignored' })),
        ),
      ),
    ),
  { functional: true },
);

/** From the last of the list it goes on with the first. */
export const stepToLifted$ = createEffect(
  (actions$ = inject(Actions), store = inject(Store), api = inject(Api), toasts = inject(Toasts)) =>
    actions$.pipe(
      ofType(libraryActions.stepToLifted),
      concatLatestFrom(() => store.select(libraryFeature.selectLibraryState)),
      switchMap(([{ backwards }, { lift, by, focus, total, ...state }]) => {
        if (lift === null) return EMPTY;
        const ask = (from: number) =>
          api.call('searchStep', { ...listed({ ...state, lift }), lift, ...grouped(by), from, backwards });
        const here = backwards ? Math.max(0, focus) : focus + 1;
        return ask(here).pipe(
          switchMap((answer) => (answer.place === null ? ask(backwards ? (total ?? 0) : 0) : of(answer))),
          switchMap(({ place }) =>
            place === null ? EMPTY : of(libraryActions.selectPlaces({ first: place, count: 1 })),
          ),
          catchError((failure: Failure) => {
            toasts.failed(failure.message);
            return EMPTY;
          }),
        );
      }),
    ),
  { functional: true },
);

export const selectAll$ = createEffect(
  (actions$ = inject(Actions), store = inject(Store), api = inject(Api)) =>
    actions$.pipe(
      ofType(libraryActions.selectAll),
      concatLatestFrom(() => store.select(libraryFeature.selectLibraryState)),
      switchMap(([, { query, lift, sort, focus }]) =>
        // All that was searched for.
        api.call('searchIds', { query: lift ?? query, sort }).pipe(
          map(({ ids }) => libraryActions.selectionFound({ ids, anchor: 0, focus: Math.max(0, focus) })),
          catchError(() => of({ type: 'ignored' })),
        ),
      ),
    ),
  { functional: true },
);

/** What is known by now is what a person is shown, and so what they decide over. */
const NEWEST = Number.MAX_SAFE_INTEGER;

/** A write that is through, or refused: then `again` writes it over what colleagues have said meanwhile. */
const saidOr = (label: string, again: Action, mine: Mine) => (answer: Observable<Written>) =>
  answer.pipe(
    map((written) => libraryActions.edited({ ...written, label })),
    catchError((failure: Failure) => of(libraryActions.editFailed({ label, failure, again, mine }))),
  );

/** Edits, undoing and doing again. */
export const write$ = createEffect(
  (actions$ = inject(Actions), store = inject(Store), api = inject(Api)) => {
    const revision = store.selectSignal(sessionFeature.selectRevision);
    const writes = inject(Writes);
    const called = store.selectSignal(libraryFeature.selectCalled);
    const { registry } = inject(Fields);
    const edit = (asked: EditAsked) =>
      api
        .call('edit', {
          assetIds: [...asked.ids],
          seenRevision: asked.seen ?? revision(),
          set: { ...asked.change.set },
          addTags: [...(asked.change.addTags ?? [])],
          removeTags: [...(asked.change.removeTags ?? [])],
        })
        .pipe(
          saidOr(
            asked.label,
            libraryActions.edit({ ...asked, seen: NEWEST }),
            ({ field }) => asked.change.set?.[field],
          ),
        );
    const take = (way: TakenWay, group?: string) =>
      (way === 'undo' ? api.call('undo', group === undefined ? {} : { group }) : api.call('redo', null)).pipe(
        map((undone) => {
          const label = called().find((each) => each.group === undone.of)?.label ?? wordUndone(undone, registry());
          return libraryActions.takenBack({ way, undone, label });
        }),
        catchError((failure: Failure) => of(libraryActions.takeFailed({ way, failure }))),
      );
    const editEach = (asked: EachAsked) =>
      api
        .call('editEach', { seenRevision: asked.seen ?? revision(), edits: [...asked.edits] })
        .pipe(
          saidOr(
            asked.label,
            libraryActions.editEach({ ...asked, seen: NEWEST }),
            ({ assetId, field }) => asked.edits.find((each) => each.assetId === assetId)?.set[field],
          ),
        );
    const operate = ({ asked, label }: OperationAsked) =>
      api
        .call('operate', asked)
        .pipe(
          saidOr(label, libraryActions.operate({ asked: { ...asked, seenRevision: NEWEST }, label }), () => undefined),
        );
    return actions$.pipe(
      ofType(
        libraryActions.edit,
        libraryActions.editEach,
        libraryActions.operate,
        libraryActions.undo,
        libraryActions.redo,
      ),
      mergeMap((action) =>
        writes.inTurn((): Observable<Action> => {
          switch (action.type) {
            case libraryActions.edit.type:
              return edit(action);
            case libraryActions.editEach.type:
              return editEach(action);
            case libraryActions.operate.type:
              return operate(action);
            case libraryActions.redo.type:
              return take('redo');
            default:
              return take('undo', action.group);
          }
        }),
      ),
    );
  },
  { functional: true },
);

export const tell$ = createEffect(
  (actions$ = inject(Actions), toasts = inject(Toasts), store = inject(Store)) =>
    actions$.pipe(
      ofType(libraryActions.edited, libraryActions.takenBack, libraryActions.takeFailed),
      tap((action) => {
        const back = (label: string, way: Action) => ({ label, run: () => store.dispatch(way) });
        switch (action.type) {
          case libraryActions.edited.type:
            // A single clip shows its change itself; many are worth a word, and a way back.
            if (action.changed > 1)
              toasts.done(
                `${action.label} on ${counted(action.changed, 'asset')}.`,
                back('Undo', libraryActions.undo({ group: action.group })),
              );
            return;
          case libraryActions.takenBack.type:
            return action.way === 'undo'
              ? toasts.done(`Undone: ${action.label}.`, back('Do it again', libraryActions.redo()))
              : toasts.done(`Done again: ${action.label}.`);
          default:
            return toasts.failed(
              `${action.way === 'undo' ? 'Not undone' : 'Not done again'}. ${action.failure.message}`,
            );
        }
      }),
    ),
  { functional: true, dispatch: false },
);

/** A refused edit: a colleague's change is shown beside one's own; anything else is said. */
export const editFailed$ = createEffect(
  (actions$ = inject(Actions), toasts = inject(Toasts), dialog = inject(ConflictDialog), store = inject(Store)) =>
    actions$.pipe(
      ofType(libraryActions.editFailed),
      concatMap(async ({ label, failure, mine, again }) => {
        // What the screen showed at once is not so.
        store.dispatch(libraryActions.wentStale());
        if (failure.error.code !== 'conflict') return toasts.failed(`${label}: not saved. ${failure.message}`);
        if (await dialog.ask(failure.error.conflicts, mine)) store.dispatch(again);
      }),
    ),
  { functional: true, dispatch: false },
);
