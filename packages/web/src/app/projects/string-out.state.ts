import { inject } from '@angular/core';
import { Actions, createEffect, ofType } from '@ngrx/effects';
import { concatLatestFrom } from '@ngrx/operators';
import {
  createActionGroup,
  createFeature,
  createReducer,
  createSelector,
  emptyProps,
  on,
  props,
  Store,
} from '@ngrx/store';
import { catchError, concatMap, EMPTY, filter, forkJoin, map, of, switchMap } from 'rxjs';
import {
  keptMarkers,
  layOut,
  layOutMarkers,
  type Media,
  type RunMarker,
  type StringOut,
  type StringOutItem,
} from '@larder/core/sequence';
import { countingById, type Counting } from '@larder/core/timecode';
import { countingOf, MAX_WINDOW, type Asset, type StringOutFull } from '@larder/contract';
import { Api, type Failure } from '../shared/api';
import { liveActions } from '../shared/live.actions';

export const stringOutActions = createActionGroup({
  source: 'String-out',
  events: {
    Opened: props<{ id: number }>(),
    Loaded: props<{ stringOut: StringOutFull }>(),
    'Assets loaded': props<{ assets: readonly Asset[] }>(),
    'Load failed': props<{ failure: Failure }>(),
    /** The person cut something; saved at once. */
    Cut: props<{ items: readonly StringOutItem[] }>(),
    /** Set, changed or took away markers; saved at once. */
    Mark: props<{ markers: readonly RunMarker[] }>(),
    'Take back': emptyProps(),
    Renamed: props<{ name: string }>(),
    Saved: props<{ stringOut: StringOutFull }>(),
    'Save failed': props<{ failure: Failure }>(),
    Choose: props<{ itemId: string | null }>(),
  },
});

/** What a person changes, and takes back. */
interface Cutting {
  readonly items: readonly StringOutItem[];
  readonly markers: readonly RunMarker[];
}

export interface StringOutState {
  readonly id: number | null;
  /** As the server has it. */
  readonly saved: StringOutFull | null;
  /** As the person has cut it. */
  readonly items: readonly StringOutItem[];
  readonly markers: readonly RunMarker[];
  readonly past: readonly Cutting[];
  readonly assets: Readonly<Record<number, Asset>>;
  readonly chosen: string | null;
  readonly unsaved: number;
  readonly failure: Failure | null;
}

const initial: StringOutState = {
  id: null,
  saved: null,
  items: [],
  markers: [],
  past: [],
  assets: {},
  chosen: null,
  unsaved: 0,
  failure: null,
};
const MAX_PAST = 100;

export const mediaOfAsset = (asset: Asset | undefined): Media | undefined => {
  const counting = asset && countingOf(asset);
  if (!asset || !counting || asset.durationFrames === null) return undefined;
  return {
    assetId: asset.id,
    name: asset.title ?? asset.name,
    path: `${asset.storage}/${asset.path}`,
    reel: asset.reel,
    counting,
    durationFrames: asset.durationFrames,
    startFrame: asset.startFrame ?? 0,
    hasSound: asset.sound !== null,
  };
};

/** What was there before can be taken back. */
const done = (state: StringOutState, { items, markers }: Cutting): StringOutState => ({
  ...state,
  ...{ items, markers },
  past: [...state.past, { items: state.items, markers: state.markers }].slice(-MAX_PAST),
  unsaved: state.unsaved + 1,
});

