import { join } from 'node:path';
import { folderOf, isMediaName, itemsOf, SYSTEM_NAMES, type FileEntry, type ShelfItem } from '@larder/core/shelf';
import { stream } from './run';
import type { WalkOptions } from './walk';

/** Something could not be read, or has too long a path, or the tool is not there: nothing that was given so far is to be relied on. */
export class QuickWalkFailed extends Error {}

const SYSTEM = ['-name', '.*', ...SYSTEM_NAMES.flatMap((name) => ['-o', '-iname', name])];

/**
 * What `walk` gives, in another order, from one run of `find`: while that asks the disk, what it found is put together here, which
 * on a disk of this machine takes half the time. A network volume would be asked for one thing after the other. It knows no way to
 * pass over what cannot be read, and fails instead.
 */
export async function* quickWalk(
  root: string,
  folder: string,
  { deep = true, signal = new AbortController().signal, onUnnameable }: Omit<WalkOptions, 'onUnreadable'>,
): AsyncGenerator<readonly ShelfItem[]> {
  signal.throwIfAborted();
  const { output, ended } = stream(
    'find',
    [
      ...['-H', join(root, folder), '-mindepth', '1', ...(deep ? [] : ['-maxdepth', '1'])],
      ...['(', ...SYSTEM, ')', '-prune', '-o', '(', '-type', 'd', '-o', '-type', 'f', ')'],
      ...['-printf', '%y\\0%s\\0%T@\\0%P\\0'],
    ],
    signal,
  );
  const listing = new Listing(root, folder, onUnnameable);
  for await (const piece of output.setEncoding('utf8') as AsyncIterable<string>) yield* listing.take(piece);
  signal.throwIfAborted();
  if (!(await ended)) throw new QuickWalkFailed();
  yield* listing.end();
}

interface OpenFolder {
  readonly path: string;
  readonly entries: FileEntry[];
  unnameable: number;
}

/** Longer paths can be walked step by step, but opened by nobody. */
const PATH_BYTES = 4095;
/** What is told of each thing: its type, bytes, time in seconds and path. */
const FIELDS = 4;

/** Puts the things of each folder together. A folder is at its end when something is told that lies neither in nor below it. */
class Listing {
  private readonly open: OpenFolder[] = [];
  private rest = '';

  constructor(
    private readonly root: string,
    private readonly folder: string,
    private readonly onUnnameable: WalkOptions['onUnnameable'],
  ) {}

  *take(piece: string): Generator<readonly ShelfItem[]> {
    const parts = (this.rest + piece).split('\0');
    const whole = parts.length - 1 - ((parts.length - 1) % FIELDS);
    this.rest = parts.slice(whole).join('\0');
    for (let n = 0; n < whole; n += FIELDS) {
      const [type = '', bytes = '', time = '', below = ''] = parts.slice(n, n + FIELDS);
      const path = this.folder ? `${this.folder}/${below}` : below;
      const parent = folderOf(path);
      // What is not UTF-8 was read as this sign. Of a folder with such a name nothing further is told.
      if (parent.includes('\uFFFD')) continue;
      if (type === 'd' && Buffer.byteLength(join(this.root, path)) > PATH_BYTES) throw new QuickWalkFailed();
      if (this.open.at(-1)?.path !== parent) yield* this.turnTo(parent);
      this.note(this.open.at(-1) as OpenFolder, path.slice(parent === '' ? 0 : parent.length + 1), type, bytes, time);
    }
  }

  *end(): Generator<readonly ShelfItem[]> {
    while (this.open.length > 0) yield* this.close();
  }

  private note(folder: OpenFolder, name: string, type: string, bytes: string, time: string): void {
    if (name.includes('\uFFFD')) folder.unnameable += 1;
    else if (type === 'f')
      folder.entries.push(
        isMediaName(name)
          ? { name, bytes: Number(bytes), modifiedMs: milliseconds(time) }
          : { name, bytes: 0, modifiedMs: 0 },
      );
  }

  private *turnTo(folder: string): Generator<readonly ShelfItem[]> {
    for (let top = this.open.at(-1); top && !isWithin(folder, top.path); top = this.open.at(-1)) yield* this.close();
    if (this.open.at(-1)?.path !== folder) this.open.push({ path: folder, entries: [], unnameable: 0 });
  }

  private *close(): Generator<readonly ShelfItem[]> {
    const { path, entries, unnameable } = this.open.pop() as OpenFolder;
    if (unnameable > 0) this.onUnnameable?.(path, unnameable);
    const { items } = itemsOf(entries, path);
    if (items.length > 0) yield items;
  }
}

const isWithin = (folder: string, outer: string): boolean =>
  outer === '' || folder === outer || folder.startsWith(`${outer}/`);

/** Whole milliseconds of seconds with a fraction, told by its digits: as a number it would lose the last ones. */
const milliseconds = (seconds: string): number => {
  const [whole = '', fraction = ''] = seconds.split('.');
  return Number(whole + fraction.slice(0, 3).padEnd(3, '0'));
};
