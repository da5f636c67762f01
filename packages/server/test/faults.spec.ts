import { execFileSync } from 'node:child_process';
import { mkdirSync, readdirSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { plainSettings } from '@larder/core/ingest';
import { feedAfter } from '../src/store/change-feed';
import { type Client, TestLibrary, treeHash, until } from './kit';
import { wave } from './wave';

const FILES = 200;
const KILLS = 9;
/** Longer than a lease, a restart of the database and a lock wait together. */
const STANDSTILL_MS = 75_000;
/** Told on failure, so that the same order of kills can be tried again. */
const SEED = Number(process.env['LARDER_SEED'] ?? Date.now() % 100_000);

/** A small generator of numbers, the same for the same seed (Mulberry32). */
function random(seed: number): () => number {
  let state = seed;
  return () => {
    state = (state + 0x6d2b79f5) | 0;
    let mixed = Math.imul(state ^ (state >>> 15), 1 | state);
    mixed = (mixed + Math.imul(mixed ^ (mixed >>> 7), 61 | mixed)) ^ mixed;
    return ((mixed ^ (mixed >>> 14)) >>> 0) / 2 ** 32;
  };
}

let library: TestLibrary;
let manager: Client;
beforeAll(async () => {
  library = await TestLibrary.start();
  manager = await library.as('manager');
}, 120_000);
afterAll(() => library.stop(), 60_000);

/** The server may be just coming back. */
const steady = <T>(what: string, ask: () => Promise<T>): Promise<T> =>
  until(what, () =>
    ask()
      .then((value) => [value] as const)
      .catch(() => null),
  ).then(([value]) => value);

describe(`worker, server and database killed at random (seed ${SEED})`, () => {
  it('an ingest of a few hundred files loses nothing and doubles nothing', async () => {
    const next = random(SEED);
    const [card, store] = [library.shelf('card'), library.shelf('store')];
    for (let n = 0; n < FILES; n += 1) {
      const folder = join(card, `roll ${n % 4}`);
      mkdirSync(folder, { recursive: true });
      writeFileSync(join(folder, `T${String(n).padStart(3, '0')}.wav`), wave(n, 4000));
    }
    const before = treeHash(card);
    const { id: cardId } = await manager.call('newStorage', { name: 'Card', rootPath: card });
    const { id: storeId } = await manager.call('newStorage', { name: 'Store', rootPath: store, managed: true });
    const { job } = await manager.call(
      'ingest',
      {
        paths: [],
        folders: [{ path: '', deep: true }],
        twins: [],
        settings: {
          ...plainSettings(),
          way: 'copy',
          destination: { storageId: storeId, folder: 'in' },
          bin: { id: null, name: 'All', mirror: true },
          tags: ['fault'],
        },
      },
      cardId,
    );
    const now = () =>
      steady('the job', async () => (await manager.call('jobs', null)).jobs.find(({ id }) => id === job.id));
    const kill = (pid: number | undefined) => {
      try {
        if (pid) process.kill(pid, 'SIGKILL');
      } catch {
        // It went by itself a moment ago.
      }
    };
    const victims = {
      worker: async () => kill(Number((await now())?.worker?.split(':').at(-1) ?? 0) || undefined),
      server: () => Promise.resolve(kill(library.library.serverPid)),
      database: () => Promise.resolve(kill(library.library.database.pid)),
    };
    const names = Object.keys(victims) as (keyof typeof victims)[];
    for (let n = 0; n < KILLS; n += 1) {
      await new Promise((resolve) => setTimeout(resolve, 400 + next() * 1600));
      // Each of the three in turn, so that none is spared by chance; when is chance.
      await victims[names[n % names.length] ?? 'worker']();
      if ((await now())?.state === 'done') break;
    }
    /** However long it takes: only one that stands still is given up. */
    const ended = async () => {
      let [before, moved] = [-1, Date.now()];
      for (;;) {
        const found = await now();
        if (found && !['queued', 'running'].includes(found.state)) return found;
        const { counts } = await steady('the report', () => manager.call('ingestReport', null, job.id));
        if (counts.done !== before) [before, moved] = [counts.done, Date.now()];
        if (Date.now() - moved > STANDSTILL_MS)
          throw new Error(`it stands still at ${before}: ${JSON.stringify(found)}`);
        await new Promise((resolve) => setTimeout(resolve, 500));
      }
    };
    const first = await ended();
    // Workers that died are counted against a job, in case it is the reason; here it is resumed as a person would.
    if (first.state === 'failed') {
      expect(first.message).toBe('Its worker ended 3 times while on it.');
      await manager.call('retryJob', null, job.id);
      const resumed = await ended();
      expect(resumed).toMatchObject({ state: 'done' });
    } else expect(first.state).toBe('done');

    const report = await steady('the report', () => manager.call('ingestReport', null, job.id));
    expect(report.counts).toEqual({ done: FILES, waiting: 0, working: 0, skipped: 0, failed: 0 });
    expect(treeHash(card)).toBe(before);
    const copies = readdirSync(store, { recursive: true }).map(String).sort();
    expect(copies.filter((path) => path.endsWith('.wav'))).toHaveLength(FILES);
    expect(copies.filter((path) => path.includes('.larder'))).toEqual([]);
    expect(copies.filter((path) => path.endsWith('.mhl'))).toHaveLength(1);
    const sums = (root: string) =>
      execFileSync('sh', ['-c', `cd '${root}' && find . -name '*.wav' | sort | xargs -d '\\n' xxhsum -H64`], {
        encoding: 'utf8',
      });
    expect(sums(join(store, 'in'))).toBe(sums(card));

    await library.library.withModels(async (db) => {
      const count = async (sql: string) => Number((((await db.query(sql))[0] as { n: number }[])[0] ?? { n: -1 }).n);
      expect(await count('SELECT COUNT(*) AS n FROM asset')).toBe(FILES);
      expect(await count('SELECT COUNT(DISTINCT path_hash) AS n FROM asset')).toBe(FILES);
      expect(await count('SELECT COUNT(*) AS n FROM asset_location')).toBe(FILES);
      expect(await count('SELECT COUNT(*) AS n FROM bin_asset')).toBe(FILES);
      expect(await count('SELECT COUNT(*) AS n FROM asset_tag')).toBe(FILES);
      expect(await count(`SELECT COUNT(*) AS n FROM fixity WHERE outcome = 'first'`)).toBe(FILES);
      expect(await count(`SELECT COUNT(*) AS n FROM job WHERE kind = 'renditions'`)).toBe(FILES);
      // The change feed has no gap either.
      const revisions: number[] = [];
      for (let last = 0; ; last = revisions.at(-1) ?? last) {
        const rows = await feedAfter(db, last, 1000);
        revisions.push(...rows.map(({ revision }) => revision));
        if (rows.length === 0) break;
      }
      expect(revisions).toEqual(revisions.map((_revision, index) => index + 1));
    });
    // And what the index says is what the database has.
    const { revision } = await steady('the status', () => manager.call('status', null));
    await until('the index', async () => {
      const answer = await manager
        .call('search', { query: 'tag:fault', limit: 0, atLeast: revision })
        .catch(() => null);
      return answer?.total === FILES;
    });
  }, 900_000);
});
