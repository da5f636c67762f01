import { readdirSync, writeFileSync } from 'node:fs';
import { open } from 'node:fs/promises';
import { join } from 'node:path';
import { plainSettings } from '@larder/core/ingest';
import { ingest } from '../src/jobs/ingest';
import { RenditionStore } from '../src/media/rendition-store';
import { UploadStore } from '../src/media/upload-store';
import { JobRow } from '../src/store/models';
import { type Client, TestLibrary, treeHash } from './kit';
import { wave } from './wave';

const FILES = 5;
let library: TestLibrary;
let manager: Client;
beforeAll(async () => {
  // The job is carried out here, where the disk can be made to be full.
  library = await TestLibrary.start(0);
  manager = await library.as('manager');
}, 120_000);
afterAll(() => library.stop(), 60_000);

/** From the given write on, the disk takes no more. */
async function full(after: number): Promise<jest.SpyInstance> {
  const handle = await open(__filename);
  const kind = Object.getPrototypeOf(handle) as { write: (...args: unknown[]) => Promise<unknown> };
  await handle.close();
  const write = kind.write;
  let writes = 0;
  return jest.spyOn(kind, 'write').mockImplementation(function (this: unknown, ...args) {
    writes += 1;
    return writes > after
      ? Promise.reject(Object.assign(new Error('ENOSPC: no space left on device, write'), { code: 'ENOSPC' }))
      : write.apply(this, args);
  });
}

it('a disk that fills ends an ingest with what is in kept, and it goes on from there', async () => {
  const [card, store] = [library.shelf('card'), library.shelf('store')];
  for (let n = 0; n < FILES; n += 1) writeFileSync(join(card, `T${n}.wav`), wave(n));
  const before = treeHash(card);
  const { id: cardId } = await manager.call('newStorage', { name: 'Card', rootPath: card });
  const { id: storeId } = await manager.call('newStorage', { name: 'Store', rootPath: store, managed: true });
  const settings = { ...plainSettings(), way: 'copy' as const, destination: { storageId: storeId, folder: 'in' } };
  const asked = { paths: [], folders: [{ path: '', deep: true }], twins: [], settings };
  const { job } = await manager.call('ingest', asked, cardId);
  const states = async () => (await manager.call('ingestReport', null, job.id)).counts;

  await library.library.withModels(async (db) => {
    const carriedOut = async () =>
      ingest({
        db,
        job: (await JobRow.findByPk(job.id))!,
        signal: new AbortController().signal,
        store: new RenditionStore(join(library.folder, 'renditions')),
        uploads: new UploadStore(join(library.folder, 'uploads')),
        report: () => undefined,
      });
    const disk = await full(2);
    await expect(carriedOut()).rejects.toThrow('“Store” is full. 2 things are in; free some space and resume');
    expect(await states()).toEqual({ done: 2, waiting: 3, working: 0, skipped: 0, failed: 0 });
    expect(readdirSync(join(store, 'in')).sort()).toEqual(['T0.wav', 'T1.wav']);
    disk.mockRestore();
    await carriedOut();
  });
  expect(await states()).toEqual({ done: FILES, waiting: 0, working: 0, skipped: 0, failed: 0 });
  expect(readdirSync(join(store, 'in')).filter((name) => name.endsWith('.wav'))).toHaveLength(FILES);
  expect(treeHash(card)).toBe(before);
}, 60_000);
