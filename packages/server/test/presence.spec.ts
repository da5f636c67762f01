import { mkdirSync, renameSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { openDatabase, StorageRow } from '@larder/server';
import { queueDueLooks } from '../src/store/scans';
import { allJobsEnded, scanned, TestLibrary, treeHash, until, type Client } from './kit';
import { wave } from './wave';

const HOUR_MS = 3_600_000;
let library: TestLibrary;
let manager: Client;
let shelf: string;
let id: number;

const put = (path: string, number: number) => writeFileSync(join(shelf, path), wave(number));
const allIds = async (): Promise<readonly number[]> => {
  const { revision: atLeast } = await manager.call('rows', { ids: [] });
  return (await manager.call('searchIds', { query: 'storage:Shelf', atLeast })).ids;
};
/** How the originals are by their paths, as everybody sees them. */
const states = async () => {
  const { assets } = await manager.call('rows', { ids: await allIds() });
  return Object.fromEntries(assets.map(({ path, state }) => [path, state]));
};
const looks = async () => (await manager.call('jobs', null)).jobs.filter(({ kind }) => kind === 'presence');
const browse = (path: string) => manager.call('browse', { path }, id);

beforeAll(async () => {
  library = await TestLibrary.start(1);
  manager = await library.as('manager');
  shelf = library.shelf('shelf');
  for (const folder of ['a', 'b']) mkdirSync(join(shelf, folder));
  put('a/T1.wav', 1);
  put('a/T2.wav', 2);
  put('b/T3.wav', 3);
  ({ storageId: id } = await scanned(manager, 'Shelf', shelf));
  await allJobsEnded(manager);
}, 120_000);
afterAll(() => library.stop(), 60_000);

describe('a look whether all is there', () => {
  it('notes what went and came back, leaves what is new, and writes nothing on the storage', async () => {
    renameSync(join(shelf, 'a/T1.wav'), join(library.folder, 'away.wav'));
    put('b/T4.wav', 4);
    const files = treeHash(shelf);
    expect(await manager.call('checkPresence', null)).toEqual({ jobs: 1 });
    await allJobsEnded(manager);
    expect(await states()).toEqual({ 'a/T1.wav': 'missing', 'a/T2.wav': 'online', 'b/T3.wav': 'online' });
    expect(treeHash(shelf)).toBe(files);
    renameSync(join(library.folder, 'away.wav'), join(shelf, 'a/T1.wav'));
    await manager.call('checkPresence', null);
    await allJobsEnded(manager);
    expect(await states()).toEqual({ 'a/T1.wav': 'online', 'a/T2.wav': 'online', 'b/T3.wav': 'online' });
    // It was there when it was looked at, and that is when it was seen last.
    const [{ id: one = 0 } = {}] = (await manager.call('rows', { ids: await allIds() })).assets.filter(
      ({ path }) => path === 'a/T1.wav',
    );
    const lastEnded = Math.max(...(await looks()).map(({ endedMs }) => endedMs ?? 0));
    expect((await manager.call('lastSeen', null, one)).seenMs).toBe(lastEnded);
    // The folder was not scanned by it: what is new there is still said to be.
    expect((await browse('b')).counts.new).toBe(1);
  });

  it('is asked for by those who keep the library', async () => {
    expect((await (await library.as('editor')).refused('checkPresence', null)).status).toBe(403);
  });

  it('comes by the schedule of a storage, once for each time', async () => {
    const facts = { name: 'Shelf', kind: 'local' as const, managed: false, recognises: false, verifyDays: null };
    const changed = await manager.call('changeStorage', { ...facts, presenceHours: 6 }, id);
    expect(changed.presenceHours).toBe(6);
    const lookedMs = changed.lookedMs ?? 0;
    expect(lookedMs).toBeGreaterThan(Date.now() - HOUR_MS);
    await library.library.withModels(async (db) => {
      const before = (await looks()).length;
      await queueDueLooks(db, lookedMs + 5 * HOUR_MS);
      expect(await looks()).toHaveLength(before);
      await queueDueLooks(db, lookedMs + 7 * HOUR_MS);
      await allJobsEnded(manager);
      await queueDueLooks(db, Date.now());
      expect(await looks()).toHaveLength(before + 1);
      expect((await StorageRow.findByPk(id))?.lookedMs).toBeGreaterThan(lookedMs);
    });
    await manager.call('changeStorage', { ...facts, presenceHours: null }, id);
  });

  it('is not tried again before its time where it failed, and marks nothing missing on what is not mounted', async () => {
    const away = join(library.folder, 'away');
    const before = await states();
    const facts = { name: 'Shelf', kind: 'local' as const, managed: false, recognises: false, verifyDays: null };
    await manager.call('changeStorage', { ...facts, presenceHours: 1 }, id);
    mkdirSync(away);
    // With a folder in it nobody takes the storage for being away before it is looked over.
    mkdirSync(join(shelf, 'empty'));
    for (const folder of ['a', 'b']) renameSync(join(shelf, folder), join(away, folder));
    // Somebody looks at it meanwhile.
    const shown = await browse('');
    expect(shown.folders.map(({ path }) => path)).toEqual(['a', 'b', 'empty']);
    const count = (await looks()).length;
    const db = openDatabase(library.library.database.options);
    for (const sql of ['UPDATE storage SET looked_ms = 0', 'UPDATE job SET created_ms = 0']) await db.query(sql);
    await library.library.withModels(async (models) => {
      await queueDueLooks(models, Date.now());
      await allJobsEnded(manager);
      await queueDueLooks(models, Date.now());
    });
    const [last, ...more] = (await looks()).toSorted((a, b) => b.id - a.id);
    expect(more).toHaveLength(count);
    expect(last).toMatchObject({ state: 'failed' });
    expect(last?.message).toContain('Nothing was marked missing.');
    for (const folder of ['a', 'b']) renameSync(join(away, folder), join(shelf, folder));
    await manager.call('checkPresence', null);
    await allJobsEnded(manager);
    expect(await states()).toEqual(before);
    await manager.call('changeStorage', { ...facts, presenceHours: null }, id);
    await db.close();
  });
});

describe('a folder that somebody looks at', () => {
  const nowIs = (path: string, state: string) =>
    until(`${path} to be ${state}`, async () => (await states())[path] === state);

  it('is noted as it is, for everybody, and only that folder', async () => {
    renameSync(join(shelf, 'a/T1.wav'), join(library.folder, 'away.wav'));
    renameSync(join(shelf, 'b/T3.wav'), join(library.folder, 'other.wav'));
    expect((await browse('a')).rows.map(({ state }) => state)).toEqual(['missing', 'online']);
    await nowIs('a/T1.wav', 'missing');
    expect((await states())['b/T3.wav']).toBe('online');
    const count = (await looks()).length;
    await browse('a');
    expect(await looks()).toHaveLength(count);
    renameSync(join(library.folder, 'away.wav'), join(shelf, 'a/T1.wav'));
    await browse('a');
    await nowIs('a/T1.wav', 'online');
    writeFileSync(join(shelf, 'a/T2.wav'), wave(9, 9000));
    await browse('a');
    await nowIs('a/T2.wav', 'changed');
  });

  it('that is gone took its files along', async () => {
    renameSync(join(library.folder, 'other.wav'), join(shelf, 'b/T3.wav'));
    renameSync(join(shelf, 'b'), join(library.folder, 'b'));
    expect((await browse('b')).rows).toMatchObject([{ path: 'b/T3.wav', state: 'missing' }]);
    await nowIs('b/T3.wav', 'missing');
  });
});

describe('the health of the library', () => {
  it('tells which storages are away, and what depends on them, and counts nothing in them as lost', async () => {
    expect((await manager.call('health', null)).away).toEqual([]);
    expect((await manager.call('health', null)).folders).toMatchObject([
      { folder: 'a', missing: 0, changed: 1 },
      { folder: 'b', missing: 1 },
    ]);
    const { ids } = await manager.call('searchIds', { query: 'name:T1' });
    const bin = await manager.call('newBin', { name: 'Lock', parentId: null });
    await manager.call('binAssets', { add: [...ids], remove: [] }, bin.id);
    renameSync(shelf, join(library.folder, 'unplugged'));
    const away = await until('it to be away', async () => {
      const health = await manager.call('health', null);
      return health.away.length > 0 && health;
    });
    expect(away).toMatchObject({
      away: [{ storage: 'Shelf', originals: 3, uses: [{ kind: 'bin', name: 'Lock' }], moreUses: 0 }],
      folders: [],
    });
    renameSync(join(library.folder, 'unplugged'), shelf);
    await until('it to be there', async () => (await manager.call('health', null)).away.length === 0);
  });
});
