import { execFileSync } from 'node:child_process';
import {
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
import { join } from 'node:path';
import { fingerprint, withFile } from '../src/media/file-source';
import { proxyExtension, RenditionStore } from '../src/media/rendition-store';
import { run, ToolError } from '../src/media/run';
import { foldersBelow, walk, walkFolder } from '../src/media/walk';
import { wordJobError } from '../src/jobs/context';

let root: string;
beforeEach(() => void (root = mkdtempSync(join(tmpdir(), 'larder-test-'))));
afterEach(() => rmSync(root, { recursive: true, force: true }));

const lay = (path: string, content = 'x') => {
  mkdirSync(join(root, path, '..'), { recursive: true });
  writeFileSync(join(root, path), content);
};
const walked = async (folder = '') => {
  const paths: string[] = [];
  for await (const found of walk(root, folder)) paths.push(...found.map((item) => item.path));
  return paths;
};

describe('walking a storage', () => {
  it('finds what could be footage or sound, whatever the case of its ending, and nothing else', async () => {
    for (const path of ['a/One.MOV', 'a/two.wav', 'a/notes.txt', 'a/take.mov.part', 'b/c/still.JPG', 'b/c/edl.edl'])
      lay(path);
    expect(await walked()).toEqual(['a/One.MOV', 'a/two.wav', 'b/c/still.JPG']);
    expect(await walked('b')).toEqual(['b/c/still.JPG']);
    expect((await walkFolder(root, 'a')).map((item) => item.name)).toEqual(['One.MOV', 'two.wav']);
  });
  it('keeps out of what operating systems leave on a disk', async () => {
    for (const path of [
      '.Trash/a.mov',
      '._a.mov',
      '$RECYCLE.BIN/b.mov',
      'System Volume Information/c.mov',
      '__MACOSX/d.mov',
      'lost+found/e.mov',
      'footage/real.mov',
    ])
      lay(path);
    expect(await walked()).toEqual(['footage/real.mov']);
  });
  it('follows no links: not out of the storage, and not in a circle', async () => {
    lay('footage/real.mov');
    const elsewhere = mkdtempSync(join(tmpdir(), 'larder-test-'));
    writeFileSync(join(elsewhere, 'secret.mov'), '');
    symlinkSync(elsewhere, join(root, 'out'));
    symlinkSync(join(elsewhere, 'secret.mov'), join(root, 'link.mov'));
    symlinkSync(root, join(root, 'footage/circle'));
    expect(await walked()).toEqual(['footage/real.mov']);
    rmSync(elsewhere, { recursive: true });
  });
  it('stops when it is told to', async () => {
    for (const folder of ['a', 'b', 'c']) lay(`${folder}/clip.mov`);
    const stop = new AbortController();
    const seen: string[] = [];
    const walking = (async () => {
      for await (const found of walk(root, '', { signal: stop.signal })) {
        seen.push(...found.map((item) => item.path));
        stop.abort();
      }
    })();
    await expect(walking).rejects.toThrow('aborted');
    expect(seen).toEqual(['a/clip.mov']);
  });
  it('lists folders, parents first, no more than asked for', async () => {
    for (const path of ['a/b/c/x.mov', 'd/x.mov', '.hidden/x.mov']) lay(path);
    expect(await foldersBelow(root, 10)).toEqual(['a', 'a/b', 'a/b/c', 'd']);
    expect(await foldersBelow(root, 2)).toEqual(['a', 'd']);
    expect(await foldersBelow(join(root, 'nowhere'), 5)).toEqual([]);
  });
  it('names with any character that a file system allows come through as they are', async () => {
    const names = ['a b.mov', 'ä–ö.mov', 'per%20cent.mov', 'quo\'te".mov', 'new\nline.mov', '日本.mov'];
    for (const name of names) lay(`odd/${name}`);
    expect((await walked()).toSorted()).toEqual(names.map((name) => `odd/${name}`).toSorted());
  });
});

describe('running tools', () => {
  const reasonOf = (running: Promise<unknown>) =>
    running.then(
      () => 'ended well',
      (error: unknown) => (error as ToolError).reason,
    );

  it('gives their output, and nothing of this process’s secrets to them', async () => {
    process.env['LARDER_SECRET'] = 'secret';
    expect((await run('env', [], { timeoutMs: 5000 })).toString()).not.toContain('secret');
    delete process.env['LARDER_SECRET'];
    expect((await run('echo', ['$(id) `id` ; id'], { timeoutMs: 5000 })).toString()).toBe('$(id) `id` ; id\n');
  });
  it('ends those that hang, say too much, or are not wanted any more', async () => {
    expect(await reasonOf(run('sleep', ['60'], { timeoutMs: 50 }))).toBe('timeout');
    expect(await reasonOf(run('yes', [], { timeoutMs: 20_000, maxOutputBytes: 10_000 }))).toBe('too-much-output');
    const stop = new AbortController();
    const running = reasonOf(run('sleep', ['60'], { timeoutMs: 20_000, signal: stop.signal }));
    stop.abort();
    expect(await running).toBe('cancelled');
    expect(await reasonOf(run('true', [], { timeoutMs: 5000, signal: stop.signal }))).toBe('cancelled');
  });
  it('says how they failed, in a person’s words', async () => {
    expect(await reasonOf(run('no-such-tool', [], { timeoutMs: 5000 }))).toBe('not-found');
    expect(await reasonOf(run('false', [], { timeoutMs: 5000 }))).toBe('failed');
    const error = await run('ffprobe', ['-v', 'error', '/nowhere.mov'], { timeoutMs: 5000 }).catch(
      (thrown: unknown) => thrown,
    );
    expect(wordJobError(error)).toBe('/nowhere.mov: No such file or directory');
    expect(wordJobError(new ToolError('ffmpeg', 'timeout', ''))).toBe('ffmpeg did not come to an end and was stopped.');
    expect(wordJobError(new ToolError('ffmpeg', 'not-found', ''))).toBe('ffmpeg is not installed on this machine.');
    expect(wordJobError(new Error(''))).toBe('It failed without a word.');
    expect(wordJobError(new Error('[mov @ 0x1] bad\n[mov @ 0x2] bad\nworse'))).toBe('bad worse');
  });
  it('hands on what they say line by line, whole lines only', async () => {
    const lines: string[] = [];
    await run('sh', ['-c', 'printf "fra" >&2; sleep 0.1; printf "me=1\\rframe=2\\n" >&2'], {
      timeoutMs: 5000,
      errorLine: (line) => {
        lines.push(line);
        return null;
      },
    });
    expect(lines).toEqual(['frame=1', 'frame=2']);
  });
});

describe('the place of renditions', () => {
  it('is under its root and nowhere else, whatever it is handed', () => {
    const store = new RenditionStore(root);
    expect(store.path(1234, 'proxy', '.mp4')).toBe(join(root, '1/1234/proxy.mp4'));
    expect(() => store.path('../../../etc' as never, 'poster')).toThrow();
    expect(['video', 'audio', 'still'].map(proxyExtension)).toEqual(['.mp4', '.mp4', '.jpg']);
  });
  it('never shows half a file: it is put in place when it is whole, and a failure leaves nothing', async () => {
    const store = new RenditionStore(root);
    const bytes = await store.put(7, 'poster', (path) => {
      expect(existsSync(store.path(7, 'poster'))).toBe(false);
      writeFileSync(path, 'picture');
      return Promise.resolve();
    });
    expect([bytes, readFileSync(store.path(7, 'poster'), 'utf8')]).toEqual([7, 'picture']);
    const failing = store.put(7, 'poster', (path) => {
      writeFileSync(path, 'half');
      return Promise.reject(new Error('torn'));
    });
    await expect(failing).rejects.toThrow('torn');
    expect(readFileSync(store.path(7, 'poster'), 'utf8')).toBe('picture');
    expect(readdirSync(join(root, '0/7'))).toEqual(['poster.jpg']);
    await store.drop(7);
    expect(existsSync(join(root, '0/7'))).toBe(false);
  });
});

describe('the fingerprint of a file', () => {
  const of = (path: string) => withFile(join(root, path), fingerprint);

  it('is the same for the same bytes, and another for another length, beginning or end', async () => {
    const long = 'a'.repeat(200_000);
    lay('one', long);
    lay('same', long);
    lay('longer', `${long}a`);
    lay('begins', `b${long.slice(1)}`);
    lay('ends', `${long.slice(1)}b`);
    lay('empty', '');
    const prints = await Promise.all(['one', 'same', 'longer', 'begins', 'ends', 'empty'].map(of));
    expect(prints[0]).toBe(prints[1]);
    expect(new Set(prints).size).toBe(5);
  });
  it('is what the command line makes of size, first and last 64 KiB', async () => {
    lay('file', Array.from({ length: 40_000 }, (_unused, index) => index).join(' '));
    const path = join(root, 'file');
    const wanted = execFileSync(
      'sh',
      ['-c', '(stat -c %s "$1"; head -c 65536 "$1"; tail -c 65536 "$1") | sha1sum | cut -d" " -f1', 'sh', path],
      { encoding: 'utf8' },
    );
    expect(await of('file')).toBe(wanted.trim());
  });
});
