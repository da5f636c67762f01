import { spawn, spawnSync, type ChildProcess } from 'node:child_process';
import { existsSync, mkdirSync, openSync, readFileSync, rmSync } from 'node:fs';
import { createServer } from 'node:net';
import { totalmem, userInfo } from 'node:os';
import { createConnection } from 'mysql2/promise';
import type { DatabaseOptions } from '@larder/server';
import { isAlive, Plain, type Home } from './home';

const READY_MS = 60_000;
const STOP_MS = 30_000;
const LOOPBACK = '127.0.0.1';

export async function freePort(): Promise<number> {
  return new Promise((resolve, reject) => {
    const probe = createServer();
    probe.once('error', reject).listen(0, LOOPBACK, () => {
      const { port } = probe.address() as { port: number };
      probe.close(() => resolve(port));
    });
  });
}

/** An eighth of the machine's memory, of which MariaDB only takes what it reads: a page of a million assets is then not read from disk. */
const bufferPoolMegabytes = (bytes: number): number => Math.round(Math.min(4096, Math.max(256, bytes / 8 / 1024 ** 2)));

/** What a program said before it gave up; MariaDB's script says it on either stream. */
const complaintOf = (text: string): string =>
  text
    .split('\n')
    .filter((line) => line.trim())
    .slice(0, 5)
    .join('\n');

const until = async (ms: number, done: () => Promise<boolean> | boolean): Promise<boolean> => {
  for (const end = Date.now() + ms; Date.now() < end; await new Promise((resolve) => setTimeout(resolve, 100)))
    if (await done()) return true;
  return false;
};

/** MariaDB as an ordinary process on loopback, its files in the data folder. Comes up again by itself if it goes down. */
export class Database {
  private child: ChildProcess | null = null;
  private stopping = false;
  /** Only a database that has once been up is started again when it goes down. */
  private wasUp = false;

  private constructor(
    private readonly home: Home,
    readonly options: DatabaseOptions,
  ) {}

  static async start(home: Home): Promise<Database> {
    const database = new Database(home, {
      host: LOOPBACK,
      port: await freePort(),
      user: 'larder',
      password: home.secrets().databasePassword,
      name: 'larder',
    });
    await database.stopLeftOver();
    database.install();
    database.launch();
    await database.ready();
    await database.prepare();
    return database;
  }

  /** The server's process; it is started again by itself if it goes. */
  get pid(): number | undefined {
    return this.child?.pid;
  }

  private get folder(): string {
    return this.home.at('database');
  }

  /** A socket's path is limited to about a hundred characters, which a data folder may exceed. */
  private get socket(): string {
    return `/tmp/larder-${process.pid}-${this.options.port}.sock`;
  }

  /**
   * Temporary tables of its own: a MariaDB that starts takes away all that it finds in the folder for them, those of others too, so
   * that in one for all the set-up of one in twelve failed when two were set up at a time.
   */
  private temporary(): string {
    const folder = this.home.at('database-temporary');
    mkdirSync(folder, { recursive: true });
    return folder;
  }

  private install(): void {
    if (existsSync(`${this.folder}/mysql`)) return;
    mkdirSync(this.folder, { recursive: true });
    const result = spawnSync(
      'mariadb-install-db',
      [
        '--no-defaults',
        `--user=${userInfo().username}`,
        `--datadir=${this.folder}`,
        '--auth-root-authentication-method=normal',
        '--skip-test-db',
      ],
      { encoding: 'utf8', env: { ...process.env, TMPDIR: this.temporary() } },
    );
    if (result.error)
      throw new Plain(
        `MariaDB is not installed (${result.error.message}). Install it with: apt-get install mariadb-server-core mariadb-client-core`,
      );
    if (result.status !== 0) {
      rmSync(this.folder, { recursive: true, force: true });
      throw new Plain(
        `The database could not be set up in ${this.folder}:\n${complaintOf(result.stdout + result.stderr)}`,
      );
    }
  }

  /** A database that outlived its library, after a power cut or a kill, holds the files; it is asked to end first. */
  private async stopLeftOver(): Promise<void> {
    const file = `${this.folder}/larder.pid`;
    const pid = existsSync(file) ? Number(readFileSync(file, 'utf8')) : 0;
    if (!pid || !isAlive(pid) || !readFileSync(`/proc/${pid}/cmdline`, 'utf8').includes(this.folder)) return;
    process.kill(pid, 'SIGTERM');
    if (!(await until(STOP_MS, () => !isAlive(pid))))
      throw new Plain(
        `An earlier database (process ${pid}) still holds ${this.folder} and does not end. Stop it with: kill -9 ${pid}`,
      );
  }

  private launch(): void {
    const log = openSync(this.home.at('database.log'), 'a');
    const { port } = this.options;
    this.child = spawn(
      'mariadbd',
      [
        '--no-defaults',
        `--user=${userInfo().username}`,
        `--datadir=${this.folder}`,
        `--tmpdir=${this.temporary()}`,
        `--bind-address=${LOOPBACK}`,
        `--port=${port}`,
        `--socket=${this.socket}`,
        `--pid-file=${this.folder}/larder.pid`,
        '--character-set-server=utf8mb4',
        '--collation-server=utf8mb4_unicode_ci',
        `--innodb-buffer-pool-size=${bufferPoolMegabytes(totalmem())}M`,
        '--innodb-log-file-size=128M',
        '--max-allowed-packet=64M',
        '--max-connections=200',
        '--skip-name-resolve',
        '--skip-log-bin',
        '--performance-schema=off',
        '--group-concat-max-len=1000000',
      ],
      { stdio: ['ignore', log, log], detached: true },
    );
    this.child.once('exit', () => {
      this.child = null;
      if (this.wasUp && !this.stopping) setTimeout(() => !this.stopping && this.launch(), 500);
    });
  }

  private async ready(): Promise<void> {
    let up = false;
    await until(READY_MS, async () => {
      up = await this.connect().then(
        async (connection) => (await connection.end(), true),
        () => false,
      );
      // One that ended before it was up will not come up.
      return up || this.child === null;
    });
    this.wasUp = up;
    if (up) return;
    await this.stop();
    throw new Plain(`The database did not come up. Its last words are in ${this.home.at('database.log')}.`);
  }

  private connect() {
    // On the first start root has no password yet; afterwards it has ours.
    const attempt = (password: string) => createConnection({ socketPath: this.socket, user: 'root', password });
    return attempt(this.options.password).catch(() => attempt(''));
  }

  private async prepare(): Promise<void> {
    const { name, user, password } = this.options;
    const connection = await this.connect();
    await connection.query(`CREATE DATABASE IF NOT EXISTS \`${name}\` CHARACTER SET utf8mb4`);
    await connection.query(`CREATE USER IF NOT EXISTS ?@'127.0.0.1' IDENTIFIED BY ?`, [user, password]);
    await connection.query(`GRANT ALL ON \`${name}\`.* TO ?@'127.0.0.1'`, [user]);
    await connection.query(`ALTER USER root@localhost IDENTIFIED BY ?`, [password]);
    await connection.end();
  }

  async stop(): Promise<void> {
    this.stopping = true;
    const child = this.child;
    if (!child) return;
    const gone = new Promise((resolve) => child.once('exit', resolve));
    child.kill('SIGTERM');
    const late = setTimeout(() => child.kill('SIGKILL'), STOP_MS);
    await gone;
    clearTimeout(late);
    rmSync(this.socket, { force: true });
  }
}
