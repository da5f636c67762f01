import { writeFileSync } from 'node:fs';
import { join } from 'node:path';
import type { NewShopField } from '@larder/core/fields';
import { readTable, type ColumnUse } from '@larder/core/interchange/table';
import { FILE_PATHS, type Asset, type ReadTable, type TableAnswer, type TableLook } from '@larder/contract';
import { catalogueMany } from './many';
import { allJobsEnded, type Client, jobEnded, scanned, TestLibrary, until } from './kit';
import { wave } from './wave';

const BY_NAME = { field: 'name', descending: false } as const;

let library: TestLibrary;
let manager: Client;
let editor: Client;
let other: Client;
const NAMES = ['T1', 'T2', 'T3', 'T4', 'T5', 'T6'];
const ids = new Map<string, number>();

beforeAll(async () => {
  library = await TestLibrary.start(1);
  manager = await library.as('manager');
  [editor, other] = [await library.as('editor'), await library.as('other')];
  let tones = 0;
  for (const shelf of ['Sound', 'Other sound']) {
    const folder = library.shelf(shelf);
    // One name is on both shelves.
    for (const name of shelf === 'Sound' ? NAMES : ['T1'])
      writeFileSync(join(folder, `${name}.wav`), wave((tones += 1)));
    await scanned(manager, shelf, folder);
  }
  await allJobsEnded(manager);
  const assets = await until('the index', async () => {
    const found = await manager.call('search', {});
    return found.total === 7 && found.assets;
  });
  for (const { id, name, storage } of assets) if (storage === 'Sound') ids.set(name.replace('.wav', ''), id);
}, 120_000);
afterAll(() => library.stop(), 60_000);

const id = (name: string) => ids.get(name) ?? 0;
const rowOf = async (name: string) => (await editor.call('rows', { ids: [id(name)] })).assets[0] as Asset;

async function send(text: string | Uint8Array, client = editor): Promise<TableLook> {
  const response = await fetch(`${library.base}${FILE_PATHS.tables}?name=sheet.csv`, {
    method: 'POST',
    body: text as never,
    headers: { cookie: client.cookie, 'content-type': 'text/csv' },
  });
  if (!response.ok) throw new Error(`${response.status} ${await response.text()}`);
  return (await response.json()) as TableLook;
}

async function read(look: TableLook, more: Partial<ReadTable> = {}): Promise<TableAnswer> {
  const { revision } = await editor.call('status', null);
  const body: ReadTable = {
    ...{ table: look.table, fileName: look.fileName, uses: look.uses },
    ...{ empty: 'leave', otherTags: 'keep', keep: true, seenRevision: revision },
    ...more,
  };
  const { job } = await editor.call('readTable', body);
  await jobEnded(manager, job.id);
  return editor.call('tableReport', null, job.id);
}
const reportOf = async (look: TableLook, more: Partial<ReadTable> = {}) => {
  const { job, report } = await read(look, more);
  if (!report) throw new Error(job.message ?? 'no report');
  return { ...report, jobId: job.id };
};
const textOf = async (path: string, client = editor) =>
  (await fetch(library.base + path, { headers: { cookie: client.cookie } })).text();

