import { join } from 'node:path';
import { STARTER_BINS } from '@larder/core/query';
import type { AskedOrder } from '@larder/contract';
import { allJobsEnded, makeClip, scanned, soundsIn, TestLibrary, type Client } from './kit';

let library: TestLibrary;
let editor: Client;
let viewer: Client;
let other: Client;
let ids: number[];

const atLeast = async () => (await editor.call('rows', { ids: [] })).revision;
const found = async (query: string, client = editor) =>
  [...(await client.call('searchIds', { query, atLeast: await atLeast() })).ids].sort((a, b) => a - b);
const tag = (assetIds: readonly number[], ...addTags: string[]) =>
  editor.call('edit', {
    ...{ assetIds: [...assetIds], seenRevision: Number.MAX_SAFE_INTEGER, set: {}, addTags, removeTags: [] },
  });
const seen = async (client: Client, id: number) =>
  (await client.call('liveBins', null)).bins.find((bin) => bin.id === id);

beforeAll(async () => {
  library = await TestLibrary.start(1);
  const manager = await library.as('manager');
  [editor, viewer, other] = [await library.as('editor'), await library.as('viewer'), manager];
  ids = (await soundsIn(library, manager, 'sound', 5)).sort((a, b) => a - b);
  await tag(ids.slice(0, 3), 'dawn');
  await tag(ids.slice(2, 4), 'bells');
}, 120_000);
afterAll(() => library.stop(), 60_000);

describe('live bins that refer to others', () => {
  it('find what those find, in every search', async () => {
    const dawn = await editor.call('newLiveBin', { name: 'Early light', query: 'tag:dawn' });
    const both = await editor.call('newLiveBin', { name: 'Both', query: 'in:"Early light" tag:bell' });
    expect([dawn.count, both.count]).toEqual([3, 1]);
    expect(await found('in:"Early light"')).toEqual(ids.slice(0, 3));
    expect(await found('-in:"early LIGHT"')).toEqual(ids.slice(3));
    expect(await found('in=both or tag=bells')).toEqual(ids.slice(2, 4));
    // Words of a name are those of bins filled by hand.
    expect(await found('in:early')).toEqual([]);
    // A name means one or the other.
    expect(await editor.refused('newBin', { name: 'Early-Light', parentId: null })).toMatchObject({ status: 422 });
    const hand = await editor.call('newBin', { name: 'By hand', parentId: null });
    expect(await editor.refused('newLiveBin', { name: 'by hand', query: 'tag:dawn' })).toMatchObject({ status: 422 });
    expect(await editor.refused('changeBin', { name: 'Early light', parentId: null }, hand.id)).toMatchObject({
      status: 422,
    });
    // What it is narrowed by is counted in what it finds.
    const { facets } = await viewer.call('facets', {
      query: 'in:"Early light"',
      fields: ['tag'],
      atLeast: await atLeast(),
    });
    expect(facets[0]?.groups.map(({ label, count }) => [label, count])).toEqual([
      ['dawn', 3],
      ['bells', 1],
    ]);
    await tag([ids[4] as number], 'dawn');
    expect((await seen(viewer, dawn.id))?.count).toBe(4);
  });

  it('do not go round in a circle, however long', async () => {
    const { bins } = await editor.call('liveBins', null);
    const dawn = bins.find(({ name }) => name === 'Early light');
    const refusal = await editor.refused(
      'changeLiveBin',
      { name: 'Early light', query: 'tag:dawn or in:Both' },
      dawn?.id,
    );
    expect(refusal).toMatchObject({ status: 422 });
    expect(JSON.stringify(refusal)).toContain('“Early light” → “Both” → “Early light”');
    expect(await editor.refused('newLiveBin', { name: 'Self', query: 'no:tag or in:self' })).toMatchObject({
      status: 422,
    });
    // Two that are written at once: one of them comes too late.
    await editor.call('newLiveBin', { name: 'One', query: 'tag:dawn' });
    const two = await editor.call('newLiveBin', { name: 'Two', query: 'tag:dawn' });
    const one = (await editor.call('liveBins', null)).bins.find(({ name }) => name === 'One');
    const outcomes = await Promise.allSettled([
      editor.call('changeLiveBin', { name: 'One', query: 'in:Two' }, one?.id),
      other.call('changeLiveBin', { name: 'Two', query: 'in:One' }, two.id),
    ]);
    expect(outcomes.map(({ status }) => status).sort()).toEqual(['fulfilled', 'rejected']);
  });

  it('do not grow beyond what can be asked, though each refers to others only twice', async () => {
    const chain = async (at: number) =>
      editor.call('newLiveBin', {
        name: `Step ${at}`,
        query: at === 0 ? 'tag:dawn or tag:bell' : `in:"Step ${at - 1}" or -in="step ${at - 1}"`,
      });
    for (let at = 0; at < 11; at += 1) await chain(at);
    const refusal = await editor.refused('newLiveBin', { name: 'Step 11', query: 'in:"Step 10" or -in:"Step 10"' });
    expect(JSON.stringify(refusal)).toContain('conditions');
    const far = Array.from({ length: 6 }, () => 'in:"Step 10"').join(' ');
    expect(await editor.refused('search', { query: far })).toMatchObject({ status: 422 });
    // Nor under a bin that only somebody else sees.
    const hidden = await other.call('newLiveBin', { name: 'Theirs', query: 'in:"Step 10" or no:tag', shared: false });
    // What the first of them refers to cannot grow under them, either.
    const { bins } = await editor.call('liveBins', null);
    const first = bins.find(({ name }) => name === 'Step 0');
    const grown = { name: 'Step 0', query: Array.from({ length: 20 }, (_unused, n) => `tag:t${n}`).join(' or ') };
    expect(await editor.refused('changeLiveBin', grown, first?.id)).toMatchObject({ status: 422 });
    await other.call('removeLiveBin', null, hidden.id);
    for (let at = 10; at >= 0; at -= 1)
      await editor.call('removeLiveBin', null, bins.find(({ name }) => name === `Step ${at}`)?.id);
  });

  it('go on when one is renamed, and are told of when one would go', async () => {
    const { bins } = await editor.call('liveBins', null);
    const idOf = (name: string) => bins.find((bin) => bin.name === name)?.id ?? 0;
    await editor.call('changeLiveBin', { name: 'First light', query: 'tag:dawn' }, idOf('Early light'));
    expect(await seen(editor, idOf('Both'))).toMatchObject({ query: 'bin="first light" tag:bell', count: 1 });
    const refusal = await editor.refused('removeLiveBin', null, idOf('Early light'));
    expect(JSON.stringify(refusal)).toContain('“First light” is referred to by “Both”');
    await editor.call('removeLiveBin', null, idOf('Both'));
    await editor.call('removeLiveBin', null, idOf('Early light'));
    expect(await seen(editor, idOf('Early light'))).toBeUndefined();
  });
});

