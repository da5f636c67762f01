import { BUILT_IN, FIELDS, type Field, type FieldChanges, type NewShopField } from '@larder/core/fields';
import type { Written } from '@larder/contract';
import { type Client, soundsIn, TestLibrary, until } from './kit';

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

const edit = (set: FieldChanges, seenRevision = Number.MAX_SAFE_INTEGER, assetIds = ids) => ({
  ...{ assetIds, seenRevision, set },
  ...{ addTags: [], removeTags: [] },
});
const rows = async () => (await editor.call('rows', { ids })).assets;
/** How many a search finds once the index has what was written. */
const found = async (query: string, { revision }: Pick<Written, 'revision'>) =>
  until(`the answer at ${revision}`, async () => {
    const answer = await editor.call('search', { query, limit: 0, atLeast: revision });
    return answer.revision >= revision && [answer.total];
  }).then(([total]) => total);

/** Something to say in each field that is set as a whole. */
const saidIn = ({ type, choices, id }: Field): string | number | string[] =>
  choices
    ? (choices.at(-1) ?? '')
    : type === 'position'
      ? '50.4120, -3.5180'
      : type === 'number'
        ? 4
        : type === 'names'
          ? ['Ada Lock', 'Nan Weir']
          : `${id} said`;

describe('fields that people fill in', () => {
  it('all of them are kept, found, and taken back, many assets at once', async () => {
    const offered = BUILT_IN.settable.filter(({ retired }) => !retired);
    const all = Object.fromEntries(offered.map((field) => [field.id, saidIn(field)])) as FieldChanges;
    const before = await rows();
    const written = await editor.call('edit', edit(all));
    expect(written.changed).toBe(ids.length);
    const { title, description, notes, verdict, reel, scene, take, place, ...logged } = all;
    for (const asset of await rows())
      expect(asset).toMatchObject({ title, description, notes, verdict, reel, scene, take, place, logged });
    for (const field of offered) {
      const said = saidIn(field);
      const query = `${field.id}:${typeof said === 'number' ? said : `"${typeof said === 'string' ? said : said[1]}"`}`;
      expect([field.id, await found(query, written)]).toEqual([field.id, ids.length]);
    }
    const undone = await editor.call('undo', { group: written.group });
    expect((await rows()).map(({ logged: said, title: called }) => [said, called])).toEqual(
      before.map(({ logged: said, title: called }) => [said, called]),
    );
    expect(await found('has:rating or has:people or has:slate', undone)).toBe(0);
  });

  it('merge where two people fill in different ones, and conflict where it is the same one', async () => {
    const { revision } = await editor.call('status', null);
    await editor.call('edit', edit({ people: ['Ada Lock'] }, revision));
    await other.call('edit', edit({ rating: 5 }, revision));
    expect((await rows()).map(({ logged }) => logged)).toEqual(ids.map(() => ({ people: ['Ada Lock'], rating: 5 })));
    // The same said by both is no conflict.
    await other.call('edit', edit({ people: ['Ada Lock'] }, revision));
    const { status, error } = await other.refused('edit', edit({ people: ['Nan Weir'] }, revision));
    expect([status, error]).toMatchObject([
      409,
      { code: 'conflict', conflicts: ids.map((assetId) => ({ assetId, field: 'people', theirs: ['Ada Lock'] })) },
    ]);
    expect((await rows())[0]?.logged.people).toEqual(['Ada Lock']);
  });

  it('an undo is refused once somebody has said something else, list or not', async () => {
    const written = await editor.call('edit', edit({ people: ['Ada Lock', 'Nan Weir'], lens: '35 mm' }));
    await other.call('edit', edit({ people: ['Nan Weir'] }));
    const { error } = await editor.refused('undo', { group: written.group });
    expect(error).toMatchObject({ code: 'conflict' });
    expect((await rows())[0]?.logged).toMatchObject({ people: ['Nan Weir'], lens: '35 mm' });
  });

  it('cleared ones say nothing any more', async () => {
    const written = await editor.call('edit', edit({ people: [], rating: null, lens: '' }));
    expect((await rows()).map(({ logged }) => logged)).toEqual(ids.map(() => ({})));
    expect(await found('no:people no:rating no:lens', written)).toBe(ids.length);
  });

  it.each([
    [{ rating: 6 }],
    [{ light: 'noon' }],
    [{ people: ['a,b'] }],
    [{ people: 'Ada Lock' }],
    [{ people: [{ toString: 1 }] }],
    [{ lens: 'two\nlines' }],
    [{ codec: 'h264' }],
    [{ constructor: 'x' }],
  ])('%j is refused, and nothing is written', async (set) => {
    const { revision } = await editor.call('status', null);
    expect((await editor.refused('edit', edit(set as FieldChanges))).status).toBe(422);
    expect((await editor.call('status', null)).revision).toBe(revision);
  });

  it('quotes, other scripts and signs of JSON come back as they were said', async () => {
    const people = ['O’Brien "Bo"', '渡辺 節子', 'נועה', '{"$ne":1}', 'a\\b', '%s :name ?'];
    await editor.call('edit', edit({ people, source: `'; DROP TABLE asset; -- ?` }));
    expect((await rows())[0]?.logged).toMatchObject({ people, source: `'; DROP TABLE asset; -- ?` });
    expect(FIELDS.length).toBeGreaterThan(BUILT_IN.settable.length);
  });
});

