import { writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { INDEX_WAIT_MS } from '@larder/server';
import { scanned, TestLibrary, type Client, until } from './kit';
import { catalogueMany } from './many';

const ASSETS = 100_000;
let library: TestLibrary;
let manager: Client;

beforeAll(async () => {
  library = await TestLibrary.start(1, INDEX_WAIT_MS);
  manager = await library.as('manager');
  // Not empty, or it would be taken for a mount point with nothing mounted.
  writeFileSync(join(library.shelf('large'), 'readme.txt'), '');
  const { storageId } = await scanned(manager, 'Large', library.shelf('large'));
  await catalogueMany(library.library, storageId, ASSETS);
}, 180_000);
afterAll(() => library.stop(), 60_000);

describe('a hundred thousand assets', () => {
  it('are counted, ordered and cut into windows right', async () => {
    const { revision } = await manager.call('status', null);
    const at = async (offset: number) =>
      (
        await manager.call('search', {
          sort: { field: 'name', descending: false },
          offset,
          limit: 3,
          atLeast: revision,
        })
      ).assets.map((asset) => asset.name);
    // Asked while the index is still reading: the answer says that it is older, and windows are told when it no longer is.
    const told = await manager.listen((text) => text.split('"type":"hello"').length > 2);
    expect((await manager.call('search', { limit: 0, atLeast: revision })).revision).toBeLessThan(revision);
    await told.all;
    expect((await manager.call('search', { limit: 0, atLeast: revision })).revision).toBe(revision);
    expect((await manager.call('search', { limit: 0 })).total).toBe(ASSETS);
    expect(await at(0)).toEqual(['clip_1.mov', 'clip_2.mov', 'clip_3.mov']);
    expect(await at(54_320)).toEqual(['clip_54321.mov', 'clip_54322.mov', 'clip_54323.mov']);
    expect(await at(ASSETS - 2)).toEqual(['clip_99999.mov', 'clip_100000.mov']);
    expect(await at(ASSETS)).toEqual([]);
  });
  it('are all selected and all edited in one step, and undone in one', async () => {
    const { ids } = await manager.call('searchIds', {});
    expect(ids).toHaveLength(ASSETS);
    const some = ids.slice(0, 5000);
    const written = await manager.call('edit', {
      assetIds: [...some],
      seenRevision: Number.MAX_SAFE_INTEGER,
      set: { verdict: 'hold' },
      addTags: ['bulk'],
      removeTags: [],
    });
    expect(written.changed).toBe(5000);
    const total = (query: string, atLeast: number) =>
      until(`the answer at revision ${atLeast}`, async () => {
        const answer = await manager.call('search', { query, limit: 0, atLeast });
        return answer.revision >= atLeast && [answer.total];
      });
    expect(await total('tag:bulk verdict:hold', written.revision)).toEqual([5000]);
    const undone = await manager.call('undo', { group: written.group });
    expect(await total('tag:bulk or verdict:hold', undone.revision)).toEqual([0]);
  });
});
