import type { FieldId, SetValue } from '@larder/core/fields';
import { MATCH_KEYS, type ColumnUse, type Delimiter, type MatchKey } from '@larder/core/interchange/table';
import { array, boolean, lazy, number, object, string, type InferType } from 'yup';
import type { Job } from './model';

/** What a table that was sent looks like, with a guess at what its columns mean. */
export interface TableLook {
  /** By which it is asked for from now on. */
  readonly table: string;
  readonly fileName: string;
  readonly delimiter: Delimiter;
  readonly rows: number;
  readonly columns: readonly { readonly heading: string; readonly samples: readonly string[] }[];
  readonly uses: readonly ColumnUse[];
  /** What is wrong with the file, in words; a table with issues is not read. */
  readonly issues: readonly string[];
}

/** What is done with empty cells, and with the tags that an asset has already. */
export const EMPTY_CELLS = ['leave', 'clear'] as const;
export const OTHER_TAGS = ['keep', 'drop'] as const;

const useSchema = lazy((use: unknown) =>
  (use as { use?: unknown } | null)?.use === 'match'
    ? object({
        use: string().oneOf(['match']).required(),
        key: string<MatchKey>().oneOf(MATCH_KEYS).required(),
      }).noUnknown()
    : (use as { use?: unknown } | null)?.use === 'field'
      ? object({ use: string().oneOf(['field']).required(), field: string().max(60).required() }).noUnknown()
      : object({ use: string().oneOf(['tags', 'none']).required() }).noUnknown(),
);

export const readTableSchema = object({
  table: string()
    .matches(/^[A-Za-z0-9-]{8,64}$/, 'That is no table.')
    .required(),
  fileName: string().max(200).required(),
  uses: array(useSchema).max(500).required(),
  empty: string<(typeof EMPTY_CELLS)[number]>().oneOf(EMPTY_CELLS).required(),
  otherTags: string<(typeof OTHER_TAGS)[number]>().oneOf(OTHER_TAGS).required(),
  /** False only tries it: everything is looked up and checked, and nothing is kept. */
  keep: boolean().required(),
  seenRevision: number().integer().min(0).required(),
}).noUnknown();

export type ReadTable = Omit<InferType<typeof readTableSchema>, 'uses'> & { readonly uses: readonly ColumnUse[] };

/** Why a row, or a cell of it, does not become part of the library. Rows count from 1, the heading being row 1. */
export const TABLE_PROBLEMS = ['no-key', 'no-match', 'several', 'twice', 'refused', 'conflict'] as const;
export type TableProblemKind = (typeof TABLE_PROBLEMS)[number];

export interface TableProblem {
  readonly row: number;
  readonly kind: TableProblemKind;
  /** In words: what was looked for, what the field does not take, or who said something else. */
  readonly message: string;
}

export interface TableChange {
  readonly row: number;
  readonly assetId: number;
  readonly name: string;
  readonly field: FieldId;
  readonly before: SetValue;
  readonly after: SetValue;
}

/** What became of a table, or would. */
export interface TableReport {
  readonly kept: boolean;
  readonly rows: number;
  readonly matched: number;
  /** Assets that say something else now. */
  readonly changed: number;
  /** Those that said it all before. */
  readonly same: number;
  readonly problems: Readonly<Record<TableProblemKind, number>>;
  /** The first of each; all of them are in the report to be downloaded. */
  readonly shownProblems: readonly TableProblem[];
  readonly shownChanges: readonly TableChange[];
  /** By which all of it can be undone; null if nothing was kept. */
  readonly group: string | null;
}

export interface TableAnswer {
  readonly job: Job;
  /** As it was asked for; the same again with `keep` reads in what was tried. */
  readonly asked: ReadTable;
  readonly report: TableReport | null;
}
