import { readdirSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { open } from 'node:fs/promises';
import { join } from 'node:path';
import { plainSettings } from '@larder/core/ingest';
import { readChain } from '@larder/core/interchange/mhl';
import { ingest } from '../src/jobs/ingest';
import { ExportStore } from '../src/media/export-store';
import { POCKETSPHINX } from '@larder/server';
import { RenditionStore } from '../src/media/rendition-store';
import { TableStore } from '../src/media/table-store';
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

const states = async (id: number) => (await manager.call('ingestReport', null, id)).counts;
const ALL_IN = { done: FILES, waiting: 0, working: 0, skipped: 0, failed: 0 };

/** Asks for everything on a card, and gives a way to carry the job out, as often as a worker might. */
async function asked(name: string) {
  const [card, store] = [library.shelf(`${name} card`), library.shelf(`${name} store`)];
  for (let n = 0; n < FILES; n += 1) writeFileSync(join(card, `T${n}.wav`), wave(n));
  const { id: cardId } = await manager.call('newStorage', { name: `${name} card`, rootPath: card });
  const { id: storeId } = await manager.call('newStorage', { name: `${name} store`, rootPath: store, managed: true });
  const settings = {
    ...plainSettings(),
    way: 'copy' as const,
    twins: 'anyway' as const,
    destination: { storageId: storeId, folder: 'in' },
  };
  const body = { paths: [], folders: [{ path: '', deep: true }], twins: [], settings };
  const { job } = await manager.call('ingest', body, cardId);
  const carryOut = () =>
    library.library.withModels(async (db) =>
      ingest({
        db,
        job: (await JobRow.findByPk(job.id))!,
        signal: new AbortController().signal,
        store: new RenditionStore(join(library.folder, 'renditions')),
        uploads: new UploadStore(join(library.folder, 'uploads')),
        exports: new ExportStore(library.folder),
        tables: new TableStore(join(library.folder, 'uploads')),
        recogniser: POCKETSPHINX,
        archive: null,
        report: () => undefined,
      }),
    );
  return { card, id: job.id, folder: join(store, 'in'), carryOut };
}

it('a disk that fills ends an ingest with what is in kept, and it goes on from there', async () => {
  const { card, id, folder, carryOut } = await asked('Full');
  const before = treeHash(card);
  const disk = await full(2);
  await expect(carryOut()).rejects.toThrow('“Full store” is full. 2 things are in; free some space and resume');
  expect(await states(id)).toEqual({ ...ALL_IN, done: 2, waiting: 3 });
  expect(readdirSync(folder).sort()).toEqual(['T0.wav', 'T1.wav']);
  disk.mockRestore();
  await carryOut();
  expect(await states(id)).toEqual(ALL_IN);
  expect(readdirSync(folder).filter((name) => name.endsWith('.wav'))).toHaveLength(FILES);
  expect(treeHash(card)).toBe(before);
}, 60_000);

it('a worker killed while it writes the hash list, or just after, leaves one list and one link to it', async () => {
  const { folder, carryOut } = await asked('Killed');
  await carryOut();
  const history = join(folder, 'ascmhl');
  const chain = readFileSync(join(history, 'ascmhl_chain.xml'), 'utf8');
  const files = readdirSync(history);
  // All is written, but the job's end was not noted.
  await carryOut();
  expect(readdirSync(history)).toEqual(files);
  // The list is there, and its link is not.
  rmSync(join(history, 'ascmhl_chain.xml'));
  await carryOut();
  expect(readdirSync(history)).toEqual(files);
  expect(readChain(readFileSync(join(history, 'ascmhl_chain.xml'), 'utf8'))).toEqual(readChain(chain));
}, 60_000);
