import { createHash } from 'node:crypto';
import { constants } from 'node:fs';
import { link, mkdir, open, readFile, realpath, rename, rm, stat, utimes, type FileHandle } from 'node:fs/promises';
import { dirname, join, sep } from 'node:path';
import { Xxh64 } from '@node-rs/xxhash';
import { isInner } from '@larder/core/shelf';
import { refused } from '../store/errors';
import { run } from './run';

const CHUNK_BYTES = 4 * 1024 * 1024;
const DROP_TIMEOUT_MS = 60_000;

export interface Copying {
  readonly signal: AbortSignal;
  /** Bytes written, and bytes read back, since the last call; each byte of a file is told twice. */
  bytes(more: number): void;
}

export interface Copied {
  readonly bytes: number;
  readonly modifiedMs: number;
  /** xxHash64 of every byte, 16 hexadecimal digits. */
  readonly xxh64: string;
}

/** Reads a file from its beginning to its end, a piece at a time, and gives its xxHash64. */
export async function hashFile(
  file: FileHandle,
  { signal, bytes }: Copying,
  piece?: (data: Buffer) => Promise<void>,
): Promise<string> {
  const hash = new Xxh64(0n);
  const buffer = Buffer.allocUnsafe(CHUNK_BYTES);
  for (let position = 0; ;) {
    signal.throwIfAborted();
    const { bytesRead } = await file.read(buffer, 0, CHUNK_BYTES, position);
    if (bytesRead === 0) break;
    const data = buffer.subarray(0, bytesRead);
    hash.update(data);
    await piece?.(data);
    position += bytesRead;
    bytes(bytesRead);
  }
  return hash.digest().toString(16).padStart(16, '0');
}

/** The xxHash64 of a file, read anew. */
export async function hashPath(path: string, copying: Copying): Promise<string> {
  const file = await open(path, 'r');
  try {
    return await hashFile(file, copying);
  } finally {
    await file.close();
  }
}

/** Has the system forget what it remembers of a file, so that reading it back asks the disk and not the memory. */
const forget = (path: string): Promise<unknown> =>
  run('dd', [`of=${path}`, 'oflag=nocache', 'conv=notrunc,fdatasync', 'count=0', 'status=none'], {
    timeoutMs: DROP_TIMEOUT_MS,
  }).catch(() => undefined);

/**
 * Adds files to a storage that the library may copy to. It can only add: nothing that is there is ever opened for writing,
 * replaced or taken away, and nothing is written outside the storage, whatever links lie in it.
 */
export class ManagedStore {
  constructor(private readonly root: string) {}

  /** The place for a new file, with its folder made; refuses one that lies outside. */
  private async place(path: string): Promise<string> {
    if (!isInner(path)) throw refused(`${path} does not lie within the storage.`);
    const target = join(this.root, path);
    const top = await realpath(this.root);
    // Looked at step by step, so that not even a folder is made beyond a link that leads out.
    let folder = this.root;
    for (const step of path.split('/').slice(0, -1)) {
      folder = join(folder, step);
      await mkdir(folder).catch((error: NodeJS.ErrnoException) => {
        if (error.code !== 'EEXIST') throw error;
      });
      const real = await realpath(folder);
      if (real !== top && !real.startsWith(top + sep))
        throw refused(`${path} lies outside the storage: a link leads out of it.`);
    }
    return target;
  }

