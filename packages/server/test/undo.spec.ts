import fc from 'fast-check';
import type { NewMarker } from '@larder/core/markers';
import { type Client, soundsIn, TestLibrary } from './kit';

let library: TestLibrary;
let editor: Client;
let other: Client;
let ids: number[];

beforeAll(async () => {
  library = await TestLibrary.start(1);
  const manager = await library.as('manager');
  [editor, other] = [await library.as('editor'), await library.as('other')];
  ids = (await soundsIn(library, manager, 'sound', 3)).sort((a, b) => a - b);
}, 120_000);
afterAll(() => library.stop(), 60_000);

const say = (client: Client, title: string | null, addTags: string[] = [], assetIds = ids) =>
  client.call('edit', {
    ...{ assetIds, seenRevision: Number.MAX_SAFE_INTEGER, set: { title } },
    ...{ addTags, removeTags: [] },
  });
const first = async () => (await editor.call('rows', { ids })).assets[0];
const titles = async () => (await editor.call('rows', { ids })).assets.map(({ title }) => title);
const undo = (client = editor) => client.call('undo', {});
const redo = (client = editor) => client.call('redo', null);
const marker: NewMarker = { kind: 'note', start: 10, end: null, name: 'Bell', note: '', colour: 'none' };

describe('undo and redo', () => {
  it('go back and forth through what a person did, in any session, and say what it was', async () => {
    await say(editor, 'One');
    await say(editor, 'Two', ['dawn']);
    // Another window, signed in anew.
    const elsewhere = await library.as('editor');
    expect(await undo(elsewhere)).toMatchObject({
      ...{ action: 'edit', assets: 3, changed: 3 },
      fields: expect.arrayContaining(['title', 'tags']) as unknown,
    });
    expect(await titles()).toEqual(['One', 'One', 'One']);
    await undo();
    expect(await first()).toMatchObject({ title: null, tags: [] });
    await redo(elsewhere);
    expect(await titles()).toEqual(['One', 'One', 'One']);
    await redo();
    expect(await first()).toMatchObject({ title: 'Two', tags: ['dawn'] });
    expect(await editor.refused('redo', null)).toMatchObject({
      error: { reason: 'There is nothing of yours to do again.' },
    });
    await undo();
    await undo();
    expect(await first()).toMatchObject({ title: null, tags: [] });
  });

  it('what is done after an undo leaves nothing to do again', async () => {
    await say(editor, 'A');
    await undo();
    await say(editor, 'B');
    expect(await editor.refused('redo', null)).toMatchObject({ status: 422 });
    await undo();
    await redo();
    expect(await titles()).toEqual(['B', 'B', 'B']);
    await undo();
  });

  it('are each person\u2019s own; what a colleague has changed since is told, and passed over', async () => {
    await say(editor, 'Mine', [], [ids[0] ?? 0]);
    await say(editor, 'Mine', [], [ids[1] ?? 0]);
    await say(other, 'Theirs', [], [ids[1] ?? 0]);
    expect(await editor.refused('undo', {})).toMatchObject({ error: { code: 'conflict' } });
    await undo();
    expect(await titles()).toEqual([null, 'Theirs', null]);
    await undo(other);
    expect(await titles()).toEqual([null, 'Mine', null]);
    await say(editor, null, [], [ids[1] ?? 0]);
  });

  it('of somebody else are refused, and stay theirs to undo; what is undone is not undone twice', async () => {
    const { group } = await say(editor, 'Still mine');
    expect(await other.refused('undo', { group })).toMatchObject({
      error: { reason: 'Only your own changes can be undone.' },
    });
    await undo();
    expect(await titles()).not.toContain('Still mine');
    expect(await editor.refused('undo', { group })).toMatchObject({ error: { reason: 'This is undone already.' } });
    await redo();
    expect(await titles()).toEqual(['Still mine', 'Still mine', 'Still mine']);
    await undo();
  });

  it('hold for markers and subclips too', async () => {
    const id = ids[0] ?? 0;
    const markers = async () => (await editor.call('markers', null, id)).markers.map(({ name }) => name);
    const subclips = async () => (await editor.call('subclips', null, id)).assets.map(({ name }) => name);
    await editor.call('newMarker', marker, id);
    await editor.call('newSubclip', { name: 'Strike', in: 0, out: 20 }, id);
    await undo();
    expect(await subclips()).toEqual([]);
    await undo();
    expect(await markers()).toEqual([]);
    await redo();
    await redo();
    expect([await markers(), await subclips()]).toEqual([['Bell'], ['Strike']]);
    await undo();
    await undo();
    expect([await markers(), await subclips()]).toEqual([[], []]);
  });

  it('any row of edits, undos and redos leaves what a stack of them would', async () => {
    const act = fc.oneof(
      { weight: 3, arbitrary: fc.record({ say: fc.constantFrom('A', 'B', 'C'), at: fc.integer({ min: 0, max: 2 }) }) },
      { weight: 2, arbitrary: fc.constant('undo' as const) },
      { weight: 2, arbitrary: fc.constant('redo' as const) },
    );
    let rounds = 0;
    await fc.assert(
      fc.asyncProperty(fc.array(act, { maxLength: 14 }), async (acts) => {
        const [done, undone]: [[number, string | null, string][], [number, string | null, string][]] = [[], []];
        // Whatever is left from the last round cannot be done again after this.
        await say(editor, `round ${(rounds += 1)}`);
        const now: (string | null)[] = await titles();
        for (const each of acts)
          if (each === 'undo') {
            const last = done.pop();
            // Below lie the changes of earlier rounds.
            if (!last) continue;
            await undo();
            now[last[0]] = last[1];
            undone.push(last);
          } else if (each === 'redo') {
            const last = undone.pop();
            if (!last) expect(await editor.refused('redo', null)).toMatchObject({ status: 422 });
            else {
              await redo();
              now[last[0]] = last[2];
              done.push(last);
            }
          } else {
            const before = now[each.at] ?? null;
            await say(editor, each.say, [], [ids[each.at] ?? 0]);
            if (before === each.say) continue;
            done.push([each.at, before, each.say]);
            undone.length = 0;
            now[each.at] = each.say;
          }
        expect(await titles()).toEqual(now);
      }),
      { numRuns: 12 },
    );
  });
});
