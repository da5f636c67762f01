import fc from 'fast-check';
import { BUILT_IN } from '@larder/core/fields';
import {
  proposeUses,
  readBlock,
  readTable,
  tableText,
  useIssue,
  wordTableIssue,
  wordUseIssue,
  writeBlock,
  writeRows,
  type ColumnUse,
} from '@larder/core/interchange/table';

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

/** RFC 4180, section 2, rule by rule, with the examples it gives. */
describe('a table of RFC 4180', () => {
  const rows = (text: string) => {
    const { table, issues } = readTable(text);
    return { heading: table.heading, rows: table.rows, issues };
  };
  it.each([
    ['1: records on lines of their own, parted by CRLF', 'h,i,j\r\naaa,bbb,ccc\r\nzzz,yyy,xxx\r\n'],
    ['2: the last record may have no line break', 'h,i,j\r\naaa,bbb,ccc\r\nzzz,yyy,xxx'],
    ['5: fields may be in quotes', '"h","i","j"\r\n"aaa","bbb","ccc"\r\nzzz,yyy,xxx'],
    ['line feeds alone, as most systems write them', 'h,i,j\naaa,bbb,ccc\nzzz,yyy,xxx\n'],
    ['tabs', 'h\ti\tj\naaa\tbbb\tccc\nzzz\tyyy\txxx\n'],
    ['semicolons', 'h;i;j\naaa;bbb;ccc\nzzz;yyy;xxx\n'],
    ['a mark of UTF-8 at the head', '\uFEFFh,i,j\r\naaa,bbb,ccc\r\nzzz,yyy,xxx\r\n'],
  ])('%s', (_rule, text) =>
    expect(rows(text)).toEqual({
      heading: ['h', 'i', 'j'],
      rows: [
        ['aaa', 'bbb', 'ccc'],
        ['zzz', 'yyy', 'xxx'],
      ],
      issues: [],
    }),
  );
  it('4: spaces are part of a field', () => expect(rows('a,b\n x , y ').rows).toEqual([[' x ', ' y ']]));
  it('6: line breaks, quotes and commas in quotes', () =>
    expect(rows('a,b,c\r\n"aaa","b \r\nbb","ccc"\r\nzzz,"y,y",xxx').rows).toEqual([
      ['aaa', 'b \r\nbb', 'ccc'],
      ['zzz', 'y,y', 'xxx'],
    ]));
  it('7: a quote within quotes is doubled', () =>
    expect(rows('a,b,c\r\n"aaa","b""bb","ccc"').rows).toEqual([['aaa', 'b"bb', 'ccc']]));

  it('short rows are filled up and empty ones left out; long ones and open quotes are told with their rows', () => {
    expect(rows('a,b\n1\n\n,\n2,3')).toEqual({
      heading: ['a', 'b'],
      rows: [
        ['1', ''],
        ['2', '3'],
      ],
      issues: [],
    });
    expect(readTable('a,b\n1\n\n,\n2,3').table.numbers).toEqual([2, 5]);
    expect(rows('a,b\n1,2,3\n4,5,\n6,7,8,9').issues).toEqual([
      { code: 'row-width', row: 2, cells: 3, wanted: 2 },
      { code: 'row-width', row: 4, cells: 4, wanted: 2 },
    ]);
    expect(rows('a,b\n"1,2\n3,4').issues).toContainEqual({ code: 'quote-open', row: 2 });
    expect(rows('').issues).toEqual([{ code: 'empty' }]);
    expect(rows('a,b\n').issues).toEqual([{ code: 'no-rows' }]);
    expect(rows(`${'x,'.repeat(600)}x\n1`).issues).toEqual([{ code: 'too-many-columns', most: 500 }]);
    expect(wordTableIssue({ code: 'row-width', row: 4, cells: 4, wanted: 2 })).toContain('Row 4 has 4 cells');
  });

  it('any rows, written and read, are the same', () => {
    const cell = fc.string({ maxLength: 8, unit: 'binary' }).map((text) => text.replace(/^\uFEFF/, ''));
    const table = fc.array(fc.tuple(cell, cell, fc.constant('|')), { minLength: 1, maxLength: 5 });
    fc.assert(
      fc.property(table, fc.constantFrom(',', '\t', ';'), (cells, delimiter) => {
        const text = writeRows([['first', 'second', 'third'], ...cells], delimiter);
        expect(readTable(text)).toMatchObject({ table: { delimiter, rows: cells }, issues: [] });
      }),
    );
  });
  it('whatever a file holds is a table or issues in words', () =>
    fc.assert(
      fc.property(fc.uint8Array({ maxLength: 60 }), (bytes) => {
        const text = tableText(bytes);
        const issues = text === null ? [{ code: 'not-text' as const }] : readTable(text).issues;
        for (const issue of issues) expect(wordTableIssue(issue)).toMatch(/\w/);
      }),
    ));
  it('UTF-8 and UTF-16 are read; bytes that are neither, and those of other files, are not', () => {
    const utf16 = (text: string) => new Uint8Array([0xff, 0xfe, ...Buffer.from(text, 'utf16le')]);
    expect(tableText(utf16('Écluse'))).toBe('Écluse');
    expect(tableText(Buffer.from('Écluse 水'))).toBe('Écluse 水');
    expect(tableText(new Uint8Array([0xc9, 0x63]))).toBeNull();
    expect(tableText(Buffer.from('PK\u0003\u0004\0\0'))).toBeNull();
  });
});

