import { createReadStream, existsSync, readFileSync, statSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { Upload } from 'tus-js-client';
import { plainSettings } from '@larder/core/ingest';
import { FILE_PATHS } from '@larder/contract';
import { Client, jobEnded, makeClip, TestLibrary } from './kit';

let library: TestLibrary;
let editor: Client;
let store: string;
let storeId: number;
let clip: string;

beforeAll(async () => {
  library = await TestLibrary.start();
  editor = await library.as('editor');
  const manager = await library.as('manager');
  store = library.shelf('store');
  storeId = (await manager.call('newStorage', { name: 'Store', rootPath: store, managed: true })).id;
  clip = join(library.folder, 'clip.mov');
  makeClip(clip, { seconds: 2 });
}, 120_000);
afterAll(() => library.stop(), 60_000);

/** Sends a file as a browser does; with `stopAfter` the connection is cut there. */
function sent(
  path: string,
  as: string,
  batch: string,
  stopAfter = Infinity,
  url: string | null = null,
): Promise<string> {
  return new Promise((resolve, reject) => {
    const upload: Upload = new Upload(createReadStream(path), {
      endpoint: library.base + FILE_PATHS.uploads,
      ...(url ? { uploadUrl: url } : {}),
      chunkSize: 4096,
      uploadSize: statSync(path).size,
      retryDelays: null,
      headers: { cookie: editor.cookie },
      metadata: { batch, path: as },
      onError: reject,
      onSuccess: () => resolve(upload.url ?? ''),
      onProgress: (bytes) => {
        if (bytes < stopAfter) return;
        void upload.abort().then(() => resolve(upload.url ?? ''));
      },
    });
    upload.start();
  });
}
const settings = () => ({
  ...plainSettings(),
  way: 'copy' as const,
  destination: { storageId: storeId, folder: 'from outside' },
  tags: ['sent'],
  bin: { id: null, name: 'Sent', mirror: true },
});
const search = async (query: string) => {
  const { revision } = await editor.call('status', null);
  return (await editor.call('search', { query, atLeast: revision })).assets;
};

describe('uploads', () => {
  it('go on where a cut connection left them, and come in with folders, tags and documents', async () => {
    const batch = 'batch-0001-one';
    const url = await sent(clip, 'day one/clip.mov', batch, 9000);
    const head = await editor.raw('HEAD', new URL(url, library.base).pathname, undefined, { 'tus-resumable': '1.0.0' });
    const offset = Number(head.headers.get('upload-offset'));
    expect(offset).toBeGreaterThanOrEqual(8192);
    expect(offset).toBeLessThan(statSync(clip).size);
    await sent(clip, 'day one/clip.mov', batch, Infinity, new URL(url, library.base).href);
    writeFileSync(join(library.folder, 'notes.txt'), 'Slate 12 is wild.');
    await sent(join(library.folder, 'notes.txt'), 'day one/call sheet.txt', batch);

    const { job } = await editor.call('ingestUpload', { batch, settings: settings() });
    expect(await jobEnded(editor, job.id)).toMatchObject({ state: 'done', message: null });
    expect(readFileSync(join(store, 'from outside/day one/clip.mov'))).toEqual(readFileSync(clip));
    const [video] = await search('kind:video');
    expect(video).toMatchObject({ path: 'from outside/day one/clip.mov', tags: ['sent'], bins: ['Sent/day one'] });
    const [document] = await search('kind:document');
    expect(document).toMatchObject({ name: 'call sheet.txt', kind: 'document', reason: null, renditions: [] });
    // Nothing is left on the way.
    expect(existsSync(join(library.folder, 'home/uploads', batch))).toBe(false);
  });

  it.each([
    ['../../etc/cron.d/x', 'batch-0002-two'],
    ['/etc/passwd', 'batch-0002-two'],
    ['a\\..\\b.mov', 'batch-0002-two'],
    ['.DS_Store', 'batch-0002-two'],
    ['a.mov', '../up'],
    ['a.mov', 'incoming'],
    ['', 'batch-0002-two'],
  ])('“%s” of batch %s is refused before a byte of it is taken', async (path, batch) => {
    await expect(sent(clip, path, batch)).rejects.toThrow(/422/);
    expect(existsSync(join(library.folder, 'home/uploads', 'batch-0002-two'))).toBe(false);
  });

  it('is for those who may log, and goes only where copies may go', async () => {
    const viewer = await library.as('viewer');
    const headers = { 'tus-resumable': '1.0.0', 'upload-length': '5', 'upload-metadata': '' };
    expect((await viewer.raw('POST', FILE_PATHS.uploads, undefined, headers)).status).toBe(403);
    expect((await new Client(library.base).raw('POST', FILE_PATHS.uploads, undefined, headers)).status).toBe(401);
    const inPlace = { batch: 'batch-0003-three', settings: plainSettings() };
    expect((await editor.refused('ingestUpload', inPlace)).error).toMatchObject({ code: 'refused' });
  });
});
