import type { TagChange } from '@larder/core/tags';
import { kanaMigration } from '../src/store/migrations/020-kana';
import { type Client, soundsIn, TestLibrary, until } from './kit';

const FILES = 4;
let library: TestLibrary;
let manager: Client;
let editor: Client;
let ids: number[];

beforeAll(async () => {
  library = await TestLibrary.start(1);
  [manager, editor] = [await library.as('manager'), await library.as('editor')];
  ids = await soundsIn(library, manager, 'sound', FILES);
}, 120_000);
afterAll(() => library.stop(), 60_000);

const tag = (client: Client, assetIds: readonly number[], addTags: string[], removeTags: string[] = []) =>
  client.call('edit', { assetIds: [...assetIds], seenRevision: Number.MAX_SAFE_INTEGER, set: {}, addTags, removeTags });
const tagsOf = async () => (await editor.call('rows', { ids })).assets.map(({ tags }) => tags);
const found = async (query: string) => {
  const { revision } = await editor.call('status', null);
  return until(`the answer at ${revision}`, async () => {
    const answer = await editor.call('searchIds', {
      ...{ query, atLeast: revision },
      sort: { field: 'name', descending: false },
    });
    return answer.revision >= revision && { ids: answer.ids };
  }).then((answer) => answer.ids);
};
const named = async (name: string) => {
  const tags = (await editor.call('tags', null)).tags;
  const there = tags.find((each) => each.name === name);
  if (!there) throw new Error(`no tag “${name}” among ${tags.map((each) => each.name).join(', ')}`);
  return there;
};
const change = (name: string, more: Partial<TagChange> = {}): TagChange => ({
  ...{ name, setId: null, description: '', letter: '', synonyms: [] },
  ...more,
});

describe('sets of tags', () => {
  it('hold tags in order, used or not; a free tag joins by its name; editors only look', async () => {
    await tag(editor, ids.slice(0, 1), ['dawn']);
    const set = { name: 'Light', description: 'What the sun does', letter: '', pattern: 'dots' as const };
    expect(await editor.refused('newTagSet', set)).toMatchObject({ status: 403 });
    const { id } = await manager.call('newTagSet', set);
    for (const name of ['overcast', 'Dawn', 'dusk']) await manager.call('newTag', change(name, { setId: id }));
    const other = await manager.call('newTagSet', { ...set, name: 'Weather' });
    expect(await manager.refused('newTagSet', { ...set, name: ' LIGHT' })).toMatchObject({
      error: { reason: 'There is a set “Light” already.' },
    });
    const book = await editor.call('tags', null);
    expect(book).toMatchObject({ freeTags: true, sets: [{ name: 'Light', pattern: 'dots' }, { name: 'Weather' }] });
    expect(book.tags.map(({ name, setId, uses }) => [name, setId, uses])).toEqual([
      ['overcast', id, 0],
      ['dawn', id, 1],
      ['dusk', id, 0],
    ]);
    await manager.call('orderTags', { ids: book.tags.map((each) => each.id).reverse() });
    await manager.call('orderTagSets', { ids: [other.id, id] });
    const again = await editor.call('tags', null);
    expect(again.tags.map(({ name }) => name)).toEqual(['dusk', 'dawn', 'overcast']);
    expect(again.sets.map(({ name }) => name)).toEqual(['Weather', 'Light']);
    await manager.call('changeTagSet', { ...set, name: 'Sun and light', letter: 'z' }, id);
    await manager.call('removeTagSet', null, other.id);
    expect((await editor.call('tags', null)).sets).toMatchObject([{ name: 'Sun and light', letter: 'z' }]);
    expect(await manager.refused('removeTagSet', null, other.id)).toMatchObject({ status: 404 });
  });
});

