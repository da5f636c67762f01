import {
  copyFileSync,
  existsSync,
  mkdirSync,
  mkdtempSync,
  readdirSync,
  readFileSync,
  rmSync,
  symlinkSync,
  writeFileSync,
} from 'node:fs';
import { tmpdir } from 'node:os';
import { dirname, join } from 'node:path';
import { writeArchive, type ArchivedFile } from '@larder/core/interchange/archive';
import { countingById } from '@larder/core/timecode';
import type { BodyOf, RestoreRow } from '@larder/contract';
import { hashPath } from '@larder/server';
import { dist } from '@larder/command/home';
import { allJobsEnded, jobEnded, makeClip, planned, scanned, TestLibrary, treeHash, until, type Client } from './kit';

let library: TestLibrary;
let manager: Client;
let editor: Client;
let shelf: string;
let tapes: string;
let storageId: number;
let storeId: number;
let store: string;
const ids = new Map<string, number>();

const EVERYTHING = { of: 'everything' as const, id: null, folder: '', assetIds: [] };
const list = (asked: Partial<BodyOf<'restoreList'>> = {}) =>
  manager.call('restoreList', {
    ...{ lost: EVERYTHING, plan: null, isCut: false, handlesSeconds: 2, offset: 0, limit: 100 },
    ...asked,
  });
const rowOf = async (name: string): Promise<RestoreRow | undefined> =>
  (await list()).rows.find((row) => row.name === name);
const idOf = (name: string): number => ids.get(name) ?? 0;
const asset = async (name: string) => (await manager.call('rows', { ids: [idOf(name)] })).assets[0];
const scan = async () => {
  await scanned(manager, 'Shelf', shelf);
  await allJobsEnded(manager);
};
/** Fetches one to the end. */
async function restored(...names: string[]) {
  await manager.call('restore', { storageId: storeId, assetIds: names.map(idOf) });
  const row = await rowOf(names[0] ?? '');
  return jobEnded(manager, row?.job?.id ?? 0);
}
const filesIn = (folder: string): string[] =>
  existsSync(folder)
    ? readdirSync(folder, { recursive: true, withFileTypes: true }).flatMap((entry) =>
        entry.isFile() ? entry.name : [],
      )
    : [];
const scratch = (): string[] =>
  readdirSync(join(library.folder, 'home/renditions'), { recursive: true })
    .map(String)
    .filter((path) => /\.work-/.test(path));

interface Taped {
  readonly tape: string;
  readonly path: string;
  /** What the catalogue says of it besides. */
  readonly says?: Partial<ArchivedFile['facts']>;
}
/** What each clip is: reel, first second of its timecode, length. */
const CLIPS = {
  'A001C001.mov': 1,
  'A001C002.mov': 2,
  'A001C003.mov': 3,
  'A001C004.mov': 4,
  'A001C005.mov': 5,
} as const;

async function catalogue(taped: readonly Taped[], more = ''): Promise<void> {
  const files = await Promise.all(
    taped.map(async ({ path, says, tape }): Promise<ArchivedFile> => {
      const at = join(tapes, tape, path);
      const there = existsSync(at);
      const hour = CLIPS[path.split('/').at(-1) as keyof typeof CLIPS];
      return {
        ...{ id: `${tape}/${path}`, tape },
        facts: {
          ...{ path, bytes: there ? readFileSync(at).length : 1000, reel: 'A001', counting: countingById('25') },
          checksum: there ? await hashPath(at, { signal: new AbortController().signal, bytes: () => undefined }) : null,
          ...{ startFrame: hour * 90_000, durationFrames: 25, modifiedMs: null, fingerprint: null },
          ...{ width: null, height: null, channels: null, shotMs: null, ...says },
        },
      };
    }),
  );
  writeFileSync(join(tapes, 'catalogue.csv'), writeArchive(files) + more);
}

const archive = (bytesPerSecond: number) =>
  JSON.stringify({
    ...{ name: 'Test shelf', catalogue: join(tapes, 'catalogue.csv'), program: process.execPath },
    arguments: [dist('tape-shelf.mjs'), tapes, '0', String(bytesPerSecond), '{tape}', '{path}', '{to}'],
  });