export const stringOutFeature = createFeature({
  name: 'stringOut',
  reducer: createReducer(
    initial,
    on(stringOutActions.opened, (_state, { id }): StringOutState => ({ ...initial, id })),
    on(stringOutActions.loaded, (state, { stringOut }): StringOutState => {
      // An answer that was on its way while the person cut on, or that is not newer, must not undo what they did.
      if (state.saved && (state.unsaved > 0 || stringOut.version <= state.saved.version)) return state;
      const { items, markers } = stringOut;
      const chosen = items.some((item) => item.id === state.chosen) ? state.chosen : (items[0]?.id ?? null);
      return { ...state, saved: stringOut, items, markers, failure: null, chosen };
    }),
    on(stringOutActions.assetsLoaded, (state, { assets }): StringOutState => ({
      ...state,
      assets: { ...state.assets, ...Object.fromEntries(assets.map((asset) => [asset.id, asset])) },
    })),
    on(stringOutActions.cut, (state, { items }): StringOutState =>
      items === state.items ? state : done(state, { items, markers: keptMarkers(items, state.markers) }),
    ),
    on(stringOutActions.mark, (state, { markers }): StringOutState => done(state, { items: state.items, markers })),
    on(stringOutActions.takeBack, (state): StringOutState => {
      const before = state.past.at(-1);
      return before ? { ...state, ...before, past: state.past.slice(0, -1), unsaved: state.unsaved + 1 } : state;
    }),
    on(stringOutActions.renamed, (state, { name }): StringOutState =>
      state.saved ? { ...state, saved: { ...state.saved, name }, unsaved: state.unsaved + 1 } : state,
    ),
    on(stringOutActions.saved, (state, { stringOut }): StringOutState => ({
      ...state,
      saved: stringOut,
      unsaved: Math.max(0, state.unsaved - 1),
      failure: null,
    })),
    on(stringOutActions.loadFailed, stringOutActions.saveFailed, (state, { failure }): StringOutState => ({
      ...state,
      failure,
    })),
    on(stringOutActions.choose, (state, { itemId }): StringOutState => ({ ...state, chosen: itemId })),
  ),
  extraSelectors: ({ selectStringOutState }) => {
    const selectStringOut = createSelector(selectStringOutState, ({ saved, items }): StringOut | null => {
      const counting: Counting | null = saved && countingById(saved.counting);
      return saved && counting ? { title: saved.name, counting, startFrame: saved.startFrame, items } : null;
    });
    const selectLaidOut = createSelector(selectStringOut, selectStringOutState, (stringOut, { assets }) =>
      stringOut ? layOut(stringOut, (id) => mediaOfAsset(assets[id])) : [],
    );
    return {
      selectStringOut,
      selectLaidOut,
      selectLaidOutMarkers: createSelector(
        selectStringOut,
        selectLaidOut,
        selectStringOutState,
        (stringOut, laidOut, { markers }) => (stringOut ? layOutMarkers(laidOut, markers, stringOut.counting) : []),
      ),
    };
  },
});

const load = (api: Api, id: number) =>
  api.call('stringOut', null, id).pipe(
    switchMap((stringOut) => {
      const ids = [...new Set(stringOut.items.map((item) => item.assetId))];
      const parts = Array.from({ length: Math.ceil(ids.length / MAX_WINDOW) }, (_unused, part) =>
        ids.slice(part * MAX_WINDOW, (part + 1) * MAX_WINDOW),
      );
      const rows = parts.length === 0 ? of([]) : forkJoin(parts.map((part) => api.call('rows', { ids: part })));
      return rows.pipe(
        concatMap((answers) => [
          stringOutActions.assetsLoaded({ assets: answers.flatMap(({ assets }) => assets) }),
          stringOutActions.loaded({ stringOut }),
        ]),
      );
    }),
    catchError((failure: Failure) => of(stringOutActions.loadFailed({ failure }))),
  );

export const openStringOut$ = createEffect(
  (actions$ = inject(Actions), api = inject(Api)) =>
    actions$.pipe(
      ofType(stringOutActions.opened),
      switchMap(({ id }) => load(api, id)),
    ),
  { functional: true },
);

/** A colleague saved it, or an asset in it changed: taken over, unless there is something of one's own on its way. */
export const followStringOut$ = createEffect(
  (actions$ = inject(Actions), store = inject(Store), api = inject(Api)) =>
    actions$.pipe(
      ofType(liveActions.changed, liveActions.connected),
      concatLatestFrom(() => store.select(stringOutFeature.selectStringOutState)),
      filter(
        ([action, { id, assets, unsaved }]) =>
          id !== null &&
          unsaved === 0 &&
          (action.type === liveActions.connected.type ||
            action.changed.some(
              (change) =>
                (change.entity === 'string-out' && change.id === id) ||
                (change.entity === 'asset' && assets[change.id] !== undefined),
            )),
      ),
      switchMap(([, { id }]) => load(api, id ?? 0)),
    ),
  { functional: true },
);

export const saveStringOut$ = createEffect(
  (actions$ = inject(Actions), store = inject(Store), api = inject(Api)) => {
    // Read when its turn comes: an earlier save has then set the version that this one builds on.
    const state = store.selectSignal(stringOutFeature.selectStringOutState);
    return actions$.pipe(
      ofType(stringOutActions.cut, stringOutActions.mark, stringOutActions.takeBack, stringOutActions.renamed),
      concatMap(() => {
        const { saved, items, markers, unsaved } = state();
        if (!saved || unsaved === 0) return EMPTY;
        return api
          .call(
            'saveStringOut',
            { name: saved.name, version: saved.version, items: [...items], markers: [...markers] },
            saved.id,
          )
          .pipe(
            map((stringOut) => stringOutActions.saved({ stringOut })),
            catchError((failure: Failure) => of(stringOutActions.saveFailed({ failure }))),
          );
      }),
    );
  },
  { functional: true },
);
