import { copyFileSync, mkdirSync, renameSync, rmSync } from 'node:fs';
import { join } from 'node:path';
import type { Asset, RelinkItem } from '@larder/contract';
import { allJobsEnded, makeClip, mended, planned, scanned, TestLibrary, until, type Client } from './kit';

let library: TestLibrary;
let manager: Client;
let editor: Client;
let shelf: string;
let storageId: number;

const find = async (query: string): Promise<readonly Asset[]> => {
  // A job's writes are in every answer too.
  const { revision: atLeast } = await manager.call('rows', { ids: [] });
  const { ids } = await manager.call('searchIds', { query, atLeast });
  return ids.length === 0 ? [] : (await manager.call('rows', { ids: [...ids] })).assets;
};
const missing = async () => (await find('is:missing')).map(({ name }) => name).sort();
const scan = async () => {
  await scanned(manager, 'Shelf', shelf);
  await allJobsEnded(manager);
};
const everywhere = () => ({ places: [{ storageId, folder: '', deep: true }] });
const states = (items: readonly RelinkItem[]) => items.map(({ name, state }) => [name, state]);
const decide = (plan: number, decided: object) =>
  manager.call(
    'decideRelink',
    { decision: 'accepted', assetIds: [], rule: null, state: null, chosen: null, ...decided },
    plan,
  );
/** Where all of them are, and what hangs on them. */
const everything = async () =>
  (await find('')).map(({ bins, id, name, path, renditions, state, storage, tags, verdict }) => ({
    ...{ bins, id, name, path, renditions, state, storage, tags, verdict },
  }));

beforeAll(async () => {
  library = await TestLibrary.start();
  [manager, editor] = [await library.as('manager'), await library.as('editor')];
  shelf = library.shelf('shelf');
  for (const card of ['A001', 'A002'])
    for (const n of [1, 2, 3])
      makeClip(join(shelf, `day/${card}/${card}C00${n}.mov`), {
        ...{
          seconds: 0.4,
          reel: card,
          timecode: `0${card === 'A001' ? n : n + 3}:00:00:00`,
          tone: 300 + 50 * n + (card === 'A001' ? 0 : 20),
        },
      });
  ({ storageId } = await scanned(manager, 'Shelf', shelf));
  await allJobsEnded(manager);
});
afterAll(() => library.stop(), 60_000);

describe('one file that is pointed at', () => {
  it('brings the others: what became of it is offered for all that it explains, and mended and undone in one step', async () => {
    const before = await everything();
    renameSync(join(shelf, 'day/A001'), join(shelf, 'card one'));
    await scan();
    expect(await missing()).toEqual(['A001C001.mov', 'A001C002.mov', 'A001C003.mov']);
    const lost = await everything();
    const [first] = await find('name:A001C002');
    const plan = await planned(manager, { assetId: first?.id ?? 0, storageId, path: 'card one/A001C002.mov' });
    expect(states(plan.items)).toEqual([
      ['A001C001.mov', 'decide'],
      ['A001C002.mov', 'accepted'],
      ['A001C003.mov', 'decide'],
    ]);
    expect(plan.rules).toEqual([
      {
        ...{ from: 'Shelf/day/A001', to: 'Shelf/card one', extension: null, before: '', behind: '' },
        ...{ decide: 2, accepted: 1 },
      },
    ]);
    const decided = await decide(plan.id, { rule: 0 });
    expect(decided.counts).toMatchObject({ accepted: 3, decide: 0 });
    expect(await mended(manager, plan.id)).toMatchObject({ state: 'done', done: 3, total: 3 });
    expect(await missing()).toEqual([]);
    const after = await everything();
    expect(after).toEqual(before.map((asset) => ({ ...asset, path: asset.path.replace('day/A001', 'card one') })));
    // Each was opened, and what it says of itself held against what it was.
    const { items } = await manager.call('relinkItems', { state: 'mended', rule: null, offset: 0, limit: 2 }, plan.id);
    expect(items.map(({ verified }) => verified?.map(({ agreement, kind }) => [kind, agreement]))).toEqual([
      [
        ['size', 'agrees'],
        ['timecode', 'agrees'],
        ['duration', 'agrees'],
        ['rate', 'agrees'],
      ],
      expect.anything(),
    ]);
    const undone = await manager.call('undo', {});
    expect(undone).toMatchObject({ action: 'relink', assets: 3 });
    expect(await everything()).toEqual(lost);
    expect((await manager.call('relinkPlan', null, plan.id)).counts).toMatchObject({ accepted: 3, mended: 0 });
    await manager.call('redo', null);
    expect(await everything()).toEqual(after);
    expect(await manager.refused('undo', { group: 'somebody else’s' })).toMatchObject({ status: 404 });
  });

  it('is refused where there is nothing of the kind, with words', async () => {
    renameSync(join(shelf, 'card one/A001C001.mov'), join(shelf, 'card one/one.mov'));
    await scan();
    const [lost] = await find('is:missing');
    const plan = await planned(manager, { assetId: lost?.id ?? 0, storageId, path: 'card one/none.mov' });
    expect(plan.job).toMatchObject({
      state: 'failed',
      message: 'There is no footage or sound at Shelf/card one/none.mov.',
    });
    // Its name has become another: that is a rule for nobody else.
    const one = await planned(manager, { assetId: lost?.id ?? 0, storageId, path: 'card one/one.mov' });
    expect([states(one.items), one.rules]).toEqual([[['A001C001.mov', 'accepted']], []]);
    expect((await mended(manager, one.id)).state).toBe('done');
  });
});