describe('a tag', () => {
  it('that is renamed keeps every use, is found by its new name, and found and typed by its old or by another word', async () => {
    await tag(editor, ids, ['boathouse']);
    const { id } = await named('boathouse');
    await manager.call('changeTag', change('boat shed', { synonyms: ['shed', 'boathouse'] }), id);
    expect(await tagsOf()).toEqual(ids.map((_id, index) => (index === 0 ? ['boat shed', 'dawn'] : ['boat shed'])));
    expect(await found('tag:"boat shed"')).toEqual(ids);
    for (const query of ['tag:boathouse', 'tag:sh*', 'shed']) expect([query, await found(query)]).toEqual([query, ids]);
    expect((await editor.call('facet', { query: '', field: 'tag' })).values).toContainEqual({
      value: 'boat shed',
      count: ids.length,
    });
    await tag(editor, ids.slice(0, 1), [], ['SHED']);
    expect(await found('tag:"boat shed"')).toEqual(ids.slice(1));
    await tag(editor, ids.slice(0, 1), ['Boathouse', 'shed']);
    expect((await tagsOf())[0]).toEqual(['boat shed', 'dawn']);
    expect((await named('boat shed')).synonyms).toEqual(['boathouse', 'shed']);
  });
  it('cannot take a word that means another', async () => {
    const { id } = await named('dawn');
    for (const word of ['Boat Shed', 'shed'])
      expect(await manager.refused('changeTag', change(word), id)).toMatchObject({ error: { code: 'refused' } });
    expect(await manager.refused('changeTag', change('dawn', { synonyms: ['boathouse'] }), id)).toMatchObject({
      error: { code: 'refused' },
    });
    expect(await manager.refused('newTag', change('DAWN'))).toMatchObject({ status: 422 });
  });
  it('that is merged gives its clips the other, each once, and leaves it in their history', async () => {
    await tag(editor, ids.slice(0, 2), ['sunrise']);
    const [gone, stays] = [await named('sunrise'), await named('dawn')];
    expect(await manager.refused('mergeTag', { into: gone.id }, gone.id)).toMatchObject({ status: 422 });
    const written = await manager.call('mergeTag', { into: stays.id }, gone.id);
    expect(written.changed).toBe(3);
    expect(await found('tag:dawn')).toEqual(ids.slice(0, 2));
    expect(await found('tag:sunrise')).toEqual(ids.slice(0, 2));
    const [first] = (await editor.call('history', null, ids[1] ?? 0)).changes;
    expect(first).toMatchObject({
      action: 'retag',
      before: { tags: ['boat shed', 'sunrise'] },
      after: { tags: ['boat shed', 'dawn'] },
    });
    // Taken back it is a tag of its own again, with its clips and words; what they were given since stays.
    await tag(editor, ids.slice(0, 1), ['barge']);
    await manager.call('undo', {});
    expect((await tagsOf()).slice(0, 3)).toEqual([
      ['barge', 'boat shed', 'dawn', 'sunrise'],
      ['boat shed', 'sunrise'],
      ['boat shed'],
    ]);
    expect([(await named('sunrise')).id, (await named('dawn')).synonyms]).toEqual([gone.id, []]);
    expect([await found('tag:dawn'), await found('tag:sunrise')]).toEqual([ids.slice(0, 1), ids.slice(0, 2)]);
    expect(await manager.call('redo', null)).toMatchObject({ action: 'retag', fields: ['tags'] });
    expect(await found('tag:dawn')).toEqual(ids.slice(0, 2));
    await tag(editor, ids.slice(0, 1), [], ['barge']);
    await tag(editor, ids.slice(2, 3), ['Sunrise']);
    expect(await found('tag:dawn')).toEqual(ids.slice(0, 3));
    expect((await named('dawn')).synonyms).toEqual(['sunrise']);
  });
  it('that is split gives the new ones to those of its clips that a search finds, and to all without one', async () => {
    const { id, setId } = await named('dawn');
    await found('tag:dawn');
    await manager.call('splitTag', { names: ['first light'], query: 'name:T0' }, id);
    expect((await tagsOf()).map((tags) => tags.filter((name) => name !== 'boat shed'))).toEqual([
      ['first light'],
      ['dawn'],
      ['dawn'],
      [],
    ]);
    expect((await named('first light')).setId).toBe(setId);
    await manager.call('splitTag', { names: ['early', 'cold'], query: '' }, id);
    expect(await manager.call('undo', {})).toMatchObject({ action: 'retag', assets: 2 });
    expect((await tagsOf())[1]).toEqual(['boat shed', 'dawn']);
    await manager.call('redo', null);
    expect((await tagsOf())[1]).toEqual(['boat shed', 'cold', 'early']);
    expect((await named('dawn')).uses).toBe(0);
  });
  it('an undo puts back what a clip had, by the names that its tags have now', async () => {
    const written = await tag(editor, ids.slice(3), [], ['boat shed']);
    await manager.call('changeTag', change('slipway'), (await named('boat shed')).id);
    await editor.call('undo', { group: written.group });
    expect((await tagsOf())[3]).toEqual(['slipway']);
    expect((await named('slipway')).synonyms).toEqual(['boat shed']);
  });
});

describe('where free tags are not allowed', () => {
  it('only tags of sets are taken, by any of their words, and it is said which were none', async () => {
    await manager.call('freeTags', { allowed: false });
    expect(
      await editor.refused('edit', {
        ...{ assetIds: ids, seenRevision: Number.MAX_SAFE_INTEGER, set: {} },
        ...{ addTags: ['Sunrise', 'made up', 'slipway'], removeTags: [] },
      }),
    ).toMatchObject({
      error: { reason: expect.stringContaining('“made up”, “slipway”: no tag of any set.') as unknown },
    });
    await tag(editor, ids, ['Sunrise'], ['slipway']);
    expect(await found('tag:dawn')).toEqual(ids);
    expect((await editor.call('tags', null)).freeTags).toBe(false);
    await manager.call('freeTags', { allowed: true });
    await tag(editor, ids, ['made up']);
    expect(await found('tag:"made up"')).toEqual(ids);
  });
});

describe('tags in kana', () => {
  it('are told apart by their voicing, also where they were not before', async () => {
    await tag(editor, ids.slice(0, 1), ['かき']);
    await tag(editor, ids.slice(1, 2), ['がき']);
    expect(await found('tag:がき')).toEqual([ids[1]]);
    await library.library.withModels(async (db) => {
      await db.query("UPDATE tag SET folded = 'old' WHERE name = 'がき'");
      await kanaMigration.up({ context: db });
    });
    await tag(editor, ids.slice(2, 3), ['がき']);
    expect((await named('がき')).uses).toBe(2);
    expect(await found('tag:かき')).toEqual([ids[0]]);
  });
});
