import type { FieldChanges } from '@larder/core/fields';
import { mergedValues } from '@larder/core/upkeep';

const merged = (own: FieldChanges, values: FieldChanges) =>
  mergedValues(own, { name: 'B.mov', values }, (field, value) => `${field}: ${String(value)}`);

describe('what an asset says once another was merged into it', () => {
  it.each<[string, FieldChanges, FieldChanges, FieldChanges]>([
    ['nothing new where both say the same', { title: 'Lock', notes: 'wet' }, { title: 'Lock', notes: 'wet' }, {}],
    [
      'what only the other says',
      { title: null },
      { title: 'Lock', verdict: 'circled' },
      { title: 'Lock', verdict: 'circled' },
    ],
    [
      'its own, with the other’s word in the notes',
      { title: 'Lock' },
      { title: 'Weir' },
      { notes: 'B.mov said: title: Weir' },
    ],
    ['both notes, below each other', { notes: 'wet' }, { notes: 'cold' }, { notes: 'wet\ncold' }],
    ['notes that stand in its own once', { notes: 'wet and cold' }, { notes: 'cold' }, {}],
    [
      'notes, and all that differs behind them',
      { notes: 'wet', title: 'Lock', scene: '4' },
      { notes: 'cold', title: 'Weir', scene: '5', take: '2' },
      { take: '2', notes: 'wet\ncold\nB.mov said: title: Weir; scene: 5' },
    ],
    ['nothing of what the other leaves empty', { title: 'Lock' }, { title: '', description: null }, {}],
  ])('%s', (_what, own, other, set) => {
    expect(merged(own, other)).toEqual(set);
  });

  it('lists are joined', () => {
    const crew = 'crew' as keyof FieldChanges;
    expect(merged({ [crew]: ['Ines', 'Otto'] }, { [crew]: ['Otto', 'Maud'] })).toEqual({
      [crew]: ['Ines', 'Otto', 'Maud'],
    });
  });

  it('merged once more, nothing is added', () => {
    const own: FieldChanges = { title: 'Lock', notes: 'wet' };
    const other: FieldChanges = { title: 'Weir', notes: 'cold', verdict: 'ng' };
    const once = { ...own, ...merged(own, other) };
    expect(merged(once, other)).toEqual({});
  });
});
