import type { SpokenDoc, SpokenIndex } from './spoken-index';
import { levelOf, passagesOfDoc } from './spoken-passages';
import type { Stems } from './stems';

/** A word or phrase, and how often it is said. */
export interface CountedTerm {
  readonly stems: readonly number[];
  /** In the form in which it is said most. */
  readonly text: string;
  /** In all of the files, and in each that says it, by its place among them. */
  readonly count: number;
  readonly counts: ReadonlyMap<number, number>;
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
  const terms: CountedTerm[] = [];
  collect(root, terms);
  return terms;
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

function collect({ counts, forms, next, stems }: Found, terms: CountedTerm[]): void {
  let [text, most, count] = ['', 0, 0];
  for (const [form, times] of forms) {
    count += times;
    if (times > most || (times === most && form < text)) [text, most] = [form, times];
  }
  // Of what ends in a word that says nothing no form was kept.
  if (count > 0) terms.push({ stems, text, count, counts, elsewhere: 0 });
  for (const each of next.values()) collect(each, terms);
}

/** A phrase, by what comes after its first two stems. */
interface Ending {
  readonly term: CountedTerm;
  readonly last: number | undefined;
}

/**
 * Counts how often terms are said elsewhere. All that is said there is gone through: whether any term begins with a word stands by the
 * form in which it is written, which is a tenth of the time of asking for its stem first.
 */
export function countedElsewhere(
  index: SpokenIndex,
  stems: Stems,
  isElsewhere: (id: number) => boolean,
  terms: readonly CountedTerm[],
): void {
  const singles = new Float64Array(stems.size);
  // By the first stem and the second: a common word begins thousands of phrases.
  const phrases: (Map<number, Ending[]> | undefined)[] = new Array<undefined>(stems.size).fill(undefined);
  const begins = new Uint8Array(stems.size);
  for (const term of terms) {
    const [first, second, last] = term.stems as [number, number?, number?];
    begins[first] = 1;
    if (second === undefined) continue;
    const bySecond = (phrases[first] ??= new Map<number, Ending[]>());
    const known = bySecond.get(second);
    if (known) known.push({ term, last });
    else bySecond.set(second, [{ term, last }]);
  }
  const stemOf = Uint32Array.from(index.wordOfForm, (word) => stems.of(word));
  const isBegun = Uint8Array.from(stemOf, (stem) => begins[stem] as number);
  for (const { doc, segment } of index.docs(isElsewhere)) {
    const { forms, starts } = segment;
    const to = starts[doc + 1] as number;
    const stemAt = (at: number): number => (at < to ? (stemOf[forms[at] as number] as number) : -1);
    for (let at = starts[doc] as number; at < to; at += 1) {
      if (isBegun[forms[at] as number] === 0) continue;
      const stem = stemAt(at);
      singles[stem] = (singles[stem] as number) + 1;
      for (const { last, term } of phrases[stem]?.get(stemAt(at + 1)) ?? [])
        if (last === undefined || stemAt(at + 2) === last) term.elsewhere += 1;
    }
  }
  for (const term of terms) if (term.stems.length === 1) term.elsewhere = singles[term.stems[0] as number] as number;
}
