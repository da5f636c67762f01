import { fork, type ChildProcess } from 'node:child_process';
import { appendFileSync, existsSync, mkdirSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { availableParallelism, hostname } from 'node:os';
import {
  bindModels,
  INDEX_WAIT_MS,
  migrate,
  openDatabase,
  readArchiveChoice,
  readRecogniserChoice,
  releaseWorker,
  type ArchiveChoice,
  type RecogniserChoice,
  type ServeOptions,
  type SimulatedPlaces,
} from '@larder/server';
import { Database } from './database';
import { dist, Plain, runningOn, type Home } from './home';

export const HOST = '127.0.0.1';
export const DEFAULT_PORT = 4310;
const RESTART_MS = 500;
/** In the data folder. */
export const RECOGNISER_FILE = 'recogniser.json';
export const ARCHIVE_FILE = 'archive.json';

export interface LibraryOptions {
  readonly home: Home;
  /** 0 for any free port. */
  readonly port: number;
  readonly demoPassword: string | null;
  readonly workers?: number;
  readonly indexWaitMs?: number;
  /** Volumes that can be plugged in and pulled from the settings; none but in the demo. */
  readonly volumes?: SimulatedPlaces;
}

/** A whole library: database, server and workers as processes of their own, looked after until it is stopped. */
export class Library {
  private readonly workers = new Set<ChildProcess>();
  private server: ChildProcess | null = null;
  private stopping = false;
  port = 0;

  private constructor(
    readonly options: LibraryOptions,
    readonly database: Database,
    /** What writes down what is said; null for what ships. */
    private readonly recogniser: RecogniserChoice | null,
    /** What lost originals can be fetched from; null for none. */
    private readonly archive: ArchiveChoice | null,
  ) {}

  /** Database and tables only, so that a library can be set up before anybody sees it. */
  static async open(options: LibraryOptions): Promise<Library> {
    const running = runningOn(options.home);
    if (running)
      throw new Plain(
        `A library already runs on ${options.home.path} (process ${running.pid}, http://${HOST}:${running.port}). Stop it with: ./larder stop`,
      );
    options.home.prepare();
    const recogniser = chosen(options.home, RECOGNISER_FILE, readRecogniserChoice, {
      ...{ nothing: 'chooses no recogniser', manual: 'docs/formats/recognisers.md' },
      without: 'the one that ships is used',
    });
    const archive = chosen(options.home, ARCHIVE_FILE, readArchiveChoice, {
      ...{ nothing: 'sets up no archive', manual: 'docs/formats/archive.md' },
      without: 'there is none',
    });
    writeFileSync(options.home.at('run.json'), JSON.stringify({ pid: process.pid, port: options.port }));
    for (const folder of ['renditions', 'uploads']) mkdirSync(options.home.at(folder), { recursive: true });
    const library = new Library(options, await Database.start(options.home), recogniser, archive);
    const db = openDatabase(library.database.options);
    try {
      await migrate(db);
    } finally {
      await db.close();
    }
    return library;
  }

  /** The server's process; it is started again by itself if it goes. */
  get serverPid(): number | undefined {
    return this.server?.pid;
  }

  /** Runs something against the library's database from this process. */
  async withModels<T>(work: (db: ReturnType<typeof openDatabase>) => Promise<T>): Promise<T> {
    const db = openDatabase(this.database.options);
    bindModels(db);
    try {
      return await work(db);
    } finally {
      await db.close();
    }
  }

  startWorkers(): void {
    for (let n = 0; n < (this.options.workers ?? Math.max(2, availableParallelism())); n += 1) this.startWorker();
  }

  private startWorker(): void {
    const payload = JSON.stringify({
      database: this.database.options,
      renditionRoot: this.options.home.at('renditions'),
      uploadRoot: this.options.home.at('uploads'),
      exportRoot: this.options.home.at('exports'),
      recogniser: this.recogniser,
      archive: this.archive,
    });
    const worker = fork(dist('worker.mjs'), {
      env: { ...process.env, LARDER_WORKER: payload },
      execArgv: ['--enable-source-maps'],
      stdio: ['ignore', 'ignore', 'pipe', 'ipc'],
      detached: true,
    });
    this.keepLog(worker, 'worker');
    this.workers.add(worker);
    worker.once('exit', () => {
      this.workers.delete(worker);
      if (this.stopping) return;
      // Its job goes back to the queue at once instead of when its lease runs out.
      void this.withModels(() => releaseWorker(`${hostname()}:${worker.pid}`)).catch(() => undefined);
      setTimeout(() => !this.stopping && this.startWorker(), RESTART_MS);
    });
  }

  async startServer(): Promise<void> {
    const { home, demoPassword } = this.options;
    // Started again after it went, it is where the open windows look for it.
    const port = this.port || this.options.port;
    const options: Omit<ServeOptions, 'log'> = {
      database: this.database.options,
      host: HOST,
      port,
      renditionRoot: home.at('renditions'),
      uploadRoot: home.at('uploads'),
      exportRoot: home.at('exports'),
      volumes: this.options.volumes ?? null,
      archive: this.archive,
      webRoot: dist('web', 'browser'),
      searchScript: dist('search-thread.mjs'),
      mergeScript: dist('merge-thread.mjs'),
      indexRoot: home.at('index'),
      indexWaitMs: this.options.indexWaitMs ?? INDEX_WAIT_MS,
      demoPassword,
    };
    const server = fork(dist('server.mjs'), {
      env: { ...process.env, LARDER_SERVER: JSON.stringify(options) },
      execArgv: ['--enable-source-maps'],
      stdio: ['ignore', 'ignore', 'pipe', 'ipc'],
      detached: true,
    });
    this.keepLog(server, 'server');
    const said = await new Promise<{ ready: boolean; port?: number; code?: string | null; message?: string }>(
      (resolve) => {
        server.once('message', (message) => resolve(message as { ready: boolean }));
        server.once('exit', () => resolve({ ready: false, message: 'it ended without a word' }));
      },
    );
    // A start that failed leaves nothing running behind it.
    if (!said.ready) await this.stop();
    if (!said.ready && said.code === 'EADDRINUSE')
      throw new Plain(
        `Port ${port} is taken by another program. Free it, or choose another: LARDER_PORT=${port + 1} ./larder …`,
      );
    if (!said.ready)
      throw new Plain(`The server could not start: ${said.message ?? ''}. See ${home.at('server.log')}.`);
    this.server = server;
    this.port = said.port ?? port;
    writeFileSync(home.at('run.json'), JSON.stringify({ pid: process.pid, port: this.port }));
    server.once('exit', () => {
      if (!this.stopping)
        setTimeout(() => !this.stopping && void this.startServer().catch(() => undefined), RESTART_MS);
    });
  }

  private keepLog(child: ChildProcess, name: string): void {
    child.stderr?.on('data', (text: Buffer) => appendFileSync(this.options.home.at(`${name}.log`), text));
  }

  /** Ends server, workers and database, in that order, and waits for each. */
  async stop(): Promise<void> {
    this.stopping = true;
    const end = async (child: ChildProcess) => {
      if (child.exitCode !== null || child.signalCode !== null) return;
      const gone = new Promise((resolve) => child.once('exit', resolve));
      child.kill('SIGTERM');
      const late = setTimeout(() => child.kill('SIGKILL'), 8000);
      await gone;
      clearTimeout(late);
    };
    await Promise.all([...this.workers, ...(this.server ? [this.server] : [])].map(end));
    await this.database.stop();
    rmSync(this.options.home.at('run.json'), { force: true });
  }
}

interface ChoiceWords {
  /** What the file does if it cannot be read. */
  readonly nothing: string;
  readonly manual: string;
  /** What holds without the file. */
  readonly without: string;
}

/** What somebody set up in a file of the data folder, if they did. */
function chosen<T>(home: Home, name: string, read: (text: string) => T, words: ChoiceWords): T | null {
  const file = home.at(name);
  if (!existsSync(file)) return null;
  try {
    return read(readFileSync(file, 'utf8'));
  } catch (error) {
    throw new Plain(
      `${file} ${words.nothing}: ${(error as Error).message} ${words.manual} tells what may stand in it; without the file ${words.without}.`,
    );
  }
}
