import { createWriteStream, type WriteStream } from 'node:fs';
import { mkdir, readdir, readFile, rm, stat, writeFile } from 'node:fs/promises';
import { join, resolve } from 'node:path';
import { randomUUID } from 'node:crypto';
import { notFound } from '../store/errors';

const NAME = /^[A-Za-z0-9-]{8,64}$/;
/** Tables and reports are fetched soon or never. */
const KEPT_MS = 7 * 86_400_000;

/** Where tables lie that were sent to be read into the library, and the reports of what became of them. */
export class TableStore {
  private readonly root: string;

  constructor(root: string) {
    this.root = resolve(root, 'tables');
  }

  private path(name: string): string {
    if (!NAME.test(name)) throw notFound('table');
    return join(this.root, name);
  }

  /** Keeps what was sent, and forgets what nobody has asked for in a week. Gives the name by which it is read again. */
  async keep(bytes: Uint8Array): Promise<string> {
    await mkdir(this.root, { recursive: true });
    await this.forgetOld();
    const name = randomUUID();
    await writeFile(this.path(name), bytes);
    return name;
  }

  /** Throws `not-found` for one that was never sent, or is forgotten. */
  async read(name: string): Promise<Uint8Array> {
    return readFile(this.path(name)).catch(() => {
      throw notFound('table');
    });
  }

  reportPath(jobId: number): string {
    return join(this.root, `report-${jobId}.csv`);
  }

  async openReport(jobId: number): Promise<WriteStream> {
    await mkdir(this.root, { recursive: true });
    return createWriteStream(this.reportPath(jobId));
  }

  private async forgetOld(): Promise<void> {
    for (const name of await readdir(this.root)) {
      const path = join(this.root, name);
      const facts = await stat(path).catch(() => null);
      if (facts && Date.now() - facts.mtimeMs > KEPT_MS) await rm(path, { force: true });
    }
  }
}
