import { gathered } from '@larder/core/gather';
import { planRelink, type Match } from '@larder/core/relink';
import { round, type Figure } from './kit';
import { asListed, damagedLibrary, DAMAGES, type Case, type DamagedLibrary, type Sort } from './relink-damage';
import { fittedWeights } from './relink-fit';
import { plan } from './relink-plan';
import { mostApart, reliabilityChart, tenths, type Stated, type Tenth } from './reliability';
import { walk } from './relink-walk';

type Print = (figure: Figure) => void;

/** What the weights were fitted to, and what they are held against; each some 2,000 lost files, of plain ones more. */
const SETS = {
  fitted: { seeds: [1, 2], sort: 'usual' },
  heldOut: { seeds: [3, 4], sort: 'usual' },
  plain: { seeds: [5, 6], sort: 'plain' },
} as const satisfies Readonly<Record<string, { readonly seeds: readonly number[]; readonly sort: Sort }>>;
const SET_WORDS: Readonly<Record<keyof typeof SETS, string>> = {
  fitted: 'fitted to',
  heldOut: 'held out',
  plain: 'little known: no timecode, no reel, tracks of one take',
};
const PRODUCTIONS = 15;

interface Judged {
  readonly each: Case;
  readonly matches: readonly Match[];
}

function judged(library: DamagedLibrary): Judged[] {
  const plan = planRelink(
    library.cases.map(({ lost }) => lost),
    library.candidates,
  );
  return library.cases.map((each, at) => ({ each, matches: plan[at]?.matches ?? [] }));
}

/** Of all candidates that nothing rules out how likely each was called, and whether it is the one. */
const stated = (all: readonly Judged[]): Stated[] =>
  all.flatMap(({ each, matches }) =>
    matches
      .filter(({ blockedBy }) => blockedBy.length === 0)
      .map(({ key, probability }) => ({ chance: probability, isRight: key === each.is })),
  );

/**
 * Of lost originals as cut lists know them: how many are found by reel and timecode, and how many of what is found so are right. Looked for
 * on the disks of their productions, or in one heap with those of all others, whose reels are called the same.
 */
function listed(libraries: readonly DamagedLibrary[], inOneHeap: boolean) {
  const sums = { equivalent: 0, right: 0, tellable: 0 };
  const production = (key: string): string => (inOneHeap ? '' : key.slice(0, key.indexOf('/')));
  for (const { candidates, cases } of libraries) {
    const known = cases.flatMap((each, at) => {
      const lost = asListed(each.lost, at + 1);
      return lost ? [{ each, lost }] : [];
    });
    const places = gathered(candidates, ({ key }) => production(key));
    for (const [place, mine] of gathered(known, ({ each }) => production(each.of))) {
      const found = places.get(place) ?? [];
      const facts = new Map(found.map((candidate) => [candidate.key, candidate.facts]));
      const plan = planRelink(
        mine.map(({ lost }) => lost),
        found,
      );
      for (const [at, { each }] of mine.entries()) {
        const first = plan[at]?.matches[0];
        const now = each.is === null ? undefined : facts.get(each.is);
        const isWhole = each.wanted !== null && now?.reel !== null && now?.startFrame === each.lost.facts.startFrame;
        sums.tellable += isWhole ? 1 : 0;
        if (first?.likeness !== 'equivalent') continue;
        sums.equivalent += 1;
        sums.right += first.key === each.is ? 1 : 0;
      }
    }
  }
  return sums;
}

async function quality(print: Print): Promise<void> {
  for (const [set, { seeds, sort }] of Object.entries(SETS)) {
    const figure = (name: string, value: number, unit: string) =>
      print({ name: `relink.${name}.${set}`, value: round(value), unit, peer: null, ratio: null });
    const all = seeds.flatMap((seed) => judged(damagedLibrary(seed, PRODUCTIONS, sort)));
    const accepted = all.filter(({ matches: [first] }) => first?.likeness === 'exact' && first.blockedBy.length === 0);
    const right = accepted.filter(({ each, matches }) => matches[0]?.key === each.is);
    figure('precision', right.length / accepted.length, `of ${accepted.length} taken without a look`);
    const whole = all.filter(({ each }) => each.wanted !== null);
    const found = whole.filter(
      ({ each, matches: [first] }) => first?.key === each.is && first.likeness === each.wanted,
    );
    figure('recall', found.length / whole.length, `of ${whole.length} exact and equivalent`);
    for (const damage of DAMAGES) {
      const some = all.filter(({ each }) => each.damage === damage);
      const right = some.filter(({ each, matches: [first] }) =>
        each.is === null || each.wanted === null ? first?.likeness !== 'exact' : first?.key === each.is,
      );
      figure(`right.${damage}`, right.length / some.length, `of ${some.length}`);
    }
    const apart = tenths(stated(all));
    figure('calibration', mostApart(apart), 'most of a tenth');
    for (const { count, right: share, stated: chance } of apart)
      figure('calibration.tenth', share, `right of ${count} stated as ${round(chance)}`);
    const libraries = seeds.map((seed) => damagedLibrary(seed, PRODUCTIONS, sort));
    for (const [where, inOneHeap] of [
      ['', false],
      ['.heap', true],
    ] as const) {
      const { equivalent, right: told, tellable } = listed(libraries, inOneHeap);
      figure(`listed.precision${where}`, told / equivalent, `of ${equivalent} called equivalent by reel and timecode`);
      figure(`listed.recall${where}`, told / tellable, `of ${tellable} whole ones with reel and timecode`);
    }
  }
}

/** Prints the weights anew, as core has them. */
async function weightsFitted(): Promise<void> {
  const { bias, weights } = fittedWeights(SETS.fitted.seeds.map((seed) => damagedLibrary(seed, PRODUCTIONS)));
  const lines = [...weights].map(([feature, weight]) => `${feature} ${weight.toFixed(2)}`);
  process.stdout.write(`${[...lines, `bias ${bias.toFixed(2)}`].join('\n')}\n`);
}

/** Prints how far stated chances can be relied on, drawn. */
async function reliability(): Promise<void> {
  const sets = Object.entries(SETS).map(([set, { seeds, sort }]): [string, Tenth[]] => [
    SET_WORDS[set as keyof typeof SETS],
    tenths(stated(seeds.flatMap((seed) => judged(damagedLibrary(seed, PRODUCTIONS, sort))))),
  ]);
  process.stdout.write(`${reliabilityChart(new Map(sets))}\n`);
}

export const relink = { quality, plan, walk };
/** What core keeps as tables, to be printed. */
export const tables = { fit: weightsFitted, reliability };