describe('where a live bin stands, and who sees it', () => {
  it('is its maker’s alone until they share it', async () => {
    const own = await editor.call('newLiveBin', { name: 'For me', query: 'tag:bell', shared: false });
    expect(await seen(editor, own.id)).toMatchObject({ shared: false, count: 2 });
    expect(await seen(other, own.id)).toBeUndefined();
    expect(await found('in:"For me"')).toHaveLength(2);
    expect(await found('in:"For me"', other)).toEqual([]);
    expect(await other.refused('changeLiveBin', { name: 'Taken', query: 'tag:bell' }, own.id)).toMatchObject({
      status: 404,
    });
    expect(await other.refused('removeLiveBin', null, own.id)).toMatchObject({ status: 404 });
    expect(await other.refused('freezeLiveBin', { name: 'Peek', parentId: null }, own.id)).toMatchObject({
      status: 404,
    });
    const refusal = await editor.refused('newLiveBin', { name: 'For all', query: 'in:"For me" tag:dawn' });
    expect(JSON.stringify(refusal)).toContain('“For me” is seen only by whoever made it');
    await editor.call('changeLiveBin', { name: 'For me', query: 'tag:bell', shared: true }, own.id);
    expect(await seen(other, own.id)).toMatchObject({ shared: true, by: own.by });
    expect(
      await other.refused('changeLiveBin', { name: 'For me', query: 'tag:bell', shared: false }, own.id),
    ).toMatchObject({ status: 422 });
  });

  it('is a bin or a project, and it is not lost with those', async () => {
    const bin = await editor.call('newBin', { name: 'Reels', parentId: null });
    const project = await editor.call('newProject', { name: 'Episode', description: null, counting: '25' });
    const live = await editor.call('newLiveBin', { name: 'Placed', query: 'tag:dawn', parentId: bin.id });
    expect(await seen(viewer, live.id)).toMatchObject({ parentId: bin.id, projectId: null });
    await editor.call('removeBin', null, bin.id);
    expect(await seen(viewer, live.id)).toMatchObject({ parentId: null, projectId: null });
    await editor.call('changeLiveBin', { name: 'Placed', query: 'tag:dawn', projectId: project.id }, live.id);
    expect(await seen(viewer, live.id)).toMatchObject({ parentId: null, projectId: project.id });
    const both = { name: 'Placed', query: 'tag:dawn', parentId: 1, projectId: project.id };
    expect(await editor.refused('newLiveBin', both)).toMatchObject({ status: 422 });
    expect(await editor.refused('newLiveBin', { name: 'Nowhere', query: 'tag:dawn', parentId: 999 })).toMatchObject({
      status: 404,
    });
  });

  it('is frozen to a bin filled by hand, which no longer follows', async () => {
    const live = await editor.call('newLiveBin', { name: 'Following', query: 'tag:bell' });
    const frozen = await editor.call('freezeLiveBin', { name: 'Bells on that day', parentId: null }, live.id);
    expect(frozen.count).toBe(2);
    await tag([ids[0] as number], 'bells');
    expect((await seen(editor, live.id))?.count).toBe(3);
    expect(await found('in:"Bells on that day"')).toEqual(ids.slice(2, 4));
    expect(await editor.refused('freezeLiveBin', { name: 'Bells on that day', parentId: null }, live.id)).toMatchObject(
      { status: 422 },
    );
  });
});

