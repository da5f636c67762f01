import { randomBytes } from 'node:crypto';
import { existsSync, mkdirSync, readFileSync, renameSync, rmSync, statfsSync, writeFileSync } from 'node:fs';
import { dirname, join, resolve } from 'node:path';
import { fileURLToPath } from 'node:url';

/** A problem that the person at the terminal can mend: what is wrong, and what to do. Printed without a stack. */
export class Plain extends Error {}

const MIN_FREE_BYTES = 2 * 1024 ** 3;

/** The checkout: where the built processes and the web application lie. */
export const ROOT = ((): string => {
  // Bundled into dist/ or dist/parts/, or run from its source by tests.
  let folder = typeof __dirname === 'string' ? __dirname : dirname(fileURLToPath(import.meta.url));
  while (!existsSync(join(folder, 'packages')) && dirname(folder) !== folder) folder = dirname(folder);
  return folder;
})();

export const dist = (...parts: string[]): string => join(ROOT, 'dist', ...parts);

export interface Secrets {
  readonly databasePassword: string;
  readonly managerPassword: string;
}

/** The data folder: database, renditions, demo media and what is needed to find them again. */
export class Home {
  readonly path: string;

  constructor(path = process.env['LARDER_HOME'] ?? join(ROOT, '.larder')) {
    this.path = resolve(path);
  }

  readonly at = (...parts: string[]): string => join(this.path, ...parts);

  /** Makes the folder; says so if it cannot be written or the disk is nearly full. */
  prepare(): void {
    try {
      mkdirSync(this.path, { recursive: true, mode: 0o700 });
      writeFileSync(this.at('.writable'), '');
      rmSync(this.at('.writable'));
    } catch (error) {
      throw new Plain(
        `The data folder ${this.path} cannot be written (${(error as Error).message}). Set LARDER_HOME to a folder that can.`,
      );
    }
    const { bavail, bsize } = statfsSync(this.path);
    if (bavail * bsize < MIN_FREE_BYTES)
      throw new Plain(
        `Only ${((bavail * bsize) / 1024 ** 3).toFixed(1)} GiB are free at ${this.path}, and at least 2 GiB are needed. Free some space, or set LARDER_HOME to another disk.`,
      );
  }

  secrets(): Secrets {
    const file = this.at('secrets.json');
    if (existsSync(file)) return JSON.parse(readFileSync(file, 'utf8')) as Secrets;
    const secrets = {
      databasePassword: randomBytes(24).toString('base64url'),
      managerPassword: randomBytes(9).toString('base64url'),
    };
    writeFileSync(`${file}.new`, JSON.stringify(secrets), { mode: 0o600 });
    renameSync(`${file}.new`, file);
    return secrets;
  }
}

export interface Running {
  readonly pid: number;
  readonly port: number;
}

export const isAlive = (pid: number): boolean => {
  try {
    process.kill(pid, 0);
    return true;
  } catch (error) {
    return (error as NodeJS.ErrnoException).code === 'EPERM';
  }
};

/** The library that runs on this data folder, if one does. */
export function runningOn(home: Home): Running | null {
  try {
    const running = JSON.parse(readFileSync(home.at('run.json'), 'utf8')) as Running;
    return isAlive(running.pid) ? running : null;
  } catch {
    return null;
  }
}
