import { LRUCache } from 'lru-cache';
import { words as textWords } from '../fields';
import {
  alternativesOf,
  asksOf,
  combine,
  EVERYTHING,
  mapFields,
  type HeardAs,
  type HeardTest,
  type Query,
} from '../query';
import { NOTCHES } from './confidence';
import { wayText, type SpokenItem, type SpokenQuestion, type SpokenWay } from './question';
import type { SpokenIndex } from './spoken-index';
import { spokenWindow, type SpokenPlace } from './spoken-window';

/** So many answers are kept until what is said changes: a list, its count and each live bin ask for the same again. */
const KEPT = 64;

/** What a part of the search line asks of what is said. */
export const questionOf = ({ items, withinMs }: HeardTest): SpokenQuestion => ({
  items: items.map((text) => ({
    ways: alternativesOf(text).map((way) => ({ words: way.replace(/\*$/, '').split(' '), begun: way.endsWith('*') })),
    without: false,
  })),
  how: 'near',
  withinMs: withinMs ?? 0,
});

/** Answers what the search line asks of what is heard. */
export class HeardAnswers {
  private readonly kept = new LRUCache<string, Uint32Array>({ max: KEPT });
  private of: SpokenIndex | null = null;
  private changes = -1;

  /** @param spoken what is said by now; another one after it was built anew */
  constructor(private readonly spoken: () => SpokenIndex) {}

  /** The numbers of the assets in which it was heard, ascending. */
  ids(test: HeardTest): Uint32Array {
    const spoken = this.spoken();
    if (spoken !== this.of || spoken.changes !== this.changes) this.forget();
    [this.of, this.changes] = [spoken, spoken.changes];
    const key = JSON.stringify(test);
    let ids = this.kept.get(key);
    if (!ids) this.kept.set(key, (ids = spoken.ids(questionOf(test), notchAt(test.as))));
    return ids;
  }

  /** As when it is another thing by now how words are said. */
  forget(): void {
    this.kept.clear();
  }
}

/** Where in some assets it was heard, by their numbers. */
export function heardPlaces(
  spoken: SpokenIndex,
  test: HeardTest,
  ids: readonly number[],
): Map<number, readonly SpokenPlace[]> {
  const wanted = new Set(ids);
  const found = spoken.find(questionOf(test), notchAt(test.as), (id) => wanted.has(id), { subclips: true });
  const files = spokenWindow(spoken, found, { sort: 'best', offset: 0, limit: ids.length });
  return new Map(files.map(({ hits, id }) => [id, hits]));
}

const notchAt = (as: HeardAs): number => NOTCHES.findIndex(({ name }) => name === as);

/** The words that searches look for as they sound. */
export function heardIn(trees: readonly Query[]): string[] {
  const words = new Set<string>();
  for (const tree of trees)
    if (asksOf(tree, 'heard'))
      mapFields(tree, (part) => {
        if (part.test.op === 'heard')
          for (const { ways } of questionOf(part.test).items)
            for (const way of ways) way.words.forEach((word) => words.add(word));
        return part;
      });
  return [...words];
}

/** What was looked for in what is said, as a part of the search line; everything if nothing was. */
export function heardQuery({ how, items, withinMs }: SpokenQuestion, notch: number): Query {
  const as = NOTCHES[notch]?.name ?? 'spelled';
  const heard = (these: readonly SpokenItem[], within: number | null): Query => ({
    ...{ kind: 'field', field: 'heard' },
    test: { op: 'heard', items: these.map(textOf), withinMs: within, as },
  });
  const wanted = items.filter(({ without }) => !without);
  const without = items.filter((item) => item.without).map((item): Query => ({ kind: 'not', of: spelledQuery(item) }));
  if (wanted.length === 0) return EVERYTHING;
  const found =
    how === 'near' && wanted.length > 1
      ? heard(wanted, withinMs)
      : combine(
          how === 'any' ? 'any' : 'all',
          wanted.map((item) => (as === 'spelled' ? spelledQuery(item) : heard([item], null))),
        );
  return combine('all', [found, ...without]);
}

const textOf = ({ ways }: SpokenItem): string => ways.map(wayText).join('|');

const spelledQuery = ({ ways }: SpokenItem): Query => combine('any', ways.map(spelledWay));

const spelledWay = ({ begun, words }: SpokenWay): Query => ({
  ...{ kind: 'field', field: 'said' },
  test: { op: 'text', text: words.flatMap(textWords).join(' '), prefix: begun },
});
