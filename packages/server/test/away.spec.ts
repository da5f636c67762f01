import { cpSync, renameSync } from 'node:fs';
import { join } from 'node:path';
import { makeClip, allJobsEnded, mended, planned, scanned, TestLibrary, treeHash, until, type Client } from './kit';

let library: TestLibrary;
let manager: Client;
let [drive, copy] = ['', ''];
let [driveId, copyId] = [0, 0];
let ids: readonly number[];

const assets = async () => (await manager.call('rows', { ids })).assets;
const places = async (id: number) =>
  (await manager.call('locations', null, id)).locations.map(({ path, storage }) => `${storage}/${path}`);
const isNow = (id: number, state: string) =>
  until(`the drive to be ${state}`, async () =>
    (await manager.call('storages', null)).storages.some((each) => each.id === id && each.state === state),
  );
const pulled = async (): Promise<void> => {
  renameSync(drive, `${drive}.away`);
  await isNow(driveId, 'offline');
};
const back = async (): Promise<void> => {
  renameSync(`${drive}.away`, drive);
  await isNow(driveId, 'online');
};
const onDrive = () => ({ of: 'storage' as const, id: driveId, folder: '', assetIds: [] });
const inCopy = () => [{ storageId: copyId, folder: '', deep: true }];

beforeAll(async () => {
  library = await TestLibrary.start(1);
  manager = await library.as('manager');
  [drive, copy] = [library.shelf('drive'), library.shelf('copy')];
  for (const [n, picture] of [
    [1, 'testsrc2'],
    [2, 'testsrc'],
  ] as const)
    makeClip(join(drive, `A001/A001C00${n}.mov`), { reel: 'A001', timecode: `01:00:0${n}:00`, picture });
  makeClip(join(copy, 'other/B001C001.mov'), { picture: 'smptebars' });
  ({ storageId: driveId } = await scanned(manager, 'Drive', drive));
  ({ storageId: copyId } = await scanned(manager, 'Copy', copy));
  await allJobsEnded(manager);
  const { revision: atLeast } = await manager.call('rows', { ids: [] });
  ({ ids } = await manager.call('searchIds', { query: 'reel:A001', atLeast }));
  // Copied by hand, and never scanned.
  cpSync(join(drive, 'A001'), join(copy, 'from the drive/A001'), { recursive: true, preserveTimestamps: true });
}, 120_000);
afterAll(() => library.stop(), 60_000);

describe('originals on a drive that is away', () => {
  it('are looked for elsewhere only where somebody says so', async () => {
    await pulled();
    expect((await planned(manager, { lost: onDrive(), places: inCopy() })).items).toEqual([]);
    const plan = await planned(manager, { lost: onDrive(), away: true, places: inCopy() });
    expect(plan.items.map(({ matches: [first], state }) => [state, first?.likeness, first?.path])).toEqual([
      ['accepted', 'exact', 'from the drive/A001/A001C001.mov'],
      ['accepted', 'exact', 'from the drive/A001/A001C002.mov'],
    ]);
    // By the bytes alone; a look at one tells of the other.
    const pointed = await planned(manager, {
      ...{ assetId: ids[0] ?? 0, storageId: copyId, path: 'from the drive/A001/A001C001.mov' },
    });
    expect(pointed.items).toHaveLength(2);
  });

  it('have both places after it, and are no second ones when the drive comes back; undo and redo as one', async () => {
    const plan = await planned(manager, { lost: onDrive(), away: true, places: inCopy() });
    expect((await mended(manager, plan.id)).state).toBe('done');
    expect((await manager.call('relinkPlan', null, plan.id)).counts).toMatchObject({ mended: 2, back: 0 });
    expect((await assets()).map(({ state, storage }) => [storage, state])).toEqual([
      ['Copy', 'online'],
      ['Copy', 'online'],
    ]);
    const [first = 0] = ids;
    expect(await places(first)).toEqual(['Drive/A001/A001C001.mov']);
    await back();
    const before = treeHash(drive);
    const { job } = await scanned(manager, 'Drive', drive);
    expect(job.state).toBe('done');
    await allJobsEnded(manager);
    expect((await manager.call('twinList', { offset: 0, limit: 25 })).total).toBe(0);
    const { mending } = await manager.call('relinkPlan', null, plan.id);
    const undone = await manager.call('undo', { group: mending?.group ?? '' });
    expect((await assets()).map(({ state, storage }) => [storage, state])).toEqual([
      ['Drive', 'online'],
      ['Drive', 'online'],
    ]);
    expect(await places(first)).toEqual([]);
    const redone = await manager.call('undo', { group: undone.group ?? '' });
    expect((await assets()).map(({ storage }) => storage)).toEqual(['Copy', 'Copy']);
    expect(await places(first)).toEqual(['Drive/A001/A001C001.mov']);
    await manager.call('undo', { group: redone.group ?? '' });
    expect(await places(first)).toEqual([]);
    expect(treeHash(drive)).toBe(before);
  });

  it('are not relinked any more when the drive is back before that', async () => {
    await pulled();
    const plan = await planned(manager, { lost: onDrive(), away: true, places: inCopy() });
    await back();
    expect((await manager.call('relinkPlan', null, plan.id)).counts).toMatchObject({ accepted: 0, back: 2 });
    expect(await manager.refused('mend', null, plan.id)).toMatchObject({ error: { code: 'refused' } });
    expect((await assets()).map(({ storage }) => storage)).toEqual(['Drive', 'Drive']);
  });
});
