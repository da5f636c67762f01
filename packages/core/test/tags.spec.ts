import fc from 'fast-check';
import { foldTag, LETTERS, lettersOf, nearDoubles, tagChangeSchema, tagSetSchema } from '@larder/core/tags';

const named = (...names: string[]) => names.map((name) => ({ name, letter: null }));

describe('tags', () => {
  it('are one where only case, accents and gaps differ', () => {
    expect(foldTag('  Golden   Hour ')).toBe('golden hour');
    expect(foldTag('Écluse')).toBe(foldTag('ecluse'));
    expect(foldTag('golden-hour')).not.toBe(foldTag('golden hour'));
  });
});

describe('letters of sets and tags', () => {
  it.each([
    ['by their first letters', named('Dawn', 'Overcast', 'Rain'), ['d', 'o', 'r']],
    ['by the next word where the first letter is taken', named('Lock', 'Lower lock', 'Lock gate'), ['l', 'o', 'g']],
    ['an initial before anybody’s other letters', named('Dawn', 'Dusk', 'Umbra'), ['d', 's', 'u']],
    ['accents folded', named('Écluse'), ['e']],
    ['any letter for what has none of its own', named('朝', '夜'), ['a', 'b']],
    [
      'the chosen one first',
      [
        { name: 'Dawn', letter: 'x' },
        { name: 'Xylophone', letter: null },
      ],
      ['x', 'y'],
    ],
    [
      'one chosen twice for the first',
      [
        { name: 'A', letter: 'q' },
        { name: 'B', letter: 'q' },
      ],
      ['q', 'b'],
    ],
  ])('%s', (_what, all, letters) => expect(lettersOf(all)).toEqual(letters));

  it('never the same twice, and none is left out while there are any', () =>
    fc.assert(
      fc.property(
        fc.array(fc.record({ name: fc.string({ maxLength: 8 }), letter: fc.constantFrom(null, 'a', 'b') }), {
          maxLength: 50,
        }),
        (all) => {
          const given = lettersOf(all);
          const real = given.filter((letter) => letter !== null);
          expect(new Set(real).size).toBe(real.length);
          expect(real).toHaveLength(Math.min(all.length, LETTERS.length));
        },
      ),
    ));
});

describe('near doubles', () => {
  const pairs = (...names: string[]) =>
    nearDoubles(names.map((name, index) => ({ name, uses: 100 - index }))).map(
      ({ keep, merge }) => `${keep} < ${merge}`,
    );
  it.each([
    [['golden hour', 'golden-hour'], 'a hyphen'],
    [['interview', 'Interviews'], 'a plural'],
    [['archive', 'archives'], 'a plural after a vowel'],
    [['church', 'churches'], 'a plural with es'],
    [['body', 'bodies'], 'a plural with ies'],
    [['boathouse', 'boathosue'], 'two letters swapped'],
    [['establishing', 'establishng'], 'a letter left out'],
    [['rain', 'ráin'], 'an accent'],
  ])('%j are: %s', (names) => expect(pairs(...names)).toEqual([`${names[0]} < ${names[1]}`]));
  it.each([
    [['dawn', 'down'], 'short words'],
    [['take 1', 'take 2'], 'numbers'],
    [['close-up 1', 'close-up 10'], 'numbers'],
    [['interior', 'exterior'], 'the first letter'],
    [['day', 'night'], 'other words'],
    [['gas', 'ga'], 'no plural'],
  ])('%j are not: %s', (names) => expect(pairs(...names)).toEqual([]));
  it('keep the one that is used more, and compare each pair once', () => {
    expect(
      nearDoubles([
        { name: 'boats', uses: 1 },
        { name: 'boat', uses: 9 },
        { name: 'Boat ', uses: 3 },
      ]),
    ).toEqual([
      { keep: 'boat', merge: 'boats' },
      { keep: 'Boat ', merge: 'boats' },
      { keep: 'boat', merge: 'Boat ' },
    ]);
  });
});

describe('what is said of sets and tags', () => {
  it('is filled in, or refused in words', () => {
    expect(tagSetSchema.validateSync({ name: ' Light ' })).toEqual({
      name: 'Light',
      description: '',
      letter: '',
      pattern: 'plain',
    });
    expect(() => tagSetSchema.validateSync({ name: '' })).toThrow('The set needs a name.');
    expect(() => tagSetSchema.validateSync({ name: 'x', pattern: 'red' })).toThrow('That is no pattern.');
    expect(() => tagChangeSchema.validateSync({ name: 'x', letter: '?' })).toThrow(
      'A letter is one of a to z or 0 to 9.',
    );
    expect(() => tagChangeSchema.validateSync({ name: 'a, b' })).toThrow('without commas');
  });
});
