import { allBits, bitsFor, countBits, hasBit, listBits, setBit, type Bits } from './bits';

/**
 * A set of a segment's documents: few as an ascending list, many as bits. A list takes 32 bits each, so that from one in 32 on bits
 * are both smaller and quicker.
 */
export type DocSet =
  | { readonly list: Uint32Array; readonly bits: null }
  | { readonly list: null; readonly bits: Bits; /** Worked out once. */ count?: number; listed?: Uint32Array };

export const ofList = (list: Uint32Array): DocSet => ({ list, bits: null });
export const ofBits = (bits: Bits): DocSet => ({ list: null, bits });
export const NONE: DocSet = ofList(new Uint32Array(0));
export const everyDoc = (universe: number): DocSet => ({ list: null, bits: allBits(universe), count: universe });

export const isDense = (count: number, universe: number): boolean => count * 32 > universe;

export const countOf = (set: DocSet): number => (set.list ? set.list.length : (set.count ??= countBits(set.bits)));
export const listOf = (set: DocSet): Uint32Array => set.list ?? (set.listed ??= listBits(set.bits, countOf(set)));
/** The first of them, without listing all. */
export const firstOfSet = (set: DocSet, most: number): Uint32Array =>
  set.list ? set.list.subarray(0, most) : listBits(set.bits, Math.min(most, countOf(set)));
export const holds = (set: DocSet, doc: number): boolean =>
  set.list ? holdsSorted(set.list, doc) : hasBit(set.bits, doc);

/** As bits that are the caller's own. */
export function bitsOf(set: DocSet, universe: number): Bits {
  if (set.bits) return set.bits.slice();
  const bits = bitsFor(universe);
  for (const doc of set.list) setBit(bits, doc);
  return bits;
}

/** The first place of an ascending list from `low` on that is not below a value, looked for in steps that double. */
export function gallop(list: Uint32Array, value: number, low: number): number {
  let step = 1;
  let high = low;
  while (high < list.length && (list[high] as number) < value) {
    low = high + 1;
    high += step;
    step *= 2;
  }
  if (high > list.length) high = list.length;
  while (low < high) {
    const middle = (low + high) >>> 1;
    if ((list[middle] as number) < value) low = middle + 1;
    else high = middle;
  }
  return low;
}

const holdsSorted = (list: Uint32Array, value: number): boolean => list[gallop(list, value, 0)] === value;

export function both(a: DocSet, b: DocSet): DocSet {
  if (a.list && b.list) return ofList(bothLists(a.list, b.list));
  if (a.list) return ofList(among(a.list, b.bits as Bits, 1));
  if (b.list) return both(b, a);
  const [x, y] = [a.bits, b.bits];
  const out = new Uint32Array(x.length);
  for (let i = 0; i < out.length; i += 1) out[i] = (x[i] as number) & (y[i] as number);
  return ofBits(out);
}

/** Of a list those that are in a set of bits, or those that are not. A loop of its own takes a third of the time of `filter`. */
function among(list: Uint32Array, bits: Bits, wanted: 0 | 1): Uint32Array {
  const out = new Uint32Array(list.length);
  let n = 0;
  for (let i = 0; i < list.length; i += 1) {
    const doc = list[i] as number;
    out[n] = doc;
    n += (((bits[doc >>> 5] as number) >>> (doc & 31)) & 1) === wanted ? 1 : 0;
  }
  return out.subarray(0, n);
}

/** What two ascending lists have in common, each once; the second may hold a document several times in a row. */
export function bothLists(a: Uint32Array, b: Uint32Array): Uint32Array {
  const [small, large] = a.length <= b.length ? [a, b] : [b, a];
  const out = new Uint32Array(small.length);
  let n = 0;
  let at = 0;
  for (const doc of small) {
    at = gallop(large, doc, at);
    if (at === large.length) break;
    if (large[at] === doc && (n === 0 || out[n - 1] !== doc)) out[n++] = doc;
  }
  return out.subarray(0, n);
}

