import { words, type FieldId } from '../fields';
import { combine } from './parse';
import { mapFields, type Query } from './tree';

/** A kept search that others refer to by its name: `in:"Golden hour"`. */
export interface NamedSearch {
  readonly id: number;
  readonly name: string;
  readonly tree: Query;
}

const BIN: FieldId = 'bin';

/** Whether a search that says one name means the other, too. */
export const sameBinName = (a: string, b: string): boolean => wordsOf(a) === wordsOf(b);

/** The words of a name, as a search says them. */
const wordsOf = (name: string): string => words(name).join(' ');

type FieldPart = Extract<Query, { kind: 'field' }>;

/** The name that a condition on bins may mean as a whole; null for one that means words of names. */
const nameIn = ({ field, test }: FieldPart): string | null =>
  field === BIN && (test.op === 'whole' || test.op === 'forms' || (test.op === 'text' && !test.prefix))
    ? test.text
    : null;

/** The names of bins that a search refers to, in words. */
export function binsNamed(tree: Query): string[] {
  const names: string[] = [];
  mapFields(tree, (part) => {
    const name = nameIn(part);
    if (name !== null) names.push(name);
    return part;
  });
  return names;
}

const named = (bins: readonly NamedSearch[], name: string): NamedSearch[] =>
  bins.filter((bin) => wordsOf(bin.name) === name);

/**
 * A search with live bins that it refers to put as what they find, beside bins of that name that are filled by hand. The bins must not
 * go round in a circle: those that do find nothing the second time.
 */
export function withLiveBins(tree: Query, bins: readonly NamedSearch[], within: readonly number[] = []): Query {
  return mapFields(tree, (part) => {
    const name = nameIn(part);
    const meant = name === null ? [] : named(bins, name).filter(({ id }) => !within.includes(id));
    return meant.length === 0
      ? part
      : combine('any', [part, ...meant.map((bin) => withLiveBins(bin.tree, bins, [...within, bin.id]))]);
  });
}

/** Conditions that a search may come to with the bins that it refers to put in: each may refer to others several times over. */
export const MOST_CONDITIONS = 5000;

/** How many conditions `withLiveBins` would come to, without making them. Those that go round in a circle count once. */
export function conditionsWith(tree: Query, bins: readonly NamedSearch[]): number {
  const known = new Map<number, number>();
  const of = (within: Query): number => {
    let count = 0;
    mapFields(within, (part) => {
      count += 1;
      const name = nameIn(part);
      for (const bin of name === null ? [] : named(bins, name)) {
        let own = known.get(bin.id);
        if (own === undefined) {
          known.set(bin.id, 0);
          known.set(bin.id, (own = of(bin.tree)));
        }
        count += own;
      }
      return part;
    });
    return count;
  };
  return of(tree);
}

/** Those that refer to a bin by its name themselves. */
export const referringTo = (name: string, bins: readonly NamedSearch[]): NamedSearch[] =>
  bins.filter(({ tree }) => binsNamed(tree).includes(wordsOf(name)));

/** The names from a bin round to itself, if it would hold itself, however many are between; null if not. */
export function circleFrom(bin: NamedSearch, others: readonly NamedSearch[]): string[] | null {
  const all = [bin, ...others.filter(({ id }) => id !== bin.id)];
  const seen = new Set<number>();
  const back = (from: NamedSearch): string[] | null => {
    for (const name of binsNamed(from.tree))
      for (const next of named(all, name)) {
        if (next.id === bin.id) return [bin.name];
        if (seen.has(next.id)) continue;
        seen.add(next.id);
        const way = back(next);
        if (way) return [next.name, ...way];
      }
    return null;
  };
  const way = back(bin);
  return way ? [bin.name, ...way] : null;
}

/** A search that refers to a bin by its old name, with the new one; with both, where another still has the old one (`shared`). */
export const withBinRenamed = (tree: Query, before: string, after: string, shared = false): Query =>
  mapFields(tree, (part) => {
    if (nameIn(part) !== wordsOf(before)) return part;
    const renamed: Query = { ...part, test: { op: 'whole', text: wordsOf(after) } };
    return shared ? combine('any', [part, renamed]) : renamed;
  });
