import { renameSync } from 'node:fs';
import { join } from 'node:path';
import type { Asset } from '@larder/contract';
import { allJobsEnded, jobEnded, makeClip, mended, planned, scanned, TestLibrary, until, type Client } from './kit';

let library: TestLibrary;
let manager: Client;
let editor: Client;
let whole: Asset;
let shelf: string;

const FRAMES = 50;
const row = async (id: number): Promise<Asset> => {
  const [asset] = (await editor.call('rows', { ids: [id] })).assets;
  if (!asset) throw new Error(`no asset ${id}`);
  return asset;
};
const found = async (query: string) => {
  const { revision } = await editor.call('status', null);
  return until(`the answer at ${revision}`, async () => {
    const answer = await editor.call('searchIds', { query, atLeast: revision });
    return answer.revision >= revision && answer;
  }).then((answer) => [...answer.ids].sort((a, b) => a - b));
};

beforeAll(async () => {
  library = await TestLibrary.start(1);
  [manager, editor] = [await library.as('manager'), await library.as('editor')];
  shelf = library.shelf('shelf');
  makeClip(join(shelf, 'LOCK.mov'), { seconds: FRAMES / 25, timecode: '10:00:00:00' });
  await scanned(manager, 'Shelf', shelf);
  await allJobsEnded(manager);
  const id = await until('the index', async () => (await manager.call('searchIds', {})).ids[0]);
  await editor.call('edit', {
    ...{ assetIds: [id], seenRevision: Number.MAX_SAFE_INTEGER, set: { reel: 'A001', scene: '12' } },
    ...{ addTags: ['lock'], removeTags: [] },
  });
  whole = await row(id);
}, 180_000);
afterAll(() => library.stop(), 60_000);

