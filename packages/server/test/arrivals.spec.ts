import { soundsIn, TestLibrary, until, type Client } from './kit';

let library: TestLibrary;
let editor: Client;
let viewer: Client;
let ids: number[];

beforeAll(async () => {
  library = await TestLibrary.start(1);
  const manager = await library.as('manager');
  [editor, viewer] = [await library.as('editor'), await library.as('viewer')];
  ids = (await soundsIn(library, manager, 'sound', 5)).sort((a, b) => a - b);
}, 120_000);
afterAll(() => library.stop(), 60_000);

const edit = (client: Client, assetIds: readonly number[], addTags: string[], removeTags: string[] = []) =>
  client.call('edit', {
    ...{ assetIds: [...assetIds], seenRevision: Number.MAX_SAFE_INTEGER, set: {}, addTags, removeTags },
  });
const told = async (client: Client, id: number) =>
  (await client.call('liveBins', null)).bins.find((bin) => bin.id === id)?.watch ?? null;
const came = async (client: Client, id: number) =>
  [...(await client.call('cameIn', null, id)).ids].sort((a, b) => a - b);

describe('what comes into a live bin', () => {
  it('is told to whoever wants it, of what others do, until they have seen it', async () => {
    const { id } = await editor.call('newLiveBin', { name: 'Dawns', query: 'tag:dawn' });
    expect(await told(viewer, id)).toBeNull();
    await edit(editor, ids.slice(0, 1), ['dawn']);
    await viewer.call('watchLiveBin', { on: true }, id);
    await editor.call('watchLiveBin', { on: true }, id);
    expect(await told(viewer, id)).toMatchObject({ cameIn: 0 });
    await edit(editor, ids.slice(0, 3), ['dawn']);
    // What was there already did not come in; what one did oneself is no news.
    expect([await told(viewer, id), await told(editor, id)]).toMatchObject([{ cameIn: 2 }, { cameIn: 0 }]);
    expect(await came(viewer, id)).toEqual(ids.slice(1, 3));
    // What left again is not there to be seen.
    await edit(editor, ids.slice(1, 2), [], ['dawn']);
    expect([await told(viewer, id), await came(viewer, id)]).toMatchObject([{ cameIn: 1 }, ids.slice(2, 3)]);
    const revision = (await told(viewer, id))?.upTo ?? 0;
    expect(revision).toBeGreaterThan(0);
    await edit(editor, ids.slice(3, 4), ['dawn']);
    // Of what came since they looked they are still told.
    await viewer.call('sawLiveBin', { revision }, id);
    expect([await told(viewer, id), await came(viewer, id)]).toMatchObject([{ cameIn: 1 }, ids.slice(3, 4)]);
    await viewer.call('watchLiveBin', { on: false }, id);
    expect([await told(viewer, id), await came(viewer, id)]).toEqual([null, []]);
    expect(await viewer.refused('sawLiveBin', { revision }, id)).toMatchObject({ status: 404 });
  });

  it('follows the bins that it refers to, and a bin that is changed', async () => {
    const bells = await editor.call('newLiveBin', { name: 'Bells', query: 'tag:bell' });
    const both = await editor.call('newLiveBin', { name: 'Both', query: 'in:Bells -tag:noise' });
    await viewer.call('watchLiveBin', { on: true }, both.id);
    await edit(editor, ids.slice(0, 2), ['bell']);
    expect(await told(viewer, both.id)).toMatchObject({ cameIn: 2 });
    await editor.call('changeLiveBin', { name: 'Bells', query: 'tag:chime' }, bells.id);
    await edit(editor, ids.slice(4), ['chime']);
    await until('the chime', async () => (await came(viewer, both.id)).includes(ids[4] ?? 0));
  });

  it('is told again after a start, of what was changed meanwhile', async () => {
    const { id } = await editor.call('newLiveBin', { name: 'Weirs', query: 'tag:weir' });
    await viewer.call('watchLiveBin', { on: true }, id);
    await edit(editor, ids.slice(0, 1), ['weir']);
    expect(await told(viewer, id)).toMatchObject({ cameIn: 1 });
    library = await library.again();
    [editor, viewer] = [await library.as('editor'), await library.as('viewer')];
    await edit(editor, ids.slice(1, 2), ['weir']);
    await until('both', async () => (await told(viewer, id))?.cameIn === 2);
  });

  it('is for bins that one sees, and not too many of them', async () => {
    const own = await editor.call('newLiveBin', { name: 'Mine', query: 'tag:dusk', shared: false });
    expect(await viewer.refused('watchLiveBin', { on: true }, own.id)).toMatchObject({ status: 404 });
    expect(await viewer.refused('watchLiveBin', { on: true }, 99_999)).toMatchObject({ status: 404 });
    const refusals: number[] = [];
    for (let at = 0; at < 20; at += 1) {
      const { id } = await editor.call('newLiveBin', { name: `Many ${at}`, query: `tag:many${at}` });
      const refused = await viewer.call('watchLiveBin', { on: true }, id).then(
        () => false,
        () => true,
      );
      if (refused) refusals.push(at);
    }
    // Two were watched already.
    expect(refusals).toEqual([18, 19]);
  });
});
