import { gallop } from './doc-set';
import { PLACE } from './segment';

/** Where a word, or one of several, stands in a field: in the order of documents, then of places. */
export interface Slots {
  readonly docs: Uint32Array;
  readonly places: Uint16Array;
}

/** Where phrases may begin: documents, ascending, and the numbers of the places. */
interface Starts {
  readonly docs: Uint32Array;
  readonly places: Uint16Array;
  readonly count: number;
}

/**
 * The documents in which words stand next to each other in this order, each once. `whole`: and are all of one thing said.
 */
export function phraseIn(words: readonly Slots[], whole = false): Uint32Array {
  if (words.some(({ docs }) => docs.length === 0)) return new Uint32Array(0);
  const marksAt = (at: number): number =>
    whole ? (at === 0 ? PLACE.first : 0) | (at === words.length - 1 ? PLACE.last : 0) : 0;
  // The rarest says where to look for the others.
  const [rarest = 0, ...others] = [...words.keys()].sort((a, b) => length(words, a) - length(words, b));
  let starts = startsOf(words[rarest] as Slots, rarest, marksAt(rarest));
  for (const at of others) starts = followed(starts, words[at] as Slots, at, marksAt(at));
  const found = new Uint32Array(starts.count);
  let n = 0;
  for (let i = 0; i < starts.count; i += 1) {
    const doc = starts.docs[i] as number;
    if (n === 0 || found[n - 1] !== doc) found[n++] = doc;
  }
  return found.subarray(0, n);
}

const length = (words: readonly Slots[], at: number): number => (words[at] as Slots).docs.length;

/** Where phrases begin that have a word as their `at`-th. */
function startsOf({ docs, places }: Slots, at: number, marks: number): Starts {
  const out = { docs: new Uint32Array(docs.length), places: new Uint16Array(docs.length) };
  let count = 0;
  for (let i = 0; i < docs.length; i += 1) {
    const place = places[i] as number;
    const number = place & PLACE.number;
    if (number < at || (place & marks) !== marks) continue;
    out.docs[count] = docs[i] as number;
    out.places[count] = number - at;
    count += 1;
  }
  return { ...out, count };
}

/** Those that have a word as their `at`-th. Written as one loop over flat arrays: two common words meet millions of times. */
function followed(starts: Starts, { docs, places }: Slots, at: number, marks: number): Starts {
  const out = { docs: new Uint32Array(starts.count), places: new Uint16Array(starts.count) };
  const leaps = docs.length > starts.count * 16;
  let [count, next] = [0, 0];
  for (let i = 0; i < starts.count; i += 1) {
    const doc = starts.docs[i] as number;
    const place = (starts.places[i] as number) + at;
    if (leaps) next = gallop(docs, doc, next);
    while (
      next < docs.length &&
      ((docs[next] as number) < doc || (docs[next] === doc && ((places[next] as number) & PLACE.number) < place))
    )
      next += 1;
    if (next === docs.length) break;
    const there = places[next] as number;
    if (docs[next] !== doc || (there & PLACE.number) !== place || (there & marks) !== marks) continue;
    out.docs[count] = doc;
    out.places[count] = place - at;
    count += 1;
  }
  return { ...out, count };
}

/** Those that stand in some documents. */
export function slotsAmong({ docs, places }: Slots, among: Uint32Array): Slots {
  const out: { docs: number[]; places: number[] } = { docs: [], places: [] };
  let at = 0;
  for (const doc of among) {
    for (at = gallop(docs, doc, at); docs[at] === doc; at += 1) {
      out.docs.push(doc);
      out.places.push(places[at] as number);
    }
  }
  return { docs: Uint32Array.from(out.docs), places: Uint16Array.from(out.places) };
}

/** All of several, in the order of documents, then of places. */
export function mergedSlots(slices: readonly Slots[]): Slots {
  const total = slices.reduce((sum, { docs }) => sum + docs.length, 0);
  const keys = new Float64Array(total);
  let used = 0;
  for (const { docs, places } of slices)
    for (let i = 0; i < docs.length; i += 1) {
      const place = places[i] as number;
      // The marks go last, so that they do not order anything.
      keys[used++] = (docs[i] as number) * 0x1_0000 + (place & PLACE.number) * 4 + (place >>> 14);
    }
  keys.sort();
  const out = { docs: new Uint32Array(total), places: new Uint16Array(total) };
  keys.forEach((key, i) => {
    const low = key % 0x1_0000;
    out.docs[i] = Math.floor(key / 0x1_0000);
    out.places[i] = (low >>> 2) | ((low & 3) << 14);
  });
  return out;
}
