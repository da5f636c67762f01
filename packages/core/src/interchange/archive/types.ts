import type { FileFacts } from '../../relink';
import type { TableIssue } from '../table';

/** A file that lies on a tape, a disk or whatever an archive keeps its things on. */
export interface ArchivedFile {
  /** Tape and path, which together are in a catalogue once. */
  readonly id: string;
  /** What is written on the tape. */
  readonly tape: string;
  readonly facts: FileFacts;
}

/** What is wrong with a catalogue. Rows count from 1, the heading being row 1; a row with an issue is left out. */
export type ArchiveIssue =
  | { readonly code: 'table'; readonly issue: TableIssue }
  | { readonly code: 'no-column'; readonly column: string }
  | { readonly code: 'no-tape' | 'no-path'; readonly row: number }
  | { readonly code: 'path'; readonly row: number; readonly said: string }
  | { readonly code: 'bytes' | 'hash' | 'rate' | 'start' | 'frames'; readonly row: number; readonly said: string }
  | { readonly code: 'twice'; readonly row: number; readonly said: string };