describe('a plan', () => {
  it('keeps what is decided, is filtered by it, and mends only what is accepted', async () => {
    mkdirSync(join(shelf, 'elsewhere'));
    renameSync(join(shelf, 'day/A002'), join(shelf, 'elsewhere/A002'));
    copyFileSync(join(shelf, 'elsewhere/A002/A002C001.mov'), join(shelf, 'elsewhere/A002C001.mov'));
    await scan();
    const plan = await planned(manager, { ...everywhere(), acceptsExact: false });
    expect(states(plan.items)).toEqual([
      ['A002C001.mov', 'decide'],
      ['A002C002.mov', 'decide'],
      ['A002C003.mov', 'decide'],
    ]);
    const [one, two, three] = plan.items.map(({ assetId }) => assetId);
    await decide(plan.id, { assetIds: [one, two] });
    const decided = await decide(plan.id, { assetIds: [three], decision: 'rejected' });
    expect(decided.counts).toMatchObject({ accepted: 2, rejected: 1, decide: 0 });
    const items = (asked: object) =>
      manager.call('relinkItems', { state: null, rule: null, offset: 0, limit: 100, ...asked }, plan.id);
    expect((await items({ state: 'rejected' })).items.map(({ assetId }) => assetId)).toEqual([three]);
    expect(await items({ offset: 1, limit: 1 })).toMatchObject({ total: 3, items: [{ assetId: two }] });
    // The other of two that are the same.
    const other = plan.items[0]?.matches[1]?.path;
    await decide(plan.id, { assetIds: [one], chosen: 1 });
    expect(
      await manager.refused('decideRelink', { decision: 'open', assetIds: [one], chosen: 9 }, plan.id),
    ).toMatchObject({ status: 404 });
    expect((await mended(manager, plan.id)).state).toBe('done');
    expect(await missing()).toEqual(['A002C003.mov']);
    expect((await find(`id:${one}`)).map(({ path }) => path)).toEqual([other]);
    expect((await items({ state: 'rejected' })).total).toBe(1);
    expect(await manager.refused('mend', null, plan.id)).toMatchObject({
      error: { reason: 'Nothing is accepted yet. Accept what is to be mended first.' },
    });
  });

  it('is about what is asked for, and passes over folders and names', async () => {
    const of = (lost: object) =>
      planned(manager, {
        ...everywhere(),
        lost: { of: 'everything', id: null, folder: '', assetIds: [], ...lost } as never,
      });
    const found = async (lost: object) => states((await of(lost)).items);
    const [lost] = await find('is:missing');
    const all = [['A002C003.mov', 'accepted']];
    const bin = await editor.call('newBin', { name: 'Lock', parentId: null });
    const inner = await editor.call('newBin', { name: 'Inner', parentId: bin.id });
    await editor.call('binAssets', { add: [lost?.id ?? 0], remove: [] }, inner.id);
    expect(await found({})).toEqual(all);
    expect(await found({ of: 'bin', id: bin.id })).toEqual(all);
    expect(await found({ of: 'bin', id: 9999 })).toEqual([]);
    expect(await found({ of: 'assets', assetIds: [lost?.id] })).toEqual(all);
    expect(await found({ of: 'assets', assetIds: [] })).toEqual([]);
    expect(await found({ of: 'storage', id: storageId, folder: 'day/A002' })).toEqual(all);
    expect(await found({ of: 'storage', id: storageId, folder: 'day/A00' })).toEqual([]);
    const looked = async (asked: object) => (await planned(manager, { ...everywhere(), ...asked })).items[0]?.state;
    expect(await looked({ passOver: ['ELSE*'] })).toBe('unfound');
    // Who chooses such a folder wants it.
    const chosen = { places: [{ storageId, folder: 'elsewhere', deep: true }], passOver: ['ELSE*'] };
    expect(await looked(chosen)).toBe('accepted');
    expect(await looked({ names: '*C003*' })).toBe('accepted');
    expect(await looked({ names: '*C004*' })).toBe('unfound');
    expect(await looked({ places: [{ storageId, folder: 'elsewhere', deep: false }] })).toBe('unfound');
  });

  it('of which a file is gone when it is carried out changes nothing, says which, and mends the others', async () => {
    rmSync(join(shelf, 'card one/A001C002.mov'));
    renameSync(join(shelf, 'card one/A001C003.mov'), join(shelf, 'A001C003.mov'));
    await scan();
    const plan = await planned(manager, everywhere());
    expect(states(plan.items)).toEqual([
      ['A001C002.mov', 'unfound'],
      ['A001C003.mov', 'accepted'],
      ['A002C003.mov', 'accepted'],
    ]);
    const before = await everything();
    renameSync(join(shelf, 'A001C003.mov'), join(shelf, 'gone again.mov'));
    expect(await mended(manager, plan.id)).toMatchObject({
      state: 'failed',
      message: expect.stringMatching(
        /^Nothing was relinked: 1 of 2 .*A001C003\.mov is not in Shelf any more\./,
      ) as unknown,
    });
    renameSync(join(shelf, 'gone again.mov'), join(shelf, 'A001C003.mov'));
    expect(await everything()).toEqual(before);
    const { items } = await manager.call('relinkItems', { state: 'decide', rule: null, offset: 0, limit: 9 }, plan.id);
    expect(items).toMatchObject([{ name: 'A001C003.mov', trouble: 'A001C003.mov is not in Shelf any more.' }]);
    expect((await mended(manager, plan.id)).state).toBe('done');
    expect(await missing()).toEqual(['A001C002.mov', 'A001C003.mov']);
  });

  it('of which somebody has mended one meanwhile changes nothing', async () => {
    const [ours, theirs] = [await planned(manager, everywhere()), await planned(manager, everywhere())];
    expect((await mended(manager, theirs.id)).state).toBe('done');
    // What is mended is no longer to be done.
    expect((await manager.call('relinkPlan', null, ours.id)).counts).toMatchObject({ accepted: 0 });
    expect(await manager.refused('mend', null, ours.id)).toMatchObject({ error: { code: 'refused' } });
  });

  it('on a storage that goes away changes nothing, and nothing of it is said to be gone', async () => {
    renameSync(join(shelf, 'elsewhere/A002'), join(shelf, 'A002'));
    await scan();
    const plan = await planned(manager, everywhere());
    expect(plan.counts).toMatchObject({ decide: 0, unfound: 1 });
    expect(plan.counts.accepted).toBeGreaterThan(1);
    renameSync(shelf, `${shelf}.away`);
    const job = await mended(manager, plan.id);
    renameSync(`${shelf}.away`, shelf);
    // It may have been noticed that it was away.
    await until('the storage to be back', async () =>
      (await manager.call('storages', null)).storages.every(({ state }) => state === 'online'),
    );
    expect(job.state).toBe('failed');
    expect(job.message).toMatch(/“Shelf” (went away|is not mounted)/);
    expect((await manager.call('relinkPlan', null, plan.id)).counts).toEqual(plan.counts);
  });
});

