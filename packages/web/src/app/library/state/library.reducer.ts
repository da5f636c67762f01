import { createEntityAdapter, type EntityState } from '@ngrx/entity';
import { createFeature, createReducer, createSelector, on } from '@ngrx/store';
import { fold, keptValue, type FieldId } from '@larder/core/fields';
import type { QueryIssue } from '@larder/core/query';
import type { Group } from '@larder/core/search';
import { partChanges, type AskedOrder, type Asset } from '@larder/contract';
import type { Failure } from '../../shared/api';
import { libraryActions, type EditChange } from './library.actions';

/** Places of the list that are fetched together. */
export const PAGE = 100;

export type PageState = 'loading' | 'fresh' | 'stale';

/** What a change was called when it was made. */
export interface Called {
  readonly group: string;
  readonly label: string;
}

export interface LibraryState extends EntityState<Asset> {
  readonly query: string;
  /** What of the list stands out; null where the list holds nothing else. */
  readonly lift: string | null;
  /** How many stand out, and of the assets at hand whether they do. */
  readonly lifted: { readonly count: number; readonly which: Readonly<Record<number, boolean>> } | null;
  /** Why the query cannot be run; the list of the last one that could is still shown. */
  readonly issues: readonly QueryIssue[];
  readonly sort: AskedOrder;
  /** The field that the list is cut into groups by. */
  readonly by: FieldId | null;
  /** Of the list that is shown; null for one that is not cut. */
  readonly groups: readonly Group[] | null;
  /** Counts the lists; answers to an earlier one are thrown away. */
  readonly epoch: number;
  /** The list that `order` and `total` are of; the last one stays on the screen until the new one has answered. */
  readonly shown: number;
  /** Places of the list; null until the first answer. */
  readonly total: number | null;
  /** How many assets were found: fewer, where one stands in several groups. */
  readonly found: number;
  /** Asset ids by their place in the list, as far as they are known. */
  readonly order: Readonly<Record<number, number>>;
  readonly pages: Readonly<Record<number, PageState>>;
  readonly visible: { readonly start: number; readonly end: number };
  readonly failure: Failure | null;
  readonly selected: readonly number[];
  /** Where a range begins, and the place that arrows move from; -1 for none. */
  readonly anchor: number;
  readonly focus: number;
  /** Of the last changes in this window. */
  readonly called: readonly Called[];
}

const adapter = createEntityAdapter<Asset>();
const MOST_CALLED = 100;

const initial: LibraryState = adapter.getInitialState({
  query: '',
  lift: null,
  lifted: null,
  issues: [],
  sort: { field: 'name', descending: false },
  by: null,
  groups: null,
  epoch: 1,
  shown: 0,
  total: null,
  found: 0,
  order: {},
  pages: {},
  visible: { start: 0, end: PAGE },
  failure: null,
  selected: [],
  anchor: -1,
  focus: -1,
  called: [],
} satisfies Omit<LibraryState, keyof EntityState<Asset>>);

const begin = (state: LibraryState, changes: Partial<LibraryState>): LibraryState => ({
  ...state,
  ...changes,
  epoch: state.epoch + 1,
  pages: {},
  failure: null,
  visible: { start: 0, end: PAGE },
  anchor: -1,
  focus: -1,
});

/** The pages that places from `start` up to `end` lie on. */
export const pagesOf = (start: number, end: number): number[] => {
  const [first, last] = [Math.floor(Math.max(0, start) / PAGE), Math.floor(Math.max(0, end - 1) / PAGE)];
  return Array.from({ length: last - first + 1 }, (_unused, index) => first + index);
};

/** What must be asked for, given what is on the screen. */
export const pagesMissing = ({ visible, pages, total, shown, epoch }: LibraryState): number[] =>
  pagesOf(visible.start, total === null || shown !== epoch ? PAGE : Math.min(visible.end, Math.max(total, 1))).filter(
    (page) => pages[page] === undefined || pages[page] === 'stale',
  );