describe('whatever letters people write', () => {
  it.each([
    ['Japanese', '水門の朝'],
    ['Arabic, from right to left', 'بوابة القفل'],
    ['beyond the first plane', 'lock 🦆 𝄞'],
    ['quotes and slashes', `it's "so" \\ or \\\\ C:\\n \u0027`],
    ['marks of JSON paths', '$[*] {"a": null} \u2028'],
    ['two thousand characters', '水 lock '.repeat(285)],
  ])('%s: are kept, in the history too, found, and taken back', async (_what, notes) => {
    const written = await editor.call('edit', edit({ notes }));
    expect((await rows())[0]?.notes).toBe(notes);
    const [change] = (await editor.call('history', null, ids[0] ?? 0)).changes;
    expect(change?.after).toEqual({ notes });
    const again = await editor.call('edit', edit({ notes: 'other' }));
    await editor.call('undo', { group: again.group });
    expect((await rows())[0]?.notes).toBe(notes);
    const each = await editor.call('editEach', {
      seenRevision: Number.MAX_SAFE_INTEGER,
      edits: ids.map((assetId) => ({ assetId, set: { title: notes.slice(0, 90), slate: notes.slice(0, 90) } })),
    });
    expect((await rows())[1]).toMatchObject({ title: notes.slice(0, 90).trim() });
    await editor.call('undo', { group: each.group });
    // What is there since the first edit is the same again, so this takes nothing back but it.
    expect((await editor.call('undo', { group: written.group })).changed).toBe(ids.length);
    expect((await rows())[0]?.notes).toBeNull();
  });
});

