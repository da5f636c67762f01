import { execFileSync } from 'node:child_process';
import { mkdirSync, renameSync, rmSync } from 'node:fs';
import { dirname, join } from 'node:path';
import { QueryTypes, type Sequelize } from 'sequelize';
import { openDatabase } from '@larder/server';
import { allJobsEnded, makeClip, mended, planned, scanned, TestLibrary, treeHash, until, type Client } from './kit';
import { waveHeader } from './wave';

let library: TestLibrary;
let manager: Client;
let db: Sequelize;
let shelf: string;
let storageId: number;
const ALL = { offset: 0, limit: 25 };

const at = (path: string): string => join(shelf, path);
const ffmpeg = (...args: string[]): void => {
  mkdirSync(dirname(args.at(-1) ?? ''), { recursive: true });
  execFileSync('ffmpeg', ['-v', 'error', '-y', ...args]);
};
const find = async (query: string): Promise<readonly number[]> => {
  const { revision: atLeast } = await manager.call('rows', { ids: [] });
  return (await manager.call('searchIds', { query, atLeast })).ids;
};
const idOf = async (query: string): Promise<number> => (await find(query))[0] ?? 0;
const near = async () => (await manager.call('twinList', ALL)).groups.filter(({ likeness }) => likeness === 'near');
/** The names in each group of what is near, in their order. */
const nearNames = async () =>
  (await near()).map(({ twins }) => twins.map(({ asset }) => asset.name).toSorted()).toSorted();
const scan = async (): Promise<void> => {
  ({ storageId } = await scanned(manager, 'Shelf', shelf));
  await allJobsEnded(manager);
};

async function compareAll(): Promise<void> {
  await db.query(
    `INSERT INTO job (kind, subject, payload, unit, created_ms, updated_ms) VALUES ('compare', 'the whole library', '{}', 'assets', 1, 1)`,
  );
  await allJobsEnded(manager);
}

/** A tune of its own for each seed: a note for each half second. */
function tune(path: string, seed: number, seconds = 8): void {
  const rate = 8000;
  const samples = new Int16Array(rate * seconds);
  samples.forEach((_zero, n) => {
    const note = Math.floor((2 * n) / rate);
    const hertz = 220 * 2 ** (((note * seed * 7 + seed * 3) % 12) / 12);
    samples[n] = 9000 * Math.sin((2 * Math.PI * hertz * n) / rate);
  });
  mkdirSync(dirname(path), { recursive: true });
  execFileSync('ffmpeg', ['-v', 'error', '-y', '-i', '-', path], {
    input: Buffer.concat([waveHeader(samples.byteLength), Buffer.from(samples.buffer)]),
  });
}

beforeAll(async () => {
  library = await TestLibrary.start();
  manager = await library.as('manager');
  db = openDatabase(library.library.database.options);
  shelf = library.shelf('shelf');
  // No timecode, no reel: nothing but their looks tells that two of these are one recording.
  makeClip(at('shoot/boat.mov'), { seconds: 4, size: '320x180' });
  ffmpeg('-i', at('shoot/boat.mov'), '-vf', 'scale=160:-2', '-crf', '30', at('web/final cut 2.mp4'));
  makeClip(at('shoot/bars.mov'), { seconds: 4, size: '320x180', picture: 'smptebars' });
  makeClip(at('shoot/short.mov'), { seconds: 3, size: '320x180' });
  tune(at('sound/harbour.wav'), 1);
  ffmpeg('-i', at('sound/harbour.wav'), '-b:a', '64k', at('sound/old/theme.mp3'));
  tune(at('sound/weir.wav'), 5);
  await scan();
}, 120_000);
afterAll(async () => {
  await db.close();
  await library.stop();
}, 60_000);

