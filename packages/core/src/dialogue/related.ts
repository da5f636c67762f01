import { spokenWords } from '../fields';
import { saysNothing, stemsIn } from './stems';
import type { SpokenIndex } from './spoken-index';
import type { Link, Sense, SenseAt, WordNet } from './word-net';

/** How other words go with one that is looked for: those that come first are nearest to it. */
export const RELATIONS = ['form', 'tag', 'short', 'same', 'narrower', 'wider', 'part', 'akin'] as const;
export type Relation = (typeof RELATIONS)[number];

/** Words that go with one in one way; `meaning` is empty where that hangs on none. */
export interface RelatedGroup<Word> {
  readonly relation: Relation;
  readonly meaning: string;
  readonly words: readonly Word[];
}

/** Something that is said, and how often, as it is spelled. */
export interface SaidWord {
  readonly text: string;
  readonly files: number;
  readonly hits: number;
}

/** So many meanings of a word are looked at, and so many words of one that go with it in one way. */
const MOST_SENSES = 16;
const MOST_WORDS = 400;
/** Kinds of kinds: a boat is a vessel, of which a punt is one by way of three others. */
const NARROWER_DEPTH = 3;
/** So many are offered for one word. */
export const MOST_RELATED = 40;
/** So many are counted, for all words together: each as long as to find it takes, while others wait. */
const MOST_COUNTED = 150;

type WordsOf = (sense: Sense) => readonly string[];

/** All that goes with a word by its meanings, whether anybody says it or not. */
export function relatedBy(net: WordNet, text: string): RelatedGroup<string>[] {
  return net
    .senses(text)
    .slice(0, MOST_SENSES)
    .flatMap((sense) => {
      const same = others(sense, text);
      const short = same.filter((word) => isShortOf(word, text) || isShortOf(text, word));
      const bySign = (link: Link, depth: number): string[] =>
        reached(net, sense, link, depth, (each) => others(each, text));
      const words: Readonly<Partial<Record<Relation, readonly string[]>>> = {
        short,
        same: same.filter((word) => !short.includes(word)),
        narrower: bySign('narrower', NARROWER_DEPTH),
        wider: bySign('wider', 1),
        part: bySign('part', 1),
        akin: bySign('akin', 1),
      };
      return RELATIONS.flatMap((relation) => {
        const some = words[relation] ?? [];
        return some.length > 0 ? [{ relation, meaning: sense.meaning, words: some }] : [];
      });
    });
}

const others = ({ words }: Sense, text: string): string[] => {
  const own = spokenWords(text).join(' ');
  return words.map((word) => spokenWords(word).join(' ')).filter((word) => word !== own && word !== '');
};

/** The words of all senses that one leads to, those nearest to it first. */
function reached(net: WordNet, sense: Sense, link: Link, depth: number, wordsOf: WordsOf): string[] {
  const words = new Set<string>();
  const seen = new Set([keyOf(sense)]);
  let edge: readonly Sense[] = [sense];
  for (let step = 0; step < depth && words.size < MOST_WORDS; step += 1) {
    const next: Sense[] = [];
    for (const at of edge.flatMap(({ links }) => links.filter((each) => each.link === link))) {
      const key = keyOf(at);
      if (seen.has(key) || words.size >= MOST_WORDS) continue;
      seen.add(key);
      const found = net.sense(at);
      if (!found) continue;
      next.push(found);
      for (const word of wordsOf(found)) words.add(word);
    }
    edge = next;
  }
  return [...words];
}

const keyOf = ({ class: of, offset }: SenseAt): string => `${of} ${offset}`;

/** An abbreviation: the first letters of several words (`uk`), how one begins or ends (`lab`, `phone`), or some of its letters (`tv`). */
function isShortOf(short: string, long: string): boolean {
  const letters = short.replaceAll(' ', '');
  const initials = long
    .split(' ')
    .map(([first]) => first)
    .join('');
  if (initials.length > 1 && letters === initials) return true;
  if (short.includes(' ') || long.includes(' ') || letters.length < 2 || long.length - letters.length < 3) return false;
  if (long.startsWith(letters) || long.endsWith(letters)) return true;
  return letters.length <= long.length / 2 && letters[0] === long[0] && isWithin(letters, long);
}

/** Whether letters stand in a word in that order, with others between them. */
function isWithin(letters: string, word: string): boolean {
  let at = 0;
  for (const letter of letters) at = word.indexOf(letter, at) + 1 || Infinity;
  return at < Infinity;
}

/** A word that is looked for, and what goes with it. */
export interface RelatedAsked {
  readonly text: string;
  /** What it is a form of, or what is one of it, that shares no stem with it (`broke`: `break`). */
  readonly irregular: readonly string[];
  readonly groups: readonly RelatedGroup<string>[];
}

export interface RelatedTerm {
  readonly text: string;
  readonly groups: readonly RelatedGroup<SaidWord>[];
}

/** How often words are said as they are spelled, in the assets that are wanted; null if they never are. */
export function saidIn(
  index: SpokenIndex,
  words: readonly string[],
  among: ((id: number) => boolean) | null,
): SaidWord | null {
  if (words.length === 0 || !words.every((word) => index.knows(word))) return null;
  const question = { items: [{ ways: [{ words, begun: false }], without: false }], how: 'any', withinMs: 0 } as const;
  const [found] = index.find(question, 0, among, { loosely: false }).notches;
  return found && found.hits > 0 ? { text: words.join(' '), ...found } : null;
}

/** Other forms of words in a row, as they are said anywhere: of the last of them, which is what forms are made of in English. */
export function formsOf(index: SpokenIndex, words: readonly string[], irregular: readonly string[]): string[] {
  const [before, last = ''] = [words.slice(0, -1), words.at(-1)];
  const stems = stemsIn(index);
  const own = new Set([last, ...irregular].flatMap((word) => stems.find([word]) ?? []));
  const forms = [...own].flatMap((stem) => stems.wordsOf(stem).map((word) => index.words[word] as string));
  return forms.filter((form) => form !== last).map((form) => [...before, form].join(' '));
}

/** Of what goes with words that are looked for, what is said in the assets that are wanted, in any form; each once, where it is nearest. */
export function relatedSaid(
  index: SpokenIndex,
  asked: readonly RelatedAsked[],
  among: ((id: number) => boolean) | null,
): RelatedTerm[] {
  return asked.map(({ groups, irregular, text }) => {
    const seen = new Set([text]);
    let left = MOST_RELATED;
    let uncounted = Math.floor(MOST_COUNTED / asked.length);
    const said = (group: RelatedGroup<string>): RelatedGroup<SaidWord>[] => {
      const words: SaidWord[] = [];
      for (const word of group.words.flatMap((each) => [each, ...formsOf(index, spokenWords(each), [])])) {
        if (left === 0 || uncounted === 0 || seen.has(word)) continue;
        seen.add(word);
        const parts = spokenWords(word);
        if (saysNothing(word) || !parts.every((part) => index.knows(part))) continue;
        uncounted -= 1;
        const found = saidIn(index, parts, among);
        if (!found) continue;
        words.push(found);
        left -= 1;
      }
      return words.length > 0 ? [{ ...group, words: words.sort((a, b) => b.hits - a.hits) }] : [];
    };
    const forms = formsOf(index, spokenWords(text), irregular);
    return { text, groups: [{ relation: 'form', meaning: '', words: forms } as const, ...groups].flatMap(said) };
  });
}
