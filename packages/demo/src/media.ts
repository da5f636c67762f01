import { fork, type ChildProcess } from 'node:child_process';
import { existsSync } from 'node:fs';
import { copyFile, cp, mkdir, rename, rm, stat, utimes } from 'node:fs/promises';
import { availableParallelism } from 'node:os';
import { dirname, join } from 'node:path';
import { pathOf, piecesOf } from './make';
import type { DemoScript } from './script';

export interface MakeOptions {
  readonly scriptPath: string;
  readonly script: DemoScript;
  /** The folder under which each storage has one of its own. */
  readonly root: string;
  /** The built script of the process that makes pieces. */
  readonly makerScript: string;
  onProgress(done: number, total: number): void;
}

type Said = { readonly made: boolean; readonly message?: string };
const next = (child: ChildProcess): Promise<Said> =>
  new Promise((resolve) => child.once('message', resolve as (message: unknown) => void));

/** Makes every file of the demo that is not there yet, on all cores. Throws with the first thing that went wrong. */
export async function makeDemoMedia({ scriptPath, script, root, makerScript, onProgress }: MakeOptions): Promise<void> {
  const all = piecesOf(script);
  const queue = all.filter((piece) => !existsSync(pathOf(root, script, piece)));
  let done = all.length - queue.length;
  onProgress(done, all.length);
  const maker = async () => {
    const child = fork(makerScript, [scriptPath, root], { stdio: ['ignore', 'inherit', 'inherit', 'ipc'] });
    const ended = new Promise<Said>((resolve) =>
      child.once('exit', () => resolve({ made: false, message: 'the process that makes it ended' })),
    );
    try {
      for (let piece = queue.shift(); piece; piece = queue.shift()) {
        const said = Promise.race([next(child), ended]);
        child.send(piece);
        const { made, message } = await said;
        if (!made) throw new Error(`${pathOf(root, script, piece)} could not be made: ${message ?? ''}`);
        onProgress((done += 1), all.length);
      }
    } finally {
      if (child.connected) child.disconnect();
    }
  };
  const makers = Math.min(queue.length, Math.max(2, availableParallelism()));
  await Promise.all(Array.from({ length: makers }, maker));
}

const UNPLUGGED = '.unplugged';

/** What people do to shelves after they were catalogued: the script's `afterwards`, and the drive that is unplugged. */
export async function disturbShelves(script: DemoScript, root: string): Promise<void> {
  const at = (storage: string, path: string) =>
    join(root, script.storages.find((each) => each.name === storage)?.folder ?? '', path);
  for (const act of script.afterwards)
    switch (act.do) {
      case 'move':
        await mkdir(dirname(at(act.storage, act.to)), { recursive: true });
        await rename(at(act.storage, act.from), at(act.storage, act.to));
        break;
      case 'replace': {
        const path = at(act.storage, act.path);
        const { mtime } = await stat(path);
        // The shelf's file may be a second name of the pristine one, which stays as it is.
        await rm(path);
        await copyFile(at(act.storage, act.with), path);
        // A day later, so that it looks like what it is: another recording under the old name.
        await utimes(path, mtime, new Date(mtime.getTime() + 86_400_000));
        break;
      }
      case 'lookalike':
        await mkdir(dirname(at(act.storage, act.to)), { recursive: true });
        await copyFile(at(act.storage, act.with), at(act.storage, act.to));
        await rm(at(act.storage, act.from));
        break;
      case 'remove':
        await rm(at(act.storage, act.path));
        break;
      default:
        act satisfies never;
    }
  for (const storage of script.storages.filter((each) => each.offline)) await unplug(root, storage.folder);
}

/** A drive that can be taken away and brought back: its folder goes aside and returns. */
export const unplug = (root: string, folder: string): Promise<void> =>
  rename(join(root, folder), join(root, `${UNPLUGGED}-${folder}`));
export const plugIn = (root: string, folder: string): Promise<void> =>
  rename(join(root, `${UNPLUGGED}-${folder}`), join(root, folder));

/** A copy of one storage's files, for tests that need real media of their own. */
export const copyStorage = (root: string, folder: string, to: string): Promise<void> =>
  cp(join(root, folder), to, { recursive: true, preserveTimestamps: true });
