import { execFileSync } from 'node:child_process';
import { createHash } from 'node:crypto';
import { mkdirSync, mkdtempSync, readdirSync, readFileSync, rmSync, statSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { dirname, join } from 'node:path';
import { Library } from '@larder/command/library';
import { preparedHome } from '@larder/command/prepared';
import {
  ROUTES,
  type AnswerOf,
  type ApiError,
  type BodyOf,
  type Job,
  type Role,
  type Route,
  type RouteName,
} from '@larder/contract';
import { ensurePerson } from '@larder/server';
import { wave } from './wave';

export const PASSWORD = 'a test password';
const PATIENCE_MS = 120_000;

export interface Refusal {
  readonly status: number;
  readonly error: ApiError;
}

/** A person's way to a server: calls by the names of the contract, with a session cookie of its own. */
export class Client {
  cookie = '';
  constructor(readonly base: string) {}

  async raw(method: string, path: string, body?: unknown, headers: Record<string, string> = {}): Promise<Response> {
    const response = await fetch(this.base + path, {
      method,
      headers: {
        ...(body === undefined ? {} : { 'content-type': 'application/json' }),
        cookie: this.cookie,
        ...headers,
      },
      ...(body === undefined ? {} : { body: JSON.stringify(body) }),
    });
    const set = response.headers.get('set-cookie');
    if (set) this.cookie = set.split(';')[0] ?? '';
    return response;
  }

  async call<Name extends RouteName>(name: Name, body: BodyOf<Name>, id?: number): Promise<AnswerOf<Name>> {
    const answer = await this.ask(name, body, id);
    if ('error' in answer) throw new Error(`${name}: ${JSON.stringify(answer.error)}`);
    return answer.value;
  }

  async refused<Name extends RouteName>(name: Name, body: unknown, id?: number): Promise<Refusal> {
    const answer = await this.ask(name, body as BodyOf<Name>, id);
    if (!('error' in answer)) throw new Error(`${name} was not refused`);
    return answer;
  }

  /** Opens a window's event stream; `all` is everything it said up to where `enough` was true. */
  async listen(enough: (text: string) => boolean): Promise<{ readonly all: Promise<string> }> {
    const abort = new AbortController();
    const response = await fetch(`${this.base}/api/events`, { headers: { cookie: this.cookie }, signal: abort.signal });
    const reader = (response.body as ReadableStream<Uint8Array>).getReader();
    const all = (async () => {
      let text = '';
      while (!enough(text)) {
        const { done, value } = await reader.read();
        if (done) throw new Error(`the events ended after: ${text}`);
        text += new TextDecoder().decode(value);
      }
      abort.abort();
      return text;
    })();
    return { all };
  }

  private async ask<Name extends RouteName>(
    name: Name,
    body: BodyOf<Name>,
    id?: number,
  ): Promise<{ value: AnswerOf<Name> } | Refusal> {
    const route: Route = ROUTES[name];
    const response = await this.raw(route.method, route.path.replace(':id', String(id)), body ?? undefined);
    const json: unknown = await response.json();
    return response.ok
      ? { value: json as AnswerOf<Name> }
      : { status: response.status, error: (json as { error: ApiError }).error };
  }
}

/** A library of its own: database, server and workers as in production, in a temporary folder on free ports. */
export class TestLibrary {
  private constructor(
    readonly folder: string,
    readonly library: Library,
  ) {}

  /**
   * @param files what stands in its data folder from the start
   * @param indexWaitMs long enough that what was just written is in every answer, however much else the machine has to do
   */
  static async start(
    workers = 2,
    indexWaitMs = PATIENCE_MS,
    files: Readonly<Record<string, string>> = {},
  ): Promise<TestLibrary> {
    const folder = mkdtempSync(join(tmpdir(), 'larder-test-'));
    const home = await preparedHome(join(folder, 'home'));
    home.prepare();
    for (const [name, text] of Object.entries(files)) writeFileSync(home.at(name), text);
    const library = await Library.open({
      ...{ home, port: 0, demoPassword: null, workers, indexWaitMs },
    });
    await library.withModels(async () => {
      for (const role of ['manager', 'editor', 'viewer'] as const)
        await ensurePerson(role, `The ${role}`, role, PASSWORD);
      await ensurePerson('other', 'The other editor', 'editor', PASSWORD);
    });
    library.startWorkers();
    await library.startServer();
    return new TestLibrary(folder, library);
  }

  get base(): string {
    return `http://127.0.0.1:${this.library.port}`;
  }

  async as(login: Role | 'other'): Promise<Client> {
    const client = new Client(this.base);
    await client.call('signIn', { login, password: PASSWORD });
    return client;
  }

  shelf(name: string): string {
    const path = join(this.folder, 'shelves', name);
    mkdirSync(path, { recursive: true });
    return path;
  }

  /** Stopped and started once more on the same folder, with something done between. */
  async again(meanwhile: () => void | Promise<void> = () => undefined): Promise<TestLibrary> {
    await this.library.stop();
    await meanwhile();
    const library = await Library.open({ ...this.library.options, port: 0 });
    library.startWorkers();
    await library.startServer();
    return new TestLibrary(this.folder, library);
  }

  async stop(): Promise<void> {
    await this.library.stop();
    rmSync(this.folder, { recursive: true, force: true, maxRetries: 5 });
  }
}

const POLL_MS = 100;

/** Waits until something holds; how long that takes decides nothing but when to give up. */
export async function until<T>(what: string, look: () => Promise<T | null | undefined | false>): Promise<T> {
  for (
    const end = Date.now() + PATIENCE_MS;
    Date.now() < end;
    await new Promise((resolve) => setTimeout(resolve, POLL_MS))
  ) {
    const found = await look();
    if (found) return found;
  }
  throw new Error(`never came: ${what}`);
}

export const jobEnded = (client: Client, id: number): Promise<Job> =>
  until(`the end of job ${id}`, async () =>
    (await client.call('jobs', null)).jobs.find((job) => job.id === id && !['queued', 'running'].includes(job.state)),
  );

export const allJobsEnded = (client: Client): Promise<true> =>
  until(
    'the end of all jobs',
    async () =>
      (await client.call('jobs', null)).jobs.every((job) => !['queued', 'running'].includes(job.state)) as true,
  );

/** Adds a storage and scans it to the end. */
export async function scanned(
  client: Client,
  name: string,
  rootPath: string,
): Promise<{ storageId: number; job: Job }> {
  const known = (await client.call('storages', null)).storages.find((storage) => storage.name === name);
  const storage = known ?? (await client.call('newStorage', { name, rootPath }));
  const { job } = await client.call('scan', {}, storage.id);
  return { storageId: storage.id, job: await jobEnded(client, job.id) };
}

type Looked = Pick<BodyOf<'findMissing'>, 'places'> & Partial<BodyOf<'findMissing'>>;

/** Looks for missing originals to the end, or takes the one that is pointed at; gives the plan with all of its items. */
export async function planned(client: Client, asked: Looked | BodyOf<'pointAt'>) {
  const lost = { of: 'everything' as const, id: null, folder: '', assetIds: [] };
  const { job } =
    'places' in asked
      ? await client.call('findMissing', { lost, passOver: [], names: '', acceptsExact: true, away: false, ...asked })
      : await client.call('pointAt', asked);
  const ended = await jobEnded(client, job.id);
  const plan = await client.call('relinkPlan', null, job.id);
  const { items } = await client.call('relinkItems', { state: null, rule: null, offset: 0, limit: 500 }, job.id);
  return { ...plan, id: job.id, job: ended, items };
}

/** Carries a plan out, to the end. */
export async function mended(client: Client, plan: number): Promise<Job> {
  const { job } = await client.call('mend', null, plan);
  return jobEnded(client, job.id);
}

/** Catalogues sounds `T0`, `T1` … that differ in what they hold; gives their ids in that order. */
export async function soundsIn(
  library: TestLibrary,
  manager: Client,
  folder: string,
  count: number,
): Promise<number[]> {
  const shelf = library.shelf(folder);
  for (let n = 0; n < count; n += 1) writeFileSync(join(shelf, `T${n}.wav`), wave(n));
  await scanned(manager, folder, shelf);
  await allJobsEnded(manager);
  return until('the index', () => foundBy(manager, `storage:"${folder}"`, count));
}

/** The ids that a search finds, by the names of the assets; false until there are so many. */
export async function foundBy(client: Client, query: string, count: number): Promise<number[] | false> {
  const { ids } = await client.call('searchIds', { query });
  return ids.length === count && [...ids];
}

export interface MakeClip {
  readonly seconds?: number;
  readonly rate?: string;
  readonly timecode?: string;
  readonly reel?: string;
  readonly size?: string;
  readonly tone?: number;
  /** What is drawn, by the name that ffmpeg has for it. */
  readonly picture?: 'testsrc2' | 'testsrc' | 'smptebars';
  readonly more?: readonly string[];
}

/** A small moving picture with a tone, made by ffmpeg. */
export function makeClip(
  path: string,
  {
    seconds = 1,
    rate = '25',
    timecode,
    reel,
    size = '128x72',
    tone = 440,
    picture = 'testsrc2',
    more = [],
  }: MakeClip = {},
): void {
  mkdirSync(dirname(path), { recursive: true });
  const metadata = [
    ...(timecode ? ['-timecode', timecode] : []),
    ...(reel ? ['-metadata:s:v:0', `reel_name=${reel}`] : []),
  ];
  execFileSync('ffmpeg', [
    ...'-v error -y -f lavfi -i'.split(' '),
    `${picture}=s=${size}:r=${rate}:d=${seconds}`,
    '-f',
    'lavfi',
    '-i',
    `sine=f=${tone}:d=${seconds}`,
    ...'-map 0:v -map 1:a -c:v libx264 -preset ultrafast -pix_fmt yuv420p -c:a aac -shortest'.split(' '),
    ...metadata,
    ...more,
    path,
  ]);
}

/** Path, size, time and content of everything below a folder, for showing that nothing in it was touched. */
export function treeHash(root: string): string {
  const hash = createHash('sha1');
  const look = (path: string): void => {
    const facts = statSync(path);
    hash.update(`${path} ${facts.size} ${facts.mtimeMs} ${facts.mode}\n`);
    if (facts.isDirectory())
      readdirSync(path)
        .sort()
        .forEach((name) => look(join(path, name)));
    else hash.update(readFileSync(path));
  };
  look(root);
  return hash.digest('hex');
}
