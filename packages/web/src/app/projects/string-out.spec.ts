import { asset } from '../../../test/assets';
import type { StringOutFull } from '@larder/contract';
import { stringOutActions, stringOutFeature, type StringOutState } from './string-out.state';

const { reducer } = stringOutFeature;
const item = (id: string, assetId: number) => ({ id, assetId, in: 0, out: 50 });
const saved: StringOutFull = {
  id: 4,
  projectId: 1,
  name: 'Cut',
  counting: '25',
  startFrame: 90_000,
  version: 3,
  items: [item('a', 1), item('b', 2)],
  markers: [],
};
const loaded = [
  stringOutActions.opened({ id: 4 }),
  stringOutActions.assetsLoaded({ assets: [asset(1), asset(2)] }),
  stringOutActions.loaded({ stringOut: saved }),
].reduce<StringOutState>(reducer, reducer(undefined, { type: 'start' }));

describe('cutting', () => {
  it('lays clips out one after the other from the start timecode', () => {
    const laid = stringOutFeature.selectLaidOut({ stringOut: loaded } as never);
    expect(laid.map(({ record }) => record)).toEqual([
      { start: 90_000, end: 90_050 },
      { start: 90_050, end: 90_100 },
    ]);
  });
  it('is unsaved until the server has it, and takes steps back one by one', () => {
    const cut = reducer(loaded, stringOutActions.cut({ items: [item('b', 2)] }));
    expect([cut.unsaved, cut.past.length]).toEqual([1, 1]);
    const kept = reducer(cut, stringOutActions.saved({ stringOut: { ...saved, version: 4, items: [item('b', 2)] } }));
    expect([kept.unsaved, kept.saved?.version]).toEqual([0, 4]);
    expect(reducer(kept, stringOutActions.takeBack()).items).toEqual(saved.items);
    expect(reducer(loaded, stringOutActions.takeBack())).toBe(loaded);
  });
  it('a late answer never undoes what was cut meanwhile, and a colleague’s newer one is taken over when nothing is under way', () => {
    const cut = reducer(loaded, stringOutActions.cut({ items: [item('b', 2)] }));
    expect(reducer(cut, stringOutActions.loaded({ stringOut: { ...saved, version: 9 } }))).toBe(cut);
    expect(reducer(loaded, stringOutActions.loaded({ stringOut: { ...saved, items: [] } }))).toBe(loaded);
    const theirs = reducer(
      loaded,
      stringOutActions.loaded({ stringOut: { ...saved, version: 4, items: [item('b', 2)] } }),
    );
    expect([theirs.items.length, theirs.saved?.version, theirs.chosen]).toEqual([1, 4, 'b']);
  });
  it('cutting nothing changes nothing', () =>
    expect(reducer(loaded, stringOutActions.cut({ items: loaded.items }))).toBe(loaded));
  it('a string-out opened anew forgets the one before', () =>
    expect(reducer(loaded, stringOutActions.opened({ id: 5 }))).toMatchObject({ id: 5, saved: null, items: [] }));
});