describe('orders', () => {
  it('can be by how well assets fit, beside any field', async () => {
    await editor.call('edit', {
      ...{ assetIds: [ids[1] as number], seenRevision: Number.MAX_SAFE_INTEGER },
      ...{ set: { title: 'Dawn over the dawn lock' }, addTags: [], removeTags: [] },
    });
    const sort: AskedOrder = { field: 'relevance', descending: true, then: [{ field: 'name', descending: false }] };
    const list = await editor.call('searchIds', { query: 'dawn', sort, atLeast: await atLeast() });
    expect(list.ids[0]).toBe(ids[1]);
    const odd = { field: 'relevant' as never, descending: true };
    expect(await editor.refused('searchIds', { query: 'dawn', sort: odd })).toMatchObject({ status: 422 });
  });
});

describe('many live bins at once', () => {
  const file = (...liveBins: { name: string; query: string; in: string | null }[]) => ({ version: 1, liveBins });

  it('those to begin with can all be read, and are made once in each place', async () => {
    const project = await editor.call('newProject', { name: 'Season', description: null, counting: '25' });
    const starters = file(...STARTER_BINS.map((bin) => ({ ...bin, in: null })));
    const took = await editor.call('takeLiveBins', { file: starters, projectId: project.id, shared: true });
    expect(took).toEqual({ made: STARTER_BINS.map(({ name }) => name), left: [] });
    const { bins } = await viewer.call('liveBins', null);
    const own = Object.fromEntries(
      bins.filter(({ projectId }) => projectId === project.id).map(({ name, count }) => [name, count]),
    );
    expect(own).toMatchObject({ Unused: 5, 'Added today': 5, Missing: 0, 'Without rights': 5 });
    const again = await editor.call('takeLiveBins', { file: starters, projectId: project.id, shared: true });
    expect([again.made, again.left.length]).toEqual([[], STARTER_BINS.length]);
    expect((await editor.call('takeLiveBins', { file: starters, projectId: null, shared: true })).left).toEqual([]);
  });

  it('what cannot be read is left out with the reason, and the rest comes in where it stood', async () => {
    const bin = await editor.call('newBin', { name: 'Deep', parentId: null });
    const took = await editor.call('takeLiveBins', {
      file: file(
        { name: 'Good', query: 'tag:dawn', in: 'Deep' },
        { name: 'Odd', query: 'tga:dawn', in: null },
        { name: 'Round', query: 'in:Round', in: null },
        { name: 'Lost', query: 'tag:dawn', in: 'Nowhere' },
      ),
      projectId: null,
      shared: true,
    });
    expect(took.made).toEqual(['Good', 'Lost']);
    expect(took.left.map(({ name }) => name)).toEqual(['Odd', 'Round']);
    expect(took.left[0]?.why).toContain('tag');
    const { bins } = await editor.call('liveBins', null);
    expect(bins.find(({ name }) => name === 'Good')?.parentId).toBe(bin.id);
    expect(bins.find(({ name }) => name === 'Lost')?.parentId).toBeNull();
    const old = { file: { version: 9, liveBins: [{ name: 'Good', query: 'tag:dawn', in: null }] } };
    expect(await editor.refused('takeLiveBins', old)).toMatchObject({ status: 422 });
  });
});

