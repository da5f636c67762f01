import { join } from 'node:path';
import type { FieldId } from '@larder/core/fields';
import { readTable } from '@larder/core/interchange/table';
import { FILE_PATHS, type AskedOrder } from '@larder/contract';
import { allJobsEnded, makeClip, scanned, soundsIn, TestLibrary, until, type Client } from './kit';

let library: TestLibrary;
let manager: Client;
let editor: Client;
let ids: number[];

const BY_NAME: AskedOrder = { field: 'name', descending: false };
const edit = (assetIds: readonly number[], set: Record<string, unknown>, addTags: string[] = []) =>
  editor.call('edit', {
    ...{ assetIds: [...assetIds], seenRevision: Number.MAX_SAFE_INTEGER, set: set as never, addTags, removeTags: [] },
  });
const atLeast = async () => (await editor.call('rows', { ids: [] })).revision;
const ascending = (list: readonly number[]) => [...list].sort((a, b) => a - b);
const found = async (query: string, client = editor) =>
  ascending((await client.call('searchIds', { query, atLeast: await atLeast() })).ids);

beforeAll(async () => {
  library = await TestLibrary.start(1);
  [manager, editor] = [await library.as('manager'), await library.as('editor')];
  ids = await soundsIn(library, manager, 'sound', 5);
}, 120_000);
afterAll(() => library.stop(), 60_000);

describe('where things lie', () => {
  it('is gathered on a map, with the places’ names and the nearest town, and found by distance', async () => {
    const [a = 0, b = 0, c = 0] = ids;
    await edit([a], { position: '51.4769, -0.0005', place: 'Quay' });
    await edit([b], { position: `51°28'37.2"N 0°00'01.8"W`, place: 'Quay' });
    await edit([c], { position: '-33.8568, 151.2153' });
    const whole = await editor.call('map', { query: '', atLeast: await atLeast() });
    expect(whole).toMatchObject({ placed: 3, total: 5, towns: [] });
    // By eye on any globe: an hour of the meridian’s town to London’s middle, and Sydney’s harbour.
    expect(whole.clusters.toSorted((x, y) => y.count - x.count)).toMatchObject([
      { count: 2, places: ['Quay'], town: { name: 'London', country: 'United Kingdom' } },
      { count: 1, id: c, town: { name: 'Sydney', country: 'Australia' } },
    ]);
    const box = { south: 51, west: -1, north: 52, east: 1 };
    const near = await editor.call('map', { query: '', box, columns: 60, atLeast: await atLeast() });
    expect(near.clusters).toHaveLength(1);
    expect(near.towns.map(({ name }) => name)).toContain('London');
    expect(await found('near:51.4769,-0.0005,100m')).toEqual(ascending([a, b]));
    expect(await found('near:-33.8,151.2,20km')).toEqual([c]);
    expect(await found('no:position')).toHaveLength(2);
    expect(await editor.refused('map', { box: { south: -91, west: 0, north: 0, east: 0 } })).toMatchObject({
      status: 422,
    });
    expect(await editor.refused('search', { query: 'near:91,0' })).toMatchObject({ status: 422 });
    expect(await found('near:quay')).toEqual(ascending([a, b]));
    expect(await found('near:quay <20000km')).toEqual(ascending([a, b, c]));
    expect(await found('near:there')).toEqual([]);
    const everywhere = `near:(${Array.from({ length: 11 }, (_unused, n) => `there${n}`).join(' or ')})`;
    expect(await editor.refused('search', { query: everywhere })).toMatchObject({ status: 422 });
    expect(await editor.refused('newLiveBin', { name: 'Everywhere', query: everywhere })).toMatchObject({
      status: 422,
    });
  });
  it('is what the file says, and so is the day', async () => {
    const shelf = library.shelf('cards');
    makeClip(join(shelf, 'A001C001.mov'), {
      more: ['-metadata', 'location=+50.4120-003.5180/', '-metadata', 'creation_time=2026-05-03T23:59:59Z'],
    });
    await scanned(manager, 'Cards', shelf);
    await allJobsEnded(manager);
    const [clip] = (await until('the clip', async () => {
      const { assets, total } = await editor.call('search', { query: 'storage:cards' });
      return total === 1 && assets;
    })) as readonly { id: number; logged: object; place: string | null }[];
    expect(clip).toMatchObject({ logged: { position: '50.4120, -3.5180' }, place: null });
    expect((await editor.call('days', { query: 'storage:cards' })).days).toEqual([
      { dayMs: Date.UTC(2026, 4, 3), count: 1 },
    ]);
    expect(await editor.refused('days', { field: 'nothing' as never })).toMatchObject({ status: 422 });
  });
});

describe('a list in groups', () => {
  it('stands beneath what each says, each group a search of its own', async () => {
    const sounds = 'storage:sound';
    await edit(ids.slice(0, 2), {}, ['dawn']);
    await edit(ids.slice(1, 3), {}, ['water']);
    const asked = { query: sounds, by: 'tag' as const, groups: true, atLeast: await atLeast() };
    const list = await editor.call('search', { ...asked, sort: BY_NAME });
    expect(list).toMatchObject({ total: 6, found: 5 });
    expect(list.groups?.map(({ label, count }) => [label, count])).toEqual([
      ['dawn', 2],
      ['water', 2],
      ['', 2],
    ]);
    expect(list.assets.map(({ name }) => name)).toEqual(['T0.wav', 'T1.wav', 'T1.wav', 'T2.wav', 'T3.wav', 'T4.wav']);
    // Whoever selects all selects each once.
    expect((await editor.call('searchIds', { ...asked, groups: undefined } as never)).ids).toHaveLength(5);
    // Windows further down do not carry the headings again.
    expect((await editor.call('search', { ...asked, groups: false, offset: 4, limit: 2 })).groups).toBeNull();
    for (const by of ['flag', 'colour']) expect(await editor.refused('search', { by })).toMatchObject({ status: 422 });
  });
});

