import type { FieldId } from '../fields';
import type { HeardAs } from './heard';

/** The version written beside every saved tree; a tree of another version is refused. */
export const QUERY_VERSION = 2;

export const COMPARISONS = ['<', '<=', '>', '>='] as const;
export type Comparison = (typeof COMPARISONS)[number];

/** Words next to each other in this order, each in any of its simple forms (`boats` for `boat`). One at least has forms. */
export interface FormsTest {
  readonly op: 'forms';
  readonly text: string;
}

/** How a text is matched: these very words in order and next to each other, or (`prefix`) with the last one merely begun. */
export interface TextTest {
  readonly op: 'text';
  readonly text: string;
  readonly prefix: boolean;
}

/** Letters anywhere within the words (`*oat*`), or (`ends`) at the end of one (`*boat`). */
export interface PartTest {
  readonly op: 'part';
  readonly text: string;
  readonly ends: boolean;
}

/** One of the things that the field says is these words and no others (`tag="low water"`). */
export interface WholeTest {
  readonly op: 'whole';
  readonly text: string;
}

/** A span of numbers in the field's unit: `from` inside, `to` outside; either may be open (null). */
export interface SpanTest {
  readonly op: 'span';
  readonly from: number | null;
  readonly to: number | null;
}

/** The field says anything at all (`has:`) or nothing (`no:`). */
export interface PresenceTest {
  readonly op: 'presence';
  readonly present: boolean;
}

/** A place within that many metres of another. */
export interface NearTest {
  readonly op: 'near';
  readonly latitude: number;
  readonly longitude: number;
  readonly metres: number;
}

/** A place within that many metres of where assets lie that say these words of their place. */
export interface AroundTest {
  readonly op: 'around';
  /** In words, as `words` cuts them. */
  readonly place: string;
  readonly metres: number;
}

/** Words that were said as they sound, so sure or surer; several of them within so long of one another. */
export interface HeardTest {
  readonly op: 'heard';
  /** Each is words in a row, folded, as `spokenWords` cuts them; with `*` at its end the last is only begun. */
  readonly items: readonly string[];
  /** Null for a single one. */
  readonly withinMs: number | null;
  readonly as: HeardAs;
}

export type CalendarUnit = 'day' | 'week' | 'month' | 'year';

/** In the present day, week, month or year, or in the one before; whenever it is asked. */
export interface CalendarTest {
  readonly op: 'calendar';
  readonly unit: CalendarUnit;
  readonly back: number;
}

/** Less long ago than so many minutes, hours, days, weeks, months or years, or longer; whenever it is asked. */
export interface AgeTest {
  readonly op: 'age';
  readonly younger: boolean;
  readonly count: number;
  readonly unit: 'min' | 'h' | 'd' | 'w' | 'mo' | 'y';
}

export type WordsTest = FormsTest | TextTest | PartTest;
export type FieldTest =
  WordsTest | WholeTest | SpanTest | PresenceTest | NearTest | AroundTest | CalendarTest | AgeTest | HeardTest;

/** A search. `all` of nothing is everything; `any` of nothing is nothing. Words look into the fields marked `plain`. */
export type Query =
  | { readonly kind: 'all'; readonly of: readonly Query[] }
  | { readonly kind: 'any'; readonly of: readonly Query[] }
  | { readonly kind: 'not'; readonly of: Query }
  | { readonly kind: 'words'; readonly test: WordsTest }
  | { readonly kind: 'field'; readonly field: FieldId; readonly test: FieldTest };

export const EVERYTHING: Query = { kind: 'all', of: [] };

/** Why a query cannot be run. `at` and `length` mark the characters at fault. */
export type QueryIssue = { readonly at: number; readonly length: number } & (
  | { readonly code: 'unknown-field'; readonly name: string; readonly nearest: string | null }
  | { readonly code: 'missing-value'; readonly field: string }
  | { readonly code: 'bad-value'; readonly field: string; readonly value: string; readonly expected: string }
  | { readonly code: 'not-comparable'; readonly field: string }
  | { readonly code: 'unclosed-quote' }
  | { readonly code: 'unclosed-bracket' }
  | { readonly code: 'stray-bracket' }
  | { readonly code: 'missing-term'; readonly after: string }
  | { readonly code: 'too-deep' }
);

/** A search with its conditions on fields put as others; itself, if none is another. */
export function mapFields(tree: Query, change: (part: Extract<Query, { kind: 'field' }>) => Query): Query {
  switch (tree.kind) {
    case 'all':
    case 'any': {
      const of = tree.of.map((part) => mapFields(part, change));
      return of.every((part, index) => part === tree.of[index]) ? tree : { kind: tree.kind, of };
    }
    case 'not': {
      const of = mapFields(tree.of, change);
      return of === tree.of ? tree : { kind: 'not', of };
    }
    case 'words':
      return tree;
    case 'field':
      return change(tree);
    default:
      return tree satisfies never;
  }
}

/** Whether a search asks anything of a field. */
export function asksOf(tree: Query, field: FieldId): boolean {
  let asks = false;
  mapFields(tree, (part) => {
    asks ||= part.field === field;
    return part;
  });
  return asks;
}
