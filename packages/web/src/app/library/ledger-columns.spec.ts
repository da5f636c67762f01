import { BUILT_IN } from '@larder/core/fields';
import type { LedgerLayout } from '@larder/contract';
import { asset } from '../../../test/assets';
import { LibraryServer } from '../../../test/library';
import { Screen, until } from '../../../test/screen';
import { placesAtFirst, placesOf } from '../shared/ledger-places';

describe('where the ledger’s columns are', () => {
  const at = (colId: string, shown = true) => ({ colId, shown, width: 50, pinned: false });

  it('every field has one column, but for those that are only asked for', () => {
    const ids = placesAtFirst(BUILT_IN).map(({ colId }) => colId);
    expect(new Set(ids).size).toBe(ids.length);
    const offered = BUILT_IN.all.filter(({ retired, asked }) => !retired && !asked).map(({ id }): string => id);
    expect([...ids].sort()).toEqual(offered.sort());
  });
  it('what was arranged comes first in its order, and new columns after it', () => {
    const places = placesOf([at('people'), at('name', false)], BUILT_IN);
    expect(places.slice(0, 2)).toEqual([at('people'), at('name', false)]);
    expect(places).toHaveLength(placesAtFirst(BUILT_IN).length);
  });
  it('columns that there are no more are left out', () =>
    expect(placesOf([at('smell')], BUILT_IN)).toEqual(placesAtFirst(BUILT_IN)));
});

describe('choosing columns', () => {
  beforeEach(() => localStorage.clear());

  it('shows one more, keeps it over a new visit, and goes back to how it was at first', async () => {
    const server = () => new LibraryServer([asset(1, { name: 'lock.mov', logged: { people: ['Ada Lock'] } })]);
    const screen = await Screen.open('/library', server());
    await screen.says('[data-test="count"]', '1 asset');
    expect(screen.all('nl-ledger-columns')).toEqual([]);
    await screen.press('v');
    const box = (id: string) => screen.one<HTMLInputElement>(`[data-column="${id}"]`);
    await until('the columns', () => screen.all('[data-column]').length === placesAtFirst(BUILT_IN).length);
    expect([box('title').checked, box('people').checked, box('name').disabled]).toEqual([true, false, true]);
    box('people').click();
    await until('it to be kept', () =>
      (localStorage.getItem('neat-larder.settings') ?? '').includes('"colId":"people"'),
    );
    const kept = JSON.parse(localStorage.getItem('neat-larder.settings') ?? '{}') as {
      columns: { colId: string; shown: boolean }[];
    };
    expect(kept.columns.find(({ colId }) => colId === 'people')?.shown).toBe(true);
    expect(kept.columns.map(({ colId }) => colId)).toEqual(placesAtFirst(BUILT_IN).map(({ colId }) => colId));
    let layouts: LedgerLayout[] = [];
    screen.server
      .on('layouts', () => ({ layouts }))
      .on('newLayout', (layout) => {
        layouts = [...layouts, { ...layout, id: layouts.length + 1, own: true }];
        return { id: layouts.length };
      })
      .on('removeLayout', (_body, id) => {
        layouts = layouts.filter((each) => each.id !== id);
        return null;
      });
    await screen.click('nl-layouts button', 'Keep for everybody');
    await screen.type('#name-field', 'With people');
    await screen.click('.modal-footer button', 'Keep them');
    await screen.says('nl-layouts', 'With people shared');
    await screen.click('nl-ledger-columns button', 'As at first');
    await until('it to be gone', () => !box('people').checked);
    await screen.click('[data-layout="With people"]');
    await until('it back', () => box('people').checked);
    await screen.click('[aria-label="Remove the layout With people"]');
    await until('the layout gone', () => screen.all('[data-layout]').length === 0);
  });
});