describe('what a list offers to narrow it by', () => {
  it('is counted as of what was just written, in what the search finds, and of nobody’s own flags', async () => {
    const query = 'storage:sound';
    const offered = async (search: string, limit = 8) => {
      const asked = { query: search, fields: ['tag', 'kind'] satisfies FieldId[], limit, atLeast: await atLeast() };
      const { facets } = await editor.call('facets', asked);
      return facets.map(({ field, groups, more }) => [
        field,
        ...groups.map(({ label, count }) => [label, count]),
        more,
      ]);
    };
    expect(await offered(query)).toEqual([
      ['tag', ['dawn', 2], ['water', 2], ['', 2], 0],
      ['kind', ['audio', 5], 0],
    ]);
    // Chosen, it says of the others what they would be in its place, and of other fields what is found.
    expect(await offered(`${query} tag=dawn`, 1)).toEqual([
      ['tag', ['dawn', 2], 2],
      ['kind', ['audio', 2], 0],
    ]);
    await edit(ids.slice(3, 4), {}, ['dawn']);
    expect((await offered(query))[0]).toEqual(['tag', ['dawn', 3], ['water', 2], ['', 1], 0]);
    for (const fields of [['flag'], ['colour'], Array.from({ length: 41 }, () => 'tag')])
      expect(await editor.refused('facets', { query, fields: fields as never })).toMatchObject({ status: 422 });
    expect(await editor.refused('facets', { query: 'tag:', fields: ['tag'] })).toMatchObject({ status: 422 });
    await editor.call('undo', {});
  });
});

describe('order by hand in a bin', () => {
  it('is kept, moved before another or to the end, and taken along in a table', async () => {
    const { id: bin } = await editor.call('newBin', { name: 'Best', parentId: null });
    await editor.call('binAssets', { add: ids }, bin);
    const [a = 0, b = 0, c = 0, d = 0, e = 0] = ids;
    const sort = { ...BY_NAME, hand: bin };
    const list = async () => (await editor.call('search', { query: 'in:Best', sort, atLeast: await atLeast() })).assets;
    const order = async () => (await list()).map(({ id }) => id);
    expect(await order()).toEqual([a, b, c, d, e]);
    await editor.call('orderBin', { assetIds: [e, d], before: b }, bin);
    expect(await order()).toEqual([a, e, d, b, c]);
    await editor.call('orderBin', { assetIds: [a], before: null }, bin);
    expect(await order()).toEqual([e, d, b, c, a]);
    // Before one that moves along: before what stays after it.
    await editor.call('orderBin', { assetIds: [b, d], before: d }, bin);
    expect(await order()).toEqual([e, b, d, c, a]);
    expect(await editor.call('orderBin', { assetIds: [e], before: b }, bin)).toMatchObject({ changed: 0 });
    const text = await (
      await editor.raw('GET', FILE_PATHS.tableOf('csv', 'in:Best', ['name'], { ...BY_NAME, hand: bin }))
    ).text();
    expect(readTable(text).table.rows.map(([id]) => Number(id))).toEqual([e, b, d, c, a]);
    expect((await editor.raw('GET', '/files/table.csv?order=%7B%22field%22:%22no%22%7D')).status).toBe(422);
    // What is put in comes last; what is taken out leaves the others as they are.
    await editor.call('binAssets', { remove: [b] }, bin);
    await editor.call('binAssets', { add: [b] }, bin);
    expect(await order()).toEqual([e, d, c, a, b]);
    expect(await (await library.as('viewer')).refused('orderBin', { assetIds: [a], before: null }, bin)).toMatchObject({
      status: 403,
    });
    expect(await editor.refused('orderBin', { assetIds: [a], before: null }, 999_999)).toMatchObject({ status: 404 });
  });
});

describe('flags', () => {
  it('are everybody’s own, found by them alone, also by those who may only look', async () => {
    const viewer = await library.as('viewer');
    const [a = 0, b = 0] = ids;
    await editor.call('setFlags', { assetIds: [a, b], on: true });
    await viewer.call('setFlags', { assetIds: [b], on: true });
    expect(ascending((await editor.call('flags', null)).ids)).toEqual(ascending([a, b]));
    expect((await viewer.call('flags', null)).ids).toEqual([b]);
    expect(await found('flag:mine')).toEqual(ascending([a, b]));
    expect(await found('has:flag', viewer)).toEqual([b]);
    expect(await found('storage:sound no:flag', viewer)).toHaveLength(4);
    expect(await found('-(flag:mine or storage:cards)')).toHaveLength(3);
    // Nobody asks for another’s.
    expect(await editor.refused('search', { query: 'flag:p1' })).toMatchObject({ status: 422 });
    expect(await editor.call('setFlags', { assetIds: [a], on: true })).toMatchObject({ changed: 0 });
    await editor.call('setFlags', { assetIds: [a, b], on: false });
    expect(await found('flag:mine')).toEqual([]);
    expect(await found('flag:mine', viewer)).toEqual([b]);
    // The history of an asset says nothing of them.
    expect((await editor.call('history', null, a)).changes.map(({ action }) => action)).not.toContain('flag');
    const live = await editor.call('newLiveBin', { name: 'Mine', query: 'flag:mine' });
    expect(live.count).toBe(0);
    expect((await viewer.call('liveBins', null)).bins.find(({ id }) => id === live.id)?.count).toBe(1);
  });
});
