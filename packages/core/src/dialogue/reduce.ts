import { spokenWords } from '../fields';
import { MOST_ITEM_WORDS } from '../query';
import { formsOf, saidIn, type SaidWord } from './related';
import { saysNothing } from './stems';
import type { SpokenIndex } from './spoken-index';
import { plainQuotes, writeSpoken, type SpokenItem } from './question';

/** How questions are asked of a library, not what they are about. Common practice, no source. */
const ASKING = new Set(
  (
    'who whom whose what where when why how which anybody anyone anything ask asked asks clip clips describe described describes describing discuss discussed discusses discussing everybody ' +
    'everyone explain explained explaining explains find footage give give hear interview interviews mention mentioned mentioning mentions ' +
    'passage passages people piece pieces show somebody someone something speak speaking speaks spoke spoken talk talked talking talks tell ' +
    'telling tells told'
  ).split(' '),
);
/** A question begins so, in English. */
const BEGINNINGS =
  /^\s*(?:who|whom|whose|what|where|when|why|how|which|is|are|was|were|do|does|did|has|have|had|can|could|will|would|should|find|show|give|tell)\s/i;
/** Without a mark, something is a question from so many words on. */
const LEAST_WORDS = 4;
/** Words that are said in a row are looked for up to so many. */
const LONGEST_ROW = 4;
/** More words than that are no question. */
const MOST_WORDS = 30;
/** Of a term so many other forms are taken. */
const MOST_FORMS = 8;
const MOST_COUNTED = 16;

/** Why something in a question is looked for as it is. */
export const TERM_WHYS = ['quoted', 'known', 'said', 'word'] as const;
export type TermWhy = (typeof TERM_WHYS)[number];

export interface ReducedTerm {
  readonly text: string;
  /** It was put between quotes; it is known as a term; it is said in a row; or it is a word by itself. */
  readonly why: TermWhy;
  /** Null where nobody says it so. */
  readonly said: SaidWord | null;
  /** Other forms of it that are said, the commonest first. */
  readonly forms: readonly SaidWord[];
}

/** A question in common language, as what it is about. */
export interface ReducedQuestion {
  /** Words that say nothing by themselves, or only that something is asked; in the order of the question. */
  readonly left: readonly string[];
  /** Such words that are wanted all the same. */
  readonly kept: readonly string[];
  readonly terms: readonly ReducedTerm[];
}

/** Whether a text is more likely a question than words to be looked for. */
export function readsAsQuestion(text: string): boolean {
  // Whoever writes these signs writes a search.
  if (/[|*]|(?:^|\s)-/.test(text)) return false;
  const words = spokenWords(text);
  if (words.length < 2 || !words.some((word) => isLeftOut(word))) return false;
  return text.trimEnd().endsWith('?') || (words.length >= LEAST_WORDS && BEGINNINGS.test(text));
}

const isLeftOut = (word: string): boolean => ASKING.has(word) || (saysNothing(word) && !/\p{N}/u.test(word));

/** Words of a question in a row. */
export interface Run {
  readonly words: readonly string[];
  /** They are to stay together. */
  readonly quoted: boolean;
}

/** Between quotes, or up to the next stop; a quote that is not closed goes to the end. */
const CLAUSE = /"([^"]*)"?|([^".,;:!?()–—]+)/g;

/** Runs of words that nothing stands between: no stop, and no word that is left out; what is between quotes is one. */
export function runsOf(
  text: string,
  kept: ReadonlySet<string>,
): { readonly runs: readonly Run[]; readonly left: readonly string[] } {
  const runs: Run[] = [];
  const left = new Set<string>();
  let room = MOST_WORDS;
  for (const [, quoted, bare = ''] of plainQuotes(text).matchAll(CLAUSE)) {
    const words = spokenWords(quoted ?? bare).slice(0, Math.min(room, quoted === undefined ? room : MOST_ITEM_WORDS));
    room -= words.length;
    if (quoted !== undefined) {
      if (words.length > 0) runs.push({ words, quoted: true });
      continue;
    }
    let run: string[] = [];
    for (const word of [...words, null]) {
      if (word !== null && (!isLeftOut(word) || kept.has(word))) run.push(word);
      else {
        if (word !== null) left.add(word);
        if (run.length > 0) runs.push({ words: run, quoted: false });
        run = [];
      }
    }
  }
  return { runs, left: [...left] };
}

/** All rows of words of a run, the longest first; at least two of them. */
export const rowsOf = ({ words: run }: Run): string[] => {
  const rows: string[] = [];
  for (let length = Math.min(LONGEST_ROW, run.length); length > 1; length -= 1)
    for (let at = 0; at + length <= run.length; at += 1) rows.push(run.slice(at, at + length).join(' '));
  return rows;
};

/** What is known of the words of a question beyond what is said. */
export interface WordsKnown {
  /** Rows of words that are one term. */
  readonly terms: ReadonlySet<string>;
  /** Forms that share no stem with a word. */
  readonly irregular: ReadonlyMap<string, readonly string[]>;
}

/**
 * Reduces a question to what it is about, step by step: what says nothing is left out, what belongs together stays together, and of what
 * is left all forms that are said are looked for.
 * @param among the assets whose words count; null for all
 */
export function reduceQuestion(
  text: string,
  kept: ReadonlySet<string>,
  known: WordsKnown,
  index: SpokenIndex,
  among: ((id: number) => boolean) | null,
): ReducedQuestion {
  const { left, runs } = runsOf(text, kept);
  const termOf = (words: readonly string[], why: TermWhy): ReducedTerm => {
    const forms = formsOf(index, words, known.irregular.get(words.at(-1) ?? '') ?? [])
      .slice(0, MOST_COUNTED)
      .flatMap((form) => saidIn(index, form.split(' '), among) ?? [])
      .sort((a, b) => b.hits - a.hits)
      .slice(0, MOST_FORMS);
    return { text: words.join(' '), why, said: saidIn(index, words, among), forms };
  };
  /** What is said in a row from some word on, as much as there is of it. */
  const termAt = (words: readonly string[], at: number): ReducedTerm => {
    for (let length = Math.min(LONGEST_ROW, words.length - at); length > 1; length -= 1) {
      const row = words.slice(at, at + length);
      const term = termOf(row, known.terms.has(row.join(' ')) ? 'known' : 'said');
      if (term.said !== null || term.forms.length > 0) return term;
    }
    return termOf(words.slice(at, at + 1), 'word');
  };
  const terms = new Map<string, ReducedTerm>();
  for (const { quoted, words } of runs)
    for (let at = 0; at < words.length;) {
      const term = quoted ? termOf(words, 'quoted') : termAt(words, at);
      if (!terms.has(term.text)) terms.set(term.text, term);
      at += quoted ? words.length : term.text.split(' ').length;
    }
  return { left, kept: [...kept], terms: [...terms.values()] };
}

/** What is looked for instead of a question, without the forms that are not wanted. */
export function reducedText({ terms }: ReducedQuestion, unwanted: ReadonlySet<string>): string {
  const items = terms.map(({ forms, text }): SpokenItem => ({
    ways: [text, ...forms.map((form) => form.text)]
      .filter((way) => !unwanted.has(way))
      .map((way) => ({ words: way.split(' '), begun: false })),
    without: false,
  }));
  return writeSpoken(items.filter(({ ways }) => ways.length > 0));
}