describe('the health of the library', () => {
  it('tells of each folder what is lost, and what depends on it, worst first', async () => {
    const { projects } = await manager.call('projects', null);
    expect(projects).toEqual([]);
    const [cut] = await find('name:A002C003');
    const project = await editor.call('newProject', { name: 'Water', description: null, counting: '25' });
    await editor.call('newStringOut', { name: 'Cut', projectId: project.id, assetIds: [cut?.id ?? 0] });
    const { folders, more } = await manager.call('health', null);
    expect(more).toBe(0);
    expect(
      folders.map(({ folder, missing, uses }) => [folder, missing, uses.map(({ name }): unknown => name)]),
    ).toEqual([
      [cut?.path.slice(0, cut.path.lastIndexOf('/')), expect.any(Number), expect.arrayContaining(['Water, Cut'])],
      ...folders
        .slice(1)
        .map(({ folder, missing }): unknown[] => [folder, missing, expect.not.arrayContaining(['Water, Cut'])]),
    ]);
    const lost = folders.reduce((sum, { missing }) => sum + missing, 0);
    expect(lost).toBe((await missing()).length);
    const [broken] = (await manager.call('projects', null)).projects;
    expect(broken).toMatchObject({ broken: 1, stringOuts: [{ broken: 1 }] });
    const { bins } = await manager.call('bins', null);
    expect(bins.find(({ name }) => name === 'Inner')?.broken).toBe(1);
    expect(bins.find(({ name }) => name === 'Lock')?.broken).toBe(0);
    const plan = await planned(manager, {
      ...everywhere(),
      lost: { of: 'string-out', id: broken?.stringOuts[0]?.id ?? 0, folder: '', assetIds: [] },
    });
    expect(plan.items.map(({ assetId }) => assetId)).toEqual([cut?.id]);
  });

  it('counts nothing as lost that is on a storage which is away', async () => {
    const states = (state: string) =>
      until(`the storage to be ${state}`, async () =>
        (await manager.call('storages', null)).storages.every((each) => each.state === state),
      );
    const listed = async () =>
      (
        await manager.call('restoreList', {
          ...{ plan: null, isCut: false, handlesSeconds: 1, offset: 0, limit: 10 },
          lost: { of: 'everything', id: null, folder: '', assetIds: [] },
        })
      ).total;
    expect(await listed()).toBeGreaterThan(0);
    renameSync(shelf, `${shelf}.away`);
    await states('offline');
    const { away, folders } = await manager.call('health', null);
    expect([folders, away.map(({ storage }) => storage)]).toEqual([[], ['Shelf']]);
    const [project] = (await manager.call('projects', null)).projects;
    expect(project).toMatchObject({ broken: 0, stringOuts: [{ broken: 0 }] });
    expect((await manager.call('bins', null)).bins.filter(({ broken }) => broken > 0)).toEqual([]);
    expect(await listed()).toBe(0);
    renameSync(`${shelf}.away`, shelf);
    await states('online');
    expect((await manager.call('projects', null)).projects).toMatchObject([{ broken: 1 }]);
    expect(await listed()).toBeGreaterThan(0);
  });

  it('tells of one where it was seen last, when, and how all else in its folder is', async () => {
    const [one] = await find('name:A002C003');
    const seen = await manager.call('lastSeen', null, one?.id);
    const folder = one?.path.slice(0, one.path.lastIndexOf('/'));
    expect(seen).toMatchObject({
      storage: 'Shelf',
      path: one?.path,
      bytes: one?.bytes,
      xxh64: null,
      folder: { path: folder },
    });
    expect(seen.folder.missing).toBeGreaterThan(0);
    expect(seen.seenMs).toBeGreaterThanOrEqual(seen.addedMs);
    expect(seen.seenMs).toBeLessThan(one?.stateSinceMs ?? 0);
    expect(await manager.refused('lastSeen', null, 99_999)).toMatchObject({ status: 404 });
  });
});

