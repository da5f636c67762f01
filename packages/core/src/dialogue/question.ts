import { spokenWords } from '../fields';
import { LEAST_BEGUN, MOST_ALTERNATIVES, MOST_ITEM_WORDS, MOST_ITEMS, MOST_LOOKED_FOR } from '../query';

/** How what is asked goes together: in one file all of it, any of it, or all of it within some seconds. */
export const HOWS = ['all', 'any', 'near'] as const;
export type SpokenHow = (typeof HOWS)[number];

/** A word, or several that are said one after the other. */
export interface SpokenWay {
  readonly words: readonly string[];
  /** The last of them is only begun (`gat*`). */
  readonly begun: boolean;
}

/** What is looked for: said in one of its ways. */
export interface SpokenItem {
  readonly ways: readonly SpokenWay[];
  /** It must not be said, as it is spelled. */
  readonly without: boolean;
}

export interface SpokenQuestion {
  readonly items: readonly SpokenItem[];
  readonly how: SpokenHow;
  /** For `near`. */
  readonly withinMs: number;
}

/** An item: between quotes, or up to the next gap, and further ways to say it; a quote that is not closed goes to the end. */
const ITEM = /(-?)((?:"[^"]*"?|[^\s"|]+)(?:\s*\|[\s|]*(?:"[^"]*"?|[^\s"|]+))*)/g;
const WAY = /"([^"]*)"?|([^\s"|]+)/g;

/** Quotes as they are set in print are quotes. */
export const plainQuotes = (text: string): string => text.replace(/[“”„‟«»]/g, '"');

/** Reads what is asked of speech: words, `"words in a row"`, `begun*`, `one|another`, and `-without`. */
export function readSpoken(text: string): SpokenItem[] {
  const items: SpokenItem[] = [];
  let left = MOST_LOOKED_FOR;
  for (const [, minus, said = ''] of plainQuotes(text).matchAll(ITEM)) {
    const ways = readWays(said).slice(0, Math.min(left, MOST_ALTERNATIVES));
    if (ways.length === 0 || items.length === MOST_ITEMS) continue;
    left -= ways.length;
    items.push({ ways, without: minus === '-' });
  }
  return items;
}

function readWays(text: string): SpokenWay[] {
  const ways = new Map<string, SpokenWay>();
  for (const [, quoted, bare] of text.matchAll(WAY)) {
    const said = (quoted ?? bare ?? '').trim();
    const words = spokenWords(said).slice(0, MOST_ITEM_WORDS);
    if (words.length === 0) continue;
    const way = { words, begun: said.endsWith('*') && (words.at(-1) as string).length >= LEAST_BEGUN };
    ways.set(wayText(way), way);
  }
  return [...ways.values()];
}

export const wayText = ({ begun, words }: SpokenWay): string => words.join(' ') + (begun ? '*' : '');

/** Writes what is asked so that it is read as the same again. */
export const writeSpoken = (items: readonly SpokenItem[]): string =>
  items.map(({ ways, without }) => (without ? '-' : '') + ways.map((way) => quoted(wayText(way))).join('|')).join(' ');

const quoted = (text: string): string => (text.includes(' ') || text.startsWith('-') ? `"${text}"` : text);
