import fc from 'fast-check';
import { readBlock, writeBlock } from '@larder/core/interchange/table';

/** Section 2 of RFC 4180, with tabs in the place of commas, as spreadsheets put cells on the clipboard. */
describe('a block of cells', () => {
  it.each([
    [
      'one line for each row, with or without a break at the end',
      'a\tb\nc\td\n',
      [
        ['a', 'b'],
        ['c', 'd'],
      ],
    ],
    [
      'breaks as CR LF',
      'a\tb\r\nc\td\r\n',
      [
        ['a', 'b'],
        ['c', 'd'],
      ],
    ],
    ['cells in quotes', '"a"\t"b"', [['a', 'b']]],
    ['breaks, tabs and quotes within quotes', '"a\nb"\t"c\td"\t"e""f"', [['a\nb', 'c\td', 'e"f']]],
    ['empty cells and rows', 'a\t\n\nb', [['a', ''], [''], ['b']]],
    ['commas as they are', 'Ada, Nan\tx', [['Ada, Nan', 'x']]],
    ['one cell', 'a', [['a']]],
    ['nothing', '', []],
  ])('%s', (_what, text, cells) => expect(readBlock(text)).toEqual(cells));

  it('any cells, quoted and read, are the same cells', () => {
    const cell = fc.string({ maxLength: 8 }).map((text) => text.replace(/\r/g, '').replace(/^\uFEFF/, ''));
    const block = fc
      .integer({ min: 2, max: 4 })
      .chain((width) =>
        fc.array(fc.array(cell, { minLength: width, maxLength: width }), { minLength: 1, maxLength: 5 }),
      );
    const quoted = (text: string) => `"${text.replace(/"/g, '""')}"`;
    fc.assert(
      fc.property(block, (rows) =>
        expect(readBlock(rows.map((row) => row.map(quoted).join('\t')).join('\n'))).toEqual(rows),
      ),
    );
  });
  it('any cells, written and read, are the same cells', () => {
    const cell = fc.string({ maxLength: 8 }).map((text) => text.replace(/\r/g, '').replace(/^\uFEFF/, ''));
    const block = fc.array(fc.array(cell, { minLength: 2, maxLength: 2 }), { minLength: 1, maxLength: 5 });
    fc.assert(fc.property(block, (rows) => expect(readBlock(writeBlock(rows))).toEqual(rows)));
    expect(readBlock(writeBlock([['two\nlines, "one" cell']]))).toEqual([['two\nlines, "one" cell']]);
  });
  it('whatever is on the clipboard is rows of cells', () =>
    fc.assert(fc.property(fc.string(), (text) => expect(Array.isArray(readBlock(text))).toBe(true))));
});
