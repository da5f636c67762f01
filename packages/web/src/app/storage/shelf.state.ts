import { createActionGroup, createFeature, createReducer, createSelector, emptyProps, on, props } from '@ngrx/store';
import type { ShelfRow, ShelfState } from '@larder/core/shelf';
import type { ShelfAnswer, ShelfFolder } from '@larder/contract';
import type { Failure } from '../shared/api';
import { sessionActions } from '../shared/session';

/** Rows that are fetched together. */
export const SHELF_WINDOW = 200;

export const shelfActions = createActionGroup({
  source: 'Shelf',
  events: {
    /** A folder is opened, or shown another way; the list begins anew. */
    Opened: props<{ storageId: number; path: string; flat: boolean; only: readonly ShelfState[] }>(),
    Loaded: props<{ epoch: number; answer: ShelfAnswer }>(),
    Failed: props<{ epoch: number; failure: Failure }>(),
    'Window needed': props<{ start: number; end: number }>(),
    /** A folder of the tree is unfolded; its own folders are asked for. */
    Unfolded: props<{ path: string }>(),
    Folded: props<{ path: string }>(),
    'Folders loaded': props<{ storageId: number; path: string; folders: readonly ShelfFolder[] }>(),
    Ticked: props<{ path: string; on: boolean }>(),
    /** Rows are chosen, to be brought in together. */
    Chosen: props<{ rows: readonly ShelfRow[]; on: boolean }>(),
    'Choose none': emptyProps(),
    'Tick none': emptyProps(),
    'Scan asked': props<{ folders: readonly { readonly path: string; readonly deep: boolean }[] }>(),
  },
});

export interface ShelfPageState {
  readonly storageId: number | null;
  readonly path: string;
  readonly flat: boolean;
  readonly only: readonly ShelfState[];
  /** Counts what was opened; answers to an earlier opening are thrown away. */
  readonly epoch: number;
  readonly answer: Omit<ShelfAnswer, 'rows' | 'offset'> | null;
  /** Rows by their place in the list, as far as they are known. */
  readonly rows: Readonly<Record<number, ShelfRow>>;
  /** The folders directly in a folder, as far as they are known; the storage itself is the empty path. */
  readonly folders: Readonly<Record<string, readonly ShelfFolder[]>>;
  readonly unfolded: ReadonlySet<string>;
  readonly ticked: ReadonlySet<string>;
  /** Chosen rows by their paths. */
  readonly chosen: Readonly<Record<string, ShelfRow>>;
  readonly failure: Failure | null;
}

const initial: ShelfPageState = {
  storageId: null,
  path: '',
  flat: false,
  only: [],
  epoch: 0,
  answer: null,
  rows: {},
  folders: {},
  unfolded: new Set(),
  ticked: new Set(),
  chosen: {},
  failure: null,
};

const withPath = (paths: ReadonlySet<string>, path: string, on: boolean): ReadonlySet<string> => {
  const next = new Set(paths);
  if (on) next.add(path);
  else next.delete(path);
  return next;
};

/** A folder and all that it lies in, from the top. */
export const pathsTo = (path: string): string[] =>
  path === '' ? [] : path.split('/').map((_step, index, steps) => steps.slice(0, index + 1).join('/'));

/** A line of the tree: a folder, and how deep it lies. */
export interface TreeLine {
  readonly folder: ShelfFolder;
  readonly level: number;
}

function linesOf({ folders, unfolded }: ShelfPageState, path = '', level = 0): TreeLine[] {
  return (folders[path] ?? []).flatMap((folder) => [
    { folder, level },
    ...(unfolded.has(folder.path) ? linesOf({ folders, unfolded } as ShelfPageState, folder.path, level + 1) : []),
  ]);
}

export const shelfFeature = createFeature({
  name: 'shelf',
  reducer: createReducer(
    initial,
    on(shelfActions.opened, (state, { storageId, path, flat, only }): ShelfPageState => {
      const same = storageId === state.storageId;
      return {
        ...(same ? state : initial),
        storageId,
        path,
        flat,
        only,
        epoch: state.epoch + 1,
        // The last folder stays on the screen until the next one is there, unless it is of another storage.
        answer: same ? state.answer : null,
        // Chosen is what is in sight; a folder that is opened begins with nothing.
        chosen: same && path === state.path ? state.chosen : {},
        failure: null,
        unfolded: new Set([...(same ? state.unfolded : []), ...pathsTo(path).slice(0, -1)]),
      };
    }),
    on(shelfActions.loaded, (state, { epoch, answer }): ShelfPageState => {
      if (epoch !== state.epoch) return state;
      const { rows, offset, ...rest } = answer;
      const kept = state.answer?.path === answer.path && offset > 0 ? state.rows : {};
      return {
        ...state,
        answer: rest,
        rows: { ...kept, ...Object.fromEntries(rows.map((row, index) => [offset + index, row])) },
        folders: state.flat ? state.folders : { ...state.folders, [answer.path]: answer.folders },
        failure: null,
      };
    }),
    on(shelfActions.failed, (state, { epoch, failure }): ShelfPageState =>
      epoch === state.epoch ? { ...state, failure } : state,
    ),
    on(shelfActions.unfolded, (state, { path }): ShelfPageState => ({
      ...state,
      unfolded: withPath(state.unfolded, path, true),
    })),
    on(shelfActions.folded, (state, { path }): ShelfPageState => ({
      ...state,
      unfolded: withPath(state.unfolded, path, false),
    })),
    on(shelfActions.foldersLoaded, (state, { storageId, path, folders }): ShelfPageState =>
      storageId === state.storageId ? { ...state, folders: { ...state.folders, [path]: folders } } : state,
    ),
    on(shelfActions.ticked, (state, { path, on: ticked }): ShelfPageState => ({
      ...state,
      ticked: withPath(state.ticked, path, ticked),
    })),
    on(shelfActions.chosen, (state, { rows, on: chosen }): ShelfPageState => {
      const without = Object.entries(state.chosen).filter(([path]) => !rows.some((row) => row.path === path));
      const more = chosen ? rows.map((row) => [row.path, row] as const) : [];
      return { ...state, chosen: Object.fromEntries([...without, ...more]) };
    }),
    on(shelfActions.chooseNone, (state): ShelfPageState => ({ ...state, chosen: {}, ticked: new Set() })),
    on(shelfActions.tickNone, shelfActions.scanAsked, (state): ShelfPageState => ({ ...state, ticked: new Set() })),
    on(sessionActions.signedOut, () => initial),
  ),
  extraSelectors: ({ selectShelfState }) => ({
    selectLines: createSelector(selectShelfState, (state) => linesOf(state)),
  }),
});
