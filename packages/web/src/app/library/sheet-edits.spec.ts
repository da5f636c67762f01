import { BUILT_IN } from '@larder/core/fields';
import { asset } from '../../../test/assets';
import { blockEdits, fieldOfColumn } from './sheet-edits';

const assets = [asset(1), asset(2)];
const columns = ['title', 'name', 'people', 'rating', 'verdict'];
const lay = (...cells: string[][]) => blockEdits(cells, assets, columns, BUILT_IN);

describe('a block of cells laid over the ledger', () => {
  it('says of each asset what its row says, each field by its own reading', () => {
    expect(lay(['Gate', 'no', 'Ada Lock, Nan', '4', 'CIRCLED'], ['Weir'])).toEqual({
      edits: [
        { assetId: 1, set: { title: 'Gate', people: ['Ada Lock', 'Nan'], rating: 4, verdict: 'circled' } },
        { assetId: 2, set: { title: 'Weir' } },
      ],
      passedOver: 1,
    });
  });
  it('clears with empty cells', () =>
    expect(lay([''])).toEqual({ edits: [{ assetId: 1, set: { title: null } }], passedOver: 0 }));
  it('passes over what is beyond the last row and column, and what nobody fills in', () => {
    expect(lay(['a'], ['b'], ['c', 'd'])).toMatchObject({ edits: [{ assetId: 1 }, { assetId: 2 }], passedOver: 2 });
    expect(lay(['a', 'x', '', '', '', 'beyond'])).toMatchObject({ passedOver: 2 });
    expect(blockEdits([['x']], assets, ['size'], BUILT_IN)).toEqual({ edits: [], passedOver: 1 });
  });
  it('is refused as a whole where a field does not take a cell, and says which', () => {
    expect(lay(['a', '', '', '4'], ['b', '', '', 'good'])).toEqual({
      issue: 'Row 2 of what was pasted, Rating: Rating is a whole number from 1 to 5.',
    });
    expect(lay(['x'.repeat(201)])).toMatchObject({
      issue: expect.stringContaining('Title has at most 200') as unknown,
    });
  });
  it('knows which columns are filled in', () => {
    expect(fieldOfColumn('title', BUILT_IN)?.id).toBe('title');
    for (const id of ['tag', 'size', 'start', 'gone']) expect(fieldOfColumn(id, BUILT_IN)).toBeUndefined();
  });
});
