import { munkres } from 'munkres';

/** What it is worth that one thing is given to another, both by number from 0; what is not told of is never given. */
export interface Worth {
  readonly to: number;
  readonly thing: number;
  /** Above 0. */
  readonly worth: number;
}

/** Of so many cells the best of all ways is found in a second; beyond, the best pair is taken again and again. */
const MOST_CELLS = 1_000_000;

/**
 * Gives each of some things to one at most, and each of those one thing at most, so that what all of it is worth together is as much as
 * can be: the assignment problem (H. W. Kuhn, “The Hungarian method for the assignment problem”, Naval Research Logistics Quarterly 2,
 * 1955), by `munkres`. What has nothing to do with each other is solved apart.
 */
export function assigned(worths: readonly Worth[]): Map<number, number> {
  const given = new Map<number, number>();
  for (const part of parts(worths)) for (const { thing, to } of best(part)) given.set(to, thing);
  return given;
}

/** Those that share any of either side, together. */
function parts(worths: readonly Worth[]): Worth[][] {
  const [tos, things] = [gathered(worths, ({ to }) => to), gathered(worths, ({ thing }) => thing)];
  const seen = new Set<Worth>();
  return worths.flatMap((first) => {
    if (seen.has(first)) return [];
    seen.add(first);
    const part = [first];
    const take = (list: readonly Worth[] | undefined): void => {
      for (const each of list ?? []) {
        if (seen.has(each)) continue;
        seen.add(each);
        part.push(each);
      }
    };
    for (const { thing, to } of part) {
      take(tos.get(to));
      take(things.get(thing));
      // Each list is looked through once.
      tos.delete(to);
      things.delete(thing);
    }
    return [part];
  });
}

function gathered(worths: readonly Worth[], of: (worth: Worth) => number): Map<number, Worth[]> {
  const lists = new Map<number, Worth[]>();
  for (const worth of worths) {
    const list = lists.get(of(worth));
    if (list) list.push(worth);
    else lists.set(of(worth), [worth]);
  }
  return lists;
}

function best(part: readonly Worth[]): readonly Worth[] {
  if (part.length === 1) return part;
  const [tos, things] = [numbered(part.map(({ to }) => to)), numbered(part.map(({ thing }) => thing))];
  if (tos.size * (things.size + tos.size) > MOST_CELLS) return greedy(part);
  // Beside the things one place for each to which nothing is given.
  const costs = Array.from({ length: tos.size }, () => new Float64Array(things.size + tos.size));
  const at = new Map<number, Worth>();
  for (const worth of part) {
    const [row, column] = [tos.get(worth.to) as number, things.get(worth.thing) as number];
    (costs[row] as Float64Array)[column] = -worth.worth;
    at.set(row * things.size + column, worth);
  }
  return munkres(costs).flatMap(([row, column]) =>
    column < things.size ? (at.get(row * things.size + column) ?? []) : [],
  );
}

const numbered = (keys: readonly number[]): Map<number, number> =>
  new Map([...new Set(keys)].map((key, n) => [key, n]));

function greedy(part: readonly Worth[]): Worth[] {
  const [tos, things] = [new Set<number>(), new Set<number>()];
  return part
    .toSorted((a, b) => b.worth - a.worth || a.to - b.to || a.thing - b.thing)
    .filter(({ thing, to }) => {
      if (tos.has(to) || things.has(thing)) return false;
      tos.add(to);
      things.add(thing);
      return true;
    });
}