describe('what is asked for and shown in no list', () => {
  it('is whether anything is cut from it, who logged it, where it starts, and its number', async () => {
    const shelf = library.shelf('cards');
    makeClip(join(shelf, 'A001C001.mov'), { timecode: '10:04:00:12' });
    makeClip(join(shelf, 'A001C002.mov'), { timecode: '09:59:59:00', size: '96x72' });
    await scanned(other, 'Cards', shelf);
    await allJobsEnded(other);
    const [first = 0, second = 0] = await found('storage:cards');
    expect(await found('tc:10:04')).toEqual(await found('name:A001C001'));
    expect(await found('tc>=10:04:00:12 storage:cards')).toHaveLength(1);
    expect(await found('tc:..10:00')).toEqual(await found('name:A001C002'));
    expect(await found(`number:${first}..${second}`)).toEqual([first, second]);
    // Of sounds the bins before have made, nobody has cut anything.
    expect(await found('is:used')).toEqual([]);
    const project = await editor.call('newProject', { name: 'Cut', description: null, counting: '25' });
    const out = await editor.call('newStringOut', { name: 'First', projectId: project.id, assetIds: [second] });
    expect(await found('is:used')).toEqual([second]);
    expect(await found('is:unused storage:cards')).toEqual([first]);
    expect(await found('project:cut')).toEqual([second]);
    const others = await editor.call('newProject', { name: 'Long cut', description: null, counting: '25' });
    const both = { name: 'Second', projectId: others.id, assetIds: [first, second] };
    const again = await editor.call('newStringOut', both);
    expect(await found('project="long cut"')).toEqual([first, second]);
    expect(await found('project=cut project="long cut"')).toEqual([second]);
    await editor.call('removeStringOut', null, again.id);
    expect(await found('project:long')).toEqual([]);
    const { name, version } = out;
    await editor.call('saveStringOut', { name, version, items: [], markers: [] }, out.id);
    expect(await found('is:used')).toEqual([]);
    // An editor has tagged and titled sounds; nobody has said anything of the clips.
    expect(
      await found(`by:"${(await seen(editor, (await editor.call('liveBins', null)).bins[0]?.id ?? 0))?.by ?? ''}"`),
    ).not.toEqual([]);
    expect(await found('has:by storage:cards')).toEqual([]);
    await tag([first], 'dawn');
    expect(await found('has:by storage:cards')).toEqual([first]);
  });
});

describe('what was searched for before', () => {
  it('is one’s own, the last one first, each once, and not without end', async () => {
    for (const query of ['tag:dawn', 'bell', 'tag:dawn']) await editor.call('rememberSearch', { query });
    await viewer.call('rememberSearch', { query: 'for themselves' });
    expect((await editor.call('pastSearches', null)).queries).toEqual(['tag:dawn', 'bell']);
    for (let at = 0; at < 60; at += 1) await editor.call('rememberSearch', { query: `clip ${at}` });
    const { queries } = await editor.call('pastSearches', null);
    expect([queries.length, queries[0], queries.includes('bell')]).toEqual([50, 'clip 59', false]);
    await editor.call('forgetSearches', null);
    expect((await editor.call('pastSearches', null)).queries).toEqual([]);
    expect((await viewer.call('pastSearches', null)).queries).toEqual(['for themselves']);
    expect(await editor.refused('rememberSearch', { query: '' })).toMatchObject({ status: 422 });
  });
});