describe('a table', () => {
  it('is looked at first: its columns with samples and what they most likely mean', async () => {
    const look = await send('Asset number,Title,Keywords,Weather\n1,Dawn,"lock, barge",dry\n2,,,dry\n');
    expect(look).toMatchObject({
      ...{ fileName: 'sheet.csv', delimiter: ',', rows: 2, issues: [] },
      columns: [
        { heading: 'Asset number', samples: ['1', '2'] },
        { heading: 'Title', samples: ['Dawn'] },
        { heading: 'Keywords', samples: ['lock, barge'] },
        { heading: 'Weather', samples: ['dry'] },
      ],
      uses: [{ use: 'match', key: 'asset' }, { use: 'field', field: 'title' }, { use: 'tags' }, { use: 'none' }],
    });
  });

  it('is tried without a trace, then read, and undone as one', async () => {
    const look = await send(
      `name,title,scene,rating,tags\nT1.wav,One,1A,4,"dawn, lock"\nT2,Two,1B,9,dawn\nT9,Nine,,,\nT3.wav,,,,\n`,
    );
    const uses: ColumnUse[] = [...look.uses];
    const { revision } = await editor.call('status', null);
    const tried = await reportOf(look, { keep: false, uses });
    expect(tried).toMatchObject({
      ...{ kept: false, rows: 4, matched: 2, changed: 1, same: 1, group: null },
      problems: { 'no-match': 1, several: 1, refused: 1, 'no-key': 0, twice: 0, conflict: 0 },
    });
    expect(tried.shownProblems.map(({ row, message }) => [row, message])).toEqual([
      [2, '2 assets have Name T1.wav.'],
      [3, '“9”: Rating is a whole number from 1 to 5.'],
      [4, 'No asset has Name T9.'],
    ]);
    expect(tried.shownChanges).toContainEqual({
      ...{ row: 3, assetId: id('T2'), name: 'T2.wav' },
      ...{ field: 'title', before: null, after: 'Two' },
    });
    expect((await editor.call('status', null)).revision).toBe(revision);
    expect((await rowOf('T2')).tags).toEqual([]);
    expect((await editor.call('tags', null)).tags.map(({ name }) => name)).not.toContain('dawn');

    const kept = await reportOf(look, { uses });
    expect(kept).toMatchObject({ kept: true, changed: 1, matched: 2 });
    expect(await rowOf('T2')).toMatchObject({ title: 'Two', scene: '1B', tags: ['dawn'], logged: {} });
    const again = await reportOf(look, { uses });
    expect(again).toMatchObject({ changed: 0, same: 2, group: null });
    await editor.call('undo', { group: kept.group ?? '' });
    expect(await rowOf('T2')).toMatchObject({ title: null, scene: null, tags: [] });
  });

  it('says row by row what became of it, in a file to be taken along', async () => {
    const { jobId } = await reportOf(await send(`asset,title\n${id('T4')},Four\n99999,Nobody\n`));
    const { table } = readTable(await textOf(FILE_PATHS.tableReport(jobId)));
    expect(table.rows.toSorted()).toEqual([
      ['2', 'changed', String(id('T4')), 'Title', ''],
      ['3', 'left out', '', '', 'No asset has Asset number 99999.'],
    ]);
  });

  it('finds assets by path, with and without the storage, by checksum, and by all of name, reel and timecode', async () => {
    await jobEnded(manager, (await manager.call('verify', { assetIds: [id('T5')] })).job.id);
    const [check] = (await manager.call('fixityOf', null, id('T5'))).checks;
    for (const [heading, value, name] of [
      ['Path', 'Sound/T1.wav', 'T1'],
      ['Path', 'T2.wav', 'T2'],
      ['Checksum', (check?.xxh64 ?? '').toUpperCase(), 'T5'],
    ] as const) {
      const report = await reportOf(await send(`${heading},Notes\n${value},by ${heading}\n`));
      expect([heading, report.changed, (await rowOf(name)).notes]).toEqual([heading, 1, `by ${heading}`]);
    }
    await editor.call('edit', {
      ...{ assetIds: [id('T1')], seenRevision: Number.MAX_SAFE_INTEGER },
      ...{ set: { reel: 'R7' }, addTags: [], removeTags: [] },
    });
    const both = await reportOf(await send('Clip name,Reel,Notes\nt1,r7,told apart\nT2,R7,wrong reel\n'));
    expect(both).toMatchObject({ matched: 1, problems: { 'no-match': 1 } });
    expect((await rowOf('T1')).notes).toBe('told apart');
  });

  it('empty cells leave what is there, or clear it; tags are added, or stand in place of the others', async () => {
    const sheet = (title: string, tags: string) => send(`asset,title,tags\n${id('T6')},${title},"${tags}"\n`);
    await reportOf(await sheet('Six', 'dawn, lock'));
    await reportOf(await sheet('', 'barge'));
    expect(await rowOf('T6')).toMatchObject({ title: 'Six', tags: ['barge', 'dawn', 'lock'] });
    await reportOf(await sheet('Six', 'Barge, dusk'), { otherTags: 'drop' });
    expect((await rowOf('T6')).tags).toEqual(['barge', 'dusk']);
    await reportOf(await sheet('', ''), { otherTags: 'drop' });
    expect(await rowOf('T6')).toMatchObject({ title: 'Six', tags: ['barge', 'dusk'] });
    await reportOf(await sheet('', ''), { empty: 'clear', otherTags: 'drop' });
    expect(await rowOf('T6')).toMatchObject({ title: null, tags: [] });
  });

  it('does not write over what a colleague has said since it was tried', async () => {
    const look = await send(`asset,title,notes\n${id('T3')},Mine,Mine too\n${id('T3')},Twice,\n`);
    const { revision } = await editor.call('status', null);
    await other.call('edit', {
      ...{ assetIds: [id('T3')], seenRevision: revision },
      ...{ set: { title: 'Theirs' }, addTags: [], removeTags: [] },
    });
    const report = await reportOf(look, { seenRevision: revision });
    expect(report.problems).toMatchObject({ conflict: 1, twice: 1 });
    expect(report.shownProblems.find(({ kind }) => kind === 'conflict')?.message).toBe(
      'Title: The other editor has said “Theirs” since the table was tried.',
    );
    expect(await rowOf('T3')).toMatchObject({ title: 'Theirs', notes: 'Mine too' });
  });

  it('takes only tags of sets where the library allows no others', async () => {
    await manager.call('freeTags', { allowed: false });
    const report = await reportOf(await send(`asset,tags\n${id('T3')},unheard of\n`));
    expect(report.shownProblems[0]?.message).toContain('no tag of any set');
    expect((await rowOf('T3')).tags).toEqual([]);
    await manager.call('freeTags', { allowed: true });
  });

  it('a long one, written by several writes at once, is told of in its own order, with a row that means an asset again', async () => {
    const none = Array.from({ length: 5000 }, (_unused, n) => `${900_000 + n},Nobody`);
    const rows = [`${id('T5')},First`, ...none, `${id('T5')},Second`, `${id('T6')},Six`];
    const { jobId, ...report } = await reportOf(await send(`asset,title\n${rows.join('\n')}\n`));
    expect(report).toMatchObject({ rows: 5003, matched: 2, changed: 2, problems: { 'no-match': 5000, twice: 1 } });
    const { table } = readTable(await textOf(FILE_PATHS.tableReport(jobId)));
    const told = table.rows.map(([row = '', what]) => [Number(row), what] as const);
    expect(told.filter(([, what]) => what === 'changed').map(([row]) => row)).toEqual([2, 5004]);
    expect(told.findIndex(([row]) => row === 5002)).toBeGreaterThan(told.findIndex(([row]) => row === 4000));
    expect(await rowOf('T5')).toMatchObject({ title: 'First' });
  });

  it('a table that said something different of many is undone whole, also where its tags may not be used any more', async () => {
    const { storages } = await manager.call('storages', null);
    await catalogueMany(library.library, storages.find(({ name }) => name === 'Other sound')?.id ?? 0, 60);
    const many = await until('the many', async () => {
      const { ids: found } = await manager.call('searchIds', { query: 'path:f' });
      return found.length === 60 && found;
    });
    const sheet = many.map((each, n) => `${each},Row ${n},"loose, word${n}"`).join('\n');
    const report = await reportOf(await send(`asset,title,tags\n${sheet}\n`));
    expect(report.changed).toBe(60);
    const again = many.map((each) => `${each},Again,"loose, other"`).join('\n');
    await reportOf(await send(`asset,title,tags\n${again}\n`), { otherTags: 'drop' });
    await manager.call('freeTags', { allowed: false });
    await editor.call('undo', {});
    const [first] = (await editor.call('rows', { ids: many.slice(0, 1) })).assets;
    expect(first).toMatchObject({ title: 'Row 0', tags: ['loose', 'word0'] });
    expect((await editor.call('undo', {})).changed).toBe(60);
    const rows = (await editor.call('rows', { ids: [...many] })).assets;
    expect(rows.every(({ title, tags }) => tags.length === 0 && title?.startsWith('Lock'))).toBe(true);
    await manager.call('freeTags', { allowed: true });
  });

  it('a tag that is new to the library comes to every row, in whichever of several writes it is made', async () => {
    const { storages } = await manager.call('storages', null);
    await catalogueMany(library.library, storages.find(({ name }) => name === 'Sound')?.id ?? 0, 9000, 'g');
    const many = await until('the many', async () => {
      const { ids: found } = await manager.call('searchIds', { query: 'path:g' });
      return found.length === 9000 && found;
    });
    for (const tag of ['brand new', 'newer still', 'newest']) {
      const sheet = many.map((each) => `${each},${tag}`).join('\n');
      expect(await reportOf(await send(`asset,tags\n${sheet}\n`))).toMatchObject({ changed: 9000 });
      const { revision } = await editor.call('status', null);
      const { found } = await editor.call('search', { query: `tag="${tag}"`, limit: 0, atLeast: revision });
      expect([tag, found]).toEqual([tag, 9000]);
    }
  });

  it('what is sent is hostile until parsed', async () => {
    for (const [bytes, words] of [
      [new Uint8Array([0x50, 0x4b, 3, 4, 0, 0]), 'not text'],
      [new Uint8Array(), 'no heading'],
      ['a,b\n"1,2', 'Row 2'],
      ['a,b\n1,2,3', 'Row 2 has 3 cells'],
    ] as const) {
      const look = await send(bytes);
      expect([look.issues.join(' '), look.table]).toEqual([expect.stringContaining(words), '']);
    }
    const viewer = await library.as('viewer');
    await expect(send('a,b\n1,2', viewer)).rejects.toThrow('403');
    const look = await send(`asset,title\n1,x\n`);
    const body = { ...look, empty: 'leave', otherTags: 'keep', keep: true, seenRevision: 0 };
    const asked = (more: object) => {
      const { rows: _rows, delimiter: _delimiter, columns: _columns, issues: _issues, ...rest } = body;
      return editor.refused('readTable', { ...rest, ...more });
    };
    expect(await asked({ table: '../../../etc/passwd' })).toMatchObject({ status: 422 });
    expect(await asked({ uses: [{ use: 'field', field: 'title' }] })).toMatchObject({
      error: { reason: expect.stringContaining('Say by which column') as unknown },
    });
    expect(await asked({ uses: [{ use: 'match', key: 'sql' }] })).toMatchObject({ status: 422 });
    expect((await read({ ...look, table: 'nowhere-to-be-found' })).job).toMatchObject({ state: 'failed' });
    expect(await textOf('/files/table.csv?columns=__proto__')).toContain('There is no column __proto__');
  });
});

