import { mkdir, readdir, rename, writeFile } from 'node:fs/promises';
import { dirname, join, resolve, sep } from 'node:path';
import { ZipFile } from 'yazl';
import { notFound } from '../store/errors';

/** A name that every file system takes; what it may not have becomes `_`. */
const plain = (name: string): string =>
  // eslint-disable-next-line no-control-regex -- control signs are what must go
  name.replace(/[\u0000-\u001f\u007f<>:"/\\|?*]/g, '_').replace(/^\.+|[. ]+$/g, '_') || '_';

/**
 * Where files are written that people take along: a folder for each job, below one root. Nothing outside of it can be reached,
 * whatever storages and files are called.
 */
export class ExportStore {
  private readonly root: string;

  constructor(root: string) {
    this.root = resolve(root);
  }

  folder(jobId: number): string {
    return join(this.root, String(jobId));
  }

  /** Writes a text under the folder of a job, whole or not at all, in place of what an earlier try has left there. */
  async put(jobId: number, parts: readonly string[], text: string): Promise<void> {
    const folder = this.folder(jobId);
    const path = join(folder, ...parts.map(plain));
    if (!path.startsWith(folder + sep)) throw new Error('an export outside its folder');
    const temporary = join(dirname(path), '.making');
    await mkdir(dirname(path), { recursive: true });
    await writeFile(temporary, text, { flush: true });
    await rename(temporary, path);
  }

  /** Everything in the folder of a job as one archive, which is made while it is read. Throws `not-found` for an empty one. */
  async archive(jobId: number): Promise<NodeJS.ReadableStream> {
    const folder = this.folder(jobId);
    const entries = await readdir(folder, { recursive: true, withFileTypes: true }).catch(() => []);
    const files = entries.filter((entry) => entry.isFile() && entry.name !== '.making');
    if (files.length === 0) throw notFound('export');
    const zip = new ZipFile();
    for (const { path, name } of files) {
      const file = join(path, name);
      zip.addFile(
        file,
        file
          .slice(folder.length + 1)
          .split(sep)
          .join('/'),
      );
    }
    zip.end();
    return zip.outputStream;
  }
}
