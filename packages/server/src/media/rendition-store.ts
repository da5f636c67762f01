import { mkdir, open, rename, rm, stat, symlink } from 'node:fs/promises';
import { dirname, join, resolve, sep } from 'node:path';
import type { RenditionKind } from '@larder/contract';

const FILE_NAMES: Readonly<Record<RenditionKind, string>> = {
  poster: 'poster.jpg',
  filmstrip: 'filmstrip.jpg',
  peaks: 'peaks.json',
  proxy: 'proxy',
  mezzanine: 'mezzanine',
};
const PER_FOLDER = 1000;

/**
 * The one place in the server that writes files. It can only be handed asset numbers and kinds, so whatever it writes lies under
 * the rendition root, and no original can be reached.
 */
export class RenditionStore {
  private readonly root: string;

  constructor(root: string) {
    this.root = resolve(root);
  }

  path(assetId: number, kind: RenditionKind, extension = ''): string {
    const path = join(
      this.root,
      String(Math.floor(assetId / PER_FOLDER)),
      String(assetId),
      FILE_NAMES[kind] + extension,
    );
    if (!path.startsWith(this.root + sep)) throw new Error('a rendition outside the rendition root');
    return path;
  }

  /**
   * Has `make` write to a temporary path and moves the result into place once it is whole on disk; a half file is never left
   * under the final name. Gives the size in bytes.
   */
  async put(
    assetId: number,
    kind: RenditionKind,
    make: (temporary: string) => Promise<unknown>,
    extension = '',
  ): Promise<number> {
    const path = this.path(assetId, kind, extension);
    // Always the same, so that what a killed process left is taken away by the next.
    const temporary = join(dirname(path), `.making-${FILE_NAMES[kind]}${extension}`);
    await mkdir(dirname(path), { recursive: true });
    await rm(temporary, { force: true });
    try {
      await make(temporary);
      const file = await open(temporary, 'r+');
      try {
        await file.sync();
      } finally {
        await file.close();
      }
      await rename(temporary, path);
      return (await stat(path)).size;
    } finally {
      await rm(temporary, { force: true });
    }
  }

  /** As `put`, for several that are made in one go. Gives their sizes in the same order. */
  async putAll(
    assetId: number,
    wanted: readonly { readonly kind: RenditionKind; readonly extension: string }[],
    make: (temporary: readonly string[]) => Promise<unknown>,
  ): Promise<number[]> {
    const sizes: number[] = [];
    const nest = async (temporary: readonly string[]): Promise<void> => {
      const next = wanted[temporary.length];
      if (!next) return void (await make(temporary));
      const { kind, extension } = next;
      sizes[temporary.length] = await this.put(assetId, kind, (to) => nest([...temporary, to]), extension);
    };
    await nest([]);
    return sizes;
  }

  /** Has `use` work with a folder of links to originals, which is taken away afterwards. */
  withLinks<T>(
    assetId: number,
    links: readonly { readonly name: string; readonly target: string }[],
    use: (folder: string) => Promise<T>,
  ): Promise<T> {
    return this.withFolder(assetId, async (folder) => {
      for (const { name, target } of links) await symlink(target, join(folder, name));
      return use(folder);
    });
  }

  /**
   * Has `use` work with a folder for what is needed only meanwhile; it is taken away afterwards. One that is named is empty at the
   * beginning, whatever a process that was killed left in it.
   */
  async withFolder<T>(
    assetId: number,
    use: (folder: string) => Promise<T>,
    name = `${process.pid}-${Date.now()}`,
  ): Promise<T> {
    const folder = join(dirname(this.path(assetId, 'poster')), `.work-${name}`);
    await rm(folder, { recursive: true, force: true });
    await mkdir(folder, { recursive: true });
    try {
      return await use(folder);
    } finally {
      await rm(folder, { recursive: true, force: true });
    }
  }

  async drop(assetId: number): Promise<void> {
    await rm(dirname(this.path(assetId, 'poster')), { recursive: true, force: true });
  }
}

/** Proxies are MP4 where there is a moving picture or only sound, and JPEG for stills. */
export const proxyExtension = (kind: string): string => (kind === 'still' ? '.jpg' : '.mp4');
