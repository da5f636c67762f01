import type { FieldChanges, Operation, SettableFieldId, SetValue } from '@larder/core/fields';
import type { AskedOperation } from '@larder/contract';
import { type Client, soundsIn, TestLibrary, until } from './kit';

const FILES = 3;
let library: TestLibrary;
let editor: Client;
let other: Client;
let ids: number[];

beforeAll(async () => {
  library = await TestLibrary.start(1);
  const manager = await library.as('manager');
  [editor, other] = [await library.as('editor'), await library.as('other')];
  ids = await soundsIn(library, manager, 'sound', FILES);
}, 120_000);
afterAll(() => library.stop(), 60_000);

const asked = (
  field: AskedOperation['field'],
  operation: Operation,
  more: Partial<AskedOperation> = {},
): AskedOperation => ({
  ...{ assetIds: ids, seenRevision: Number.MAX_SAFE_INTEGER, field, operation },
  ...more,
});
const say = (field: SettableFieldId, value: SetValue, assetIds = ids) =>
  editor.call('edit', {
    ...{ assetIds, seenRevision: Number.MAX_SAFE_INTEGER, set: { [field]: value } },
    ...{ addTags: [], removeTags: [] },
  });
const rows = async () => (await editor.call('rows', { ids })).assets;

describe('something different said of each', () => {
  const each = (edits: { assetId: number; set: FieldChanges }[], seenRevision = Number.MAX_SAFE_INTEGER) => ({
    ...{ seenRevision, edits },
  });
  it('is one write that is undone as one, counts only what changed, and merges and conflicts by field', async () => {
    const [a = 0, b = 0, c = 0] = ids;
    const { revision } = await editor.call('status', null);
    const written = await editor.call(
      'editEach',
      each([
        { assetId: a, set: { title: 'One', rating: 3 } },
        { assetId: b, set: { title: 'Two', people: ['Ada Lock'] } },
        { assetId: c, set: { title: null } },
      ]),
    );
    expect(written.changed).toBe(2);
    expect((await rows()).map(({ title, logged }) => [title, logged])).toEqual([
      ['One', { rating: 3 }],
      ['Two', { people: ['Ada Lock'] }],
      [null, {}],
    ]);
    await other.call('editEach', each([{ assetId: a, set: { notes: 'theirs' } }], revision));
    expect(await other.refused('editEach', each([{ assetId: a, set: { title: 'Theirs' } }], revision))).toMatchObject({
      error: { code: 'conflict', conflicts: [{ assetId: a, field: 'title', theirs: 'One' }] },
    });
    expect(await editor.refused('editEach', each([{ assetId: a, set: { rating: 9 } }]))).toMatchObject({ status: 422 });
    expect(await editor.refused('editEach', each([]))).toMatchObject({ status: 422 });
    await editor.call('undo', { group: written.group });
    expect((await rows()).map(({ title, notes, logged }) => [title, notes, logged])).toEqual([
      [null, 'theirs', {}],
      [null, null, {}],
      [null, null, {}],
    ]);
    await say('notes', null);
  });
});

