import type { Numbers } from './segment';

/** Of each document the number of its group from 1, 0 for one that says nothing; or of the several it says, each less by 1. */
export type GroupColumn =
  | { readonly numbers: Numbers; readonly starts: null; readonly items: null }
  | { readonly numbers: null; readonly starts: Uint32Array; readonly items: Numbers };

/** Adds one to its group for each thing that documents say; `docs` null for all of them. */
export function addUp({ numbers, starts, items }: GroupColumn, docs: Uint32Array | null, counts: Uint32Array): void {
  if (starts) addUpSeveral(starts, items, docs ?? numbersBelow(starts.length - 1), counts);
  else if (docs) addUpSingle(numbers, docs, counts);
  else for (let doc = 0; doc < numbers.length; doc += 1) addOne(counts, numbers[doc] as number);
}

const addOne = (counts: Uint32Array, group: number): void => {
  counts[group] = (counts[group] as number) + 1;
};

const numbersBelow = (end: number): Uint32Array => Uint32Array.from({ length: end }, (_unused, number) => number);

// By index and each on its own: with iterators, and with what may be null tested inside, these took several times as long.
function addUpSingle(numbers: Numbers, docs: Uint32Array, counts: Uint32Array): void {
  for (let i = 0; i < docs.length; i += 1) addOne(counts, numbers[docs[i] as number] as number);
}

function addUpSeveral(starts: Uint32Array, items: Numbers, docs: Uint32Array, counts: Uint32Array): void {
  for (let i = 0; i < docs.length; i += 1) {
    const doc = docs[i] as number;
    const [from, to] = [starts[doc] as number, starts[doc + 1] as number];
    if (from === to) addOne(counts, 0);
    for (let at = from; at < to; at += 1) addOne(counts, (items[at] as number) + 1);
  }
}

/** Every group that each document stands in. */
export function eachGroup(
  { numbers, starts, items }: GroupColumn,
  docs: Uint32Array | null,
  visit: (doc: number, group: number) => void,
): void {
  const length = docs ? docs.length : numbers ? numbers.length : starts.length - 1;
  for (let i = 0; i < length; i += 1) {
    const doc = docs ? (docs[i] as number) : i;
    if (numbers) visit(doc, numbers[doc] as number);
    else {
      const [from, to] = [starts[doc] as number, starts[doc + 1] as number];
      if (from === to) visit(doc, 0);
      for (let at = from; at < to; at += 1) visit(doc, (items[at] as number) + 1);
    }
  }
}
