import type { SpokenDoc, SpokenIndex } from './spoken-index';
import { levelOf, passagesOfDoc } from './spoken-passages';
import type { Stems } from './stems';

/** A word or phrase, and how often it is said. */
export interface CountedTerm {
  readonly stems: readonly number[];
  /** In the form in which it is said most. */
  readonly text: string;
  /** In each of the files. */
  readonly counts: readonly number[];
  /** In all others; 0 until that was counted. */
  elsewhere: number;
}

/** What is said less often is chance. */
const LEAST = 2;
/** Words of a phrase at most. */
const LONGEST = 3;
/** Phrases do not go on from one passage to the next. */
const LEVEL = levelOf('sentence');

/** A word or phrase that is said more than once, found by its last word after those before it. */
class Found {
  /** What goes on from it, and until that is known how often each word comes after it. */
  readonly next = new Map<number, Found>();
  tally = new Map<number, number>();
  readonly counts = new Map<number, number>();
  readonly forms = new Map<string, number>();

  constructor(readonly stems: readonly number[]) {}
}

/**
 * The words and phrases of some files that are said more than once: one to three words side by side in a passage, the first and the
 * last of which say something by themselves. What is said once goes on into nothing that is said twice, so each length is looked for
 * only after what was found of the one before.
 */
export function termsIn(index: SpokenIndex, stems: Stems, files: readonly SpokenDoc[]): CountedTerm[] {
  const root = new Found([]);
  const words = index.words;
  let found = [root];
  for (let length = 1; length <= LONGEST; length += 1) {
    eachPlace(index, files, length, (_file, at, wordAt) => {
      const tally = reached(root, stems, wordAt, at, length - 1)?.tally;
      const stem = stems.of(wordAt(at + length - 1));
      tally?.set(stem, (tally.get(stem) ?? 0) + 1);
    });
    found = found.flatMap((each) => grown(each, stems));
    eachPlace(index, files, length, (file, at, wordAt) => {
      const said = reached(root, stems, wordAt, at, length);
      if (said === null || stems.saysNothing(said.stems.at(-1) as number)) return;
      said.counts.set(file, (said.counts.get(file) ?? 0) + 1);
      let form = words[wordAt(at)] as string;
      for (let n = 1; n < length; n += 1) form += ` ${words[wordAt(at + n)] as string}`;
      said.forms.set(form, (said.forms.get(form) ?? 0) + 1);
    });
  }
  return termsOf(root, files.length);
}

type WordAt = (at: number) => number;

/** Goes through all places that have so many words from there on in their passage. */
function eachPlace(
  index: SpokenIndex,
  files: readonly SpokenDoc[],
  length: number,
  visit: (file: number, at: number, wordAt: WordAt) => void,
): void {
  files.forEach(({ doc, segment }, file) => {
    const wordAt = index.wordAt(segment);
    for (const { from, to } of passagesOfDoc(segment, doc, LEVEL))
      for (let at = from; at + length <= to; at += 1) visit(file, at, wordAt);
  });
}

/** What some words say; null if that is said once, or does not begin with a word that says something. */
function reached(root: Found, stems: Stems, wordAt: WordAt, at: number, words: number): Found | null {
  let found: Found = root;
  for (let n = 0; n < words; n += 1) {
    const next = found.next.get(stems.of(wordAt(at + n)));
    if (!next) return null;
    found = next;
  }
  return found;
}

/** What goes on from something and is said more than once. */
function grown(found: Found, stems: Stems): Found[] {
  for (const [stem, count] of found.tally)
    if (count >= LEAST && (found.stems.length > 0 || !stems.saysNothing(stem)))
      found.next.set(stem, new Found([...found.stems, stem]));
  found.tally = new Map();
  return [...found.next.values()];
}

function termsOf({ counts, forms, next, stems }: Found, files: number): CountedTerm[] {
  const longer = [...next.values()].flatMap((each) => termsOf(each, files));
  // Of what ends in a word that says nothing no form was kept.
  const [form] = [...forms].sort(([a, x], [b, y]) => y - x || (a < b ? -1 : 1));
  if (!form) return longer;
  const inFiles = Array.from({ length: files }, (_unused, file) => counts.get(file) ?? 0);
  return [{ stems, text: form[0], counts: inFiles, elsewhere: 0 }, ...longer];
}

/** Counts how often terms are said elsewhere. */
export function countedElsewhere(
  index: SpokenIndex,
  stems: Stems,
  isElsewhere: (id: number) => boolean,
  terms: readonly CountedTerm[],
): void {
  const root = new Map<number, { term: CountedTerm; rest: readonly number[] }[]>();
  for (const term of terms) {
    const [first, ...rest] = term.stems;
    const known = root.get(first as number);
    if (known) known.push({ term, rest });
    else root.set(first as number, [{ term, rest }]);
  }
  const begins = new Uint8Array(stems.size);
  for (const stem of root.keys()) begins[stem] = 1;
  for (const { doc, segment } of index.docs(isElsewhere)) {
    const wordAt = index.wordAt(segment);
    const [from, to] = [segment.starts[doc] as number, segment.starts[doc + 1] as number];
    for (let at = from; at < to; at += 1) {
      const stem = stems.of(wordAt(at));
      if (begins[stem] === 0) continue;
      for (const { rest, term } of root.get(stem) ?? [])
        if (at + rest.length < to && rest.every((next, n) => stems.of(wordAt(at + 1 + n)) === next))
          term.elsewhere += 1;
    }
  }
}