/** An asset with an edit made on it, as the server will have it. */
export function edited(asset: Asset, { set = {}, addTags = [], removeTags = [] }: EditChange): Asset {
  const removed = new Set(removeTags.map(fold));
  const had = new Set(asset.tags.map(fold));
  const tags = [
    ...asset.tags.filter((tag) => !removed.has(fold(tag))),
    ...addTags.filter((tag) => !had.has(fold(tag))),
  ];
  const { own, logged } = partChanges(
    Object.fromEntries(Object.entries(set).map(([field, value]) => [field, keptValue(value)])),
  );
  const said = Object.entries({ ...asset.logged, ...logged }).filter(([, value]) => value !== null);
  return { ...asset, ...own, logged: Object.fromEntries(said), tags } as Asset;
}

/** So many pages are kept at hand; beyond that the far ones are forgotten, half of them at a time. */
const MOST_PAGES = 40;

/**
 * Forgets the pages that lie farthest from what is on the screen and from the one that came in last, as a long list is scrolled
 * through: to take in a page costs as much as there is at hand. What is selected is kept, and the pages that hold the focus and
 * the anchor.
 */
function forgetFar(state: LibraryState, page: number): LibraryState {
  const known = Object.keys(state.pages).map(Number);
  if (known.length <= MOST_PAGES) return state;
  const held = [state.focus, state.anchor].map((place) => Math.floor(place / PAGE));
  // An answer may come late, when somebody looks elsewhere already.
  const away = (each: number) =>
    Math.min(...[page, ...pagesOf(state.visible.start, state.visible.end)].map((centre) => Math.abs(each - centre)));
  const near = known.toSorted((a, b) => away(a) - away(b)).slice(0, MOST_PAGES / 2);
  const stay = new Set([...near, ...held]);
  const stays = ([place]: readonly [string, number]): boolean => stay.has(Math.floor(Number(place) / PAGE));
  const order = Object.fromEntries(Object.entries(state.order).filter(stays));
  const wanted = new Set([...Object.values(order), ...state.selected]);
  const gone = Object.values(state.order).filter((id) => !wanted.has(id));
  return adapter.removeMany(gone, {
    ...state,
    order,
    pages: Object.fromEntries(Object.entries(state.pages).filter(([each]) => stay.has(Number(each)))),
  });
}

function pageLoaded(
  state: LibraryState,
  { page, total, found, assets, groups, lifted }: Parameters<typeof libraryActions.pageLoaded>[0],
): LibraryState {
  const first = page * PAGE;
  const kept = state.shown === state.epoch ? Object.entries(state.order) : [];
  const order = Object.fromEntries(
    kept.filter(([index]) => Number(index) < total && (Number(index) < first || Number(index) >= first + PAGE)),
  );
  assets.forEach((asset, index) => (order[first + index] = asset.id));
  const those = new Set(lifted?.ids);
  const before = state.shown === state.epoch ? state.lifted?.which : {};
  return adapter.upsertMany([...assets], {
    ...state,
    shown: state.epoch,
    lifted: lifted && {
      count: lifted.count,
      which: { ...before, ...Object.fromEntries(assets.map(({ id }) => [id, those.has(id)])) },
    },
    total,
    found,
    groups: state.by === null ? null : (groups ?? state.groups),
    order,
    pages: { ...state.pages, [page]: 'fresh' },
    failure: null,
  });
}

/** The places that are known, with some assets put before another; what lies between pages comes right with the server's answer. */
function reordered(
  order: LibraryState['order'],
  { ids, before }: { readonly ids: readonly number[]; readonly before: number | null },
): LibraryState['order'] {
  const known = Object.entries(order).sort(([a], [b]) => Number(a) - Number(b));
  const moving = new Set(ids);
  const rest = known.map(([, id]) => id).filter((id) => !moving.has(id));
  const at = before === null ? -1 : rest.indexOf(before);
  const now = at < 0 ? [...rest, ...ids] : [...rest.slice(0, at), ...ids, ...rest.slice(at)];
  return Object.fromEntries(known.flatMap(([place], index) => (now[index] === undefined ? [] : [[place, now[index]]])));
}

