import { NOTCHES, SpokenIndex, type Pronouncer } from '@larder/core/dialogue';
import { spokenWords } from '@larder/core/fields';
import { wordsOf, type Speech } from './dialogue-speech';
import type { Stated } from './reliability';
import { random } from './search-corpus';

export const KINDS = ['word', 'phrase', 'name'] as const;
export type Kind = (typeof KINDS)[number];

/** Something that is looked for, and which sentences it is said in. */
interface Term {
  readonly kind: Kind;
  readonly text: string;
  readonly said: ReadonlySet<number>;
}

const WORDS = 1000;
const PHRASES = 1000;
/** What is said oftener tells little of whoever says it. */
const MOST_SAID = 6;
const LEAST_LETTERS = 4;

const isLong = (word: string): boolean => word.length >= LEAST_LETTERS;

function pickedTerms({ names, sentences }: Speech, seed: number, pronouncer: Pronouncer): Omit<Term, 'said'>[] {
  const next = random(seed + 100);
  const pick = <T>(list: readonly T[]): T => list[Math.floor(next() * list.length)] as T;
  const counts = new Map<string, number>();
  for (const { text } of sentences)
    for (const word of new Set(spokenWords(text))) counts.set(word, (counts.get(word) ?? 0) + 1);
  const rare = [...counts]
    .filter(([word, count]) => isLong(word) && count <= MOST_SAID && pronouncer.isHeard(word))
    .map(([word]) => word)
    .sort();
  const unnamed = sentences.filter(({ text }) => !names.some((name) => text.includes(name)));
  const phrase = (): string => {
    const words = spokenWords(pick(unnamed).text);
    const length = 2 + Math.floor(next() * 2);
    const at = Math.floor(next() * (words.length - length));
    return words.slice(at, at + length).join(' ');
  };
  const phrases = Array.from({ length: PHRASES }, phrase).filter(
    (text) => text.split(' ').some(isLong) && text.split(' ').every((word) => pronouncer.isHeard(word)),
  );
  return [...new Set(Array.from({ length: WORDS }, () => pick(rare)))]
    .map((text): Omit<Term, 'said'> => ({ kind: 'word', text }))
    .concat([...new Set(phrases)].map((text) => ({ kind: 'phrase', text })))
    .concat(names.map((text) => ({ kind: 'name', text })));
}

export function termsOf(speech: Speech, seed: number, pronouncer: Pronouncer): Term[] {
  const texts = speech.sentences.map(({ text }) => ` ${wordsOf(text).join(' ')} `);
  return pickedTerms(speech, seed, pronouncer).map((term) => ({
    ...term,
    said: new Set(texts.flatMap((text, at) => (text.includes(` ${term.text} `) ? [at] : []))),
  }));
}

/** Something that was found: how likely it is, by the index, and whether it was said. */
export interface Judged {
  readonly term: Term;
  readonly sentence: number;
  readonly confidence: number;
  readonly notch: number;
  readonly isSaid: boolean;
}

export function indexOf({ sentences }: Speech, pronouncer: Pronouncer): SpokenIndex {
  const index = new SpokenIndex(pronouncer);
  index.upsert(sentences.map(({ heard }, at) => ({ id: at + 1, wholeId: 0, spoken: { words: heard, speakers: [] } })));
  return index;
}

/** All that is found of each term, at the loosest notch. */
export function judged(index: SpokenIndex, terms: readonly Term[]): Judged[] {
  return terms.flatMap((term) => {
    const question = {
      items: [{ ways: [{ words: term.text.split(' '), begun: false }], without: false }],
      how: 'all',
      withinMs: 0,
    } as const;
    return NOTCHES.flatMap((_notch, notch) =>
      index.find(question, notch, null).files.map(({ best, id }) => ({ id, best, notch })),
    )
      .filter(({ id }, at, all) => all.findIndex((each) => each.id === id) === at)
      .map(({ best, id, notch }) => ({
        ...{ term, sentence: id - 1, confidence: best, notch },
        isSaid: term.said.has(id - 1),
      }));
  });
}

/** The share of what is said that is found with so many false alarms for each hour and term. */
export function recallAt(
  all: readonly Judged[],
  terms: readonly Term[],
  kind: Kind,
  hours: number,
  alarms: number,
): number {
  const asked = terms.filter((term) => term.kind === kind);
  const total = asked.reduce((sum, { said }) => sum + said.size, 0);
  let [found, falsely, best] = [0, 0, 0];
  for (const { isSaid } of all.filter(({ term }) => term.kind === kind).sort((a, b) => b.confidence - a.confidence)) {
    if (isSaid) found += 1;
    else falsely += 1;
    if (falsely <= alarms * hours * asked.length) best = found / total;
  }
  return best;
}

/** How likely each was said to be, and whether it was. */
export const stated = (all: readonly Judged[]): Stated[] =>
  all.map(({ confidence, isSaid }) => ({ chance: confidence / 100, isRight: isSaid }));

/** How much worse a false alarm is than a miss, and trials: one a second (NIST, “The Spoken Term Detection 2006 Evaluation Plan”). */
const BETA = 999.9;

/** Term-weighted value, by NIST's definition, of what is found at a notch; from memory. */
export function termWeightedValue(
  all: readonly Judged[],
  terms: readonly Term[],
  notch: number,
  seconds: number,
): number {
  const losses = terms
    .filter(({ said }) => said.size > 0)
    .map((term) => {
      const own = all.filter((each) => each.term === term && each.notch <= notch);
      const right = own.filter(({ isSaid }) => isSaid).length;
      const missed = 1 - right / term.said.size;
      const falsely = (own.length - right) / (seconds - term.said.size);
      return missed + BETA * falsely;
    });
  return 1 - losses.reduce((sum, loss) => sum + loss, 0) / losses.length;
}
