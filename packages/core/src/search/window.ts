import { hasBit, type Bits } from './bits';
import { countOf, firstOfSet, listOf, type DocSet } from './doc-set';
import { firstNotNear } from './first-not';
import { firstOf, heapOf, isFew, replaceTop, type Compare } from './first-of';
import { firstOfRank, type Ordering } from './ordering';
import type { Part } from './part';
import type { Numbers } from './segment';
import { RELEVANCE, type SortBy } from './types';

/** What was found in a part. */
export interface Found {
  readonly part: Part;
  readonly set: DocSet;
}

/** What a list is ordered by, and by how much each document fits the search, where that is among it. */
export interface Order {
  readonly by: readonly SortBy[];
  readonly scores: ReadonlyMap<Part, Float32Array> | null;
}

/**
 * Ids of the places from `offset` on of what was found, in an order, equal ones in the order of their ids. What says nothing
 * comes last either way.
 */
export function windowOf(found: readonly Found[], order: Order, offset: number, limit: number): number[] {
  if (limit === 0) return [];
  const last = offset + limit;
  const lists = found
    .filter(({ set }) => countOf(set) > 0)
    .sort((a, b) => b.part.data.ids.length - a.part.data.ids.length)
    .map(({ part, set }): Listed => ({ part, docs: firstDocs(part, set, order, last) }));
  const [base, ...others] = lists;
  if (!base) return [];
  const out = new Window(offset, last);
  const compare = comparing(order);
  let at = 0;
  // The others are few beside the largest: it is gone through in leaps from one of theirs to the next.
  for (const place of merged(others, compare, last)) {
    const next = placeAmong(base, place, at, compare);
    out.take(base, at, next);
    out.one(place.id);
    at = next;
    if (out.isFull) break;
  }
  out.take(base, at, base.docs.length);
  return out.ids;
}

/** A part's documents in order. */
interface Listed {
  readonly part: Part;
  readonly docs: Uint32Array;
}

/** A document as something to compare across parts: what it says in the fields of the order, null for nothing. */
interface Place {
  readonly id: number;
  readonly keys: readonly (number | string | null)[];
}

type ComparePlaces = (a: Place, b: Place) => number;

/** The places from one up to another of all that come by. */
class Window {
  readonly ids: number[] = [];
  private passed = 0;

  constructor(
    private readonly from: number,
    private readonly to: number,
  ) {}

  get isFull(): boolean {
    return this.passed >= this.to;
  }

  take({ part, docs }: Listed, start: number, end: number): void {
    const [from, to] = [Math.max(start, start + this.from - this.passed), Math.min(end, start + this.to - this.passed)];
    for (let at = from; at < to; at += 1) this.ids.push(part.data.ids[docs[at] as number] as number);
    this.passed += end - start;
  }

  one(id: number): void {
    if (this.passed >= this.from && !this.isFull) this.ids.push(id);
    this.passed += 1;
  }
}

function comparing(order: Order): ComparePlaces & { readonly order: Order } {
  const { by } = order;
  const compare = (a: Place, b: Place): number => {
    for (let i = 0; i < by.length; i += 1) {
      const [x, y] = [a.keys[i] ?? null, b.keys[i] ?? null];
      if (x === y) continue;
      if (x === null) return 1;
      if (y === null) return -1;
      return (x < y ? -1 : 1) * ((by[i] as SortBy).descending ? -1 : 1);
    }
    return a.id - b.id;
  };
  return Object.assign(compare, { order });
}

const placeOf = (part: Part, doc: number, { by, scores }: Order): Place => ({
  id: part.data.ids[doc] as number,
  keys: by.map(({ field }) => {
    if (field === RELEVANCE) return scores?.get(part)?.[doc] || null;
    const ranks = part.ranks(field);
    return !ranks || ranks[doc] === 0 ? null : part.keyAt(field, doc);
  }),
});

/** The first documents of several parts, in one order. */
function* merged(lists: readonly Listed[], compare: ReturnType<typeof comparing>, most: number): Generator<Place> {
  const leaders = lists.flatMap(({ part, docs }) =>
    docs.length > 0 ? [{ part, docs, at: 0, place: placeOf(part, docs[0] as number, compare.order) }] : [],
  );
  for (let taken = 0; taken < most && leaders.length > 0; taken += 1) {
    const best = leaders.reduce((a, b) => (compare(b.place, a.place) < 0 ? b : a));
    yield best.place;
    best.at += 1;
    if (best.at === best.docs.length) leaders.splice(leaders.indexOf(best), 1);
    else best.place = placeOf(best.part, best.docs[best.at] as number, compare.order);
  }
}

