import { mkdirSync } from 'node:fs';
import { join } from 'node:path';
import { FILE_PATHS } from '@larder/contract';
import { allJobsEnded, makeClip, mended, planned, scanned, TestLibrary, treeHash, type Client } from './kit';

let library: TestLibrary;
let manager: Client;
let editor: Client;
let [shelf, cards] = ['', ''];
let [shelfId, cardsId, projectId, knownId] = [0, 0, 0, 0];

const LIST = `TITLE: Boathouse
FCM: NON-DROP FRAME
001  A001     V     C        01:00:01:05 01:00:01:15 01:00:00:00 01:00:00:10
* FROM CLIP NAME: The wide one
002  A001     V     C        01:00:02:00 01:00:02:25 01:00:00:10 01:00:01:10
* FROM CLIP NAME: She laughs
003  AX       V     C        00:00:00:05 00:00:00:15 01:00:01:10 01:00:01:20
* FROM CLIP NAME: plain.mov
004  B007     V     C        09:00:00:02 09:00:00:12 01:00:01:20 01:00:02:05
005  ../../Z9 V     C        03:00:00:00 03:00:01:00 01:00:03:00 01:00:04:00
* FROM CLIP NAME: ../../etc
006  A001     A     C        01:00:01:05 01:00:01:15 01:00:00:00 01:00:00:10
`.replace('02:25', '02:24');
const asked = () => ({ fileName: 'boathouse.edl', text: LIST, counting: '25' as const, projectId, name: '' });
const inCards = () => [{ storageId: cardsId, folder: '', deep: true }];
const missing = async () => {
  const { revision: atLeast } = await editor.call('rows', { ids: [] });
  const { ids } = await editor.call('searchIds', { query: 'is:missing', atLeast });
  return (await editor.call('rows', { ids: [...ids] })).assets;
};
const itemsOf = async (id: number) => (await editor.call('stringOut', null, id)).items;

beforeAll(async () => {
  library = await TestLibrary.start(1);
  [manager, editor] = [await library.as('manager'), await library.as('editor')];
  [shelf, cards] = [library.shelf('shelf'), library.shelf('cards')];
  makeClip(join(shelf, 'B007/B007C001.mov'), { reel: 'B007', timecode: '09:00:00:00', picture: 'smptebars' });
  ({ storageId: shelfId } = await scanned(manager, 'Shelf', shelf));
  mkdirSync(join(cards, 'later'));
  ({ storageId: cardsId } = await scanned(manager, 'Cards', cards));
  const facts = { name: 'Cards', kind: 'local' as const, managed: false, presenceHours: null, verifyDays: null };
  await manager.call('changeStorage', { ...facts, recognises: true }, cardsId);
  await allJobsEnded(manager);
  const { revision: atLeast } = await manager.call('rows', { ids: [] });
  [knownId = 0] = (await manager.call('searchIds', { query: 'reel:B007', atLeast })).ids;
  // Nobody has scanned these.
  for (const n of [1, 2])
    makeClip(join(cards, `day 1/A001_C00${n}.mov`), { reel: 'A001', timecode: `01:00:0${n}:00`, picture: 'testsrc' });
  makeClip(join(cards, 'day 1/plain.mov'), { more: ['-metadata', 'location=+51.5000-000.1200/'] });
  ({ id: projectId } = await editor.call('newProject', { name: 'Slow Water', description: null, counting: '25' }));
}, 120_000);
afterAll(() => library.stop(), 60_000);