describe('what columns mean', () => {
  const uses = (...heading: string[]) =>
    proposeUses(heading, BUILT_IN).map((each) =>
      each.use === 'field' ? each.field : each.use === 'match' ? `=${each.key}` : each.use,
    );
  it('is told by their headings, in any case, by labels and by the names of open standards', () => {
    expect(uses('Asset number', 'Title', 'DESCRIPTION', 'dc:subject', 'Keywords', 'Shot size', 'Weather')).toEqual([
      '=asset',
      'title',
      'description',
      'none',
      'tags',
      'framing',
      'none',
    ]);
    expect(uses('Source file', 'file name', 'Notes')).toEqual(['=path', 'none', 'notes']);
    expect(uses('Clip', 'Start TC', 'Tape', 'xmpDM:scene', 'Take')).toEqual([
      '=name',
      '=start',
      '=reel',
      'scene',
      'take',
    ]);
  });
  it('a reel names a clip only with something else, and is a field without', () => {
    expect(uses('Reel', 'Scene')).toEqual(['reel', 'scene']);
    expect(uses('Asset', 'Reel')).toEqual(['=asset', 'reel']);
  });
  it('nothing is taken twice', () =>
    expect(uses('Path', 'Title', 'title', 'Name')).toEqual(['=path', 'title', 'none', 'none']));
  it.each<[ColumnUse[], string | null]>([
    [[{ use: 'field', field: 'title' }], 'nothing-matches'],
    [
      [
        { use: 'match', key: 'reel' },
        { use: 'field', field: 'title' },
      ],
      'reel-alone',
    ],
    [[{ use: 'match', key: 'name' }, { use: 'none' }], 'nothing-said'],
    [[{ use: 'match', key: 'name' }, { use: 'tags' }, { use: 'tags' }], 'twice'],
    [
      [
        { use: 'match', key: 'name' },
        { use: 'field', field: 'title' },
        { use: 'field', field: 'title' },
      ],
      'twice',
    ],
    [
      [
        { use: 'match', key: 'name' },
        { use: 'field', field: 'size' },
      ],
      'no-such-field',
    ],
    [
      [
        { use: 'match', key: 'name' },
        { use: 'field', field: '__proto__' },
      ],
      'no-such-field',
    ],
    [[{ use: 'match', key: 'name' }, { use: 'tags' }], null],
  ])('%j: %s', (columns, code) => {
    const issue = useIssue(columns, BUILT_IN);
    expect(issue?.code ?? null).toBe(code);
    if (issue) expect(wordUseIssue(issue)).toMatch(/\w/);
  });
});
