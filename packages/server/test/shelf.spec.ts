import { execFileSync } from 'node:child_process';
import { mkdirSync, renameSync, rmSync, symlinkSync, writeFileSync } from 'node:fs';
import { dirname, join } from 'node:path';
import type { ShelfAnswer } from '@larder/contract';
import { jobEnded, makeClip, TestLibrary, treeHash, until, type Client } from './kit';
import { wave } from './wave';

let library: TestLibrary;
let manager: Client;
let viewer: Client;
let shelf: string;
let storageId: number;

const lay = (path: string, content: string | Buffer = 'x') => {
  mkdirSync(dirname(join(shelf, path)), { recursive: true });
  writeFileSync(join(shelf, path), content);
};

beforeAll(async () => {
  library = await TestLibrary.start(2);
  [manager, viewer] = [await library.as('manager'), await library.as('viewer')];
  shelf = library.shelf('card');
  makeClip(join(shelf, 'day one/A001/clip1.mov'));
  makeClip(join(shelf, 'day one/A001/clip2.mov'), { tone: 500 });
  lay('day one/A001/clip1.xmp', '<x:xmpmeta/>');
  lay('day one/A001/report.pdf');
  makeClip(join(shelf, 'day two/clip3.mov'), { tone: 600 });
  makeClip(join(shelf, 'day two/deep/er/clip4.mov'), { tone: 700 });
  const { id } = await manager.call('newStorage', { name: 'Card', rootPath: shelf });
  storageId = id;
}, 180_000);
afterAll(() => library.stop(), 60_000);

const browse = (path = '', more: object = {}) => manager.call('browse', { path, ...more }, storageId);
const inShort = ({ folders, rows }: ShelfAnswer) => [
  ...folders.map(
    ({ name, counts, scan }) =>
      `${name}/ ${counts.new} new ${counts.online} online ${counts.missing} missing, ${scan.state}`,
  ),
  ...rows.map(({ name, state, sidecars }) => `${name} ${state}${sidecars.length > 0 ? ` +${sidecars.join()}` : ''}`),
];
/** The index follows a moment after a write; what is asked here is to show all that was written. */
const search = async (query: string) => {
  const { revision } = await manager.call('status', null);
  return manager.call('search', { query, atLeast: revision });
};
const missing = async () => (await search('is:missing')).total;
const scan = async (folders: { path: string; deep: boolean }[]) => {
  const { job } = await manager.call('scan', { folders }, storageId);
  return jobEnded(manager, job.id);
};

describe('a storage that was never scanned', () => {
  it('can be looked into, folder by folder, with what is new below', async () => {
    expect(inShort(await browse())).toEqual([
      'day one/ 2 new 0 online 0 missing, not-scanned',
      'day two/ 2 new 0 online 0 missing, not-scanned',
    ]);
    const inner = await browse('day one/A001');
    expect(inShort(inner)).toEqual(['clip1.mov new +clip1.xmp', 'clip2.mov new']);
    expect([inner.others, inner.counts.new, inner.scan.state]).toEqual([1, 2, 'not-scanned']);
  });
  it('is listed flat, in windows, and by state', async () => {
    const flat = await browse('', { flat: true, limit: 2 });
    expect([flat.total, flat.rows.map(({ path }) => path)]).toEqual([
      4,
      ['day one/A001/clip1.mov', 'day one/A001/clip2.mov'],
    ]);
    expect((await browse('', { flat: true, offset: 3 })).rows.map(({ name }) => name)).toEqual(['clip4.mov']);
    expect((await browse('', { flat: true, only: ['missing'] })).total).toBe(0);
  });
});

