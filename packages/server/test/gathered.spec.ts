import { type Client, soundsIn, TestLibrary } from './kit';

let library: TestLibrary;
let editor: Client;
let other: Client;
let ids: number[];

beforeAll(async () => {
  library = await TestLibrary.start(1);
  const manager = await library.as('manager');
  [editor, other] = [await library.as('editor'), await library.as('other')];
  ids = (await soundsIn(library, manager, 'sound', 12)).sort((a, b) => a - b);
}, 120_000);
afterAll(() => library.stop(), 60_000);

const NOW = Number.MAX_SAFE_INTEGER;
const edit = (assetId: number, set: Record<string, string | null>, seenRevision = NOW) => ({
  ...{ assetIds: [assetId], seenRevision, set },
  ...{ addTags: [], removeTags: [] },
});
const notes = async () => (await editor.call('rows', { ids })).assets.map((asset) => asset.notes);

const changesOf = async (id: number) => (await editor.call('history', null, id)).changes;

describe('edits of one asset each that arrive together', () => {
  it('leave rows of their own in the feed, under their own names, and are undone one by one', async () => {
    const written = await Promise.all(
      ids.map((id, n) => (n % 2 === 0 ? editor : other).call('edit', edit(id, { notes: `note ${n}` }))),
    );
    expect(new Set(written.map(({ group }) => group)).size).toBe(ids.length);
    expect(new Set(written.map(({ revision }) => revision)).size).toBe(ids.length);
    for (const [n, { revision, group, changed }] of written.entries()) {
      expect(changed).toBe(1);
      expect((await changesOf(ids[n] ?? 0))[0]).toMatchObject({
        ...{ revision, group, after: { notes: `note ${n}` } },
        by: n % 2 === 0 ? 'The editor' : 'The other editor',
      });
    }
    await editor.call('undo', { group: written[4]?.group ?? '' });
    expect(await notes()).toEqual(ids.map((_id, n) => (n === 4 ? null : `note ${n}`)));
    expect(await editor.refused('undo', { group: written[5]?.group ?? '' })).toMatchObject({
      error: { reason: 'Only your own changes can be undone.' },
    });
  });

  it('that are refused keep back none of the others', async () => {
    const [clashing = 0, same = 0, good = 0] = ids;
    const { revision: seen } = await editor.call('edit', edit(clashing, { notes: 'as the editor saw it' }));
    await other.call('edit', edit(clashing, { notes: 'a colleague was first' }));
    const { notes: said } = (await editor.call('rows', { ids: [same] })).assets[0] ?? {};
    const [conflict, missing, invalid, unchanged, written] = await Promise.all([
      editor.refused('edit', edit(clashing, { notes: 'too late' }, seen)),
      editor.refused('edit', edit(999_999, { notes: 'of nothing' })),
      editor.refused('edit', edit(good, { notes: 'x'.repeat(1_000_000) })),
      editor.call('edit', edit(same, { notes: said ?? null })),
      editor.call('edit', edit(good, { notes: 'kept' })),
    ]);
    expect(conflict).toMatchObject({
      error: { code: 'conflict', conflicts: [{ assetId: clashing, field: 'notes', by: 'The other editor' }] },
    });
    expect(missing).toMatchObject({ error: { code: 'not-found' } });
    expect(invalid).toMatchObject({ error: { code: 'invalid' } });
    expect(unchanged).toMatchObject({ changed: 0 });
    expect(written).toMatchObject({ changed: 1 });
    expect((await notes()).slice(0, 3)).toEqual(['a colleague was first', said, 'kept']);
  });

  it('of the same asset follow each other, so that each knows what the one before it said', async () => {
    const [id = 0] = ids;
    const { revision } = await editor.call('edit', edit(id, { notes: 'zero', title: null }));
    await Promise.all([
      ...Array.from({ length: 20 }, (_unused, n) => editor.call('edit', edit(id, { notes: `${n}` }))),
      other.call('edit', edit(id, { title: 'Bell' })),
    ]);
    const said = (await changesOf(id)).filter((change) => change.revision > revision && 'notes' in change.after);
    const [before, after] = [said.map((change) => change.before['notes']), said.map((change) => change.after['notes'])];
    expect(said).toHaveLength(20);
    expect(before).toEqual([...after.slice(1), 'zero']);
    expect((await editor.call('rows', { ids: [id] })).assets[0]).toMatchObject({
      ...{ title: 'Bell', notes: after[0] },
    });
  });
});
