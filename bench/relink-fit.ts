import {
  BIAS,
  blocksOf,
  findingsOf,
  meetings,
  printOf,
  sharedPrints,
  WEIGHTS,
  type Findings,
} from '@larder/core/relink';
import type { DamagedLibrary } from './relink-damage';

type Group = keyof Findings;
const GROUPS = Object.keys(WEIGHTS) as Group[];
const FEATURES = GROUPS.flatMap((group) => Object.keys(WEIGHTS[group]).map((level) => `${group}.${level}`));
const PLACE = new Map(FEATURES.map((feature, at) => [feature, at]));

/** A lost file's candidates, each by the features that it has, and which of them it is; none is -1. */
interface Choice {
  readonly options: readonly (readonly number[])[];
  readonly right: number;
}

function choicesOf({ candidates, cases }: DamagedLibrary): Choice[] {
  const shared = sharedPrints(
    cases.map(({ lost }) => lost),
    candidates,
  );
  const met = meetings(
    cases.map(({ lost }) => lost),
    candidates,
  );
  return cases.map(({ is, lost }, at) => {
    const options = Array.from(met[at] ?? [], (n) => candidates[n]).flatMap((candidate) =>
      candidate && blocksOf(lost.facts, candidate.facts, lost.used).length === 0 ? [candidate] : [],
    );
    return {
      options: options.map(({ facts }) => {
        const findings = findingsOf(lost.facts, facts, shared.has(printOf(lost.facts)));
        return GROUPS.flatMap((group) => {
          const found = findings[group];
          return found === null ? [] : [PLACE.get(`${group}.${String(found)}`) as number];
        });
      }),
      right: options.findIndex(({ key }) => key === is),
    };
  });
}

/** By judgement: nothing in what is made up tells how seldom two recordings share these. */
const GIVEN = new Map<string, number>([
  ['content.checksum', WEIGHTS.content.checksum],
  ['content.ends', WEIGHTS.content.ends],
  ...(['picture', 'sound'] as const).flatMap((group) =>
    Object.entries(WEIGHTS[group]).map(([level, weight]): [string, number] => [`${group}.${level}`, weight]),
  ),
]);

/** In each group a stronger finding says no less than a weaker one: those that would are made alike (pool adjacent violators). */
function ordered(theta: Float64Array): void {
  let from = 0;
  for (const group of GROUPS) {
    const size = Object.keys(WEIGHTS[group]).length;
    const pools: { sum: number; count: number }[] = [];
    for (let at = from; at < from + size; at += 1) {
      let pool = { sum: theta[at] as number, count: 1 };
      for (let last = pools.at(-1); last && last.sum / last.count < pool.sum / pool.count; last = pools.at(-1)) {
        pool = { sum: pool.sum + last.sum, count: pool.count + last.count };
        pools.pop();
      }
      pools.push(pool);
    }
    for (const { count, sum } of pools) for (let n = 0; n < count; n += 1, from += 1) theta[from] = sum / count;
  }
}

const STEPS = 1500;
const RATE = 0.05;
/** What is met so seldom that nothing is known of it stays near nothing. */
const RIDGE = 0.5;

/**
 * The weights by which what happened was likeliest: a multinomial logit with an outside option, by gradient ascent with momentum (Adam,
 * D. Kingma and J. Ba 2015; from memory).
 */
export function fittedWeights(libraries: readonly DamagedLibrary[]): {
  bias: number;
  weights: ReadonlyMap<string, number>;
} {
  const choices = libraries.flatMap(choicesOf);
  const size = FEATURES.length + 1;
  const theta = new Float64Array(size);
  theta[size - 1] = BIAS;
  const [mean, spread] = [new Float64Array(size), new Float64Array(size)];
  for (let step = 1; step <= STEPS; step += 1) {
    const slope = new Float64Array(size);
    for (const { options, right } of choices) {
      const odds = options.map((features) =>
        Math.exp(features.reduce((sum, at) => sum + (theta[at] as number), theta[size - 1] as number)),
      );
      const whole = odds.reduce((sum, each) => sum + each, 1);
      options.forEach((features, n) => {
        const off = (n === right ? 1 : 0) - (odds[n] as number) / whole;
        for (const at of features) slope[at] = (slope[at] as number) + off;
        slope[size - 1] = (slope[size - 1] as number) + off;
      });
    }
    for (let at = 0; at < size; at += 1) {
      const gradient = (slope[at] as number) - (at < size - 1 ? RIDGE * (theta[at] as number) : 0);
      mean[at] = 0.9 * (mean[at] as number) + 0.1 * gradient;
      spread[at] = 0.999 * (spread[at] as number) + 0.001 * gradient ** 2;
      const [m, v] = [(mean[at] as number) / (1 - 0.9 ** step), (spread[at] as number) / (1 - 0.999 ** step)];
      theta[at] = (theta[at] as number) + (RATE * m) / (Math.sqrt(v) + 1e-8);
    }
    ordered(theta);
    for (const [feature, weight] of GIVEN) theta[PLACE.get(feature) as number] = weight;
  }
  return {
    bias: theta[size - 1] as number,
    weights: new Map(FEATURES.map((feature, at) => [feature, theta[at] as number])),
  };
}
