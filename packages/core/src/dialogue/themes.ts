import { DISTINCT, distinctness, togetherness } from './distinct';
import type { PassageLength } from './passages';
import { packHit } from './spoken-hits';
import type { SpokenDoc, SpokenIndex } from './spoken-index';
import { levelOf, passageOf, passagesOfDoc, type SpokenPassage, type Stretch } from './spoken-passages';
import type { SpokenSegment } from './spoken-segment';
import { stemsIn, type Stems } from './stems';
import { countedElsewhere, termsIn, type CountedTerm } from './theme-terms';

/** A word or phrase that sets some files apart. */
export interface ThemeTerm {
  /** In the form in which it is said most. */
  readonly text: string;
  /** How often it is said in the files. */
  readonly count: number;
  /** How far that is from chance: `distinctness`. */
  readonly score: number;
}

/** Words and phrases that are said together. */
export interface Theme {
  /** The most telling first. */
  readonly terms: readonly ThemeTerm[];
  /** In how many passages of each file any of them is said, as `files` has them. */
  readonly passages: readonly number[];
}

export interface ThemedFile {
  readonly id: number;
  readonly words: number;
  readonly passages: number;
}

/** What the files are set apart from: all else that is said in the library, or, where there is too little of that, each other. */
export type ThemesAgainst = 'rest' | 'each-other';

export interface Themes {
  readonly files: readonly ThemedFile[];
  /** Files in which something is said that were too many to be looked at. */
  readonly left: number;
  readonly against: ThemesAgainst;
  /** The rest of the library: files in which something is said. */
  readonly rest: number;
  readonly themes: readonly Theme[];
}

/** Words that are looked at: with more, nobody else would be answered for seconds. */
export const MOST_THEME_WORDS = 200_000;
export const MOST_THEME_FILES = 200;
/** Terms that are grouped, and groups that are told. */
const MOST_TERMS = 60;
/** Of which that many are taken, without what is part of others: each is held against each. */
const MOST_LOOKED_AT = 400;
const MOST_THEMES = 12;
const MOST_TERMS_TOLD = 8;
/** The rest of the library says what is common if it is at least this large, and this much of what is looked at. */
const LEAST_REST_WORDS = 200;
const LEAST_REST_SHARE = 0.25;
/** Terms go together whose passages do, on average, by so much. */
const TOGETHER = 0.3;

/**
 * What some files are about: words and phrases that are said in them more often than chance would have it, after Dunning
 * (`distinctness`), grouped where they are said in the same passages, after Bouma (`togetherness`).
 */
export function themesOf(index: SpokenIndex, among: ((id: number) => boolean) | null): Themes {
  const stems = stemsIn(index);
  const { chosen, left } = chosenOf(index, among);
  const terms = termsIn(index, stems, chosen);
  const chosenIds = new Set(chosen.map(({ id }) => id));
  const isRest = (id: number): boolean => !chosenIds.has(id);
  const words = chosen.map(wordCount);
  const [total, rest] = [sum(words), restOf(index, isRest)];
  const against = rest.words >= Math.max(LEAST_REST_WORDS, total * LEAST_REST_SHARE) ? 'rest' : 'each-other';
  if (against === 'rest') countedElsewhere(index, stems, isRest, terms);
  const scored = terms
    .map((term) => {
      const { count, counts, elsewhere } = term;
      const score =
        against === 'rest'
          ? distinctness(count, total, elsewhere, rest.words)
          : Math.max(...Array.from(counts, ([at, own]) => apart(own, words[at] as number, count, total)));
      return { ...term, score };
    })
    .filter(({ score }) => score >= DISTINCT)
    .sort((a, b) => b.score - a.score || b.stems.length - a.stems.length || (a.text < b.text ? -1 : 1));
  const told = withoutParts(scored.slice(0, MOST_LOOKED_AT)).slice(0, MOST_TERMS);
  const passages = passagesSaying(index, stems, chosen, told);
  return {
    files: chosen.map(({ id }, at) => ({
      ...{ id, words: words[at] as number },
      passages: passages.counts[at] as number,
    })),
    ...{ left, against, rest: rest.files },
    themes: grouped(told, passages.of, sum(passages.counts))
      .slice(0, MOST_THEMES)
      .map((group) => themeOf(group, told, passages, chosen.length)),
  };
}

