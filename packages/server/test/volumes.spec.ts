import { copyFileSync, mkdirSync, mkdtempSync, renameSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { findVolume, kindAt, readMounts, spaceAt, VOLUME_FILE, volumeAt } from '../src/media/volume';
import { SimulatedVolumes } from '../src/stand-ins/volumes';
import { allJobsEnded, type Client, makeClip, scanned, TestLibrary, until } from './kit';

describe('what a volume is known by', () => {
  let root: string;
  beforeEach(() => (root = mkdtempSync(join(tmpdir(), 'larder-volume-'))));
  afterEach(() => rmSync(root, { recursive: true, force: true }));

  it.each([
    ['0b7e4c1a-77aa-4c55-9d63-c0ffee000001\n', 'file:0b7e4c1a-77aa-4c55-9d63-c0ffee000001'],
    ['short', null],
    ['../../../../etc/passwd', null],
    ['x'.repeat(300), null],
    ['', null],
  ])('a file that says %j: %s', async (text, wanted) => {
    writeFileSync(join(root, VOLUME_FILE), text);
    expect(await volumeAt(root)).toBe(wanted);
  });
  it('without a file, a plain folder has none', async () => expect(await volumeAt(root)).toBeNull());

  it('is found beside where it was, one folder further down, and nowhere else', async () => {
    const make = (path: string) => {
      mkdirSync(join(root, path), { recursive: true });
      writeFileSync(join(root, path, VOLUME_FILE), 'volume-one-0001');
    };
    make('slots/two/card');
    expect(await findVolume('file:volume-one-0001', join(root, 'slots/one/card'))).toBe(join(root, 'slots/two/card'));
    expect(await findVolume('file:volume-two-0002', join(root, 'slots/one/card'))).toBeNull();
    expect(await findVolume('file:volume-one-0001', join(root, 'slots/two/card'))).toBeNull();
  });

  // The layout of /proc/self/mountinfo is that of the kernel’s documentation (Documentation/filesystems/proc.rst, 3.5).
  it('the kernel’s list of mounts is read, spaces and all', () =>
    expect(
      readMounts(
        '36 35 98:0 /mnt1 /mnt2 rw,noatime master:1 - ext3 /dev/root rw,errors=continue\n41 35 0:50 / /media/card\\040one rw - nfs4 shelf:/cards rw\n\nnonsense\n',
      ),
    ).toEqual([
      { point: '/mnt2', type: 'ext3', source: '/dev/root' },
      { point: '/media/card one', type: 'nfs4', source: 'shelf:/cards' },
    ]));

  it('kind and space are read off the machine', async () => {
    expect(await kindAt(root)).toBe('local');
    expect(await kindAt('/media/nobody/card')).toBe('removable');
    const { capacityBytes, freeBytes } = await spaceAt(root);
    expect(capacityBytes).toBeGreaterThan(freeBytes ?? Infinity);
    expect(await spaceAt(join(root, 'nowhere'))).toEqual({ capacityBytes: null, freeBytes: null });
  });
});

describe('simulated volumes', () => {
  let root: string;
  let volumes: SimulatedVolumes;
  beforeEach(() => {
    root = mkdtempSync(join(tmpdir(), 'larder-slots-'));
    for (const name of ['card-a', 'card-b']) mkdirSync(join(root, 'drawer', name), { recursive: true });
    volumes = new SimulatedVolumes({
      drawer: join(root, 'drawer'),
      slots: join(root, 'slots'),
      slotNames: ['left', 'right'],
    });
  });
  afterEach(() => rmSync(root, { recursive: true, force: true }));

  it('go into a slot, into another, and back; one at a time', async () => {
    await volumes.put('card-a', 'left');
    expect(await volumes.list()).toEqual([
      { name: 'card-a', slot: 'left' },
      { name: 'card-b', slot: null },
    ]);
    await expect(volumes.put('card-b', 'left')).rejects.toThrow('something in left already');
    await volumes.put('card-a', 'right');
    await volumes.put('card-b', 'left');
    await volumes.put('card-a', null);
    expect(await volumes.list()).toEqual([
      { name: 'card-a', slot: null },
      { name: 'card-b', slot: 'left' },
    ]);
  });
  it.each([
    ['../drawer', 'left'],
    ['card-a', '../x'],
    ['nobody', 'left'],
  ])('%s into %s is refused', async (name, slot) => {
    await expect(volumes.put(name, slot)).rejects.toThrow('There is no such');
  });
});

describe('storages that come and go', () => {
  let library: TestLibrary;
  let manager: Client;
  let storageId: number;
  const at = (...path: string[]) => join(library.folder, 'reader', ...path);
  const storage = async (name = 'Card A') =>
    (await manager.call('storages', null)).storages.find((each) => each.name === name);

  beforeAll(async () => {
    library = await TestLibrary.start();
    manager = await library.as('manager');
    mkdirSync(at('one'), { recursive: true });
    makeClip(at('one/card-a/A001.mov'));
    writeFileSync(at('one/card-a', VOLUME_FILE), 'card-a-identity');
    ({ storageId } = await scanned(manager, 'Card A', at('one/card-a')));
  }, 120_000);
  afterAll(() => library.stop(), 60_000);

  it('say what they are, and how much they hold', async () =>
    expect(await storage()).toMatchObject({
      kind: 'local',
      volume: 'file:card-a-identity',
      managed: false,
      state: 'online',
      capacityBytes: expect.any(Number) as number,
      freeBytes: expect.any(Number) as number,
    }));

  it('a volume that comes back under another path is the same storage, with all that is known of it', async () => {
    renameSync(at('one/card-a'), join(library.folder, 'away'));
    await until('it to be offline', async () => (await storage())?.state === 'offline');
    expect(await storage()).toMatchObject({ capacityBytes: null, counts: { offline: 1 } });
    mkdirSync(at('two'), { recursive: true });
    renameSync(join(library.folder, 'away'), at('two/card-a'));
    await until('it to be online', async () => (await storage())?.state === 'online');
    expect(await storage()).toMatchObject({ rootPath: at('two/card-a'), counts: { online: 1, missing: 0 } });
    const { job } = await scanned(manager, 'Card A', '');
    expect(job).toMatchObject({ state: 'done', message: null });
    expect(await storage()).toMatchObject({ id: storageId, counts: { online: 1, missing: 0 } });
  });

  it('another volume at its path is not taken for it, and cannot be added as what it is not', async () => {
    renameSync(at('two/card-a'), join(library.folder, 'away'));
    makeClip(at('two/card-a/B001.mov'));
    writeFileSync(at('two/card-a', VOLUME_FILE), 'card-b-identity');
    await until('the first to be offline', async () => (await storage())?.state === 'offline');
    await manager.call('newStorage', { name: 'Card B', rootPath: at('two/card-a') });
    expect(await storage('Card B')).toMatchObject({ state: 'online', volume: 'file:card-b-identity' });
    const { error } = await manager.refused('newStorage', { name: 'Card C', rootPath: at('two/card-a') });
    expect(error).toMatchObject({ code: 'refused' });
    // They change places.
    renameSync(at('two/card-a'), join(library.folder, 'away b'));
    renameSync(join(library.folder, 'away'), at('two/card-a'));
    await until(
      'them to change',
      async () => (await storage())?.state === 'online' && (await storage('Card B'))?.state === 'offline',
    );
  });

  it('what people decide of them is changed by managers, and told', async () => {
    const changed = await manager.call(
      'changeStorage',
      { name: 'Card A', kind: 'removable', managed: true, verifyDays: 30, presenceHours: 12, recognises: false },
      storageId,
    );
    expect(changed).toMatchObject({ kind: 'removable', managed: true, verifyDays: 30, presenceHours: 12 });
    const change = {
      name: 'Card B',
      kind: 'removable' as const,
      managed: false,
      verifyDays: null,
      presenceHours: null,
      recognises: false,
    };
    expect((await manager.refused('changeStorage', change, storageId)).error).toMatchObject({ code: 'refused' });
    const editor = await library.as('editor');
    expect((await editor.refused('changeStorage', change, storageId)).status).toBe(403);
  });
});

describe('a storage that lies elsewhere now', () => {
  let manager: Client;
  let library: TestLibrary;
  let shelf: string;
  let id: number;
  const at = (...path: string[]) => join(library.folder, 'places', ...path);
  const storage = async () => (await manager.call('storages', null)).storages.find((each) => each.id === id);
  const reason = async (rootPath: string) =>
    ((await manager.refused('moveStorage', { rootPath }, id)).error as { readonly reason?: string }).reason;

  beforeAll(async () => {
    library = await TestLibrary.start();
    manager = await library.as('manager');
    mkdirSync(at('old'), { recursive: true });
    shelf = at('old/shelf');
    for (const name of ['A.mov', 'B.mov', 'deep/C.mov']) makeClip(join(shelf, name), { seconds: 0.2 });
    makeClip(at('other/D.mov'), { seconds: 0.2 });
    await scanned(manager, 'Other', at('other'));
    ({ storageId: id } = await scanned(manager, 'Shelf', shelf));
    await allJobsEnded(manager);
  }, 120_000);
  afterAll(() => library.stop(), 60_000);

  it('is looked for there first: how much of it is where it is said to be', async () => {
    mkdirSync(at('new'), { recursive: true });
    renameSync(shelf, at('new/shelf'));
    rmSync(at('new/shelf/deep/C.mov'));
    writeFileSync(at('new/shelf/B.mov'), 'short');
    expect(await manager.call('lookAtRoot', { rootPath: `${at('new/shelf')}/` }, id)).toEqual({
      ...{ looked: 3, same: 1, changed: 1, missing: 1 },
    });
    expect(await manager.call('lookAtRoot', { rootPath: at('other') }, id)).toMatchObject({ same: 0, missing: 3 });
    expect(await manager.refused('lookAtRoot', { rootPath: at('nowhere') }, id)).toMatchObject({
      error: { code: 'refused' },
    });
  });

  it('is not said to lie where nothing of it is, where another lies, or where nothing can be read', async () => {
    expect(await reason(at('other'))).toMatch(/^Of 3 files that were looked for, none lies in .*The storage stays/);
    expect(await reason(at('nowhere'))).toMatch(/cannot be read on the server/);
    expect(await reason('/')).toMatch(/below the root of the server/);
    mkdirSync(at('other/within'));
    copyFileSync(at('new/shelf/A.mov'), at('other/within/A.mov'));
    expect(await reason(at('other/within'))).toMatch(/overlaps the storage “Other”/);
    const editor = await library.as('editor');
    expect(await editor.refused('moveStorage', { rootPath: at('new/shelf') }, id)).toMatchObject({ status: 403 });
    expect(await manager.refused('moveStorage', { rootPath: at('new/shelf') }, 999)).toMatchObject({ status: 404 });
    expect(await storage()).toMatchObject({ rootPath: shelf });
  });

  it('keeps all that is known of it, is scanned, and goes back the same way', async () => {
    const { ids: before } = await manager.call('searchIds', { query: '' });
    expect(await manager.call('moveStorage', { rootPath: at('new/shelf') }, id)).toMatchObject({
      ...{ id, rootPath: at('new/shelf'), state: 'online' },
    });
    await allJobsEnded(manager);
    expect(await storage()).toMatchObject({ counts: { online: 1, missing: 1, changed: 1 } });
    const { revision: atLeast } = await manager.call('rows', { ids: [] });
    // What came to lie in the other storage is not this one's.
    expect((await manager.call('searchIds', { query: '', atLeast })).ids).toEqual(before);
    renameSync(at('new/shelf'), shelf);
    expect(await manager.call('moveStorage', { rootPath: shelf }, id)).toMatchObject({ rootPath: shelf });
    await allJobsEnded(manager);
    expect(await storage()).toMatchObject({ rootPath: shelf, state: 'online', counts: { online: 1 } });
  });
});