/** Where in a list from `from` on a place belongs, looked for in steps that double. */
function placeAmong({ part, docs }: Listed, place: Place, from: number, compare: ReturnType<typeof comparing>): number {
  const isBefore = (at: number): boolean => compare(placeOf(part, docs[at] as number, compare.order), place) < 0;
  return firstNotNear(isBefore, from, docs.length);
}

/** The first documents of one part in order, up to `most`. */
function firstDocs(part: Part, set: DocSet, order: Order, most: number): Uint32Array {
  const [first, ...then] = order.by;
  const count = countOf(set);
  if (first?.field === RELEVANCE) return chosen(part, set, order, most);
  const ordering = first && part.finder.ordering(first.field);
  const rest = { ...order, by: then };
  if (!first || !ordering) {
    const compare = within(part, rest);
    return compare ? firstOf(listOf(set), most, compare) : firstOfSet(set, most);
  }
  // Walking the order meets one that was found in so many; choosing looks at all that were.
  const steps = (Math.min(most, count) * ordering.order.length) / count;
  // Where nearly all of them are wanted, choosing is sorting.
  const choosing = count * (most * 2 < count ? 4 : 16);
  if (!set.bits || steps > choosing) return chosen(part, set, order, most);
  return walked(part, set, ordering, first.descending, most, within(part, rest));
}

/** The first ones in order, out of all. Most do not come near by what they are ordered by first, which is told without comparing. */
function chosen(part: Part, set: DocSet, order: Order, most: number): Uint32Array {
  const compare = within(part, order);
  if (!compare) return firstOfSet(set, most);
  const [first] = order.by;
  const ranks = first && ranksIn(part, first.field, order);
  if (!ranks || isFew(countOf(set), most)) return firstOf(listOf(set), most, compare);
  return sifted(set, most, compare, {
    ...{ ranks, sign: first.descending ? -1 : 1 },
    alone: order.by.length === 1,
  }).sort(compare);
}

/**
 * As `smallest`, looking first at what all are ordered by first. Nothing in the loops is kept where another function could change it,
 * and of bits each document is looked at before it is asked whether it was found: either way around, these took twice as long.
 */
function sifted(set: DocSet, most: number, compare: Compare, ranked: Ranked): Uint32Array {
  const heap = heapOf(firstOfSet(set, most).slice(), compare);
  if (set.list) siftList(set.list, heap, compare, ranked);
  else siftBits(set.bits, heap, compare, ranked);
  return heap;
}

function siftList(list: Uint32Array, heap: Uint32Array, compare: Compare, { ranks, sign, alone }: Ranked): void {
  let key = keyOf(ranks[heap[0] as number] as number, sign);
  for (let i = heap.length; i < list.length; i += 1) {
    const doc = list[i] as number;
    const rank = ranks[doc] as number;
    const own = rank * sign;
    // Of equal ones those that came before stay, where nothing else orders them.
    if (alone ? own >= key : own > key) continue;
    if (rank === 0 && key !== Infinity) continue;
    replaceTop(heap, doc, compare);
    key = keyOf(ranks[heap[0] as number] as number, sign);
  }
}

/** As long as a million times through a loop: with one comparison of plain numbers in it, it takes half as long as with a sign. */
function siftBits(bits: Bits, heap: Uint32Array, compare: Compare, { ranks, sign, alone }: Ranked): void {
  let doc = lastOf(heap);
  for (;;) {
    const top = ranks[heap[0] as number] as number;
    doc = sign < 0 ? nextAbove(ranks, doc + 1, floorOf(top, alone)) : nextBelow(ranks, doc + 1, top, alone);
    if (doc === ranks.length) return;
    if (hasBit(bits, doc)) replaceTop(heap, doc, compare);
  }
}

/** Less than any two ranks or scores are apart, as a part of them. */
const APART = 1e-9;

/** What is not above this cannot come before the last of the greatest; ties do where something else orders them. */
const floorOf = (top: number, alone: boolean): number => (alone ? top : top === 0 ? -1 : top * (1 - APART));

function nextAbove(ranks: Numbers | Float32Array, from: number, floor: number): number {
  let doc = from;
  while (doc < ranks.length && (ranks[doc] as number) <= floor) doc += 1;
  return doc;
}

