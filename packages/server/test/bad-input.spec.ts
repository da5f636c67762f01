import {
  appendFileSync,
  mkdirSync,
  mkdtempSync,
  readdirSync,
  readFileSync,
  rmSync,
  symlinkSync,
  writeFileSync,
} from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { ManagedStore } from '../src/media/managed-store';
import { run, ToolError } from '../src/media/run';
import { uploadPath, UploadStore } from '../src/media/upload-store';
import { walk } from '../src/media/walk';
import { type Client, makeClip, scanned, TestLibrary } from './kit';
import { wave } from './wave';

let root: string;
beforeAll(() => void (root = mkdtempSync(join(tmpdir(), 'larder-bad-'))));
afterAll(() => rmSync(root, { recursive: true, force: true }));

const quiet = { signal: new AbortController().signal, bytes: () => undefined };

describe('tools', () => {
  it('get no more memory than they may have', async () => {
    const balloon = run('python3', ['-c', 'print(len(bytearray(2 * 10**9)))'], { timeoutMs: 60_000, memoryBytes: 5e8 });
    await expect(balloon).rejects.toMatchObject({
      reason: 'failed',
      said: expect.stringContaining('MemoryError') as string,
    });
  });
  it('ask no network, whatever a file tells them to fetch', async () => {
    const list = join(root, 'list.m3u8');
    writeFileSync(list, '#EXTM3U\n#EXTINF:1,\nhttp://127.0.0.1:9/secret.ts\n#EXT-X-ENDLIST\n');
    const asked = run('ffprobe', ['-v', 'error', '-protocol_whitelist', 'file', '-i', list], { timeoutMs: 20_000 });
    const error = await asked.then(
      () => null,
      (thrown: unknown) => thrown,
    );
    expect(error).toBeInstanceOf(ToolError);
  });
});

describe('copies', () => {
  const store = () => new ManagedStore(join(root, 'store'));
  beforeAll(() => mkdirSync(join(root, 'store')));

  it('a source that grows under its hands is no copy', async () => {
    const path = join(root, 'growing.mov');
    writeFileSync(path, Buffer.alloc(1000));
    let touched = false;
    const copying = store().copy(path, 'growing.mov', {
      ...quiet,
      bytes: () => {
        if (!touched) appendFileSync(path, 'more');
        touched = true;
      },
    });
    await expect(copying).rejects.toThrow('was changed while it was being copied');
    expect(readdirSync(join(root, 'store'))).toEqual([]);
  });
  it('one that is cancelled leaves nothing', async () => {
    const path = join(root, 'large.mov');
    writeFileSync(path, Buffer.alloc(20_000_000));
    const stop = new AbortController();
    const copying = store().copy(path, 'a/large.mov', { signal: stop.signal, bytes: () => stop.abort() });
    await expect(copying).rejects.toThrow();
    expect(readdirSync(join(root, 'store/a'))).toEqual([]);
  });
  it.each(['../out.mov', 'a/../../out.mov', '/etc/x', 'a//b', ''])('“%s” is refused', async (path) => {
    await expect(store().copy(join(root, 'large.mov'), path, quiet)).rejects.toThrow('does not lie within the storage');
  });
  it('a link, a folder and a device are no files to copy', async () => {
    symlinkSync(join(root, 'large.mov'), join(root, 'link.mov'));
    for (const path of [join(root, 'link.mov'), root, '/dev/zero'])
      await expect(store().copy(path, 'x.mov', quiet)).rejects.toThrow();
    expect(readdirSync(join(root, 'store'))).toEqual(['a']);
  });
  it('the same file again is taken for the copy, and the time of the original is kept', async () => {
    const path = join(root, 'same.mov');
    writeFileSync(path, wave(3));
    const first = await store().copy(path, 'same.mov', quiet);
    expect(await store().copy(path, 'same.mov', quiet)).toEqual(first);
    expect(readFileSync(join(root, 'store/same.mov'))).toEqual(wave(3));
  });
});

describe('what is sent', () => {
  it.each(['a/./b', 'a/../b', '/a', 'a//b', 'a\\b', 'a\nb', '', 'x'.repeat(3000)])('cannot be called “%s”', (path) =>
    expect(() => uploadPath(path)).toThrow(),
  );
  it.each(['', '..', 'short', 'a/b/c/d/e/f', 'incoming', 'batch%2e%2e%2f'])('belongs to no batch “%s”', (batch) =>
    expect(() => new UploadStore(root).folder(batch)).toThrow('That is no upload.'),
  );
});

describe('a card with everything that is wrong on it', () => {
  let library: TestLibrary;
  let manager: Client;
  beforeAll(async () => {
    library = await TestLibrary.start();
    manager = await library.as('manager');
  }, 120_000);
  afterAll(() => library.stop(), 60_000);

  it('is scanned to its end: each thing has an entry, and the rest goes on', async () => {
    const card = library.shelf('card');
    makeClip(join(card, 'good.mov'));
    writeFileSync(join(card, 'cut off.mov'), readFileSync(join(card, 'good.mov')).subarray(0, 4000));
    writeFileSync(join(card, 'empty.mov'), '');
    writeFileSync(join(card, 'a sound.mov'), wave(1));
    writeFileSync(join(card, 'line\nbreak.wav'), wave(2));
    writeFileSync(join(card, `${'n'.repeat(86)}.wav`), wave(3));
    writeFileSync(
      Buffer.concat([Buffer.from(join(card, 'latin-')), Buffer.from([0xe9, 0xe8]), Buffer.from('.wav')]),
      wave(4),
    );
    writeFileSync(join(card, 'percent %d %s.wav'), wave(5));
    writeFileSync(join(card, '-i.wav'), wave(6));
    mkdirSync(join(card, 'round'));
    symlinkSync(card, join(card, 'round/and round'));
    const { job } = await scanned(manager, 'Card', card);
    expect(job).toMatchObject({ state: 'done', message: expect.stringMatching(/^One name is not UTF-8/) as string });
    const { revision } = await manager.call('status', null);
    const { assets } = await manager.call('search', { query: '', atLeast: revision });
    expect(Object.fromEntries(assets.map(({ name, kind }) => [name, kind]))).toEqual({
      'good.mov': 'video',
      'cut off.mov': 'unreadable',
      'empty.mov': 'unreadable',
      'a sound.mov': 'audio',
      'line\nbreak.wav': 'audio',
      [`${'n'.repeat(86)}.wav`]: 'audio',
      'percent %d %s.wav': 'audio',
      '-i.wav': 'audio',
    });
    for (const { kind, reason } of assets) expect(reason !== null && reason !== '').toBe(kind === 'unreadable');
    expect((await manager.call('browse', {}, 1)).unnameable).toBe(1);
  });

  it('a folder that leads to itself is walked once', async () => {
    const folder = join(root, 'cycle');
    mkdirSync(folder);
    writeFileSync(join(folder, 'a.wav'), wave(1));
    symlinkSync(folder, join(folder, 'again'));
    const found: string[] = [];
    for await (const items of walk(folder)) found.push(...items.map(({ path }) => path));
    expect(found).toEqual(['a.wav']);
  });
});
