import type { SortBy } from '@larder/core/search';
import type { AskedOrder } from '@larder/contract';

/** The value of the choice of a bin's own order. */
export const BY_HAND = 'by-hand';
export const BY_NAME: AskedOrder = { field: 'name', descending: false };

/** An order as the value of a choice. */
export const sortKeyOf = ({ then = [], hand, ...first }: AskedOrder): string =>
  hand === undefined
    ? [first, ...then].map(({ field, descending }) => `${field}/${descending ? 'down' : 'up'}`).join(' ')
    : BY_HAND;

/** The order that a choice stands for, but a bin's own. */
export function orderOf(key: string): AskedOrder {
  const [first = BY_NAME, ...then] = key.split(' ').map((part): SortBy => {
    const [field, way] = part.split('/');
    return { field: field as SortBy['field'], descending: way === 'down' };
  });
  return then.length > 0 ? { ...first, then } : first;
}