beforeAll(async () => {
  tapes = mkdtempSync(join(tmpdir(), 'larder-test-tapes-'));
  library = await TestLibrary.start(2, undefined, { 'archive.json': archive(50_000_000) });
  [manager, editor] = [await library.as('manager'), await library.as('editor')];
  [shelf, store] = [library.shelf('shelf'), library.shelf('store')];
  for (const [name, hour] of Object.entries(CLIPS)) {
    const clip = { seconds: 1, reel: 'A001', timecode: `0${hour}:00:00:00`, tone: 200 + 50 * hour };
    makeClip(join(shelf, 'A001', name), clip);
    mkdirSync(join(tapes, 'T001/A001'), { recursive: true });
    copyFileSync(join(shelf, 'A001', name), join(tapes, 'T001/A001', name));
  }
  ({ storageId } = await scanned(manager, 'Shelf', shelf));
  await allJobsEnded(manager);
  for (const name of Object.keys(CLIPS)) {
    const { ids: found } = await manager.call('searchIds', { query: `name:${name.slice(0, 8)}` });
    ids.set(name, found[0] ?? 0);
  }
  ({ id: storeId } = await manager.call('newStorage', { name: 'Store', rootPath: store, managed: true }));
  for (const name of Object.keys(CLIPS)) rmSync(join(shelf, 'A001', name));
  // Something is left, or the storage would be taken for one that is not mounted.
  makeClip(join(shelf, 'A009C001.mov'), { seconds: 0.2 });
  await scan();
  await catalogue(
    Object.keys(CLIPS)
      .slice(0, 4)
      .map((name) => ({ tape: 'T001', path: `A001/${name}` })),
  );
});
afterAll(async () => {
  await library.stop();
  rmSync(tapes, { recursive: true, force: true });
}, 60_000);

describe('the restore list', () => {
  it('tells reel by reel what is lost, where it was, and where the archive has it', async () => {
    const { archive: kept, archived, bytes, rows, total } = await list();
    expect({ total, archived, kept }).toEqual({
      ...{ total: 5, archived: 4, kept: { name: 'Test shelf', files: 4, troubles: [] } },
    });
    expect(rows.map(({ name }) => name)).toEqual(Object.keys(CLIPS));
    expect(bytes).toBe(rows.reduce((sum, row) => sum + row.bytes, 0));
    expect(rows[1]).toMatchObject({
      ...{ state: 'missing', reel: 'A001', counting: '25', startFrame: 180_000, durationFrames: 25, ranges: [] },
      ...{ lastSeen: 'Shelf/A001/A001C002.mov', uses: [], job: null },
      archived: { tape: 'T001', path: 'A001/A001C002.mov', likeness: 'equivalent' },
    });
    expect(rows[4]?.archived).toBeNull();
    expect((await list({ offset: 4, limit: 5 })).rows.map(({ name }) => name)).toEqual(['A001C005.mov']);
  });

  it('is of what is cut with handles, if that is asked for, and of what is asked for alone', async () => {
    const project = await manager.call('newProject', { name: 'Film', description: null, counting: '25' });
    const out = await editor.call('newStringOut', {
      ...{ name: 'First', projectId: project.id, assetIds: [idOf('A001C001.mov'), idOf('A001C001.mov')] },
    });
    const items = out.items.map((item, at) => ({ ...item, in: 10 * at, out: 10 * at + 2 }));
    await editor.call('saveStringOut', { name: 'First', version: out.version, items, markers: [] }, out.id);
    const of = { ...EVERYTHING, of: 'project' as const, id: project.id };
    const cut = await list({ lost: of, isCut: true, handlesSeconds: 0.1 });
    expect(cut.rows).toMatchObject([
      {
        ...{ name: 'A001C001.mov', uses: ['Film, First'] },
        ranges: [
          { from: 0, to: 5 },
          { from: 7, to: 15 },
        ],
      },
    ]);
    // Of what nobody cut all is wanted.
    expect((await list({ isCut: true })).rows[1]?.ranges).toEqual([]);
    const { name, text, type } = await manager.call('takeRestoreList', {
      ...{ lost: of, plan: null, isCut: true, handlesSeconds: 0.1 },
    });
    expect({ name, type }).toEqual({ name: 'restore list.csv', type: 'text/csv' });
    expect(
      text
        .split('\r\n')
        .slice(1, 3)
        .map((line) => line.split(',').slice(0, 5).join(' ')),
    ).toEqual(['A001 A001C001.mov 01:00:00:00 01:00:00:05 5', 'A001 A001C001.mov 01:00:00:07 01:00:00:15 8']);
  });

  it('takes a copy on a second tape for the same file, and one with other bytes for another', async () => {
    const path = 'A001/A001C002.mov';
    mkdirSync(join(tapes, 'T010/A001'), { recursive: true });
    copyFileSync(join(tapes, 'T001', path), join(tapes, 'T010', path));
    const first = Object.keys(CLIPS).slice(0, 4);
    const copies = first.map((name) => ({ tape: 'T001', path: `A001/${name}` }));
    await catalogue([...copies, { tape: 'T010', path }, { tape: 'T011', path, says: { bytes: 5 } }]);
    expect(await rowOf('A001C002.mov')).toMatchObject({
      archived: { tape: 'T001', probability: expect.closeTo(1, 1) as number },
    });
    await catalogue([
      { tape: 'T010', path, says: { checksum: null } },
      { tape: 'T001', path },
    ]);
    expect((await rowOf('A001C002.mov'))?.archived?.tape).toBe('T001');
    await catalogue(copies);
  });

  it('is of what a search did not find', async () => {
    const places = [{ storageId, folder: '', deep: true }];
    const plan = await planned(manager, { places });
    expect((await list({ plan: plan.id })).rows.map(({ name }) => name)).toEqual(Object.keys(CLIPS));
    expect(await manager.refused('restoreList', { plan: 999_999 })).toMatchObject({ status: 404 });
  });

  it('is refused for what is not there any more, rather than empty as if all were well', async () => {
    for (const kind of ['storage', 'bin', 'project', 'string-out'] as const)
      expect(
        await manager.refused('restoreList', { lost: { of: kind, id: 9999, folder: '', assetIds: [] } }),
      ).toMatchObject({
        ...{ status: 404, error: { code: 'not-found' } },
      });
  });
});

