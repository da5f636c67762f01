import Papa from 'papaparse';
import type { Delimiter } from './types';

const unparse = (rows: readonly (readonly string[])[], delimiter: Delimiter, newline: string): string =>
  Papa.unparse(rows as string[][], { delimiter, newline });

/**
 * Cells as spreadsheets take them from the clipboard: tabs between cells, LF between rows; cells with tabs, quotes or line breaks are
 * put in quotes as RFC 4180 has them. What `readBlock` reads back as the same cells.
 */
export const writeBlock = (rows: readonly (readonly string[])[]): string => unparse(rows, '\t', '\n');

/** Rows of a table as RFC 4180 has them, each ended by CR LF. Cells are written as they are, whatever a spreadsheet makes of them. */
export const writeRows = (rows: readonly (readonly string[])[], delimiter: Delimiter): string =>
  rows.length === 0 ? '' : `${unparse(rows, delimiter, '\r\n')}\r\n`;
