import Papa from 'papaparse';
import { DELIMITERS, type Delimiter, type Table, type TableIssue } from './types';

/** More than any log sheet; a file that is no table often looks like one with thousands. */
export const MOST_COLUMNS = 500;
/** As many are told one by one. */
const ISSUES_TOLD = 20;

const withoutMark = (text: string): string => text.replace(/^\uFEFF/, '');

/**
 * A block of cells as spreadsheets put it on the clipboard: tabs between cells, a line for each row, cells with tabs, quotes or line
 * breaks in quotes as RFC 4180 has them. The last line may end in a line break. Never throws; what cannot be read as quoted is
 * taken as it stands.
 */
export function readBlock(text: string): readonly (readonly string[])[] {
  const { data } = Papa.parse<string[]>(
    withoutMark(text).replace(/\r\n?|\n$/g, (end) => (end === '\r' || end === '\r\n' ? '\n' : '')),
    {
      delimiter: '\t',
      newline: '\n',
      header: false,
    },
  );
  const rows = data.at(-1)?.join('') === '' && data.length > 1 && data.at(-1)?.length === 1 ? data.slice(0, -1) : data;
  return rows.length === 1 && rows[0]?.length === 1 && rows[0][0] === '' ? [] : rows;
}

/** The text of a file as spreadsheets write it: UTF-8, or UTF-16 with its mark at the head; null if it is neither. */
export function tableText(bytes: Uint8Array): string | null {
  const encoding =
    bytes[0] === 0xff && bytes[1] === 0xfe ? 'utf-16le' : bytes[0] === 0xfe && bytes[1] === 0xff ? 'utf-16be' : 'utf-8';
  try {
    const text = new TextDecoder(encoding, { fatal: true }).decode(bytes);
    return text.includes('\0') ? null : text;
  } catch {
    return null;
  }
}

/** The delimiter that parts the first line into most cells; a comma if none does. Quoted cells are not looked into. */
function delimiterOf(text: string): Delimiter {
  const line = (/^[^\n\r]*/.exec(text)?.[0] ?? '').replace(/"[^"]*"/g, '');
  const count = (delimiter: Delimiter): number => line.split(delimiter).length;
  return DELIMITERS.reduce((best, each) => (count(each) > count(best) ? each : best), DELIMITERS[0]);
}

/**
 * A table with a heading, as RFC 4180 has it, with any of the delimiters and any line breaks. Rows without any text are left out;
 * short ones are filled up with empty cells. Every issue is collected; with one that says more cells than the heading or an open
 * quote the rest is read all the same, so that all can be told at once. Never throws.
 */
export function readTable(whole: string): { readonly table: Table; readonly issues: readonly TableIssue[] } {
  const text = withoutMark(whole);
  const delimiter = delimiterOf(text);
  const { data, errors } = Papa.parse<string[]>(text, { delimiter, header: false });
  const [first = [], ...others] = data;
  const heading = first.map((cell) => cell.trim());
  const issues: TableIssue[] = errors
    .filter(({ type }) => type === 'Quotes')
    .map(({ row }) => ({ code: 'quote-open', row: (row ?? 0) + 1 }));
  const rows: (readonly string[])[] = [];
  const numbers: number[] = [];
  others.forEach((cells, index) => {
    if (cells.every((cell) => cell.trim() === '')) return;
    const extra = cells.slice(heading.length).some((cell) => cell.trim() !== '');
    if (extra) issues.push({ code: 'row-width', row: index + 2, cells: cells.length, wanted: heading.length });
    numbers.push(index + 2);
    rows.push(Array.from(heading, (_unused, column) => cells[column] ?? ''));
  });
  if (heading.every((cell) => cell === '')) issues.unshift({ code: 'empty' });
  else if (heading.length > MOST_COLUMNS) issues.unshift({ code: 'too-many-columns', most: MOST_COLUMNS });
  else if (rows.length === 0) issues.unshift({ code: 'no-rows' });
  return { table: { delimiter, heading, rows, numbers }, issues: issues.slice(0, ISSUES_TOLD) };
}

export function wordTableIssue(issue: TableIssue): string {
  switch (issue.code) {
    case 'empty':
      return 'The file has no heading: its first row names the columns.';
    case 'not-text':
      return 'The file is not text in UTF-8 or UTF-16. Save it from the spreadsheet as “CSV UTF-8”.';
    case 'no-rows':
      return 'There is a heading and no row beneath it.';
    case 'too-many-columns':
      return `The file has more than ${issue.most} columns. Is it a table?`;
    case 'quote-open':
      return `Row ${issue.row}: a quote is opened and not closed, or text stands behind a closed one.`;
    case 'row-width':
      return `Row ${issue.row} has ${issue.cells} cells, and the heading ${issue.wanted}. Is a comma not in quotes?`;
    default:
      return issue satisfies never;
  }
}
