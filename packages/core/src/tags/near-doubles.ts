import { distance } from '../fields';
import { foldTag } from './fold-tag';

export interface NearDouble {
  /** The one with more uses, then the other. */
  readonly keep: string;
  readonly merge: string;
}

/** Letters and digits only: `golden-hour`, `Golden hour` and `goldenhour` are one. */
const bare = (name: string): string => foldTag(name).replace(/[^\p{L}\p{N}]+/gu, '');
/** Without the commonest English plural endings. */
const singular = (word: string): string =>
  word.replace(/(?<=[^aeiou])ies$/, 'y').replace(/(?<=.{2}(?:s|x|z|ch|sh))es$|(?<=.{2}[^s])s$/, '');

/** How many letters two words of this length may differ in and still be one mistyped: short ones are words of their own. */
const slips = (length: number): number => (length >= 10 ? 2 : length >= 6 ? 1 : 0);

const areNear = (a: string, b: string): boolean => {
  const [one, other] = [singular(bare(a)), singular(bare(b))];
  // Take 1 and take 2 differ in what matters.
  if (one.replace(/\D/g, '') !== other.replace(/\D/g, '')) return false;
  if (one === other) return true;
  const most = slips(Math.min(one.length, other.length));
  return most > 0 && Math.abs(one.length - other.length) <= most && one[0] === other[0] && distance(one, other) <= most;
};

/**
 * Pairs of tags that look like one word written in two ways: a hyphen, a plural, a slip of a key. Of a few thousand tags every pair
 * with the same first letter is compared.
 */
export function nearDoubles(tags: readonly { readonly name: string; readonly uses: number }[]): NearDouble[] {
  const byInitial = new Map<string, (typeof tags)[number][]>();
  for (const tag of tags) {
    const initial = bare(tag.name)[0] ?? '';
    byInitial.set(initial, [...(byInitial.get(initial) ?? []), tag]);
  }
  const found: NearDouble[] = [];
  for (const group of byInitial.values())
    group.forEach((a, index) => {
      for (const b of group.slice(index + 1))
        if (areNear(a.name, b.name)) {
          const [keep, merge] = b.uses > a.uses ? [b, a] : [a, b];
          found.push({ keep: keep.name, merge: merge.name });
        }
    });
  return found;
}