  /**
   * Copies a file, and reads the copy back from the disk to compare every byte by its hash. A file that is there already with
   * the same bytes is taken for the copy; one with others is refused. Throws if the source changes under its hands.
   */
  async copy(from: string, path: string, copying: Copying): Promise<Copied> {
    const target = await this.place(path);
    const source = await open(from, constants.O_RDONLY | constants.O_NOFOLLOW);
    try {
      const before = await source.stat();
      if (!before.isFile()) throw refused(`${from} is no file.`);
      const facts = { bytes: before.size, modifiedMs: Math.floor(before.mtimeMs) };
      // Before looking whether it is there: a process may have been killed between giving a whole copy its name and taking away
      // the other one.
      const temporary = await temporaryFor(target);
      const there = await stat(target).catch(() => null);
      if (there) {
        const [mine, theirs] = [await hashFile(source, copying), await hashPath(target, copying)];
        if (mine !== theirs)
          throw refused(
            `Another file lies at ${path} already. Nothing was written over it; choose another name or folder.`,
          );
        return { ...facts, xxh64: mine };
      }
      try {
        const xxh64 = await this.write(temporary, source, before.mtime, copying);
        const after = await source.stat();
        if (after.size !== before.size || after.mtimeMs !== before.mtimeMs)
          throw refused(
            `${from} was changed while it was being copied. Nothing was kept; try again when it is complete.`,
          );
        await forget(temporary);
        const back = await hashPath(temporary, copying);
        if (back !== xxh64)
          throw refused(
            `The copy of ${from} is not what was written: ${back} instead of ${xxh64}. The disk may be failing; nothing was kept.`,
          );
        await settle(temporary, target);
        return { ...facts, xxh64 };
      } finally {
        await rm(temporary, { force: true });
      }
    } finally {
      await source.close();
    }
  }

  private async write(temporary: string, source: FileHandle, mtime: Date, copying: Copying): Promise<string> {
    const file = await open(temporary, 'wx');
    try {
      const hash = await hashFile(source, copying, async (data) => {
        for (let done = 0; done < data.length;) done += (await file.write(data, done, data.length - done)).bytesWritten;
      });
      await file.sync();
      await utimes(temporary, mtime, mtime);
      return hash;
    } finally {
      await file.close();
    }
  }

  /** Adds a small new file. One that is there with the same words is taken for it; where there is another, it refuses. */
  add(path: string, text: string): Promise<void> {
    return this.writeText(path, text, async (temporary, target) => {
      const there = await readFile(target, 'utf8').catch(() => null);
      if (there === null) await settle(temporary, target);
      else if (there !== text) throw refused(`Another file lies at ${path} already. Nothing was written over it.`);
    });
  }

  /** The one file of the library's own that grows, and is therefore replaced: the chain of a folder's hash lists. */
  replaceChain(path: string, text: string): Promise<void> {
    return this.writeText(path, text, rename);
  }

  private async writeText(
    path: string,
    text: string,
    finish: (temporary: string, target: string) => Promise<void>,
  ): Promise<void> {
    const target = await this.place(path);
    const temporary = await temporaryFor(target);
    try {
      const file = await open(temporary, 'wx');
      try {
        await file.writeFile(text);
        await file.sync();
      } finally {
        await file.close();
      }
      await finish(temporary, target);
    } finally {
      await rm(temporary, { force: true });
    }
  }
}

/**
 * The name under which a file grows: always the same for the same file, so that what a killed process left is taken away by the
 * next. One that still writes goes on writing to what has no name any more.
 */
async function temporaryFor(target: string): Promise<string> {
  const name = createHash('sha1').update(target).digest('hex').slice(0, 16);
  const temporary = join(dirname(target), `.larder-${name}.part`);
  await rm(temporary, { force: true });
  return temporary;
}

/** Gives a whole file its name, never over another one. */
async function settle(temporary: string, target: string): Promise<void> {
  try {
    await link(temporary, target);
  } catch (error) {
    // Cards and some network volumes know no second names.
    if (!['EPERM', 'ENOTSUP', 'EOPNOTSUPP', 'ENOSYS'].includes((error as NodeJS.ErrnoException).code ?? ''))
      throw error;
    if (await stat(target).catch(() => null))
      throw refused(`A file came to lie at ${target} meanwhile. Nothing was written over it.`);
    await rename(temporary, target);
  }
  const folder = await open(dirname(target), 'r');
  await folder.sync().catch(() => undefined);
  await folder.close();
}