describe('a subclip', () => {
  let id: number;

  it('is an asset of its own with the file facts of its whole, and gets a poster of its own', async () => {
    ({ id } = await editor.call('newSubclip', { name: 'Gate opens', in: 10, out: 30 }, whole.id));
    const made = await row(id);
    expect(made).toMatchObject({
      ...{ parentId: whole.id, parentName: 'LOCK.mov', inPlace: 10, durationFrames: 20, durationMs: 800 },
      ...{ title: 'Gate opens', kind: 'video', reel: 'A001', scene: '12', rate: whole.rate, width: whole.width },
      ...{ startFrame: (whole.startFrame ?? 0) + 10, path: 'LOCK.mov', storage: 'Shelf', state: 'online', tags: [] },
    });
    expect(made.renditions).toContain('proxy');
    await allJobsEnded(manager);
    expect((await row(id)).renditions).toContain('poster');
    expect((await editor.call('subclips', null, whole.id)).assets.map((each) => each.id)).toEqual([id]);
    for (const path of [`/files/${id}/poster`, `/files/${id}/proxy`, `/files/${id}/original`])
      expect([path, (await editor.raw('GET', path)).status]).toEqual([path, 200]);
    expect(await (await editor.raw('GET', `/files/${id}/original`)).arrayBuffer()).toEqual(
      await (await editor.raw('GET', `/files/${whole.id}/original`)).arrayBuffer(),
    );
  });

  it('is logged and found by itself', async () => {
    await editor.call('edit', {
      ...{ assetIds: [id], seenRevision: Number.MAX_SAFE_INTEGER, set: { verdict: 'circled' } },
      ...{ addTags: ['gate'], removeTags: [] },
    });
    expect(await found('part:subclip')).toEqual([id]);
    expect(await found('part:whole')).toEqual([whole.id]);
    expect(await found('tag:gate verdict:circled rate:25')).toEqual([id]);
    expect(await found('tag:lock')).toEqual([whole.id]);
    expect((await row(whole.id)).verdict).toBeNull();
  });

  it('of a subclip is one of the whole', async () => {
    const inner = await editor.call('newSubclip', { name: 'Hinge', in: 5, out: 8 }, id);
    expect(await row(inner.id)).toMatchObject({ parentId: whole.id, inPlace: 15, durationFrames: 3 });
    await editor.call('undo', { group: inner.group });
    expect(await found('part:subclip')).toEqual([id]);
  });

  it('has ends that are moved, and moved back; beyond its whole they are refused', async () => {
    const moved = await editor.call('changeSubclip', { in: 5, out: 45 }, id);
    expect(await row(id)).toMatchObject({ inPlace: 5, durationFrames: 40 });
    await editor.call('undo', { group: moved.group });
    expect(await row(id)).toMatchObject({ inPlace: 10, durationFrames: 20 });
    expect(await editor.refused('changeSubclip', { in: 5, out: FRAMES + 1 }, id)).toMatchObject({
      error: { reason: 'The subclip would end after its asset does.' },
    });
    expect(await editor.refused('changeSubclip', { in: 5, out: 5 }, id)).toMatchObject({ status: 422 });
    expect(await editor.refused('changeSubclip', { in: 0, out: 5 }, whole.id)).toMatchObject({ status: 404 });
    expect(await editor.refused('newSubclip', { name: 'x', in: 0, out: FRAMES + 1 }, whole.id)).toMatchObject({
      status: 422,
    });
    expect(await editor.refused('newSubclip', { name: '', in: 0, out: 5 }, whole.id)).toMatchObject({ status: 422 });
  });

  it('whose making is undone is gone only where nobody has said anything of it', async () => {
    const made = await editor.call('newSubclip', { name: 'Said of', in: 0, out: 5 }, whole.id);
    await editor.call('edit', {
      ...{ assetIds: [made.id], seenRevision: Number.MAX_SAFE_INTEGER, set: { notes: 'keep' } },
      ...{ addTags: [], removeTags: [] },
    });
    expect(await editor.refused('undo', { group: made.group })).toMatchObject({ error: { code: 'refused' } });
    const before = await row(made.id);
    const removed = await editor.call('removeSubclips', { ids: [made.id] });
    expect(await found('part:subclip')).toEqual([id]);
    await editor.call('undo', { group: removed.group });
    // What is made of it may be there by now, or not.
    const unmade = { renditions: [], posterMadeMs: null };
    expect({ ...(await row(made.id)), ...unmade }).toEqual({ ...before, ...unmade });
    await editor.call('redo', null);
    expect(await found('part:subclip')).toEqual([id]);
    expect(await editor.refused('removeSubclips', { ids: [whole.id] })).toMatchObject({ status: 404 });
  });

  it('is cut as the stretch of its whole that it is', async () => {
    const project = await manager.call('newProject', { name: 'P', description: null, counting: '25' });
    const out = await manager.call('newStringOut', { name: 'S', projectId: project.id, assetIds: [id, whole.id] });
    expect(out.items).toMatchObject([
      { assetId: whole.id, in: 10, out: 30 },
      { assetId: whole.id, in: 0, out: FRAMES },
    ]);
  });

  it('stays with its whole when that is missing, found elsewhere and relinked', async () => {
    const { id: storageId } = (await manager.call('storages', null)).storages[0] ?? { id: 0 };
    makeClip(join(shelf, 'OTHER.mov'), { seconds: 0.4, timecode: '11:00:00:00' });
    renameSync(join(shelf, 'LOCK.mov'), join(shelf, 'MOVED.mov'));
    await jobEnded(manager, (await manager.call('scan', {}, storageId)).job.id);
    await allJobsEnded(manager);
    expect((await row(id)).state).toBe('missing');
    expect(await found('is:missing')).toEqual([whole.id, id].sort((a, b) => a - b));
    const { id: plan, items } = await planned(manager, { places: [{ storageId, folder: '', deep: true }] });
    // Its whole is what is missing; the subclip is nothing of its own to be found.
    expect(items.map(({ assetId }) => assetId)).toEqual([whole.id]);
    expect((await mended(manager, plan)).state).toBe('done');
    expect(await row(id)).toMatchObject({ state: 'online', path: 'MOVED.mov', inPlace: 10, tags: ['gate'] });
    expect(await found('is:missing')).toEqual([]);
    expect(await found('path:moved part:subclip')).toEqual([id]);
  });
});