describe('a cut list whose clips the library has never seen', () => {
  let cut = 0;

  it('becomes a string-out: what is known is cut, what is not is missing with reel and timecode', async () => {
    const read = await editor.call('readList', { ...asked(), expectedOn: shelfId });
    expect(read).toMatchObject({ name: 'Boathouse', items: 5, unseen: 4 });
    expect(read.losses).toEqual([
      'Event 6 is sound without picture, and is left out.',
      'A gap of 20 frames is closed.',
    ]);
    cut = read.stringOutId;
    const lost = await missing();
    expect(lost.map(({ name, path, reel, startFrame }) => [name, path, reel, startFrame])).toEqual(
      expect.arrayContaining([
        ['The wide one', 'A001/The wide one', 'A001', 90_030],
        ['She laughs', 'A001/She laughs', 'A001', 90_050],
        ['plain.mov', 'no reel/plain.mov', null, 5],
        ['..-..-etc', '---..-Z9/---..-etc', '../../Z9', 270_000],
      ]),
    );
    expect(lost).toHaveLength(4);
    const [one] = lost;
    expect(one?.reason).toContain('boathouse.edl');
    expect(await editor.call('lastSeen', null, one?.id)).toMatchObject({ isListed: true, storage: 'Shelf' });
    expect((await itemsOf(cut)).map(({ in: start, out: end }) => [start, end])).toEqual([
      [0, 10],
      [0, 24],
      [0, 10],
      [2, 12],
      [0, 25],
    ]);
    expect((await itemsOf(cut))[3]?.assetId).toBe(knownId);
    const [project] = (await editor.call('projects', null)).projects;
    expect(project?.stringOuts).toMatchObject([{ id: cut, items: 5, broken: 4 }]);
    // Nobody took it for something that was there and is gone.
    const { job } = await scanned(manager, 'Shelf', shelf);
    expect(job.state).toBe('done');
    expect(await missing()).toHaveLength(4);
  });

  it('is on the list of what has to be fetched, by reel and timecode', async () => {
    const lost = { of: 'string-out' as const, id: cut, folder: '', assetIds: [] };
    const { rows } = await manager.call('restoreList', {
      lost,
      plan: null,
      isCut: true,
      handlesSeconds: 0,
      offset: 0,
      limit: 100,
    });
    expect(rows.map(({ reel, ranges }) => [reel, ranges.length])).toContainEqual(['../../Z9', 1]);
  });

  it('read again, has the clips that it had', async () => {
    const again = await editor.call('readList', { ...asked(), name: 'Again', expectedOn: shelfId });
    expect(again).toMatchObject({ name: 'Again', items: 5, unseen: 0 });
    expect((await itemsOf(again.stringOutId)).map(({ assetId }) => assetId)).toEqual(
      (await itemsOf(cut)).map(({ assetId }) => assetId),
    );
    await editor.call('removeStringOut', null, again.stringOutId);
    expect(await missing()).toHaveLength(4);
  });

  it('is found by reel and timecode, moved to where that is in its files, and undone and done again as one', async () => {
    const before = [await itemsOf(cut), treeHash(cards)];
    const lost = { of: 'string-out' as const, id: cut, folder: '', assetIds: [] };
    const plan = await planned(manager, { lost, places: inCards() });
    expect(
      plan.items.map(({ lastSeen, matches: [first], name, state }) => [
        name,
        lastSeen,
        state,
        first?.likeness,
        first?.path,
      ]),
    ).toEqual(
      expect.arrayContaining([
        [
          'She laughs',
          'A001/She laughs (never seen, 01:00:02:00 – 01:00:02:24)',
          'decide',
          'equivalent',
          'day 1/A001_C002.mov',
        ],
        [
          'The wide one',
          'A001/The wide one (never seen, 01:00:01:05 – 01:00:01:15)',
          'decide',
          'equivalent',
          'day 1/A001_C001.mov',
        ],
        [
          'plain.mov',
          'no reel/plain.mov (never seen, 00:00:00:05 – 00:00:00:15)',
          'decide',
          'lookalike',
          'day 1/plain.mov',
        ],
        ['..-..-etc', '---..-Z9/---..-etc (never seen, 03:00:00:00 – 03:00:01:00)', 'unfound', undefined, undefined],
      ]),
    );
    const found = plan.items.filter(({ state }) => state === 'decide').map(({ assetId }) => assetId);
    await manager.call(
      'decideRelink',
      { decision: 'accepted', assetIds: found, rule: null, state: null, chosen: null },
      plan.id,
    );
    expect((await mended(manager, plan.id)).state).toBe('done');
    const starts = async () => (await itemsOf(cut)).map(({ in: start, out: end }) => [start, end]);
    const moved = [
      [5, 15],
      [0, 24],
      [5, 15],
      [2, 12],
      [0, 25],
    ];
    expect(await starts()).toEqual(moved);
    const { assets } = await editor.call('rows', { ids: found });
    expect(assets.map(({ name, reason, state }) => [name, reason, state])).toEqual(
      expect.arrayContaining([
        ['A001_C001.mov', null, 'online'],
        ['A001_C002.mov', null, 'online'],
        ['plain.mov', null, 'online'],
      ]),
    );
    expect(await editor.call('lastSeen', null, found[0])).toMatchObject({ isListed: false });
    // What the file says of itself is taken as of any new one, and what is said in it is written down where that is wanted.
    const plain = assets.find(({ name }) => name === 'plain.mov');
    expect(plain?.logged).toHaveProperty('position');
    const { jobs } = await manager.call('jobs', null);
    expect(jobs.filter(({ kind }) => kind === 'recognise')).toHaveLength(3);
    const text = await (await editor.raw('GET', FILE_PATHS.cutList(cut, 'edl'))).text();
    const report = await editor.call('conform', { fileName: 'out.edl', text, counting: '25' });
    expect(report.events.map(({ words }) => words)).toEqual([[], [], [], [], ['The original is missing.']]);
    const { mending } = await manager.call('relinkPlan', null, plan.id);
    const undone = await manager.call('undo', { group: mending?.group ?? '' });
    expect(await itemsOf(cut)).toEqual(before[0]);
    expect(await missing()).toHaveLength(4);
    expect(await editor.call('lastSeen', null, found[0])).toMatchObject({ isListed: true });
    expect((await editor.call('rows', { ids: [plain?.id ?? 0] })).assets[0]?.logged).toEqual({});
    await manager.call('undo', { group: undone.group ?? '' });
    expect(await starts()).toEqual(moved);
    expect(await missing()).toHaveLength(1);
    expect(treeHash(cards)).toBe(before[1]);
  });

  it('undone, loses nothing that was said of it since', async () => {
    makeClip(join(cards, 'day 3/F001_C001.mov'), { reel: 'F001', timecode: '01:00:01:00', tone: 350 });
    const text = `TITLE: F\n001  F001     V     C        01:00:01:05 01:00:01:15 01:00:00:00 01:00:00:10\n`;
    const { stringOutId } = await editor.call('readList', { ...asked(), text, expectedOn: shelfId });
    const lost = { of: 'string-out' as const, id: stringOutId, folder: '', assetIds: [] };
    const plan = await planned(manager, { lost, places: inCards() });
    const ids = plan.items.map(({ assetId }) => assetId);
    await manager.call(
      'decideRelink',
      { decision: 'accepted', assetIds: ids, rule: null, state: null, chosen: null },
      plan.id,
    );
    expect((await mended(manager, plan.id)).state).toBe('done');
    await editor.call('edit', {
      ...{ assetIds: ids, seenRevision: Number.MAX_SAFE_INTEGER, set: { description: 'Said since', slate: '12' } },
      ...{ addTags: [], removeTags: [] },
    });
    const { mending } = await manager.call('relinkPlan', null, plan.id);
    await manager.call('undo', { group: mending?.group ?? '' });
    const [asset] = (await editor.call('rows', { ids })).assets;
    expect(asset).toMatchObject({ state: 'missing', description: 'Said since', logged: { slate: '12' } });
  });

  it('goes with the string-out that it was read as, and only where nobody said anything of it', async () => {
    const second = await editor.call('readList', {
      ...asked(),
      ...{ text: LIST.replaceAll('A001', 'C001').replaceAll('plain', 'other'), expectedOn: shelfId, name: 'Second' },
    });
    expect(second.unseen).toBe(3);
    const fresh = (await missing()).filter(({ reel }) => reel === 'C001');
    expect(fresh).toHaveLength(2);
    const [kept, gone] = fresh;
    await editor.call('edit', {
      ...{ assetIds: [kept?.id ?? 0], seenRevision: Number.MAX_SAFE_INTEGER, set: { title: 'Wanted' } },
      ...{ addTags: [], removeTags: [] },
    });
    await editor.call('removeStringOut', null, second.stringOutId);
    const left = (await missing()).map(({ id }) => id);
    expect(left).toContain(kept?.id);
    expect(left).not.toContain(gone?.id);
  });

  it('pointing at one file finds the others that lie in its folder', async () => {
    const third = await editor.call('readList', {
      ...asked(),
      ...{ text: LIST.replaceAll('A001', 'D001').replaceAll('plain', 'third'), expectedOn: shelfId, name: 'Third' },
    });
    for (const n of [1, 2])
      makeClip(join(cards, `day 2/D001_C00${n}.mov`), { reel: 'D001', timecode: `01:00:0${n}:00`, tone: 300 });
    const lost = (await missing()).filter(({ reel }) => reel === 'D001');
    const one = lost.find(({ name }) => name === 'She laughs');
    const plan = await planned(manager, { assetId: one?.id ?? 0, storageId: cardsId, path: 'day 2/D001_C002.mov' });
    expect(plan.items.map(({ matches: [first], name, state }) => [name, state, first?.path])).toEqual(
      expect.arrayContaining([
        ['She laughs', 'accepted', 'day 2/D001_C002.mov'],
        ['The wide one', 'decide', 'day 2/D001_C001.mov'],
      ]),
    );
    expect(plan.items).toHaveLength(2);
    expect(third.items).toBe(5);
  });

  it('can leave them out, and refuses what cannot be brought in', async () => {
    const read = await editor.call('readList', {
      ...asked(),
      text: LIST.replaceAll('A001', 'E001'),
      expectedOn: null,
    });
    expect(read).toMatchObject({ unseen: 0 });
    expect(read.losses).toContain('Event 1 is of a clip that the library has never seen, and is left out.');
    const before = (await missing()).length;
    const refused = async (changes: object) =>
      (await editor.refused('readList', { ...asked(), expectedOn: shelfId, ...changes })).error;
    expect(await refused({ text: 'nothing of the sort' })).toMatchObject({ code: 'refused' });
    expect(await refused({ projectId: 999 })).toMatchObject({ code: 'not-found', what: 'project' });
    expect(await refused({ expectedOn: 999 })).toMatchObject({ code: 'not-found', what: 'storage' });
    expect(
      await refused({
        text: 'TITLE: S\n001  A001     A     C        01:00:01:05 01:00:01:15 01:00:00:00 01:00:00:10\n',
      }),
    ).toMatchObject({
      code: 'refused',
      reason: expect.stringContaining('Nothing of boathouse.edl can be cut.') as string,
    });
    expect(await missing()).toHaveLength(before);
  });
});