/** The files that are looked at, in the order of their numbers, and how many are not. */
function chosenOf(
  index: SpokenIndex,
  among: ((id: number) => boolean) | null,
): { readonly chosen: readonly SpokenDoc[]; readonly left: number } {
  const all = [...index.docs(among)].sort((a, b) => b.id - a.id);
  let words = 0;
  const fits = all.findIndex((each, at) => at >= MOST_THEME_FILES || (words += wordCount(each)) > MOST_THEME_WORDS);
  const chosen = fits < 0 ? all : all.slice(0, Math.max(1, fits));
  return { chosen: chosen.toReversed(), left: all.length - chosen.length };
}

const wordCount = ({ doc, segment: { starts } }: SpokenDoc): number =>
  (starts[doc + 1] as number) - (starts[doc] as number);
const sum = (numbers: readonly number[]): number => numbers.reduce((all, each) => all + each, 0);

function restOf(
  index: SpokenIndex,
  isRest: (id: number) => boolean,
): { readonly files: number; readonly words: number } {
  let [files, words] = [0, 0];
  for (const each of index.docs(isRest)) {
    files += 1;
    words += wordCount(each);
  }
  return { files, words };
}

/** How far one file is from the others. */
const apart = (own: number, ownTotal: number, count: number, total: number): number =>
  total === ownTotal ? 0 : distinctness(own, ownTotal, count - own, total - ownTotal);

type Scored = CountedTerm & { readonly score: number };

/** So much of what a word is said must be within a phrase for the phrase to stand for it. */
const WITHIN = 0.7;

/** Without what is hardly ever said but as a part of something longer. */
function withoutParts(terms: readonly Scored[]): Scored[] {
  const written = new Map(terms.map((term) => [term, ` ${term.stems.join(' ')} `]));
  const phrases = terms.filter(({ stems }) => stems.length > 1);
  const isWithin = (part: Scored, long: Scored): boolean =>
    long.stems.length > part.stems.length &&
    long.count >= part.count * WITHIN &&
    (written.get(long) as string).includes(written.get(part) as string);
  return terms.filter((term) => !phrases.some((phrase) => isWithin(term, phrase)));
}

interface TermPassages {
  /** Of each term the passages that say it, by their numbers among all, ascending. */
  readonly of: readonly ReadonlySet<number>[];
  /** Of each passage the file that it is in, and of each file how many passages it has. */
  readonly file: readonly number[];
  readonly counts: readonly number[];
}

const LEVEL = levelOf('thought');

function passagesSaying(
  index: SpokenIndex,
  stems: Stems,
  chosen: readonly SpokenDoc[],
  terms: readonly Scored[],
): TermPassages {
  const of = terms.map(() => new Set<number>());
  const [file, counts]: [number[], number[]] = [[], []];
  const sayings = new Sayings(terms.map((term) => term.stems));
  chosen.forEach(({ doc, segment }, at) => {
    const stemAt = stemsAt(index, stems, segment);
    let count = 0;
    for (const stretch of passagesOfDoc(segment, doc, LEVEL)) {
      sayings.each(stemAt, stretch, (term) => of[term]?.add(file.length));
      file.push(at);
      count += 1;
    }
    counts.push(count);
  });
  return { of, file, counts };
}

/** The stem at each place of a segment. */
export function stemsAt(index: SpokenIndex, stems: Stems, segment: SpokenSegment): (at: number) => number {
  const wordAt = index.wordAt(segment);
  return (at) => stems.of(wordAt(at));
}

/** Finds terms by the first of their stems. */
class Sayings {
  private readonly byFirst = new Map<number, number[]>();

  constructor(private readonly terms: readonly (readonly number[])[]) {
    terms.forEach(([first], at) => {
      const known = this.byFirst.get(first as number);
      if (known) known.push(at);
      else this.byFirst.set(first as number, [at]);
    });
  }

