import fc from 'fast-check';
import { answersQuery, combined, parseQuery, printQuery, WAYS_TO_COMBINE, type WayToCombine } from '@larder/core/query';
import { BUILT_IN } from '@larder/core/fields';

const HOLDS: Readonly<Record<WayToCombine, (a: boolean, b: boolean) => boolean>> = {
  both: (a, b) => a && b,
  either: (a, b) => a || b,
  one: (a, b) => a !== b,
  first: (a, b) => a && !b,
};
const searches = [
  'tag:dawn',
  'tag:(dawn or lock)',
  '-tag:bell',
  'tag:dawn -tag:lock or tag:bell',
  'dawn lock',
  '-(tag:dawn tag:lock)',
  'no:tag',
];

describe('two answers put together', () => {
  it('are what sets make of them, and can be written and read', () =>
    fc.assert(
      fc.property(
        fc.constantFrom(...searches),
        fc.constantFrom(...searches),
        fc.constantFrom(...WAYS_TO_COMBINE),
        fc.subarray(['dawn', 'lock', 'bell']),
        (a, b, way, tag) => {
          const [first, second] = [parseQuery(a).tree, parseQuery(b).tree];
          const together = combined(first, second, way);
          const says = (tree: typeof first) => answersQuery(tree, { values: { tag } }, BUILT_IN, 0);
          expect(says(together)).toBe(HOLDS[way](says(first), says(second)));
          expect(parseQuery(printQuery(together))).toEqual({ tree: together, issues: [] });
        },
      ),
    ));
});