describe('scanning folders', () => {
  it('takes in just these, with or without what is below, and each says who scanned it', async () => {
    expect(await scan([{ path: 'day two', deep: false }])).toMatchObject({
      state: 'done',
      done: 1,
      subject: 'Card/day two',
    });
    expect(inShort(await browse())).toEqual([
      'day one/ 2 new 0 online 0 missing, not-scanned',
      'day two/ 1 new 1 online 0 missing, scanned',
    ]);
    expect((await browse('day two/deep')).scan.state).toBe('not-scanned');
    expect((await browse('day two')).scan).toMatchObject({ state: 'scanned', by: 'The manager' });
    await scan([
      { path: 'day one', deep: true },
      { path: 'day two/deep', deep: true },
    ]);
    expect(inShort(await browse())).toEqual([
      'day one/ 0 new 2 online 0 missing, scanned',
      'day two/ 0 new 2 online 0 missing, scanned',
    ]);
    const [row] = (await browse('day one/A001')).rows;
    const found = await search('name:"clip1.mov"');
    expect(row?.assetId).toBe(found.assets[0]?.id);
  });

  it('marks nothing missing outside of them', async () => {
    renameSync(join(shelf, 'day one/A001/clip2.mov'), join(library.folder, 'clip2.mov'));
    await scan([{ path: 'day two', deep: true }]);
    expect(await missing()).toBe(0);
    // The folder itself shows it gone at once, before any scan.
    expect(inShort(await browse('day one/A001'))).toEqual(['clip1.mov online +clip1.xmp', 'clip2.mov missing']);
    await scan([{ path: 'day one/A001', deep: false }]);
    expect(await missing()).toBe(1);
    renameSync(join(library.folder, 'clip2.mov'), join(shelf, 'day one/A001/clip2.mov'));
    await scan([{ path: 'day one', deep: true }]);
    expect(await missing()).toBe(0);
  });

  it('two that overlap, asked for at once, catalogue each file once', async () => {
    for (let number = 0; number < 30; number += 1) lay(`overlap/a/v${number}.wav`, wave(number));
    const jobs = await Promise.all(
      [[{ path: 'overlap', deep: true }], [{ path: 'overlap/a', deep: false }], [{ path: 'overlap', deep: true }]].map(
        (folders) => manager.call('scan', { folders }, storageId),
      ),
    );
    for (const { job } of jobs) expect((await jobEnded(manager, job.id)).state).toBe('done');
    expect((await browse('overlap/a')).counts).toEqual({ new: 0, online: 30, changed: 0, missing: 0 });
  });

  it('goes on past a folder that cannot be read, says so, and leaves its files as they stood', async () => {
    if (process.getuid?.() === 0) {
      // Nothing is forbidden to root but what is no folder any more: a path longer than the system takes.
      const name = 'n'.repeat(200);
      const steps = Array.from({ length: 22 }, () => name);
      execFileSync('bash', [
        '-c',
        `cd "$1"; shift; for step in "$@"; do mkdir "$step" && cd "$step"; done`,
        'sh',
        shelf,
        ...steps,
      ]);
    } else {
      mkdirSync(join(shelf, 'locked'), { mode: 0 });
    }
    const ended = await scan([]);
    expect(ended).toMatchObject({ state: 'done' });
    expect(ended.message).toMatch(/^The folder .* could not be read; the rest was scanned\.$/);
    execFileSync('bash', ['-c', 'chmod -f 700 "$1/locked"; cd /; rm -rf "$1"/locked "$1"/nnn*', 'sh', shelf]);
  });

  it('an interrupted one says so, and goes on when it is tried again', async () => {
    for (let number = 100; number < 220; number += 1) lay(`many/v${number}.wav`, wave(number));
    const { job } = await manager.call('scan', { folders: [{ path: 'many', deep: true }] }, storageId);
    await manager.call('cancelJob', null, job.id);
    const ended = await jobEnded(manager, job.id);
    if (ended.state === 'cancelled') {
      expect((await browse('many')).scan).toMatchObject({ state: 'interrupted', jobId: job.id });
      await manager.call('retryJob', null, job.id);
      await until('the end', async () => (await browse('many')).scan.state === 'scanned');
    }
    expect((await browse('many')).counts).toMatchObject({ new: 0, online: 120 });
  });
});

