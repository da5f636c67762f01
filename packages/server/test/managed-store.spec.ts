import { chmodSync, linkSync, mkdirSync, mkdtempSync, readdirSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { open } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { ManagedStore } from '../src/media/managed-store';
import { probeItem } from '../src/media/probe';
import { listFolder, walk } from '../src/media/walk';
import { wave } from './wave';

let root: string;
beforeEach(() => {
  root = mkdtempSync(join(tmpdir(), 'larder-store-'));
  for (const name of ['card', 'store']) mkdirSync(join(root, name));
  writeFileSync(join(root, 'card/a.wav'), wave(1));
});
afterEach(() => {
  jest.restoreAllMocks();
  rmSync(root, { recursive: true, force: true });
});

const quiet = { signal: new AbortController().signal, bytes: () => undefined };
const stored = () => readdirSync(join(root, 'store'));
const copy = (copying = quiet) =>
  new ManagedStore(join(root, 'store')).copy(join(root, 'card/a.wav'), 'a.wav', copying);

describe('a copy', () => {
  it('takes away what a process left that was killed after it gave the copy its name', async () => {
    let growing = '';
    const first = await copy({ ...quiet, bytes: () => void (growing ||= stored()[0] ?? '') });
    expect(growing).toMatch(/\.part$/);
    // As it lies there in the moment between the second name and the end of the first.
    linkSync(join(root, 'store/a.wav'), join(root, 'store', growing));
    expect(await copy()).toEqual(first);
    expect(stored()).toEqual(['a.wav']);
  });

  it('and what one left that was killed half way', async () => {
    let growing = '';
    await copy({ ...quiet, bytes: () => void (growing ||= stored()[0] ?? '') });
    rmSync(join(root, 'store/a.wav'));
    writeFileSync(join(root, 'store', growing), 'half');
    await copy();
    expect(stored()).toEqual(['a.wav']);
    expect(readFileSync(join(root, 'store/a.wav'))).toEqual(wave(1));
  });

  it('that finds the disk full leaves nothing, and says why', async () => {
    const handle = await open(join(root, 'card/a.wav'));
    const kind = Object.getPrototypeOf(handle) as { write: () => Promise<unknown> };
    await handle.close();
    jest.spyOn(kind, 'write').mockRejectedValue(Object.assign(new Error('ENOSPC: no space left'), { code: 'ENOSPC' }));
    await expect(copy()).rejects.toMatchObject({ code: 'ENOSPC' });
    expect(stored()).toEqual([]);
  });
});

/** Does something as somebody who may open only what everybody may; the tests may run as one who may open all. */
async function asNobody<T>(work: () => Promise<T>): Promise<T> {
  const me = process.geteuid?.() ?? 1;
  if (me !== 0) return work();
  process.seteuid?.(65_534);
  try {
    return await work();
  } finally {
    process.seteuid?.(me);
  }
}

describe('what may not be read', () => {
  beforeEach(() => {
    chmodSync(root, 0o755);
    mkdirSync(join(root, 'card/closed'));
    writeFileSync(join(root, 'card/closed/b.wav'), wave(2));
    writeFileSync(join(root, 'card/locked.wav'), wave(3));
    chmodSync(join(root, 'card/closed'), 0);
    chmodSync(join(root, 'card/locked.wav'), 0);
  });

  it('a folder is told and passed over, and the rest is walked', () =>
    asNobody(async () => {
      const [found, closed]: [string[], string[]] = [[], []];
      const onUnreadable = (folder: string) => void closed.push(folder);
      for await (const items of walk(join(root, 'card'), '', { onUnreadable }))
        found.push(...items.map(({ path }) => path));
      expect([found, closed]).toEqual([['a.wav', 'locked.wav'], ['closed']]);
    }));

  it('a file says so by itself, and is not copied', () =>
    asNobody(async () => {
      const { items } = await listFolder(join(root, 'card'), '');
      const locked = items.find(({ name }) => name === 'locked.wav');
      await expect(probeItem(join(root, 'card'), locked!)).rejects.toThrow(/permission denied/i);
      await expect(
        new ManagedStore(join(root, 'store')).copy(join(root, 'card/locked.wav'), 'b.wav', quiet),
      ).rejects.toThrow(/permission denied/i);
    }));
});