/** Marks by their places those of an ascending list that are in a set of bits. */
export function markBits(list: Uint32Array, bits: Bits, marks: Uint8Array): void {
  for (let i = 0; i < list.length; i += 1) if (hasBit(bits, list[i] as number)) marks[i] = 1;
}

/** Marks by their places those of an ascending list that are in another, which may hold them several times in a row. */
export function markList(list: Uint32Array, other: Uint32Array, marks: Uint8Array): void {
  let at = 0;
  if (other.length < list.length)
    for (let i = 0; i < other.length && at < list.length; i += 1) {
      at = gallop(list, other[i] as number, at);
      if (list[at] === other[i]) marks[at] = 1;
    }
  else
    for (let i = 0; i < list.length && at < other.length; i += 1) {
      at = gallop(other, list[i] as number, at);
      if (other[at] === list[i]) marks[i] = 1;
    }
}

/** What was marked of a list. */
export function marked(list: Uint32Array, marks: Uint8Array): Uint32Array {
  const out = new Uint32Array(list.length);
  let n = 0;
  for (let i = 0; i < list.length; i += 1) {
    out[n] = list[i] as number;
    n += marks[i] as number;
  }
  return out.subarray(0, n);
}

export function either(all: readonly DocSet[], universe: number): DocSet {
  const sets = all.filter(({ list }) => list?.length !== 0);
  if (sets.length === 0) return NONE;
  if (sets.length === 1) return sets[0] as DocSet;
  const lists = sets.flatMap(({ list }) => list ?? []);
  if (lists.length === sets.length) return gathered(lists, universe);
  const out = bitsFor(universe);
  let most = 0;
  for (const { list, bits } of sets) {
    if (list) for (const doc of list) setBit(out, doc);
    else for (let i = 0; i < out.length; i += 1) out[i] = (out[i] as number) | (bits[i] as number);
    most += list ? list.length : universe;
  }
  return isDense(most, universe) ? ofBits(out) : ofList(listBits(out));
}

export function without(a: DocSet, b: DocSet): DocSet {
  if (a.list) {
    if (b.bits) return ofList(among(a.list, b.bits, 0));
    const taken = b.list;
    let at = 0;
    return ofList(
      a.list.filter((doc) => {
        at = gallop(taken, doc, at);
        return taken[at] !== doc;
      }),
    );
  }
  const out = a.bits.slice();
  if (b.list) for (const doc of b.list) out[doc >>> 5] = (out[doc >>> 5] as number) & ~(1 << (doc & 31));
  else for (let i = 0; i < out.length; i += 1) out[i] = (out[i] as number) & ~(b.bits[i] as number);
  return ofBits(out);
}

/** An ascending list with each document once. */
export function once(list: Uint32Array): Uint32Array {
  const out = new Uint32Array(list.length);
  let n = 0;
  for (const doc of list) if (n === 0 || out[n - 1] !== doc) out[n++] = doc;
  return out.subarray(0, n);
}

/** Fewer documents than this are sorted sooner than bits are gone through. */
const FEW_TO_SORT = 256;

/** The documents of several lists, each of which may be in any order and have some several times. */
export function gathered(lists: readonly Uint32Array[], universe: number): DocSet {
  const total = lists.reduce((sum, list) => sum + list.length, 0);
  if (total === 0) return NONE;
  if (total < FEW_TO_SORT) {
    const all = new Uint32Array(total);
    let used = 0;
    for (const list of lists) {
      all.set(list, used);
      used += list.length;
    }
    return ofList(once(all.sort()));
  }
  const bits = bitsFor(universe);
  for (const list of lists) for (let at = 0; at < list.length; at += 1) setBit(bits, list[at] as number);
  const set: DocSet = ofBits(bits);
  return isDense(countOf(set), universe) ? set : ofList(listOf(set));
}
