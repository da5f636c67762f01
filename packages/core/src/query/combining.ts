import { combine } from './parse';
import type { Query } from './tree';

/** How two answers are put together: what is in both, in either, in one of them only, or in the first only. */
export const WAYS_TO_COMBINE = ['both', 'either', 'one', 'first'] as const;
export type WayToCombine = (typeof WAYS_TO_COMBINE)[number];

const not = (of: Query): Query => ({ kind: 'not', of });

/** A search that asks for no less than everything: nothing can be put beside it. */
export const isEverything = (tree: Query): boolean => tree.kind === 'all' && tree.of.length === 0;

/** One search of two, neither of which asks for everything. */
export function combined(a: Query, b: Query, way: WayToCombine): Query {
  switch (way) {
    case 'both':
      return combine('all', [a, b]);
    case 'either':
      return combine('any', [a, b]);
    case 'first':
      return combine('all', [a, not(b)]);
    case 'one':
      return combine('any', [combine('all', [a, not(b)]), combine('all', [b, not(a)])]);
    default:
      return way satisfies never;
  }
}