describe('looking into a storage', () => {
  it('writes nothing there', async () => {
    const before = treeHash(shelf);
    await browse('', { flat: true });
    await browse('day one');
    expect(treeHash(shelf)).toBe(before);
  });

  it.each(['..', 'day one/../..', '/etc', 'day one//A001', './day one', 'day one/'])(
    'refuses the path %j',
    async (path) =>
      expect(await manager.refused('browse', { path }, storageId)).toMatchObject({
        status: 422,
        error: {
          code: 'invalid',
          issues: [{ path: 'path', message: expect.stringContaining('within the storage') as unknown }],
        },
      }),
  );

  it('follows no link out of it', async () => {
    symlinkSync('/etc', join(shelf, 'etc'));
    expect((await browse()).folders.map(({ name }) => name)).not.toContain('etc');
    expect(await manager.refused('browse', { path: 'etc' }, storageId)).toMatchObject({
      error: { code: 'refused', reason: 'That folder lies outside the storage.' },
    });
    rmSync(join(shelf, 'etc'));
  });

  it('scans none that a link leads out to, and marks what lay in one that is gone missing', async () => {
    symlinkSync('/etc', join(shelf, 'etc'));
    expect(await scan([{ path: 'etc', deep: true }])).toMatchObject({
      state: 'failed',
      message: expect.stringContaining('outside the storage') as unknown,
    });
    rmSync(join(shelf, 'etc'));
    renameSync(join(shelf, 'day two/deep'), join(library.folder, 'deep'));
    await scan([{ path: 'day two/deep', deep: true }]);
    expect(await missing()).toBe(1);
    renameSync(join(library.folder, 'deep'), join(shelf, 'day two/deep'));
    await scan([{ path: 'day two/deep', deep: true }]);
    expect(await missing()).toBe(0);
  });

  it('a scan of a folder marks nothing missing where nothing is mounted', async () => {
    renameSync(shelf, `${shelf} away`);
    mkdirSync(shelf);
    const ended = await scan([{ path: 'day one', deep: true }]);
    expect(ended).toMatchObject({ state: 'failed', message: expect.stringContaining('not mounted') as unknown });
    rmSync(shelf, { recursive: true });
    renameSync(`${shelf} away`, shelf);
    await until('it to be back', async () => (await browse()).mounted);
    expect(await missing()).toBe(0);
  });

  it('says what a path is that is no folder, and that there is none', async () => {
    expect(await manager.refused('browse', { path: 'day two/clip3.mov' }, storageId)).toMatchObject({
      error: { reason: 'day two/clip3.mov is a file, not a folder.' },
    });
    expect((await manager.refused('browse', { path: 'nowhere' }, storageId)).status).toBe(404);
    expect((await manager.refused('browse', {}, 999)).status).toBe(404);
  });

  it('anybody who may look may; only who keeps the library may scan', async () => {
    expect((await viewer.call('browse', {}, storageId)).folders.length).toBeGreaterThan(0);
    expect((await viewer.refused('scan', {}, storageId)).status).toBe(403);
  });

  it('one that is unplugged is shown as the catalogue knows it', async () => {
    renameSync(shelf, `${shelf} away`);
    await until('it to be offline', async () =>
      (await manager.call('storages', null)).storages.some(({ id, state }) => id === storageId && state === 'offline'),
    );
    const away = await browse('day one/A001');
    expect([away.mounted, inShort(away)]).toEqual([false, ['clip1.mov online', 'clip2.mov online']]);
    expect((await browse()).folders.map(({ name }) => name)).toEqual(['day one', 'day two', 'many', 'overlap']);
    renameSync(`${shelf} away`, shelf);
    await until('it to be back', async () => (await browse()).mounted);
  });
});