describe('a file that begins later than the lost one', () => {
  const SPOKEN = '1\n00:00:00,200 --> 00:00:00,600\nbefore\n\n2\n00:00:02,400 --> 00:00:02,800\nafter\n';
  let id: number;
  let stringOut: number;
  const clip = (path: string, second: number, seconds: number) =>
    makeClip(join(shelf, path), { seconds, reel: 'A009', timecode: `20:00:0${second}:00`, tone: 700 });
  /** Where everything stands in it. */
  const places = async () => {
    const { markers } = await manager.call('markers', null, id);
    const { assets: subclips } = await manager.call('subclips', null, id);
    const { items } = await manager.call('stringOut', null, stringOut);
    const { shown } = await manager.call('transcript', { source: null }, id);
    return {
      markers: markers.map(({ end, start }) => [start, end]),
      subclips: subclips.map(({ inPlace }) => inPlace),
      cuts: items.map((item) => [item.in, item.out]),
      words: shown?.words.map(({ startMs, text }) => [text, startMs]),
    };
  };

  it('has all that stands in it moved to its timecode; words that fell off come back with undo', async () => {
    mkdirSync(join(shelf, 'late'));
    clip('late/A009C001.mov', 0, 4);
    await scan();
    [{ id }] = (await find('name:A009C001')) as [Asset];
    await editor.call(
      'newMarker',
      { kind: 'note', start: 60, end: 70, name: 'Gate', note: '', colour: 'red' } as never,
      id,
    );
    await editor.call('newSubclip', { name: 'Opens', in: 50, out: 80 }, id);
    const [project] = (await manager.call('projects', null)).projects;
    const out = await editor.call('newStringOut', { name: 'Late', projectId: project?.id ?? 0, assetIds: [id] });
    stringOut = out.id;
    const items = out.items.map((item) => ({ ...item, in: 55, out: 75 }));
    await editor.call('saveStringOut', { name: 'Late', version: out.version, items, markers: [] }, stringOut);
    await editor.call('readTranscript', { text: SPOKEN }, id);
    const before = await places();
    expect(before).toEqual({
      ...{ markers: [[60, 70]], subclips: [50], cuts: [[55, 75]] },
      words: [
        ['before', 200],
        ['after', 2400],
      ],
    });
    rmSync(join(shelf, 'late/A009C001.mov'));
    mkdirSync(join(shelf, 'trimmed'));
    clip('trimmed/A009C001.mov', 1, 3);
    await scan();
    const plan = await planned(manager, { assetId: id, storageId, path: 'trimmed/A009C001.mov' });
    expect(states(plan.items)).toEqual([['A009C001.mov', 'accepted']]);
    expect(await mended(manager, plan.id)).toMatchObject({ state: 'done', message: null });
    const after = await places();
    expect(after).toEqual({ markers: [[35, 45]], subclips: [25], cuts: [[30, 50]], words: [['after', 1400]] });
    await manager.call('undo', {});
    expect(await places()).toEqual(before);
    await manager.call('redo', null);
    expect(await places()).toEqual(after);
    await manager.call('undo', {});
    expect(await places()).toEqual(before);
  });

  it('is not relinked, nor put back, where something has been marked since that has no place in the other', async () => {
    mkdirSync(join(shelf, 'longer'));
    clip('longer/A009C001.mov', 0, 5);
    await scan();
    const before = await places();
    const plan = await planned(manager, { assetId: id, storageId, path: 'longer/A009C001.mov' });
    expect(await mended(manager, plan.id)).toMatchObject({ state: 'done', message: null });
    expect(await places()).toEqual(before);
    const late = { kind: 'note', start: 110, end: null, name: 'Late', note: '', colour: 'red' } as const;
    const marker = await editor.call('newMarker', late, id);
    expect(await manager.refused('undo', {})).toMatchObject({
      error: {
        code: 'refused',
        reason: expect.stringMatching(/no place in the other file\. Nothing was undone/) as string,
      },
    });
    await editor.call('removeMarkers', { ids: [marker.id] });
    const { mending } = await manager.call('relinkPlan', null, plan.id);
    await manager.call('undo', { group: mending?.group ?? '' });
    expect(await places()).toEqual(before);
  });

  it('is ruled out where something stands before it begins', async () => {
    await editor.call(
      'newMarker',
      { kind: 'note', start: 5, end: null, name: 'Early', note: '', colour: 'red' } as never,
      id,
    );
    const plan = await planned(manager, { assetId: id, storageId, path: 'trimmed/A009C001.mov' });
    expect(plan.items).toMatchObject([{ state: 'blocked', matches: [{ blockedBy: ['duration'] }] }]);
  });
});