describe('an operation on many', () => {
  it('is previewed without being done, done in one write, and undone in one', async () => {
    await say('title', 'Lock', ids.slice(0, 2));
    const prefix = asked('title', { op: 'prefix', text: 'Day 2: ' });
    const preview = await editor.call('previewOperation', prefix);
    expect(preview).toMatchObject({
      changed: 3,
      rows: [
        { before: 'Lock', after: 'Day 2: Lock' },
        { before: 'Lock', after: 'Day 2: Lock' },
        { before: null, after: 'Day 2:' },
      ],
      wrong: [],
    });
    expect((await rows()).map(({ title }) => title)).toEqual(['Lock', 'Lock', null]);
    const written = await editor.call('operate', prefix);
    expect(written.changed).toBe(3);
    expect((await rows()).map(({ title }) => title)).toEqual(['Day 2: Lock', 'Day 2: Lock', 'Day 2:']);
    await editor.call('undo', { group: written.group });
    expect((await rows()).map(({ title }) => title)).toEqual(['Lock', 'Lock', null]);
  });

  it('numbers in the order in which they were asked for, in columns and in the document alike', async () => {
    const order = ids.toReversed();
    await say('camera', 'B');
    await editor.call('operate', asked('take', { op: 'number', pattern: '##', from: 8, step: 1 }, { assetIds: order }));
    const written = await editor.call(
      'operate',
      asked('slate', { op: 'number', pattern: 'S#', from: 1, step: 2 }, { assetIds: order }),
    );
    expect((await rows()).map(({ take, logged }) => [take, logged])).toEqual([
      ['10', { camera: 'B', slate: 'S5' }],
      ['09', { camera: 'B', slate: 'S3' }],
      ['08', { camera: 'B', slate: 'S1' }],
    ]);
    await until('the index', async () => {
      const answer = await editor.call('search', { query: 'slate:S5', limit: 0, atLeast: written.revision });
      return answer.total === 1;
    });
    await editor.call('undo', { group: written.group });
    expect((await rows()).map(({ logged }) => logged)).toEqual(ids.map(() => ({ camera: 'B' })));
  });

  it('counts only what it changes, and clears what becomes nothing', async () => {
    await say('people', ['Ada Lock', 'Nan Weir'], ids.slice(0, 1));
    await say('people', ['Ada Lock'], ids.slice(1, 2));
    const written = await editor.call('operate', asked('people', { op: 'remove', names: ['ada lock'] }));
    expect(written.changed).toBe(2);
    expect((await rows()).map(({ logged }) => logged.people)).toEqual([['Nan Weir'], undefined, undefined]);
  });

  it('is refused as a whole where one would say what its field does not take, or a colleague was there first', async () => {
    await say('title', 'x'.repeat(199), ids.slice(1, 2));
    const long = asked('title', { op: 'suffix', text: 'yz' });
    expect(await editor.call('previewOperation', long)).toMatchObject({
      changed: 2,
      wrong: [{ assetId: ids[1], name: 'T1.wav', message: 'Title has at most 200 characters.' }],
    });
    const before = await rows();
    expect(await editor.refused('operate', long)).toMatchObject({
      error: { reason: 'T1.wav: Title has at most 200 characters. Nothing was changed.' },
    });
    expect(await rows()).toEqual(before);
    const { revision } = await editor.call('status', null);
    await other.call('edit', {
      ...{ assetIds: ids.slice(2), seenRevision: Number.MAX_SAFE_INTEGER, set: { notes: 'theirs' } },
      ...{ addTags: [], removeTags: [] },
    });
    const mine = asked('notes', { op: 'prefix', text: 'mine ' }, { seenRevision: revision });
    expect(await editor.refused('operate', mine)).toMatchObject({
      error: { code: 'conflict', conflicts: [{ assetId: ids[2], field: 'notes', theirs: 'theirs' }] },
    });
    expect((await rows()).map(({ notes }) => notes)).toEqual([null, null, 'theirs']);
  });

  it('is refused where it makes no sense', async () => {
    for (const [field, operation] of [
      ['verdict', { op: 'prefix', text: 'x' }],
      ['people', { op: 'prefix', text: 'x' }],
      ['size', { op: 'prefix', text: 'x' }],
      ['shop_gone', { op: 'prefix', text: 'x' }],
    ] as const)
      expect(await editor.refused('operate', { ...asked('title', operation), field })).toMatchObject({ status: 422 });
    expect(await editor.refused('operate', { ...asked('title', { op: 'explode' } as never) })).toMatchObject({
      status: 422,
    });
    expect(
      await editor.refused('operate', asked('title', { op: 'prefix', text: 'x' }, { assetIds: [999_999] })),
    ).toMatchObject({ status: 404 });
  });
});
