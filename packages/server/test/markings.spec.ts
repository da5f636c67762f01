import { writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { readTable } from '@larder/core/interchange/table';
import { FILE_PATHS } from '@larder/contract';
import { allJobsEnded, type Client, makeClip, scanned, TestLibrary, until } from './kit';
import { wave } from './wave';

const BY_NAME = { field: 'name', descending: false } as const;

let library: TestLibrary;
let manager: Client;
let editor: Client;
let clip: number;
let sound: number;

beforeAll(async () => {
  library = await TestLibrary.start(1);
  [manager, editor] = [await library.as('manager'), await library.as('editor')];
  const shelf = library.shelf('shelf');
  makeClip(join(shelf, 'clip.mov'));
  writeFileSync(join(shelf, 'sound.wav'), wave(1));
  await scanned(manager, 'Shelf', shelf);
  await allJobsEnded(manager);
  const assets = await until('the index', async () => {
    const answer = await manager.call('search', { query: '' });
    return answer.total === 2 && answer.assets;
  });
  [clip, sound] = ['clip.mov', 'sound.wav'].map((name) => assets.find((each) => each.name === name)?.id ?? 0) as [
    number,
    number,
  ];
}, 120_000);
afterAll(() => library.stop(), 60_000);

const all = async () => (await editor.call('markings', null)).markings;
const mark = (marking: string | null, client = editor) =>
  client.call('edit', {
    ...{ assetIds: [clip], seenRevision: Number.MAX_SAFE_INTEGER, set: { marking } },
    ...{ addTags: [], removeTags: [] },
  });
const byHand = async () => (await editor.call('rows', { ids: [clip] })).assets[0]?.logged['marking'];
const tableRows = async () => {
  const path = FILE_PATHS.tableOf('csv', '', ['name', 'marking'], BY_NAME);
  const { table } = readTable(await (await editor.raw('GET', path)).text());
  return table.rows.map((cells) =>
    Object.fromEntries(table.heading.map((heading, column) => [heading, cells[column]])),
  );
};

describe('markings', () => {
  it('are there in an order, with rules that can be read, and each name once', async () => {
    await manager.call('newMarking', { name: 'Urgent', colour: 'red', rule: '' });
    await manager.call('newMarking', { name: 'Sound', colour: 'blue', rule: 'kind:audio' });
    const [first, second] = await all();
    await manager.call('orderMarkings', { ids: [second?.id ?? 0, first?.id ?? 0] });
    expect((await all()).map(({ name }) => name)).toEqual(['Sound', 'Urgent']);
    const refused = (body: object, client = manager) =>
      client.refused('newMarking', { colour: 'red', rule: '', ...body });
    expect(await refused({ name: 'URGENT' })).toMatchObject({
      error: { reason: 'There is a marking “Urgent” already.' },
    });
    expect(await refused({ name: 'Broken', rule: 'tag:(' })).toMatchObject({
      error: { reason: expect.stringContaining('The rule cannot be read.') as unknown },
    });
    expect(await refused({ name: 'Around', rule: 'near:Ottermouth' })).toMatchObject({
      error: { reason: expect.stringContaining('write its degrees') as unknown },
    });
    expect(await refused({ name: 'Mine' }, editor)).toMatchObject({ status: 403 });
  });

  it('are put on by hand like any field, found, undone, and go into tables with those that rules give', async () => {
    const { revision } = await mark('Urgent');
    expect(await byHand()).toBe('Urgent');
    const found = await until('the index', async () => {
      const answer = await editor.call('searchIds', { query: 'marked:urgent', atLeast: revision });
      return answer.revision >= revision && answer.ids;
    });
    expect(found).toEqual([clip]);
    expect(await tableRows()).toEqual([
      {
        'Asset number': String(clip),
        Path: 'Shelf/clip.mov',
        'Marked as': 'Urgent',
        Name: 'clip.mov',
        Marked: 'Urgent',
      },
      { 'Asset number': String(sound), Path: 'Shelf/sound.wav', 'Marked as': 'Sound', Name: 'sound.wav', Marked: '' },
    ]);
    await editor.call('undo', {});
    expect(await byHand()).toBeUndefined();
    expect(
      await editor.refused('edit', {
        ...{ assetIds: [clip], seenRevision: 1e9, set: { marking: 'No such' }, addTags: [], removeTags: [] },
      }),
    ).toMatchObject({ status: 422 });
  });

  it('go along into a string-out’s OpenTimelineIO', async () => {
    await mark('Urgent');
    const project = await manager.call('newProject', { name: 'P', description: null, counting: '25' });
    const { id } = await manager.call('newStringOut', { name: 'S', projectId: project.id, assetIds: [clip] });
    const text = await (await editor.raw('GET', FILE_PATHS.cutList(id, 'otio'))).text();
    expect(text).toMatch(/"marking":\s*"Urgent"/);
  });

  it('renamed go on being on what had them, and removed are taken off it', async () => {
    const urgent = (await all()).find(({ name }) => name === 'Urgent');
    await manager.call('changeMarking', { name: 'At once', colour: 'orange', rule: '' }, urgent?.id ?? 0);
    expect(await byHand()).toBe('At once');
    await manager.call('removeMarking', null, urgent?.id ?? 0);
    expect(await byHand()).toBeUndefined();
    expect((await editor.call('history', null, clip)).changes[0]).toMatchObject({
      ...{ action: 'remark', before: { marking: 'At once' }, after: { marking: null } },
    });
    expect(await manager.refused('removeMarking', null, urgent?.id)).toMatchObject({ status: 404 });
  });
});