describe('an entry that a scan made of the same file', () => {
  it('is folded in with what is known of the file, and comes back with undo', async () => {
    const copy = library.shelf('copy');
    mkdirSync(join(copy, 'x'));
    const [lost] = await find('name:A001C003');
    copyFileSync(join(shelf, 'A001C003.mov'), join(copy, 'x/A001C003.mov'));
    const { storageId: there } = await scanned(manager, 'Copy', copy);
    await allJobsEnded(manager);
    const [twin] = await find('storage:Copy');
    const checks = async (id: number) => (await manager.call('fixityOf', null, id)).checks.length;
    await manager.call('verify', { assetIds: [twin?.id ?? 0] });
    await allJobsEnded(manager);
    rmSync(join(shelf, 'A001C003.mov'));
    await scan();
    const before = await everything();
    const plan = await planned(manager, {
      places: [{ storageId: there, folder: '', deep: true }],
      lost: { of: 'assets', id: null, folder: '', assetIds: [lost?.id ?? 0] },
    });
    expect(plan.items).toMatchObject([
      { state: 'accepted', matches: [{ catalogued: { assetId: twin?.id, untouched: true } }] },
    ]);
    expect((await mended(manager, plan.id)).state).toBe('done');
    expect(await find('storage:Copy')).toMatchObject([{ id: lost?.id, path: 'x/A001C003.mov' }]);
    expect(await checks(lost?.id ?? 0)).toBe(1);
    await manager.call('undo', {});
    await allJobsEnded(manager);
    expect(await everything()).toEqual(before);
    expect([await checks(lost?.id ?? 0), await checks(twin?.id ?? 0)]).toEqual([0, 1]);
    await manager.call('redo', null);
    expect((await find('storage:Copy')).map(({ id }) => id)).toEqual([lost?.id]);
  });
});