describe('what a search found, as a table', () => {
  const FIELDS: readonly (Partial<NewShopField> & Pick<NewShopField, 'label' | 'type'>)[] = [
    { label: 'Line', type: 'text' },
    { label: 'Story', type: 'longText' },
    { label: 'Depth', type: 'number', unit: 'm' },
    { label: 'Cleared', type: 'yesNo' },
    { label: 'Due', type: 'dateMs' },
    { label: 'Team', type: 'choice', choices: ['First', 'Second'] },
    { label: 'Uses', type: 'choices', choices: ['teaser', 'series', 'web'] },
    { label: 'Heard', type: 'names' },
    { label: 'Sync', type: 'timecode' },
    { label: 'Page', type: 'url' },
  ];

  it.each(['csv', 'tsv'] as const)('comes back as %s with every type of field as it was', async (format) => {
    const there = (await manager.call('fields', null)).fields;
    for (const field of FIELDS)
      if (!there.some(({ label }) => label === field.label))
        await manager.call('newField', {
          ...{
            help: '',
            group: 'logged',
            choices: [],
            unit: '',
            plain: false,
            retired: false,
            range: null,
            standard: '',
          },
          ...field,
        });
    const keys = new Map((await manager.call('fields', null)).fields.map(({ key, label }) => [label, `shop_${key}`]));
    const said = {
      Line: '=SUM(1,2) "quoted"',
      Story: 'Two lines,\nand a tab\there; “水” مرحبا 🎬',
      Depth: -2.125,
      Cleared: 'yes',
      Due: Date.UTC(2026, 4, 12),
      Team: 'Second',
      Uses: ['teaser', 'web'],
      Heard: ['Ada Fenn', 'Nan'],
      Sync: '10:04:00;02',
      Page: 'https://example.org/a?b=c,d',
    };
    const set = Object.fromEntries(Object.entries(said).map(([label, value]) => [keys.get(label) ?? label, value]));
    const seenRevision = Number.MAX_SAFE_INTEGER;
    const whole = { title: 'A title, with a comma', rating: 3, people: ['Ada Fenn'], ...set };
    await editor.call('edit', {
      ...{ assetIds: [id('T1')], seenRevision, set: whole, addTags: ['slow water', 'dawn'], removeTags: [] },
    });
    const before = await rowOf('T1');
    const columns = ['name', 'start', 'duration', 'tag', 'shot', 'size', ...Object.keys(whole)];
    const query = 'title:"with a comma"';
    const text = await until('the table', async () => {
      const found = await textOf(FILE_PATHS.tableOf(format, query, columns, BY_NAME));
      return found.includes('A title, with') && found;
    });
    const { table } = readTable(text);
    expect(table).toMatchObject({
      delimiter: format === 'csv' ? ',' : '\t',
      rows: [[String(id('T1')), 'Sound/T1.wav']].map((keysOf) => expect.arrayContaining(keysOf) as unknown),
    });

    await editor.call('edit', {
      ...{ assetIds: [id('T1')], seenRevision, removeTags: ['slow water', 'dawn'], addTags: [] },
      set: Object.fromEntries(Object.keys(whole).map((field) => [field, null])),
    });
    expect((await rowOf('T1')).logged).toEqual({});
    const report = await reportOf(await send(text));
    expect(report).toMatchObject({ changed: 1, shownProblems: [] });
    const after = await rowOf('T1');
    expect({ ...after, stateSinceMs: 0 }).toEqual({ ...before, stateSinceMs: 0 });
  });
});