describe('an original that is fetched from the archive', () => {
  it('is mended by itself: the same asset, all that is said of it, and every byte as on the tape', async () => {
    const id = idOf('A001C001.mov');
    await editor.call(
      'newMarker',
      { kind: 'note', start: 5, end: null, name: 'Gate', note: '', colour: 'red' } as never,
      id,
    );
    const before = treeHash(join(tapes, 'T001'));
    const job = await restored('A001C001.mov');
    expect(job).toMatchObject({ state: 'done', kind: 'restore', unit: 'bytes' });
    expect(job.message).toBe('Restored to Store/from the archive/T001/A001/A001C001.mov.');
    expect(job.done).toBe(job.total);
    expect(await asset('A001C001.mov')).toMatchObject({
      ...{ id, state: 'online', storage: 'Store', path: 'from the archive/T001/A001/A001C001.mov', markers: ['Gate'] },
    });
    const copy = readFileSync(join(store, 'from the archive/T001/A001/A001C001.mov'));
    expect(copy.equals(readFileSync(join(tapes, 'T001/A001/A001C001.mov')))).toBe(true);
    expect(treeHash(join(tapes, 'T001'))).toBe(before);
    expect(scratch()).toEqual([]);
    expect((await manager.call('fixityOf', null, id)).checks[0]).toMatchObject({ outcome: 'first' });
    // A scan of where it came to finds nothing new.
    await scanned(manager, 'Store', store);
    const { ids: all } = await manager.call('searchIds', { query: 'name:A001C001' });
    expect(all).toEqual([id]);
    expect((await list()).rows.map(({ name }) => name)).not.toContain('A001C001.mov');
  });

  it('is missing again with undo, and there again with redo', async () => {
    await manager.call('undo', {});
    expect(await asset('A001C001.mov')).toMatchObject({ state: 'missing', storage: 'Shelf' });
    await manager.call('redo', null);
    expect(await asset('A001C001.mov')).toMatchObject({ state: 'online', storage: 'Store' });
  });

  it('is not kept where it is not what the catalogue says', async () => {
    const path = 'A001/A001C002.mov';
    await catalogue([{ tape: 'T001', path, says: { checksum: '0123456789abcdef' } }]);
    expect(await restored('A001C002.mov')).toMatchObject({
      ...{
        state: 'failed',
        message: expect.stringMatching(
          /is not what its catalogue says: its hash is .* instead of 0123456789abcdef/,
        ) as string,
      },
    });
    await catalogue([{ tape: 'T001', path, says: { bytes: 77, checksum: null } }]);
    expect(await restored('A001C002.mov')).toMatchObject({
      ...{ state: 'failed', message: expect.stringMatching(/has \d+ bytes, and its catalogue says 77/) as string },
    });
    expect(filesIn(store)).toEqual(['A001C001.mov']);
    expect(scratch()).toEqual([]);
    expect(await asset('A001C002.mov')).toMatchObject({ state: 'missing' });
  });

  it('is not kept where it is another recording, whatever it is called', async () => {
    const path = 'A001/A001C002.mov';
    mkdirSync(join(tapes, 'T002/A001'), { recursive: true });
    makeClip(join(tapes, 'T002', path), { seconds: 1, reel: 'A001', timecode: '09:00:00:00', tone: 900 });
    await catalogue([{ tape: 'T002', path, says: { startFrame: 180_000 } }]);
    expect(await restored('A001C002.mov')).toMatchObject({
      ...{
        state: 'failed',
        message: expect.stringMatching(/only looks alike: another size, another timecode/) as string,
      },
    });
    mkdirSync(join(tapes, 'T003/A001'), { recursive: true });
    writeFileSync(join(tapes, 'T003', path), 'no footage at all');
    await catalogue([{ tape: 'T003', path }]);
    expect((await restored('A001C002.mov')).state).toBe('failed');
    expect(filesIn(store)).toEqual(['A001C001.mov']);
  });

  it('is not fetched where the archive has no such tape or file, with what its program says', async () => {
    for (const [tape, path, words] of [
      ['T404', 'A001/A001C002.mov', 'There is no tape T404 on the shelf.'],
      ['T001', 'A002/A001C002.mov', 'There is no A002/A001C002.mov on tape T001.'],
      // What stands in a catalogue is never a command, nor a way out of a tape.
      ['T001; rm -rf x', 'A001/A001C002.mov', 'There is no tape T001; rm -rf x on the shelf.'],
      ['T001', 'out/A001C002.mov', 'There is no out/A001C002.mov on tape T001.'],
    ] as const) {
      if (path.startsWith('out/') && !existsSync(join(tapes, 'T001/out')))
        symlinkSync(join(tapes, 'T002/A001'), join(tapes, 'T001/out'));
      await catalogue([{ tape, path }]);
      expect(await restored('A001C002.mov')).toMatchObject({ state: 'failed', message: words });
    }
    rmSync(join(tapes, 'T001/out'));
  });

  it('waits, can be cancelled and tried again, and goes on after a restart', async () => {
    await catalogue(Object.keys(CLIPS).map((name) => ({ tape: 'T001', path: `A001/${name}` })));
    library = await library.again(() => writeFileSync(join(library.folder, 'home/archive.json'), archive(2000)));
    [manager, editor] = [await library.as('manager'), await library.as('editor')];
    const names = ['A001C002.mov', 'A001C003.mov'];
    expect(await manager.call('restore', { storageId: storeId, assetIds: names.map(idOf) })).toEqual({ jobs: 2 });
    // What is being fetched is not fetched twice.
    expect(await manager.call('restore', { storageId: storeId, assetIds: names.map(idOf) })).toEqual({ jobs: 0 });
    const running = await until('the tape to be read', async () => {
      const row = await rowOf('A001C002.mov');
      return (
        row?.job?.state === 'running' && row.job.message === 'Reading from tape T001' && row.job.done > 0 && row.job
      );
    });
    // What is done meanwhile is what undo takes back first.
    await manager.call('edit', {
      ...{ assetIds: [idOf('A001C004.mov')], seenRevision: Number.MAX_SAFE_INTEGER, set: { title: 'Meanwhile' } },
      ...{ addTags: [], removeTags: [] },
    });
    // There is one drive.
    expect((await rowOf('A001C003.mov'))?.job?.state).toBe('queued');
    await manager.call('cancelJob', null, running.id);
    expect(await jobEnded(manager, running.id)).toMatchObject({ state: 'cancelled' });
    await until(
      'the other to be read',
      async () => (await rowOf('A001C003.mov'))?.job?.message === 'Reading from tape T001',
    );
    library = await library.again(() => writeFileSync(join(library.folder, 'home/archive.json'), archive(50_000_000)));
    [manager, editor] = [await library.as('manager'), await library.as('editor')];
    await manager.call('retryJob', null, running.id);
    expect(await jobEnded(manager, running.id)).toMatchObject({ state: 'done' });
    await allJobsEnded(manager);
    for (const name of names) expect(await asset(name)).toMatchObject({ state: 'online', storage: 'Store' });
    expect(scratch()).toEqual([]);
    expect(filesIn(store).sort()).toEqual(['A001C001.mov', ...names]);
    expect(await manager.call('undo', {})).toMatchObject({ action: 'edit', fields: ['title'] });
    expect((await asset('A001C004.mov'))?.title).toBeNull();
    expect(await manager.call('undo', {})).toMatchObject({ action: 'relink', assets: 1 });
    expect(await manager.call('redo', null)).toMatchObject({ action: 'relink' });
    for (const name of names) expect(await asset(name)).toMatchObject({ state: 'online', storage: 'Store' });
  });

  it('is let be where it came back meanwhile, and one that lies there already is taken', async () => {
    const [four, five] = ['A001C004.mov', 'A001C005.mov'];
    const target = join(store, 'from the archive/T001/A001', four);
    mkdirSync(dirname(target), { recursive: true });
    writeFileSync(target, 'another file');
    expect(await restored(four)).toMatchObject({
      ...{
        state: 'failed',
        message: expect.stringMatching(
          /Another file lies at from the archive\/T001\/A001\/A001C004.mov already/,
        ) as string,
      },
    });
    expect(readFileSync(target, 'utf8')).toBe('another file');
    copyFileSync(join(tapes, 'T001/A001', four), target);
    expect(await restored(four)).toMatchObject({ state: 'done' });
    copyFileSync(join(tapes, 'T001/A001', five), join(shelf, 'A001', five));
    await scan();
    expect(await manager.refused('restore', { storageId: storeId, assetIds: [idOf(five)] })).toMatchObject({
      error: { code: 'refused', reason: 'Test shelf has none of these, or they are there again.' },
    });
  });
});