describe('what nearly looks or sounds the same', () => {
  it('is listed behind the other twins, with how much of it is the same; what is drawn, played or long otherwise is not', async () => {
    expect(await nearNames()).toEqual([
      ['boat.mov', 'final cut 2.mp4'],
      ['harbour.wav', 'theme.mp3'],
    ]);
    expect((await near()).map(({ same }) => same)).toEqual(
      expect.arrayContaining([
        { picture: true, sound: true },
        { picture: null, sound: true },
      ]),
    );
  });

  it('is merged only where somebody says so, with nothing done to files, and taken apart again by undo', async () => {
    const before = treeHash(shelf);
    const [boat, web, bars] = [await idOf('boat.mov'), await idOf('"final cut 2"'), await idOf('bars.mov')];
    expect(await manager.refused('keepTwins', { groups: [{ keep: boat, others: [web, bars] }] })).toMatchObject({
      error: { reason: expect.stringContaining('are not known to be of one recording') as string },
    });
    const { group } = await manager.call('keepTwins', { groups: [{ keep: boat, others: [web] }] });
    expect(await nearNames()).toEqual([['harbour.wav', 'theme.mp3']]);
    expect((await manager.call('locations', null, boat)).locations.map(({ path }) => path)).toEqual([
      'web/final cut 2.mp4',
    ]);
    await manager.call('undo', { group });
    await allJobsEnded(manager);
    expect(await nearNames()).toContainEqual(['boat.mov', 'final cut 2.mp4']);
    expect(treeHash(shelf)).toBe(before);
  });

  it('is off the list where somebody says that it is not the same, also when it is compared anew, until that is taken back', async () => {
    const assetIds = [await idOf('harbour.wav'), await idOf('theme.mp3')];
    expect(await manager.call('partTwins', { assetIds, apart: true })).toEqual({ pairs: 1 });
    expect(await nearNames()).toEqual([['boat.mov', 'final cut 2.mp4']]);
    await db.query('DELETE FROM asset_semblance WHERE asset_id IN (:assetIds)', { replacements: { assetIds } });
    await compareAll();
    expect(await nearNames()).toEqual([['boat.mov', 'final cut 2.mp4']]);
    const [keep = 0, other = 0] = assetIds;
    expect(await manager.refused('keepTwins', { groups: [{ keep, others: [other] }] })).toMatchObject({ status: 422 });
    await manager.call('partTwins', { assetIds, apart: false });
    expect(await nearNames()).toContainEqual(['harbour.wav', 'theme.mp3']);
    const bars = await idOf('bars.mov');
    expect(await manager.refused('partTwins', { assetIds: [keep, bars], apart: true })).toMatchObject({
      error: { reason: 'These are not known to be near each other, or not any more.' },
    });
    const editor = await library.as('editor');
    expect(await editor.refused('partTwins', { assetIds, apart: true })).toMatchObject({ status: 403 });
  });

  it('is compared once for all where renditions were made before, and goes on where it was interrupted', async () => {
    const ids = await find('boat OR bars OR harbour OR theme');
    await db.query('DELETE FROM asset_semblance WHERE asset_id IN (:ids)', { replacements: { ids } });
    expect(await near()).toEqual([]);
    await compareAll();
    const { jobs } = await manager.call('jobs', null);
    expect(jobs.find(({ kind }) => kind === 'compare')).toMatchObject({
      state: 'done',
      done: ids.length,
      total: ids.length,
    });
    expect(await nearNames()).toContainEqual(['harbour.wav', 'theme.mp3']);
  });

  it('is nothing where a rendition cannot be read; no job fails for it', async () => {
    const id = await idOf('harbour.wav');
    await db.query('DELETE FROM asset_semblance WHERE asset_id = :id', { replacements: { id } });
    rmSync(join(library.folder, 'home', 'renditions', '0', String(id), 'proxy.mp4'));
    await compareAll();
    const [row] = await db.query('SELECT picture, sound FROM asset_semblance WHERE asset_id = :id', {
      replacements: { id },
      type: QueryTypes.SELECT,
    });
    expect(row).toEqual({ picture: null, sound: null });
    expect((await manager.call('jobs', null)).jobs.filter(({ state }) => state === 'failed')).toEqual([]);
  });
});

