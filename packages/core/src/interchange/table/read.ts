import Papa from 'papaparse';

/**
 * A block of cells as spreadsheets put it on the clipboard: tabs between cells, a line for each row, cells with tabs, quotes or line
 * breaks in quotes as RFC 4180 has them. The last line may end in a line break. Never throws; what cannot be read as quoted is
 * taken as it stands.
 */
export function readBlock(text: string): readonly (readonly string[])[] {
  const { data } = Papa.parse<string[]>(
    text.replace(/^\uFEFF/, '').replace(/\r\n?|\n$/g, (end) => (end === '\r' || end === '\r\n' ? '\n' : '')),
    {
      delimiter: '\t',
      newline: '\n',
      header: false,
    },
  );
  const rows = data.at(-1)?.join('') === '' && data.length > 1 && data.at(-1)?.length === 1 ? data.slice(0, -1) : data;
  return rows.length === 1 && rows[0]?.length === 1 && rows[0][0] === '' ? [] : rows;
}
