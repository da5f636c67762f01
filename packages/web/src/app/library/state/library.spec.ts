import { parseQuery } from '@larder/core/query';
import { libraryActions } from './library.actions';
import { edited, libraryFeature, PAGE, pagesMissing, pagesOf, type LibraryState } from './library.reducer';
import { asset } from '../../../../test/assets';

const { reducer } = libraryFeature;
const start = reducer(undefined, { type: 'start' });
const through = (state: LibraryState, ...actions: Parameters<typeof reducer>[1][]): LibraryState =>
  actions.reduce(reducer, state);
const page = (state: LibraryState, number: number, ids: number[], total = ids.length) =>
  libraryActions.pageLoaded({
    epoch: state.epoch,
    page: number,
    total,
    found: total,
    groups: null,
    lifted: null,
    revision: 1,
    assets: ids.map((id) => asset(id)),
  });

describe('the list', () => {
  it('asks for the pages that are on the screen and not at hand', () => {
    expect(pagesOf(0, 100)).toEqual([0]);
    expect(pagesOf(150, 301)).toEqual([1, 2, 3]);
    const loaded = reducer(start, page(start, 0, [1, 2], 1000));
    expect(pagesMissing(loaded)).toEqual([]);
    const scrolled = reducer(loaded, libraryActions.windowNeeded({ start: 420, end: 460 }));
    expect(pagesMissing(scrolled)).toEqual([4]);
    expect(pagesMissing(reducer(scrolled, libraryActions.pagesRequested({ pages: [4] })))).toEqual([]);
  });
  it('keeps the last answer on the screen until the next one is there, and throws late ones away', () => {
    const loaded = reducer(start, page(start, 0, [1, 2]));
    const typing = reducer(loaded, libraryActions.queryChanged({ query: 'boat', lift: null, issues: [] }));
    expect([typing.total, typing.order[0]]).toEqual([2, 1]);
    expect(reducer(typing, page(loaded, 0, [9]))).toBe(typing);
    const answered = reducer(typing, page(typing, 0, [5]));
    expect([answered.total, answered.order]).toEqual([1, { 0: 5 }]);
  });
  it('lets go of what was chosen with another search, but not where the same one is lifted', () => {
    const asks = (query: string, lift: string | null) => libraryActions.queryChanged({ query, lift, issues: [] });
    const loaded = through(start, asks('boat', null));
    const chosen = through(loaded, page(loaded, 0, [1, 2]), libraryActions.select({ index: 1, mode: 'one' }));
    expect(reducer(chosen, asks('', 'boat')).selected).toEqual([2]);
    expect(reducer(reducer(chosen, asks('', 'boat')), asks('boat', null)).selected).toEqual([2]);
    expect(reducer(chosen, asks('', 'boats')).selected).toEqual([]);
  });
  it('does not ask with a query that cannot be read, and says what is wrong', () => {
    const wrong = reducer(
      start,
      libraryActions.queryChanged({ query: 'tag:', lift: null, issues: parseQuery('tag:').issues }),
    );
    expect(wrong.issues[0]?.code).toBe('missing-value');
    expect(wrong.epoch).toBe(start.epoch);
  });
  it('a page that grew shorter leaves no ghosts behind it', () => {
    const loaded = through(
      start,
      page(
        start,
        0,
        Array.from({ length: PAGE }, (_unused, index) => index + 1),
        PAGE + 2,
      ),
      page(start, 1, [501, 502], PAGE + 2),
    );
    const shrunk = reducer(loaded, page(loaded, 0, [7], 1));
    expect(shrunk.order).toEqual({ 0: 7 });
  });
});

