import { TestBed } from '@angular/core/testing';
import { storage, job } from '../../../test/things';
import { FakeServer, Refusal, Screen, until } from '../../../test/screen';
import { chosenFiles, droppedFiles } from './dropped';

/** What the screen asks of the sender, and how a test answers for the wire. */
interface Wire {
  readonly file: File;
  readonly options: {
    readonly metadata: { readonly batch: string; readonly path: string };
    readonly uploadUrl: string | null;
    onUploadUrlAvailable(): void;
    onProgress(sent: number): void;
    onSuccess(): void;
    onError(error: Error & { originalResponse?: { getBody(): string; getStatus(): number } }): void;
    onShouldRetry(error: { originalResponse?: { getStatus(): number } }): boolean;
  };
  aborted: boolean;
  /** Where the server says that it keeps what comes. */
  url: string | null;
}
const wires: Wire[] = [];
const ended: string[] = [];

jest.mock('tus-js-client', () => ({
  Upload: class {
    private readonly wire: Wire;
    constructor(file: File, options: Wire['options']) {
      this.wire = { file, options, aborted: false, url: options.uploadUrl };
    }
    get url() {
      return this.wire.url;
    }
    static terminate(url: string) {
      ended.push(url);
      return Promise.reject(new Error('It is gone already.'));
    }
    start() {
      wires.push(this.wire);
    }
    abort() {
      this.wire.aborted = true;
      return Promise.resolve();
    }
  },
}));

beforeAll(() => {
  // The document of the tests has no random identities.
  Object.defineProperty(globalThis.crypto, 'randomUUID', { value: () => 'batch-of-the-test-1', configurable: true });
});
beforeEach(() => {
  wires.length = 0;
  sessionStorage.clear();
});

async function open() {
  const server = new FakeServer()
    .on('storages', () => ({ storages: [storage(2, { name: 'Store', managed: true })] }))
    .on('bins', () => ({ bins: [] }))
    .on('jobs', () => ({ jobs: [] }))
    .on('ingestUpload', () => ({ job: job(5, { kind: 'ingest', state: 'queued' }) }));
  const screen = await Screen.open('/upload', server);
  await until('the form', () => screen.all('#ingest-target').length === 1);
  const choose = async (...names: string[]) => {
    const field = screen.one<HTMLInputElement>('[data-test="files"]');
    const files = names.map((name) => new File(['x'.repeat(1000)], name, { lastModified: 1_750_000_000_000 }));
    Object.defineProperty(field, 'files', { value: files, configurable: true });
    field.dispatchEvent(new Event('change'));
    await screen.harness.fixture.whenStable();
  };
  return { server, screen, choose };
}
const line = (screen: Screen, name: string) => screen.text(`[data-upload="${name}"]`);
const button = (screen: Screen) => screen.one<HTMLButtonElement>('.say > .btn-primary');

describe('sending files', () => {
  it('two go at a time, each with its batch and path, and the rest wait', async () => {
    const { screen, choose } = await open();
    await choose('a.mov', 'b.mov', 'c.mov');
    expect(wires.map(({ options }) => options.metadata.path)).toEqual(['a.mov', 'b.mov']);
    expect(new Set(wires.map(({ options }) => options.metadata.batch)).size).toBe(1);
    expect(line(screen, 'c.mov')).toContain('Waiting');
    expect(button(screen).disabled).toBe(true);
    wires[0]?.options.onProgress(500);
    await screen.says('[data-test="upload-said"]', '3 files: 500 B of 3.0 kB sent');
    wires[0]?.options.onSuccess();
    await until('the third', () => wires.length === 3);
    await screen.says('[data-upload="a.mov"]', 'Sent');
  });

  it('a cut connection is told and tried again; a refusal is final, with its reason, until somebody tries again', async () => {
    const { screen, choose } = await open();
    await choose('a.mov');
    expect(wires[0]?.options.onShouldRetry({})).toBe(true);
    await screen.says('[data-upload="a.mov"]', 'Connection cut, trying again');
    wires[0]?.options.onProgress(700);
    await screen.says('[data-upload="a.mov"]', 'Sending');
    expect(wires[0]?.options.onShouldRetry({ originalResponse: { getStatus: () => 422 } })).toBe(false);
    const said = { getBody: () => 'A file cannot be called so.', getStatus: () => 422 };
    wires[0]?.options.onError(Object.assign(new Error('no'), { originalResponse: said }));
    await screen.says('[data-upload="a.mov"]', 'A file cannot be called so.');
    await screen.click('[data-upload="a.mov"] button', 'Try again');
    expect(wires).toHaveLength(2);
  });

  it('one that is cancelled is let go of, and does not stand in the way of the rest', async () => {
    const { screen, choose } = await open();
    await choose('a.mov', 'b.mov');
    await screen.click('[aria-label="Cancel a.mov"]');
    expect(wires[0]?.aborted).toBe(true);
    await screen.says('[data-upload="a.mov"]', 'Cancelled');
    wires[1]?.options.onSuccess();
    await until('it to be ready', () => !button(screen).disabled);
  });

  it('what was sent is brought in as was said meanwhile', async () => {
    const { screen, server, choose } = await open();
    await choose('a.mov');
    await screen.type('#ingest-new-bin', 'From outside');
    wires[0]?.options.onSuccess();
    await until('it to be ready', () => !button(screen).disabled);
    server.on('ingestUpload', () => new Refusal(422, { code: 'refused', reason: 'The disk is full.' }));
    await screen.click('.say > .btn-primary', 'Bring in');
    await screen.says('.say [role="alert"]', 'The disk is full.');
    server.on('ingestUpload', () => ({ job: job(5, { kind: 'ingest', state: 'queued' }) }));
    await screen.click('.say > .btn-primary', 'Bring in');
    await until('the jobs', () => screen.address === '/jobs?job=5');
    expect(server.bodies('ingestUpload').at(-1)).toMatchObject({
      batch: wires[0]?.options.metadata.batch,
      settings: {
        way: 'copy',
        destination: { storageId: 2, folder: '' },
        bin: { id: null, name: 'From outside', mirror: false },
      },
    });
  });
});