  each(
    stemAt: (at: number) => number,
    { from, to }: Stretch,
    said: (term: number, at: number, words: number) => void,
  ): void {
    for (let at = from; at < to; at += 1)
      for (const term of this.byFirst.get(stemAt(at)) ?? []) {
        const stems = this.terms[term] as readonly number[];
        if (at + stems.length <= to && stems.every((stem, n) => stemAt(at + n) === stem)) said(term, at, stems.length);
      }
  }
}

function common(one: ReadonlySet<number>, other: ReadonlySet<number>): number {
  let count = 0;
  for (const each of one) if (other.has(each)) count += 1;
  return count;
}

/** Terms in groups: the two that go together best become one, as long as there are any that do. The most telling group first. */
function grouped(terms: readonly Scored[], passages: readonly ReadonlySet<number>[], all: number): number[][] {
  const near = terms.map((_term, a) =>
    terms.map((_other, b) => {
      const [one, other] = [passages[a] as ReadonlySet<number>, passages[b] as ReadonlySet<number>];
      return togetherness(common(one, other), one.size, other.size, all);
    }),
  );
  const groups = terms.map((_term, at) => [at]);
  const mean = (a: readonly number[], b: readonly number[]): number =>
    sum(a.flatMap((one) => b.map((other) => near[one]?.[other] as number))) / (a.length * b.length);
  for (;;) {
    let best: readonly [number, number, number] | null = null;
    groups.forEach((a, x) =>
      groups.slice(x + 1).forEach((b, y) => {
        const near = mean(a, b);
        if (near >= (best?.[2] ?? TOGETHER)) best = near > (best?.[2] ?? -1) ? [x, x + 1 + y, near] : best;
      }),
    );
    if (best === null) break;
    const [into, gone] = best as readonly [number, number, number];
    groups[into]?.push(...(groups.splice(gone, 1)[0] as number[]));
  }
  const worth = (group: readonly number[]): number => sum(group.map((at) => (terms[at] as Scored).score));
  return groups.map((group) => group.sort((a, b) => a - b)).sort((a, b) => worth(b) - worth(a));
}

function themeOf(group: readonly number[], terms: readonly Scored[], passages: TermPassages, files: number): Theme {
  const counts = new Array<number>(files).fill(0);
  const said = new Set(group.slice(0, MOST_TERMS_TOLD).flatMap((at) => [...(passages.of[at] as ReadonlySet<number>)]));
  for (const passage of said)
    counts[passages.file[passage] as number] = (counts[passages.file[passage] as number] ?? 0) + 1;
  return {
    terms: group.slice(0, MOST_TERMS_TOLD).map((at) => {
      const { count, score, text } = terms[at] as Scored;
      return { text, count, score };
    }),
    passages: counts,
  };
}

/** The passages of some files in which any of some terms is said, in the order in which they are; at most so many. */
export function passagesWith(
  index: SpokenIndex,
  among: (id: number) => boolean,
  terms: readonly (readonly string[])[],
  { length, limit }: { readonly length: PassageLength; readonly limit: number },
): { readonly count: number; readonly passages: SpokenPassage[] } {
  const stems = stemsIn(index);
  const sayings = new Sayings(terms.flatMap((words) => [stems.find(words) ?? []].filter(({ length }) => length > 0)));
  const level = levelOf(length);
  const passages: SpokenPassage[] = [];
  let count = 0;
  for (const { doc, id, segment } of [...index.docs(among)].sort((a, b) => a.id - b.id)) {
    const stemAt = stemsAt(index, stems, segment);
    for (const stretch of passagesOfDoc(segment, doc, level)) {
      const hits: number[] = [];
      sayings.each(stemAt, stretch, (_term, at, words) => hits.push(packHit(at, words, true, 100)));
      if (hits.length === 0) continue;
      count += 1;
      if (passages.length < limit) passages.push(passageOf(index, { ...stretch, id, segment }, hits));
    }
  }
  return { count, passages };
}