describe('a file of which all bytes are known', () => {
  it('is read again after its link is mended', async () => {
    const [asset] = await find('storage:Copy');
    const id = asset?.id ?? 0;
    await manager.call('verify', { assetIds: [id] });
    await allJobsEnded(manager);
    const copy = library.shelf('copy');
    renameSync(join(copy, 'x/A001C003.mov'), join(copy, 'x/other name.mov'));
    const { storageId: there } = await scanned(manager, 'Copy', copy);
    const plan = await planned(manager, { places: [{ storageId: there, folder: '', deep: true }] });
    expect((await mended(manager, plan.id)).state).toBe('done');
    await allJobsEnded(manager);
    const { checks } = await manager.call('fixityOf', null, id);
    expect(checks[0]).toMatchObject({ outcome: 'same', path: 'Copy/x/other name.mov' });
  });
});

describe('a file that was found for one already', () => {
  it('is not taken away from it for another, and its old place not from what came there since', async () => {
    makeClip(join(shelf, 'twice/T001C001.mov'), { seconds: 0.4, timecode: '15:00:00:00', tone: 900 });
    makeClip(join(shelf, 'twice/T001C001_v2.mov'), { seconds: 0.4, timecode: '15:00:00:00', tone: 910 });
    await scan();
    rmSync(join(shelf, 'twice/T001C001_v2.mov'));
    renameSync(join(shelf, 'twice/T001C001.mov'), join(shelf, 'twice/T001C001_v3.mov'));
    await scan();
    const lost = { of: 'storage' as const, id: storageId, folder: 'twice', assetIds: [] };
    const plan = await planned(manager, { ...everywhere(), lost, acceptsExact: false });
    const [one, two] = plan.items.map(({ assetId }) => assetId);
    expect(plan.items.map(({ matches }) => matches.length)).toEqual([1, 0]);
    await decide(plan.id, { assetIds: [one] });
    const other = await planned(manager, { assetId: two ?? 0, storageId, path: 'twice/T001C001_v3.mov' });
    expect((await mended(manager, plan.id)).state).toBe('done');
    const before = await everything();
    expect(await mended(manager, other.id)).toMatchObject({ state: 'failed' });
    expect(await everything()).toEqual(before);
    // Where it was, another has been catalogued since: it cannot go back there.
    makeClip(join(shelf, 'twice/T001C001.mov'), { seconds: 0.6, timecode: '16:00:00:00', tone: 930 });
    await scan();
    expect(await manager.refused('undo', {})).toMatchObject({
      error: {
        reason: expect.stringMatching(/^Where one of these was, T001C001.mov has been catalogued since/) as unknown,
      },
    });
  });
});
