import { mkdir, rename, rm, stat } from 'node:fs/promises';
import { dirname, join, resolve, sep } from 'node:path';
import { isInner, isSystemName } from '@larder/core/shelf';
import { refused } from '../store/errors';

const BATCH = /^[A-Za-z0-9-]{8,64}$/;
const INCOMING = 'incoming';

/** Where uploads lie until they are copied to a storage: pieces as they come, then whole files in their batch's folder. */
export class UploadStore {
  private readonly root: string;

  constructor(root: string) {
    this.root = resolve(root);
  }

  /** Where files that are not complete yet grow. */
  get incoming(): string {
    return join(this.root, INCOMING);
  }

  /** The folder of a batch; refuses a name that could lead elsewhere. */
  folder(batch: string): string {
    if (!BATCH.test(batch) || batch === INCOMING) throw refused('That is no upload.');
    return join(this.root, batch);
  }

  /** Puts a whole file into its batch under the path that it had with the person who sent it. */
  async settle(incoming: string, batch: string, path: string): Promise<void> {
    const folder = this.folder(batch);
    const target = resolve(folder, path);
    if (!target.startsWith(folder + sep)) throw refused(`${path} does not lie within the upload.`);
    await mkdir(dirname(target), { recursive: true });
    if (await stat(target).catch(() => null)) throw refused(`There are two files called ${path}.`);
    await rename(join(this.incoming, incoming), target);
  }

  /** Takes a batch away once everything of it is in a storage. */
  async drop(batch: string): Promise<void> {
    await rm(this.folder(batch), { recursive: true, force: true });
  }
}

/** A path that somebody's browser names a file by, made fit for a storage; throws for one that leads somewhere else. */
export function uploadPath(text: string): string {
  if (!isInner(text) || /[\\\p{Cc}]/u.test(text)) throw refused(`A file cannot be called “${text.slice(0, 80)}”.`);
  const name = text.slice(text.lastIndexOf('/') + 1);
  if (isSystemName(name)) throw refused(`${name} is a file of an operating system and is left out.`);
  return text;
}
