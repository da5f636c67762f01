import { isInner } from '../../shelf';
import { countingById, parseTimecode, type Counting } from '../../timecode';
import { readTable, wordTableIssue } from '../table';
import type { ArchivedFile, ArchiveIssue } from './types';

/** Headings of the columns, in any order and in whatever letters; others are passed over. */
export const ARCHIVE_COLUMNS = ['tape', 'path', 'bytes', 'xxh64', 'reel', 'rate', 'start', 'frames'] as const;
type Column = (typeof ARCHIVE_COLUMNS)[number];
const NEEDED: readonly Column[] = ['tape', 'path', 'bytes'];
const LONGEST_TAPE = 100;
/** As many are told one by one. */
const ISSUES_TOLD = 20;

interface Row {
  readonly number: number;
  said(column: Column): string;
}

/**
 * What an archive says that it has: a table as RFC 4180 has it, a row for each file. Every issue is collected, and the rows without
 * one are given. Never throws.
 */
export function readArchive(text: string): {
  readonly files: readonly ArchivedFile[];
  /** The first of them. */
  readonly issues: readonly ArchiveIssue[];
  /** How many more there are. */
  readonly more: number;
} {
  const { issues: unreadable, table } = readTable(text);
  const issues: ArchiveIssue[] = unreadable.map((issue) => ({ code: 'table', issue }));
  const places = new Map(table.heading.map((heading, at) => [heading.toLowerCase(), at]));
  for (const column of NEEDED) if (!places.has(column)) issues.push({ code: 'no-column', column });
  const files = new Map<string, ArchivedFile>();
  if (issues.every(({ code }) => code !== 'no-column'))
    table.rows.forEach((cells, at) => {
      const number = table.numbers[at] ?? 0;
      const file = fileOf({ number, said: (column) => cells[places.get(column) ?? -1]?.trim() ?? '' }, issues);
      if (file && files.has(file.id)) issues.push({ code: 'twice', row: number, said: file.id });
      else if (file) files.set(file.id, file);
    });
  return {
    files: [...files.values()],
    issues: issues.slice(0, ISSUES_TOLD),
    more: Math.max(0, issues.length - ISSUES_TOLD),
  };
}

function fileOf({ number: row, said }: Row, issues: ArchiveIssue[]): ArchivedFile | null {
  const before = issues.length;
  const wrong = (code: 'bytes' | 'hash' | 'rate' | 'start' | 'frames' | 'path', text: string): null => {
    issues.push({ code, row, said: text });
    return null;
  };
  const whole = (column: 'bytes' | 'frames'): number | null => {
    const text = said(column);
    if (text === '') return null;
    const value = /^\d{1,16}$/.test(text) ? Number(text) : NaN;
    return Number.isSafeInteger(value) ? value : wrong(column, text);
  };
  const [path, tape] = [said('path'), said('tape')];
  if (tape.length > LONGEST_TAPE || tape.includes('/') || !isInner(tape)) issues.push({ code: 'no-tape', row });
  if (path === '') issues.push({ code: 'no-path', row });
  else if (!isInner(path)) wrong('path', path);
  const bytes = whole('bytes') ?? (said('bytes') === '' ? wrong('bytes', '') : null);
  const hash = said('xxh64').toLowerCase();
  const checksum = hash === '' ? null : /^[0-9a-f]{16}$/.test(hash) ? hash : wrong('hash', hash);
  const counting = said('rate') === '' ? null : (countingById(said('rate')) ?? wrong('rate', said('rate')));
  const startFrame = said('start') === '' ? null : (startOf(said('start'), counting) ?? wrong('start', said('start')));
  const durationFrames = whole('frames');
  if (issues.length > before || bytes === null) return null;
  const facts = {
    ...{ path, bytes, checksum, counting, startFrame, durationFrames, reel: said('reel') || null },
    // What a catalogue of tapes does not say.
    ...{ modifiedMs: null, fingerprint: null, width: null, height: null, channels: null, shotMs: null },
  };
  return { id: `${tape}/${path}`, tape, facts };
}

function startOf(text: string, counting: Counting | null): number | null {
  if (!counting) return null;
  const read = parseTimecode(text, counting);
  return 'frames' in read ? read.frames : null;
}

export function wordArchiveIssue(issue: ArchiveIssue): string {
  switch (issue.code) {
    case 'table':
      return wordTableIssue(issue.issue);
    case 'no-column':
      return `There is no column “${issue.column}”. The columns are: ${ARCHIVE_COLUMNS.join(', ')}.`;
    case 'no-tape':
      return `Row ${issue.row} does not say in “tape” on which tape it is.`;
    case 'no-path':
      return `Row ${issue.row} has no “path”.`;
    case 'path':
      return `Row ${issue.row}: “${issue.said.slice(0, 80)}” is no path within a tape.`;
    case 'bytes':
    case 'frames':
      return `Row ${issue.row}: “${issue.said}” in “${issue.code}” is no whole number.`;
    case 'hash':
      return `Row ${issue.row}: “${issue.said.slice(0, 80)}” is no xxHash64 of 16 hexadecimal digits.`;
    case 'rate':
      return `Row ${issue.row}: “${issue.said.slice(0, 80)}” is no rate that is known, such as 25 or 29.97df.`;
    case 'start':
      return `Row ${issue.row}: “${issue.said.slice(0, 80)}” is no timecode at its rate.`;
    case 'twice':
      return `Row ${issue.row}: ${issue.said} stands in it twice; the first counts.`;
    default:
      return issue satisfies never;
  }
}
