import { cpSync, existsSync, mkdtempSync, renameSync, rmSync } from 'node:fs';
import { join } from 'node:path';
import { Home } from './home';
import { Library } from './library';

/** The environment variable with the folder in which the tests of one run keep what they all begin with. */
export const PREPARED = 'LARDER_TEST_PREPARED';

/**
 * An empty data folder that begins with its database set up, where a run of tests keeps one: setting one up takes several seconds, and
 * a copy one. By itself there is none, and the library sets up its own.
 */
export async function preparedHome(path: string): Promise<Home> {
  if (process.env[PREPARED] !== undefined)
    await prepared('home', path, async (made) => {
      const library = await Library.open({ home: new Home(made), port: 0, demoPassword: null });
      await library.stop();
    });
  return new Home(path);
}

/** Puts what `make` makes in an empty folder into another; where a run of tests keeps things, it is made once under its name. */
export async function prepared(name: string, into: string, make: (folder: string) => Promise<void>): Promise<void> {
  const folder = process.env[PREPARED];
  if (folder !== undefined) cpSync(await kept(folder, name, make), into, { recursive: true, preserveTimestamps: true });
  else await make(into);
}

async function kept(folder: string, name: string, make: (folder: string) => Promise<void>): Promise<string> {
  const path = join(folder, name);
  if (existsSync(path)) return path;
  const made = mkdtempSync(join(folder, 'made-'));
  await make(made);
  try {
    renameSync(made, path);
  } catch {
    // Another test was first.
    rmSync(made, { recursive: true });
  }
  return path;
}
