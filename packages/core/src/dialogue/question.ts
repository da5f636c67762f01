import { spokenWords } from '../fields';

/** How what is asked goes together: in one file all of it, any of it, or all of it within some seconds. */
export const HOWS = ['all', 'any', 'near'] as const;
export type SpokenHow = (typeof HOWS)[number];

/** A word, or several that are said one after the other. */
export interface SpokenItem {
  readonly words: readonly string[];
  /** The last of them is only begun (`gat*`). */
  readonly begun: boolean;
  /** It must not be said, as it is spelled. */
  readonly without: boolean;
}

export interface SpokenQuestion {
  readonly items: readonly SpokenItem[];
  readonly how: SpokenHow;
  /** For `near`. */
  readonly withinMs: number;
}

/** Each is looked for by itself, and all of them while others wait. */
export const MOST_ITEMS = 10;
export const MOST_ITEM_WORDS = 12;
/** With fewer letters a good part of all words begins so. */
const LEAST_BEGUN = 2;

/** An item: between quotes, or up to the next gap; a quote that is not closed goes to the end. */
const ITEM = /(-?)(?:"([^"]*)"?|([^\s"]+))/g;

/** Reads what is asked of speech: words, `"words in a row"`, `begun*`, and `-without`. */
export function readSpoken(text: string): SpokenItem[] {
  const items: SpokenItem[] = [];
  for (const [, minus, quoted, bare] of text.matchAll(ITEM)) {
    const said = (quoted ?? bare ?? '').trim();
    const words = spokenWords(said).slice(0, MOST_ITEM_WORDS);
    if (words.length > 0 && items.length < MOST_ITEMS)
      items.push({
        words,
        begun: said.endsWith('*') && (words.at(-1) as string).length >= LEAST_BEGUN,
        without: minus === '-',
      });
  }
  return items;
}
