import Papa from 'papaparse';

/**
 * Cells as spreadsheets take them from the clipboard: tabs between cells, LF between rows; cells with tabs, quotes or line breaks are
 * put in quotes as RFC 4180 has them. What `readBlock` reads back as the same cells.
 */
export const writeBlock = (rows: readonly (readonly string[])[]): string =>
  Papa.unparse(rows as string[][], { delimiter: '\t', newline: '\n' });
