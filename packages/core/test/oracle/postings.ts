/** Sets of document ordinals as ascending arrays; every operation makes a new one and leaves its inputs alone. */
export type Ordinals = Uint32Array;

export const NONE: Ordinals = new Uint32Array(0);

/** A growing ascending list of ordinals. */
export class Postings {
  private items = new Uint32Array(4);
  private used = 0;

  /** Appends an ordinal that is not below the last one; the last one again is left out. */
  add(ordinal: number): void {
    if (this.used > 0 && this.items[this.used - 1] === ordinal) return;
    if (this.used === this.items.length) {
      const larger = new Uint32Array(this.used * 2);
      larger.set(this.items);
      this.items = larger;
    }
    this.items[this.used++] = ordinal;
  }

  view(): Ordinals {
    return this.items.subarray(0, this.used);
  }
}

export function intersect(a: Ordinals, b: Ordinals): Ordinals {
  const [small, large] = a.length <= b.length ? [a, b] : [b, a];
  const out = new Uint32Array(small.length);
  let n = 0;
  // Far apart in size, looking up beats walking both.
  if (small.length * 16 < large.length) {
    for (const value of small) if (holds(large, value)) out[n++] = value;
    return out.subarray(0, n);
  }
  for (let i = 0, j = 0; i < small.length && j < large.length;) {
    const [x, y] = [small[i] as number, large[j] as number];
    if (x === y) out[n++] = x;
    if (x <= y) i += 1;
    if (y <= x) j += 1;
  }
  return out.subarray(0, n);
}

function holds(sorted: Ordinals, value: number): boolean {
  let [low, high] = [0, sorted.length - 1];
  while (low <= high) {
    const middle = (low + high) >>> 1;
    const found = sorted[middle] as number;
    if (found === value) return true;
    if (found < value) low = middle + 1;
    else high = middle - 1;
  }
  return false;
}

/** The union of many sets over ordinals below `universe`. */
export function unite(sets: readonly Ordinals[], universe: number): Ordinals {
  if (sets.length === 0) return NONE;
  if (sets.length === 1) return sets[0] as Ordinals;
  const marks = new Uint8Array(universe);
  for (const set of sets) for (const value of set) marks[value] = 1;
  return marked(marks, 1);
}

/** Those of `all` that are not in `without`; `all` may be any set. */
export function subtract(all: Ordinals, without: Ordinals, universe: number): Ordinals {
  const marks = new Uint8Array(universe);
  for (const value of all) marks[value] = 1;
  for (const value of without) marks[value] = 0;
  return marked(marks, 1);
}

function marked(marks: Uint8Array, wanted: number): Ordinals {
  const out = new Uint32Array(marks.length);
  let n = 0;
  for (let i = 0; i < marks.length; i += 1) if (marks[i] === wanted) out[n++] = i;
  return out.slice(0, n);
}