function nextBelow(ranks: Numbers | Float32Array, from: number, top: number, alone: boolean): number {
  // What says nothing stands last: until there is enough else, all of the rest may come before.
  const ceiling = top === 0 ? Infinity : alone ? top * (1 - APART) : top;
  const least = top === 0 && !alone ? 0 : Number.MIN_VALUE;
  let doc = from;
  while (doc < ranks.length && ((ranks[doc] as number) > ceiling || (ranks[doc] as number) < least)) doc += 1;
  return doc;
}

const lastOf = (docs: Uint32Array): number => docs.reduce((last, doc) => Math.max(last, doc), 0);

/** What says nothing comes after everything else. */
const keyOf = (rank: number, sign: number): number => (rank === 0 ? Infinity : rank * sign);

interface Ranked {
  readonly ranks: Numbers | Float32Array;
  /** -1 where the greatest is the first. */
  readonly sign: number;
  /** Nothing else orders them but their numbers. */
  readonly alone: boolean;
}

/** Goes through all documents in their order and takes those that were found, run by run of those that say the same. */
function walked(
  part: Part,
  { bits }: DocSet,
  ordering: Ordering,
  descending: boolean,
  most: number,
  then: Compare | null,
): Uint32Array {
  const { ranks, order } = ordering;
  const found = bits as Uint32Array;
  const out = new Uint32Array(Math.min(most, part.data.ids.length));
  let n = 0;
  const take = (from: number, to: number): void => {
    const start = n;
    // Within a run its documents stand in their own order, so that as many as are wanted are enough.
    if (!then || to - from === 1) {
      for (let at = from; at < to && n < out.length; at += 1) {
        const doc = order[at] as number;
        if (hasBit(found, doc)) out[n++] = doc;
      }
      return;
    }
    const run = order.subarray(from, to).filter((doc) => hasBit(found, doc));
    const chosen = firstOf(run, out.length - start, then);
    out.set(chosen, start);
    n += chosen.length;
  };
  const rankAt = (at: number): number => ranks[order[at] as number] as number;
  if (!descending && !then) take(0, order.length);
  else if (!descending)
    for (let from = 0; from < order.length && n < out.length;) {
      const to = endOfRun(ordering, from);
      take(from, to);
      from = to;
    }
  else
    for (let to = order.length; to > 0 && n < out.length;) {
      const rank = rankAt(to - 1);
      // Mostly a run is one document.
      const from = to > 1 && rankAt(to - 2) === rank ? firstOfRank(ordering, rank) : to - 1;
      take(from, to);
      to = from;
    }
  if (n < out.length) {
    const silent = silentIn(found, ranks, part.data.ids.length);
    const chosen = firstOf(silent, out.length - n, then);
    out.set(chosen, n);
    n += chosen.length;
  }
  return out.subarray(0, n);
}

function endOfRun(ordering: Ordering, from: number): number {
  const rank = ordering.ranks[ordering.order[from] as number] as number;
  const next = ordering.order[from + 1];
  return next === undefined || ordering.ranks[next] !== rank ? from + 1 : firstOfRank(ordering, rank + 1);
}

function silentIn(found: Uint32Array, ranks: Numbers, count: number): Uint32Array {
  const silent: number[] = [];
  for (let doc = 0; doc < count; doc += 1) if (ranks[doc] === 0 && hasBit(found, doc)) silent.push(doc);
  return Uint32Array.from(silent);
}

/** By how much each document says of a field, or fits the search; null where that orders nothing. */
const ranksIn = (part: Part, field: SortBy['field'], { scores }: Order): Numbers | Float32Array | null =>
  (field === RELEVANCE ? scores?.get(part) : part.ranks(field)) ?? null;

/** Compares documents of one part; null if nothing orders them but their numbers. */
function within(part: Part, order: Order): Compare | null {
  const keys = order.by.flatMap(({ field, descending }) => {
    const ranks = ranksIn(part, field, order);
    return ranks ? [{ ranks, sign: descending ? -1 : 1 }] : [];
  });
  if (keys.length === 0) return null;
  return (a, b) => {
    for (const { ranks, sign } of keys) {
      const [x, y] = [ranks[a] as number, ranks[b] as number];
      if (x === y) continue;
      if (x === 0) return 1;
      if (y === 0) return -1;
      return (x - y) * sign;
    }
    return a - b;
  };
}
