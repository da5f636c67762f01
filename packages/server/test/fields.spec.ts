import { writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { FIELDS, SETTABLE_FIELDS, type Field, type FieldChanges } from '@larder/core/fields';
import type { Written } from '@larder/contract';
import { allJobsEnded, type Client, scanned, TestLibrary, until } from './kit';
import { wave } from './wave';

let library: TestLibrary;
let editor: Client;
let other: Client;
let ids: number[];

beforeAll(async () => {
  library = await TestLibrary.start(1);
  const manager = await library.as('manager');
  [editor, other] = [await library.as('editor'), await library.as('other')];
  const shelf = library.shelf('sound');
  for (let n = 0; n < 3; n += 1) writeFileSync(join(shelf, `T${n}.wav`), wave(n));
  await scanned(manager, 'Sound', shelf);
  await allJobsEnded(manager);
  ids = [
    ...(await until('the index', async () => {
      const answer = await manager.call('searchIds', {});
      return answer.ids.length === 3 && answer.ids;
    })),
  ].sort((a, b) => a - b);
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
  choices ? (choices.at(-1) ?? '') : type === 'number' ? 4 : type === 'names' ? ['Ada Lock', 'Nan Weir'] : `${id} said`;

describe('fields that people fill in', () => {
  it('all of them are kept, found, and taken back, many assets at once', async () => {
    const all = Object.fromEntries(SETTABLE_FIELDS.map((field) => [field.id, saidIn(field)])) as FieldChanges;
    const before = await rows();
    const written = await editor.call('edit', edit(all));
    expect(written.changed).toBe(ids.length);
    const { title, description, notes, verdict, reel, scene, take, place, ...logged } = all;
    for (const asset of await rows())
      expect(asset).toMatchObject({ title, description, notes, verdict, reel, scene, take, place, logged });
    for (const field of SETTABLE_FIELDS) {
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
    expect(FIELDS.length).toBeGreaterThan(SETTABLE_FIELDS.length);
  });
});
