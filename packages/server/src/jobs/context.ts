import type { Sequelize } from 'sequelize';
import type { Archive } from '../media/archive';
import type { ExportStore } from '../media/export-store';
import type { Recogniser } from '../media/recogniser';
import type { RenditionStore } from '../media/rendition-store';
import type { TableStore } from '../media/table-store';
import type { UploadStore } from '../media/upload-store';
import { ToolError } from '../media/run';
import type { JobRow } from '../store/models';
import type { Report } from './queue';

/** What the worker hands to whatever carries out a job. */
export interface JobContext {
  readonly db: Sequelize;
  readonly job: JobRow;
  readonly signal: AbortSignal;
  readonly store: RenditionStore;
  readonly uploads: UploadStore;
  readonly tables: TableStore;
  readonly exports: ExportStore;
  /** What writes down what is said. */
  readonly recogniser: Recogniser;
  /** What lost originals can be fetched from; null where none is set up. */
  readonly archive: Archive | null;
  /** Says how far the work is; sent on at most a few times a second. */
  report(report: Report): void;
}

/** A tool's own message without its banner and repetition, or the error's. */
export function wordJobError(error: unknown): string {
  if (error instanceof ToolError && error.reason === 'timeout')
    return `${error.tool} did not come to an end and was stopped.`;
  if (error instanceof ToolError && error.reason === 'not-found')
    return `${error.tool} is not installed on this machine.`;
  const text = error instanceof Error ? error.message : String(error);
  return (
    [...new Set(text.split('\n').map((line) => line.replace(/^\[[^\]]*\]\s*/, '').trim()))]
      .filter(Boolean)
      .slice(-3)
      .join(' ') || 'It failed without a word.'
  );
}