describe('a page that is opened anew', () => {
  /** Sends one whole, begins another, and leaves a third waiting. */
  async function leave() {
    const { choose, screen } = await open();
    await choose('a.mov', 'b.mov', 'c.mov');
    wires.forEach((wire, n) => {
      wire.url = `/uploads/${n}`;
      wire.options.onUploadUrlAvailable();
    });
    wires[0]?.options.onSuccess();
    await until('the third', () => wires.length === 3);
    await screen.says('[data-upload="a.mov"]', 'Sent');
    wires.length = 0;
    TestBed.resetTestingModule();
  }

  it('knows what it was sending, and goes on where it stopped with what is chosen again', async () => {
    await leave();
    const { screen, choose } = await open();
    expect(line(screen, 'a.mov')).toContain('Sent');
    expect(line(screen, 'b.mov')).toContain('Interrupted; choose it again');
    expect(wires).toEqual([]);
    await choose('a.mov', 'b.mov', 'c.mov');
    expect(screen.all('[data-upload]')).toHaveLength(3);
    expect(wires.map(({ options }) => [options.metadata.path, options.uploadUrl])).toEqual([
      ['b.mov', '/uploads/1'],
      ['c.mov', null],
    ]);
    wires.forEach(({ options }) => options.onSuccess());
    await until('it to be ready', () => !button(screen).disabled);
  });

  it('lets go of what is not wanted any more, here and with the server', async () => {
    await leave();
    const { screen } = await open();
    await screen.click('[aria-label="Cancel b.mov"]');
    expect(ended).toEqual(['/uploads/1']);
    await screen.click('[aria-label="Cancel c.mov"]');
    await until('it to be ready', () => !button(screen).disabled);
  });

  it('another file under the name is not taken for it', async () => {
    await leave();
    const { screen } = await open();
    const field = screen.one<HTMLInputElement>('[data-test="files"]');
    const other = new File(['x'.repeat(1000)], 'b.mov', { lastModified: 5 });
    Object.defineProperty(field, 'files', { value: [other], configurable: true });
    field.dispatchEvent(new Event('change'));
    await until('it to be sent', () => wires.length === 1);
    expect(wires[0]?.options.uploadUrl).toBeNull();
    await until('both to stand there', () => screen.all('[data-upload="b.mov"]').length === 2);
  });

  it.each([
    '',
    '{',
    '{"version":9,"batch":"batch-of-the-test-1","items":[]}',
    '{"version":1,"batch":"../x","items":[]}',
  ])('and kept words that make no sense (%s) are left alone', async (text) => {
    sessionStorage.setItem('neat-larder.upload', text);
    const { screen } = await open();
    expect(screen.all('[data-upload]')).toEqual([]);
  });
});

describe('what is dropped or chosen', () => {
  const file = (name: string, path = '') =>
    Object.defineProperty(new File([], name), 'webkitRelativePath', { value: path });
  it('brings its folders along, and leaves out files of operating systems', () =>
    expect(
      chosenFiles([file('a.mov', 'card/A001/a.mov'), file('.DS_Store', 'card/.DS_Store'), file('b.txt')]).map(
        ({ path }) => path,
      ),
    ).toEqual(['card/A001/a.mov', 'b.txt']));
  it('of a dropped folder, everything below it comes, however many at a time the browser gives', async () => {
    const leaf = (fullPath: string) => ({
      isDirectory: false,
      fullPath,
      file: (give: (file: File) => void) => give(new File([], fullPath.split('/').at(-1) ?? '')),
    });
    const folder = (fullPath: string, batches: unknown[][]) => ({
      isDirectory: true,
      fullPath,
      createReader: () => {
        const left = [...batches];
        return { readEntries: (give: (entries: unknown[]) => void) => give(left.shift() ?? []) };
      },
    });
    const entry = folder('/card', [
      [leaf('/card/a.mov')],
      [folder('/card/sub', [[leaf('/card/sub/b.wav')]]), leaf('/card/Thumbs.db')],
    ]);
    const transfer = { items: [{ webkitGetAsEntry: () => entry }], files: [] } as unknown as DataTransfer;
    expect((await droppedFiles(transfer)).map(({ path }) => path)).toEqual(['card/a.mov', 'card/sub/b.wav']);
  });
});