describe('fields that the shop defines', () => {
  const definition = (label: string, more: Partial<NewShopField> = {}): NewShopField => ({
    ...{ label, type: 'text', group: 'rights', help: '', choices: [], range: null },
    ...{ unit: '', plain: true, retired: false, standard: '' },
    ...more,
  });

  it('are filled in, found, sorted by and undone like any other, and survive being retired', async () => {
    const manager = await library.as('manager');
    expect(await editor.refused('newField', definition('Permit'))).toMatchObject({ status: 403 });
    const { id } = await manager.call('newField', definition('Permit'));
    const depth = await manager.call('newField', definition('Depth', { type: 'number', unit: 'm', range: [-9, 9] }));
    expect((await editor.call('fields', null)).fields.map(({ key }) => key)).toEqual(['permit', 'depth']);

    const permit = await editor.call('edit', edit({ shop_permit: 'Lock side' }));
    expect(await found('permit:"lock side"', permit)).toBe(3);
    expect(await found('"lock side"', permit)).toBe(3);
    let last = permit;
    for (const [index, assetId] of ids.entries())
      last = await editor.call('edit', edit({ shop_depth: 2.5 - index }, Number.MAX_SAFE_INTEGER, [assetId]));
    expect(await found('depth>1', last)).toBe(2);
    const sorted = await editor.call('searchIds', { sort: { field: 'shop_depth', descending: false } });
    expect(sorted.ids).toEqual(ids.toReversed());
    expect(await editor.refused('edit', edit({ shop_depth: 99 }))).toMatchObject({
      status: 422,
      error: { issues: [{ message: 'Depth is a number from -9 to 9, with three decimals at most.' }] },
    });
    expect(await editor.refused('edit', edit({ shop_gone: 'x' }))).toMatchObject({ status: 422 });
    expect(await editor.refused('search', { query: 'gone:x' })).toMatchObject({ error: { code: 'query' } });
    expect(await editor.refused('search', { sort: { field: 'shop_gone', descending: false } })).toMatchObject({
      status: 422,
    });

    await manager.call('changeField', definition('Permit of the port', { retired: true, plain: false }), id);
    expect((await rows())[0]?.logged.shop_permit).toBe('Lock side');
    const retired = { revision: (await manager.call('status', null)).revision };
    expect(await found('permit:lock', retired)).toBe(3);
    expect(await found('"lock side"', retired)).toBe(0);
    expect(await manager.refused('changeField', definition('Permit', { type: 'longText' }), id)).toMatchObject({
      error: { code: 'refused' },
    });
    await manager.call('orderFields', { ids: [depth.id, id] });
    expect((await editor.call('fields', null)).fields.map(({ label }) => label)).toEqual([
      'Depth',
      'Permit of the port',
    ]);

    const undone = await editor.call('undo', { group: permit.group });
    expect(await found('has:permit', undone)).toBe(0);
  });

  it('a search that is kept asks for them by what they are, not by what they are called', async () => {
    const manager = await library.as('manager');
    const { id } = await manager.call('newField', definition('Weather'));
    await editor.call('edit', edit({ shop_weather: 'fog' }));
    const bin = await editor.call('newLiveBin', { name: 'Foggy', query: 'weather:fog' });
    await manager.call('changeField', definition('Sky'), id);
    const { revision } = await manager.call('status', null);
    expect(await found('weather:fog', { revision })).toBe(3);
    const kept = (await editor.call('liveBins', null)).bins.find((each) => each.id === bin.id);
    expect(kept).toMatchObject({ query: 'weather:fog', count: 3 });
  });
});

describe('plain words', () => {
  it('look where a manager says, for everybody, and nowhere else', async () => {
    const manager = await library.as('manager');
    const written = await editor.call('edit', edit({ rights: 'weirfarer', notes: 'lockwise' }));
    expect(await found('weirfarer', written)).toBe(0);
    expect(await found('lockwise', written)).toBe(ids.length);
    const plain = BUILT_IN.plain.filter((id) => id !== 'notes');
    await manager.call('plainFields', { ids: [...plain, 'rights'] });
    expect((await editor.call('fields', null)).plain).toEqual({ notes: false, rights: true });
    await until('the other answer', async () => (await found('weirfarer', written)) === ids.length);
    expect(await found('lockwise', written)).toBe(0);
    expect(await found('notes:lockwise', written)).toBe(ids.length);
    await manager.call('plainFields', { ids: BUILT_IN.plain });
    expect((await editor.call('fields', null)).plain).toEqual({});
    await until('the answer as before', async () => (await found('lockwise', written)) === ids.length);
  });

  it('keep one field at least, and none that says no words', async () => {
    const manager = await library.as('manager');
    for (const ids of [[], ['duration'], ['nothing'], ['position']])
      expect(await manager.refused('plainFields', { ids })).toMatchObject({ status: 422 });
    expect(await editor.refused('plainFields', { ids: ['title'] })).toMatchObject({ status: 403 });
    expect((await editor.call('fields', null)).plain).toEqual({});
  });
});
