/** What is wrong with a table as a whole, before anything is made of its cells. Rows count from 1, the heading being row 1. */
export type TableIssue =
  | { readonly code: 'empty' }
  | { readonly code: 'not-text' }
  | { readonly code: 'no-rows' }
  | { readonly code: 'too-many-columns'; readonly most: number }
  | { readonly code: 'quote-open'; readonly row: number }
  | { readonly code: 'row-width'; readonly row: number; readonly cells: number; readonly wanted: number };

export interface Table {
  readonly delimiter: Delimiter;
  readonly heading: readonly string[];
  /** Each as wide as the heading. */
  readonly rows: readonly (readonly string[])[];
  /** Where each of them stands in the file, the heading being row 1: rows without any text are left out. */
  readonly numbers: readonly number[];
}

/** Comma, tab, and what spreadsheets write where the comma is the decimal mark; common practice, no source. */
export const DELIMITERS = [',', '\t', ';'] as const;
export type Delimiter = (typeof DELIMITERS)[number];

/** What a row may be matched to its asset by. Several together must all agree. */
export const MATCH_KEYS = ['asset', 'path', 'checksum', 'name', 'start', 'reel'] as const;
export type MatchKey = (typeof MATCH_KEYS)[number];

/** What becomes of a column: it says which asset is meant, what a field says, which tags it has, or nothing. */
export type ColumnUse =
  | { readonly use: 'match'; readonly key: MatchKey }
  | { readonly use: 'field'; readonly field: string }
  | { readonly use: 'tags' }
  | { readonly use: 'none' };
