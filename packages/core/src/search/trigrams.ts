import { placeIn } from './column-draft';
import { sharedNumbers, type SegmentData } from './segment';
import type { Strings } from './strings';
import { bothLists } from './doc-set';

type Trigrams = Pick<SegmentData, 'trigrams' | 'trigramStarts' | 'trigramTerms'>;

const keyAt = (bytes: Uint8Array, at: number): number =>
  ((bytes[at] as number) << 16) | ((bytes[at + 1] as number) << 8) | (bytes[at + 2] as number);

/** So few words are looked through sooner than their trigrams are made. */
const FEW_TERMS = 4000;

/** Which words have which three bytes in a row; of few words none. */
export function trigramsOf(bytes: Uint8Array, starts: Uint32Array): Trigrams {
  if (starts.length <= FEW_TERMS)
    return { trigrams: sharedNumbers(0), trigramStarts: sharedNumbers(1), trigramTerms: sharedNumbers(0) };
  const numbers = new Map<number, number>();
  const counts: number[] = [];
  // A word that has the same three bytes twice is counted and listed twice; readers drop the second.
  each(bytes, starts, (key) => {
    const number = numbers.get(key);
    if (number === undefined) numbers.set(key, counts.push(1) - 1);
    else counts[number] = (counts[number] as number) + 1;
  });
  const keys = [...numbers.keys()].sort((a, b) => a - b);
  const trigrams = sharedNumbers(keys.length);
  const trigramStarts = sharedNumbers(keys.length + 1);
  const next = new Uint32Array(keys.length);
  let total = 0;
  keys.forEach((key, at) => {
    const number = numbers.get(key) as number;
    trigrams[at] = key;
    next[number] = total;
    total += counts[number] as number;
    trigramStarts[at + 1] = total;
  });
  const trigramTerms = sharedNumbers(total);
  each(bytes, starts, (key, term) => {
    const number = numbers.get(key) as number;
    const at = next[number] as number;
    trigramTerms[at] = term;
    next[number] = at + 1;
  });
  return { trigrams, trigramStarts, trigramTerms };
}

function each(bytes: Uint8Array, starts: Uint32Array, visit: (key: number, term: number) => void): void {
  for (let term = 0; term < starts.length - 1; term += 1)
    for (let at = starts[term] as number; at + 2 < (starts[term + 1] as number); at += 1) visit(keyAt(bytes, at), term);
}

/** The words that have those letters in them, or at their end. */
export function termsHolding(
  terms: Strings,
  { trigrams, trigramStarts, trigramTerms }: Trigrams,
  part: Uint8Array,
  ends: boolean,
): Uint32Array {
  const fits = (term: number): boolean => (ends ? terms.endsWith(term, part) : terms.includes(term, part));
  if (part.length < 3 || trigrams.length === 0)
    return Uint32Array.from({ length: terms.length }, (_unused, term) => term).filter(fits);
  const lists: Uint32Array[] = [];
  for (let at = 0; at + 2 < part.length; at += 1) {
    const key = keyAt(part, at);
    const place = placeIn(trigrams, key);
    if (trigrams[place] !== key) return new Uint32Array(0);
    lists.push(trigramTerms.subarray(trigramStarts[place], trigramStarts[place + 1]));
  }
  // The two rarest leave little to look through.
  const [first, second] = lists.sort((a, b) => a.length - b.length);
  const candidates = bothLists(first as Uint32Array, second ?? (first as Uint32Array));
  return candidates.filter(fits);
}