describe('a lost original without timecode', () => {
  it('is not taken for the same bytes as another place of it, where that holds another form', async () => {
    const [boat, web] = [await idOf('boat.mov'), await idOf('"final cut 2"')];
    const { group } = await manager.call('keepTwins', { groups: [{ keep: boat, others: [web] }] });
    renameSync(at('shoot/boat.mov'), join(library.folder, 'boat.mov'));
    await scan();
    const plan = await planned(manager, { places: [{ storageId, folder: '', deep: true }] });
    const [match] = plan.items.find(({ assetId }) => assetId === boat)?.matches ?? [];
    // It is looked at by itself, and what it looks like tells.
    expect(match).toMatchObject({ path: 'web/final cut 2.mp4', likeness: 'equivalent', catalogued: null });
    renameSync(join(library.folder, 'boat.mov'), at('shoot/boat.mov'));
    await scan();
    await manager.call('undo', { group });
    await allJobsEnded(manager);
  });

  it('is found by what it looks like, converted and called otherwise; it is shown why, mended and undone', async () => {
    const boat = await idOf('boat.mov');
    renameSync(at('shoot/boat.mov'), join(library.folder, 'boat.mov'));
    await scan();
    const plan = await planned(manager, { places: [{ storageId, folder: '', deep: true }] });
    const item = plan.items.find(({ assetId }) => assetId === boat);
    expect(item?.state).toBe('decide');
    const [match] = item?.matches ?? [];
    expect(match).toMatchObject({ path: 'web/final cut 2.mp4', likeness: 'equivalent' });
    expect(match?.evidence.find(({ kind }) => kind === 'picture')).toMatchObject({ agreement: 'agrees' });
    await manager.call(
      'decideRelink',
      { assetIds: [boat], chosen: null, rule: null, state: null, decision: 'accepted' },
      plan.id,
    );
    const job = await mended(manager, plan.id);
    expect(job).toMatchObject({ state: 'done' });
    const [found] = (await manager.call('rows', { ids: [boat] })).assets;
    expect(found).toMatchObject({ path: 'web/final cut 2.mp4', state: 'online' });
    expect(found?.renditions).toContain('proxy');
    const { mending } = await manager.call('relinkPlan', null, plan.id);
    await manager.call('undo', { group: mending?.group ?? '' });
    await until('the lost one as it was', async () =>
      (await manager.call('rows', { ids: [boat] })).assets.some(
        ({ path, state }) => path === 'shoot/boat.mov' && state === 'missing',
      ),
    );
  });

  it('is found so on a storage that was never scanned, where each file that is as long is looked at', async () => {
    const boat = await idOf('boat.mov');
    const other = library.shelf('other');
    ffmpeg(
      '-i',
      join(library.folder, 'boat.mov'),
      '-vf',
      'scale=200:-2',
      '-crf',
      '28',
      join(other, 'x/y/delivery.mkv'),
    );
    ffmpeg('-i', at('shoot/bars.mov'), '-crf', '28', join(other, 'x/y/leader.mkv'));
    const { id: otherId } = await manager.call('newStorage', { name: 'Other', rootPath: other });
    const plan = await planned(manager, { places: [{ storageId: otherId, folder: '', deep: true }] });
    const [match] = plan.items.find(({ assetId }) => assetId === boat)?.matches ?? [];
    expect(match).toMatchObject({ path: 'x/y/delivery.mkv', likeness: 'equivalent', catalogued: null });
    expect(match?.evidence.filter(({ kind }) => kind === 'picture' || kind === 'sound')).toMatchObject([
      { agreement: 'agrees' },
      { agreement: 'agrees' },
    ]);
  });
});
