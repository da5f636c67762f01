import { spokenWords } from '../fields';
import { mapFields, type HeardTest, type Query } from './tree';

/** How sure one must be that it was said: from words as they are spelled to what sounds like them. Each finds what the one before does. */
export const HEARD_AS = ['spelled', 'sure', 'likely', 'maybe', 'sounds'] as const;
export type HeardAs = (typeof HEARD_AS)[number];

/** How sure, and how close together, where nobody says. */
const USUAL: HeardAs = 'likely';
const WITHIN_MS = 10_000;
/** As the section of dialogue takes them. */
const MOST_WITHIN_MS = 3_600_000;
/** Each is looked for by itself, and all of them while others wait. */
export const MOST_ITEMS = 10;
export const MOST_ITEM_WORDS = 12;
/** Of what may be said in several ways, so many are looked for, and in one question so many of everything. */
export const MOST_ALTERNATIVES = 12;
export const MOST_LOOKED_FOR = 30;
/** With fewer letters a good part of all words begins so. */
export const LEAST_BEGUN = 2;

export const EXPECTED_HEARD =
  'words as they sound, and how sure (spelled, sure, likely, maybe, sounds), such as "low water,sounds", "gate + low water,5s" or "boat|ship"';

/** The field whose values are words as they sound. */
export const isHeardField = ({ id }: { readonly id: string }): boolean => id === 'heard';

/** Reads `low water`, `low water,sounds`, `gate + low water,5s,sounds` or `boat|ship`; null if it is none of these. */
export function readHeard(text: string): HeardTest | null {
  const [what = '', ...options] = text.split(',');
  const items = what.split('+').map(readItem);
  let as: HeardAs = USUAL;
  let withinMs: number | null = null;
  for (const option of options.map((each) => each.trim().toLowerCase())) {
    const seconds = /^(\d{1,4}(?:\.\d{1,3})?) ?s$/.exec(option)?.[1];
    const sure = HEARD_AS.find((each) => each === option);
    if (seconds === undefined && !sure) return null;
    if (seconds !== undefined) withinMs = Math.round(Number(seconds) * 1000);
    if (sure) as = sure;
  }
  if (items.length > MOST_ITEMS || items.includes(null) || withinMs === 0 || (withinMs ?? 0) > MOST_WITHIN_MS)
    return null;
  if (items.reduce((sum, item) => sum + alternativesOf(item as string).length, 0) > MOST_LOOKED_FOR) return null;
  // A single thing is close to itself.
  const within = items.length > 1 ? (withinMs ?? WITHIN_MS) : null;
  return { op: 'heard', items: items as string[], withinMs: within, as };
}

/** What may be said in several ways, one of which is enough (`boat|narrow boat`). */
export const alternativesOf = (item: string): string[] => item.split('|');

function readItem(text: string): string | null {
  const ways = alternativesOf(text).map(readWay);
  if (ways.includes(null) || ways.length > MOST_ALTERNATIVES) return null;
  return [...new Set(ways)].join('|');
}

/** Words in a row, the last of which may only be begun (`low gat*`). */
function readWay(text: string): string | null {
  const words = spokenWords(text);
  if (words.length === 0 || words.length > MOST_ITEM_WORDS) return null;
  const isBegun = text.trim().endsWith('*') && (words.at(-1) as string).length >= LEAST_BEGUN;
  return words.join(' ') + (isBegun ? '*' : '');
}

/** Writes it so that it is read as the same again. */
export function printHeard({ as, items, withinMs }: HeardTest): string {
  const within = withinMs === null || withinMs === WITHIN_MS ? '' : `,${withinMs / 1000}s`;
  return `${items.join(' + ')}${within}${as === USUAL ? '' : `,${as}`}`;
}

/** How many things a search asks for as they sound, wanted or not. */
export function heardCount(tree: Query): number {
  let count = 0;
  mapFields(tree, (part) => {
    count += part.test.op === 'heard' ? part.test.items.flatMap(alternativesOf).length : 0;
    return part;
  });
  return count;
}
