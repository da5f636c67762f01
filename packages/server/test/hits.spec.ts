import { openDatabase } from '@larder/server';
import { type Client, soundsIn, TestLibrary } from './kit';

let library: TestLibrary;
let editor: Client;
let ids: number[];

beforeAll(async () => {
  library = await TestLibrary.start(1);
  const manager = await library.as('manager');
  editor = await library.as('editor');
  ids = await soundsIn(library, manager, 'sound', 2);
}, 120_000);
afterAll(() => library.stop(), 60_000);

describe('hits in time', () => {
  it('stand in the order of how well their assets fit, in which no word counts twice', async () => {
    const [named = 0, noted = 0] = ids;
    const set = { title: 'Gate, lower gate' };
    await editor.call('edit', {
      ...{ assetIds: [named], seenRevision: Number.MAX_SAFE_INTEGER, set, addTags: [], removeTags: [] },
    });
    const marker = { kind: 'note', start: 1, end: null, note: '', colour: 'none' } as const;
    await editor.call('newMarker', { ...marker, name: `gate, ${'and much else '.repeat(12)}` }, named);
    await editor.call('newMarker', { ...marker, name: 'gate, this and that' }, noted);
    const { revision } = await editor.call('status', null);
    const best = { sort: { field: 'relevance', descending: true }, atLeast: revision } as const;
    const { assets } = await editor.call('hits', { ...best, query: 'gate' });
    expect(assets.map(({ asset }) => asset.id)).toEqual([named, noted]);
    // Of what markers say alone, the other fits better.
    const { assets: among } = await editor.call('search', { ...best, query: 'marker:gate' });
    expect(among.map(({ id }) => id)).toEqual([noted, named]);
  });

  it('may be more in one page than can be handed on as arguments', async () => {
    const [, id = 0] = ids;
    const many = 130_000;
    const db = openDatabase(library.library.database.options);
    await db.query(
      `INSERT INTO marker (asset_id, kind, start_at, name, note, colour) SELECT ${id}, 'note', seq, CONCAT('m', seq), '', 'none' FROM seq_1_to_${many}`,
    );
    await db.close();
    const [asset] = (await editor.call('rows', { ids: [id] })).assets;
    expect(asset?.markers).toHaveLength(many + 1);
    expect(asset?.markers.at(-1)).toBe(`m${many}`);
  });
});