it('only managers restore, to storages that the library may copy to', async () => {
  const body = { storageId: storeId, assetIds: [idOf('A001C001.mov')] };
  expect(await editor.refused('restore', body)).toMatchObject({ status: 403 });
  expect(await manager.refused('restore', { ...body, storageId })).toMatchObject({
    error: { reason: 'The library may not copy to “Shelf”. A manager can allow it in its settings.' },
  });
  expect(await manager.refused('restore', { ...body, assetIds: [] })).toMatchObject({ status: 422 });
});

it('tells what cannot be read of a catalogue, and goes on without an archive', async () => {
  await catalogue([{ tape: 'T001', path: 'A001/A001C001.mov' }], 'T001,A001/other.mov,many,,,,,\r\n');
  expect((await list()).archive).toEqual({
    ...{ name: 'Test shelf', files: 1, troubles: ['Row 3: “many” in “bytes” is no whole number.'] },
  });
  rmSync(join(tapes, 'catalogue.csv'));
  expect((await list()).archive?.troubles).toEqual([
    `The catalogue ${join(tapes, 'catalogue.csv')} cannot be read: ENOENT.`,
  ]);
  writeFileSync(join(tapes, 'catalogue.csv'), Buffer.from([0xff, 0x00, 0xd8]));
  expect((await list()).archive?.troubles).toEqual([
    `The catalogue ${join(tapes, 'catalogue.csv')} is no text in UTF-8 or UTF-16.`,
  ]);
  library = await library.again(() => rmSync(join(library.folder, 'home/archive.json')));
  manager = await library.as('manager');
  expect((await list()).archive).toBeNull();
  expect(await manager.refused('restore', { storageId: storeId, assetIds: [1] })).toMatchObject({
    error: { reason: 'No archive is set up here.' },
  });
});