export const libraryFeature = createFeature({
  name: 'library',
  reducer: createReducer(
    initial,
    on(libraryActions.queryChanged, (state, { query, lift, issues }): LibraryState => {
      if (issues.length > 0) return { ...state, query, issues };
      // The same search over another list leaves what was chosen.
      const isSame = (lift ?? query) === (state.lift ?? state.query);
      return begin(state, { query, lift, issues: [], selected: isSame ? state.selected : [] });
    }),
    on(libraryActions.sortChanged, (state, { sort }) => begin(state, { sort })),
    // In groups one asset may have several places: then the server's answer is waited for.
    on(libraryActions.reordered, (state, moved): LibraryState =>
      state.by === null ? { ...state, order: reordered(state.order, moved) } : state,
    ),
    on(libraryActions.groupBy, (state, { by }): LibraryState => (by === state.by ? state : begin(state, { by }))),
    on(libraryActions.windowNeeded, (state, { start, end }): LibraryState =>
      state.visible.start === start && state.visible.end === end ? state : { ...state, visible: { start, end } },
    ),
    on(libraryActions.pagesRequested, (state, { pages }): LibraryState => ({
      ...state,
      pages: { ...state.pages, ...Object.fromEntries(pages.map((page) => [page, 'loading'])) },
    })),
    on(libraryActions.pageLoaded, (state, action) =>
      action.epoch === state.epoch ? forgetFar(pageLoaded(state, action), action.page) : state,
    ),
    on(libraryActions.pageFailed, (state, { epoch, page, failure }): LibraryState =>
      epoch === state.epoch ? { ...state, failure, pages: { ...state.pages, [page]: 'stale' } } : state,
    ),
    on(libraryActions.tryAgain, (state): LibraryState => ({ ...state, failure: null })),
    on(libraryActions.wentStale, (state): LibraryState => ({
      ...state,
      pages: Object.fromEntries(Object.keys(state.pages).map((page) => [page, 'stale'])),
    })),
    on(libraryActions.rowsLoaded, (state, { assets }) => adapter.upsertMany([...assets], state)),

    on(libraryActions.select, (state, { index, mode }): LibraryState => {
      const id = state.order[index];
      if (id === undefined || mode === 'range') return state;
      if (mode === 'one') return { ...state, selected: [id], anchor: index, focus: index };
      const selected = state.selected.includes(id)
        ? state.selected.filter((each) => each !== id)
        : [...state.selected, id];
      return { ...state, selected, anchor: index, focus: index };
    }),
    on(libraryActions.selectionFound, (state, { ids, anchor, focus }): LibraryState => ({
      ...state,
      selected: ids,
      anchor,
      focus,
    })),
    on(libraryActions.clearSelection, (state): LibraryState => ({ ...state, selected: [], anchor: -1 })),

    on(libraryActions.edit, (state, { ids, change }) =>
      adapter.updateMany(
        ids.flatMap((id) => (state.entities[id] ? [{ id, changes: edited(state.entities[id], change) }] : [])),
        state,
      ),
    ),
    on(libraryActions.editEach, (state, { edits }) =>
      adapter.updateMany(
        edits.flatMap(({ assetId: id, set }) =>
          state.entities[id] ? [{ id, changes: edited(state.entities[id], { set }) }] : [],
        ),
        state,
      ),
    ),
    on(libraryActions.edited, (state, { group, label, changed }): LibraryState =>
      changed === 0 ? state : { ...state, called: [...state.called, { group, label }].slice(-MOST_CALLED) },
    ),
  ),
  extraSelectors: ({
    selectEntities,
    selectOrder,
    selectSelected,
    selectFocus,
    selectLifted,
    selectQuery,
    selectLift,
  }) => ({
    /** What is searched for, whether the list holds only that or not. */
    selectSearch: createSelector(selectQuery, selectLift, (query, lift) => lift ?? query),
    /** Whether an asset stays in the list though the search does not find it. */
    selectIsDim: createSelector(
      selectLifted,
      (lifted) =>
        (id: number): boolean =>
          lifted?.which[id] === false,
    ),
    selectSelectedSet: createSelector(selectSelected, (selected): ReadonlySet<number> => new Set(selected)),
    selectSelectedAssets: createSelector(selectSelected, selectEntities, (selected, entities) =>
      selected.flatMap((id) => entities[id] ?? []),
    ),
    selectAssetAt: createSelector(
      selectOrder,
      selectEntities,
      (order, entities) =>
        (index: number): Asset | undefined => {
          const id = order[index];
          return id === undefined ? undefined : entities[id];
        },
    ),
    selectFocused: createSelector(selectOrder, selectFocus, (order, focus) => order[focus]),
  }),
});
