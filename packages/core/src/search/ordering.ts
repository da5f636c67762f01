import { firstNot } from './first-not';
import type { Column, Numbers } from './segment';

/** How the documents of a segment stand by what they say in a field. */
export interface Ordering {
  /** For each document its place among the things said, from 1; 0 where it says nothing. Equal words share a place. */
  readonly ranks: Numbers;
  /** The documents that say something, in the order of their ranks; equal ones in their own. */
  readonly order: Uint32Array;
}

/** @param known its order, where it was made before */
export function orderOf(column: Column, count: number, known?: Uint32Array): Ordering {
  const ranks = ranksOf(column, count);
  return { ranks, order: known ?? sortedBy(ranks) };
}

function ranksOf(column: Column, count: number): Numbers {
  if (column.starts) return ranksOfSeveral(column.starts, column.items, column.groups, count);
  const groups = column.kind === 'texts' ? column.groups : null;
  if (!groups) return column.numbers;
  const ranks = new Uint32Array(count);
  for (let doc = 0; doc < count; doc += 1) {
    const number = column.numbers[doc] as number;
    ranks[doc] = number === 0 ? 0 : (groups[number - 1] as number) + 1;
  }
  return ranks;
}

/** By the first thing said, then by the second, and so on. */
function ranksOfSeveral(starts: Uint32Array, items: Numbers, groups: Uint32Array | null, count: number): Uint32Array {
  const groupAt = (at: number): number => (groups ? (groups[items[at] as number] as number) : (items[at] as number));
  const compare = (a: number, b: number): number => {
    let [i, j] = [starts[a] as number, starts[b] as number];
    const [endA, endB] = [starts[a + 1] as number, starts[b + 1] as number];
    for (; i < endA && j < endB; i += 1, j += 1) {
      const apart = groupAt(i) - groupAt(j);
      if (apart !== 0) return apart;
    }
    return endA - i - (endB - j);
  };
  const said = new Uint32Array(count);
  let n = 0;
  for (let doc = 0; doc < count; doc += 1) if (starts[doc] !== starts[doc + 1]) said[n++] = doc;
  const order = said.subarray(0, n).sort((a, b) => compare(a, b) || a - b);
  const ranks = new Uint32Array(count);
  let rank = 0;
  order.forEach((doc, at) => {
    if (at === 0 || compare(order[at - 1] as number, doc) !== 0) rank += 1;
    ranks[doc] = rank;
  });
  return ranks;
}

/** Sorts by counting: as long as there are documents, however many things they say. */
function sortedBy(ranks: Numbers): Uint32Array {
  let most = 0;
  for (const rank of ranks) if (rank > most) most = rank;
  const starts = new Uint32Array(most + 2);
  for (const rank of ranks) starts[rank + 1] = (starts[rank + 1] as number) + 1;
  const silent = starts[1] as number;
  for (let rank = 1; rank < starts.length; rank += 1)
    starts[rank] = (starts[rank] as number) + (starts[rank - 1] as number);
  const order = new Uint32Array(ranks.length - silent);
  for (let doc = 0; doc < ranks.length; doc += 1) {
    const rank = ranks[doc] as number;
    if (rank === 0) continue;
    const at = starts[rank] as number;
    order[at - silent] = doc;
    starts[rank] = at + 1;
  }
  return order;
}

/** Where in an order the first document stands whose rank is not below one. */
export const firstOfRank = ({ ranks, order }: Ordering, rank: number): number =>
  firstNot((at) => (ranks[order[at] as number] as number) < rank, 0, order.length);