describe('a list that is scrolled through', () => {
  it('keeps what lies around, what is selected and where the focus is, and forgets the rest', () => {
    const ids = (number: number) => Array.from({ length: PAGE }, (_unused, index) => number * PAGE + index + 1);
    const first = reducer(start, page(start, 0, ids(0), 100 * PAGE));
    const selected = through(
      reducer(first, page(first, 1, ids(1), 100 * PAGE)),
      libraryActions.select({ index: PAGE + 5, mode: 'one' }),
    );
    const far = Array.from({ length: 60 }, (_unused, index) => index + 2).reduce(
      (state, number) =>
        through(
          state,
          libraryActions.windowNeeded({ start: number * PAGE, end: (number + 1) * PAGE }),
          page(state, number, ids(number), 100 * PAGE),
        ),
      selected,
    );
    expect(Object.keys(far.order).length).toBeLessThan(45 * PAGE);
    expect(far.ids.length).toBe(Object.keys(far.order).length);
    expect([far.pages[61], far.pages[1], far.pages[0]]).toEqual(['fresh', 'fresh', undefined]);
    expect(far.order[61 * PAGE]).toBe(61 * PAGE + 1);
    expect(far.entities[PAGE + 6]?.id).toBe(PAGE + 6);
    // Answers that come late take nothing off the screen.
    const late = Array.from({ length: 40 }, (_unused, index) => index + 200).reduce(
      (state, number) => reducer(state, page(state, number, ids(number), 300 * PAGE)),
      far,
    );
    expect([late.pages[61], late.pages[239]]).toEqual(['fresh', 'fresh']);
    expect(late.order[61 * PAGE]).toBe(61 * PAGE + 1);
    // Scrolled back to, it is asked for again.
    expect(pagesMissing(reducer(far, libraryActions.windowNeeded({ start: 0, end: 50 })))).toEqual([0]);
  });
});

describe('selecting', () => {
  const loaded = reducer(start, page(start, 0, [11, 12, 13]));
  it('one, then another with control, then none', () => {
    const one = reducer(loaded, libraryActions.select({ index: 0, mode: 'one' }));
    const two = reducer(one, libraryActions.select({ index: 2, mode: 'toggle' }));
    expect([one.selected, two.selected]).toEqual([[11], [11, 13]]);
    expect(reducer(two, libraryActions.select({ index: 0, mode: 'toggle' })).selected).toEqual([13]);
    expect(reducer(two, libraryActions.clearSelection()).selected).toEqual([]);
  });
  it('a place whose asset is not known yet selects nothing', () =>
    expect(reducer(loaded, libraryActions.select({ index: 99, mode: 'one' }))).toBe(loaded));
  it('a new search begins without a selection', () => {
    const one = reducer(loaded, libraryActions.select({ index: 0, mode: 'one' }));
    expect(reducer(one, libraryActions.queryChanged({ query: 'x', lift: null, issues: [] })).selected).toEqual([]);
  });
});

describe('editing', () => {
  it('shows at once what the server will have, spellings of tags folded', () => {
    const before = asset(1, { tags: ['Dawn', 'lock'] });
    expect(
      edited(before, { set: { title: '', verdict: 'hold' }, addTags: ['dawn', 'boat'], removeTags: ['LOCK'] }),
    ).toMatchObject({ title: null, verdict: 'hold', tags: ['Dawn', 'boat'] });
  });
  it('remembers what changes were called', () => {
    const once = through(
      start,
      libraryActions.edited({ group: 'a', revision: 1, changed: 1, label: 'One' }),
      libraryActions.edited({ group: 'b', revision: 2, changed: 0, label: 'Nothing' }),
    );
    expect(once.called).toEqual([{ group: 'a', label: 'One' }]);
  });

  it('in another order by hand is shown so at once, over what is known of it', () => {
    const loaded = through(start, page(start, 0, [11, 12, 13, 14]));
    const places = (state: LibraryState) => [0, 1, 2, 3].map((place) => state.order[place]);
    const moved = (ids: number[], before: number | null) =>
      places(reducer(loaded, libraryActions.reordered({ ids, before })));
    expect(moved([14], 12)).toEqual([11, 14, 12, 13]);
    expect(moved([11, 13], null)).toEqual([12, 14, 11, 13]);
    expect(moved([13], 99)).toEqual([11, 12, 14, 13]);
    const grouped = through(loaded, libraryActions.groupBy({ by: 'tag' }));
    expect(reducer(grouped, libraryActions.reordered({ ids: [14], before: 12 }))).toBe(grouped);
  });
});
