import { mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import type { Sequelize } from 'sequelize';
import { Library } from '@larder/command/library';
import { preparedHome } from '@larder/command/prepared';
import { bindModels, ensurePerson, openDatabase } from '@larder/server';
import {
  cancelJob,
  endJob,
  enqueue,
  enqueueOne,
  giveBackJob,
  jobLimits,
  LEASE_MS,
  pauseJob,
  putFirst,
  releaseWorker,
  reportJob,
  resumeJob,
  retryJob,
  setJobLimits,
  setPriority,
  takeJob,
  type NewJob,
} from '../src/jobs/queue';
import { Speedometer } from '../src/jobs/worker';
import { feedAfter, headRevision, write } from '../src/store/change-feed';
import { isDatabaseGone, retried } from '../src/store/database';
import { JobRow, PersonRow } from '../src/store/models';

/** A database without server or workers, so that nothing takes a job but the tests. */
let folder: string;
let library: Library;
let db: Sequelize;
beforeAll(async () => {
  folder = mkdtempSync(join(tmpdir(), 'larder-test-'));
  library = await Library.open({ home: await preparedHome(join(folder, 'home')), port: 0, demoPassword: null });
  db = openDatabase(library.database.options);
  bindModels(db);
}, 120_000);
afterAll(async () => {
  await db.close();
  await library.stop();
  rmSync(folder, { recursive: true, force: true, maxRetries: 5 });
}, 60_000);
beforeEach(() => JobRow.destroy({ where: {} }));

const job = (subject: string, more: Partial<NewJob> = {}): NewJob => ({
  kind: 'scan',
  subject,
  payload: {},
  unit: 'files',
  ...more,
});
const take = async (worker = 'one') => (await takeJob(db, worker))?.subject ?? null;
const stateOf = async (id: number) => (await JobRow.findByPk(id))?.state;

describe('taking jobs', () => {
  it('the most urgent first, then the one that waits longest, and none when none waits', async () => {
    await enqueue([job('early'), job('late'), job('urgent', { priority: 5 })]);
    expect([await take(), await take(), await take(), await take()]).toEqual(['urgent', 'early', 'late', null]);
  });

  it('any number of workers at once never get the same one, and leave none behind', async () => {
    const subjects = Array.from({ length: 60 }, (_unused, index) => `job ${index}`);
    await enqueue(subjects.map((subject) => job(subject)));
    const taken: string[] = [];
    const worker = async (name: string) => {
      for (let empty = 0; empty < 3;) {
        const got = await takeJob(db, name);
        if (!got) empty += 1;
        else {
          taken.push(got.subject);
          await endJob(got.id, name, { state: 'done', result: null });
        }
      }
    };
    await Promise.all(Array.from({ length: 8 }, (_unused, index) => worker(`worker ${index}`)));
    expect(taken.toSorted()).toEqual(subjects.toSorted());
    expect(await JobRow.count({ where: { state: 'done' } })).toBe(subjects.length);
  });

  it('jobs of a write that came to nothing never were', async () => {
    const failing = write(db, null, async ({ transaction }) => {
      await enqueue([job('ghost')], transaction);
      throw new Error('thought better of it');
    });
    await expect(failing).rejects.toThrow('thought better of it');
    expect(await take()).toBeNull();
  });
});

describe('a worker that is not heard of', () => {
  const expire = (id: number) => JobRow.update({ leaseUntilMs: Date.now() - 1 }, { where: { id } });

  it('loses its job to another, and what it says afterwards changes nothing', async () => {
    const { id } = await enqueueOne(job('long'));
    await take('one');
    expect(await take('two')).toBeNull();
    await expire(id);
    expect(await take('two')).toBe('long');
    expect(await reportJob(db, id, 'one', { done: 7 })).toBe('lost');
    await endJob(id, 'one', { state: 'failed', message: 'too late' });
    expect(await JobRow.findByPk(id)).toMatchObject({ state: 'running', worker: 'two', attempts: 2, done: 0 });
  });

  it('keeps it as long as it reports', async () => {
    const { id } = await enqueueOne(job('long'));
    await take('one');
    await JobRow.update({ leaseUntilMs: Date.now() + 5 }, { where: { id } });
    expect(await reportJob(db, id, 'one', { done: 3, total: 9 })).toBe('go-on');
    const row = await JobRow.findByPk(id);
    expect(row).toMatchObject({ done: 3, total: 9 });
    expect(row?.leaseUntilMs).toBeGreaterThan(Date.now() + LEASE_MS / 2);
  });

  it('three times over is taken to be the job’s fault', async () => {
    const { id } = await enqueueOne(job('deadly'));
    for (const worker of ['one', 'two', 'three']) {
      expect(await take(worker)).toBe('deadly');
      await expire(id);
    }
    expect(await take('four')).toBeNull();
    expect(await JobRow.findByPk(id)).toMatchObject({
      state: 'failed',
      message: 'Its worker ended 3 times while on it.',
    });
  });

  it('known to be dead gives its jobs back at once', async () => {
    await enqueueOne(job('orphan'));
    await take('one');
    await releaseWorker('one');
    expect(await take('two')).toBe('orphan');
  });

  it('is not counted with earlier ones once something of the job is done for good', async () => {
    const { id } = await enqueueOne(job('long'));
    for (let death = 0; death < 6; death += 1) {
      expect(await take(`w${death}`)).toBe('long');
      await reportJob(db, id, `w${death}`, { done: death, attempts: 1 });
      await releaseWorker(`w${death}`);
    }
    expect(await JobRow.findByPk(id)).toMatchObject({ state: 'queued', attempts: 1 });
  });

  it('told to stop gives its job back, and that is not counted against the job', async () => {
    const { id } = await enqueueOne(job('interrupted'));
    for (let restart = 0; restart < 5; restart += 1) {
      expect(await take('one')).toBe('interrupted');
      await giveBackJob(id, 'one');
    }
    expect(await JobRow.findByPk(id)).toMatchObject({ state: 'queued', attempts: 0, worker: null });
  });
});

describe('cancelling and trying again', () => {
  it('a waiting one is out at once, with the reason', async () => {
    const { id } = await enqueueOne(job('waiting'));
    expect(await cancelJob(db, id)).toMatchObject({ state: 'cancelled', message: 'Cancelled before it began.' });
    expect(await take()).toBeNull();
  });

  it('a running one is told with its next report', async () => {
    const { id } = await enqueueOne(job('running'));
    await take('one');
    expect(await cancelJob(db, id)).toMatchObject({ state: 'running' });
    expect(await reportJob(db, id, 'one', {})).toBe('cancel');
    await endJob(id, 'one', { state: 'cancelled', message: 'Cancelled.' });
    expect(await stateOf(id)).toBe('cancelled');
  });

  it('tried again it begins anew, and one that is done does not', async () => {
    const { id } = await enqueueOne(job('again'));
    await take('one');
    await cancelJob(db, id);
    await endJob(id, 'one', { state: 'failed', message: 'x'.repeat(5000) });
    expect((await JobRow.findByPk(id))?.message).toHaveLength(1000);
    expect(await retryJob(id)).toMatchObject({ state: 'queued', attempts: 0, message: null });
    await take('one');
    expect(await reportJob(db, id, 'one', {})).toBe('go-on');
    await endJob(id, 'one', { state: 'done', result: { seen: 1 } });
    expect(await retryJob(id)).toMatchObject({ state: 'done' });
    expect(await retryJob(999_999)).toBeNull();
    expect(await cancelJob(db, 999_999)).toBeNull();
  });
});

describe('pausing, turns and limits', () => {
  it('a waiting one is passed over until it is resumed', async () => {
    const { id } = await enqueueOne(job('paused'));
    expect(await pauseJob(db, id)).toMatchObject({ state: 'paused' });
    expect(await take()).toBeNull();
    expect(await resumeJob(db, id)).toMatchObject({ state: 'queued', message: null });
    expect(await take()).toBe('paused');
  });

  it('a running one is told with its next report, ends as paused, and goes on as if it had not been tried', async () => {
    const { id } = await enqueueOne(job('running'));
    await take('one');
    expect(await pauseJob(db, id)).toMatchObject({ state: 'running' });
    expect(await reportJob(db, id, 'one', { done: 7 })).toBe('pause');
    await endJob(id, 'one', { state: 'paused', message: 'Paused.' });
    expect(await JobRow.findByPk(id)).toMatchObject({ state: 'paused', attempts: 0, pauseAsked: false });
    await resumeJob(db, id);
    await take('two');
    expect(await reportJob(db, id, 'two', {})).toBe('go-on');
  });

  it('a pause that is taken back in time does not come about', async () => {
    const { id } = await enqueueOne(job('running'));
    await take('one');
    await pauseJob(db, id);
    await resumeJob(db, id);
    expect(await reportJob(db, id, 'one', {})).toBe('go-on');
  });

  it('a paused one can be cancelled', async () => {
    const { id } = await enqueueOne(job('paused'));
    await pauseJob(db, id);
    expect(await cancelJob(db, id)).toMatchObject({ state: 'cancelled', message: 'Cancelled while it was paused.' });
    expect(await resumeJob(db, id)).toMatchObject({ state: 'cancelled' });
  });

  it('what somebody puts first goes first, what is put last goes last, what is looked at before the rest', async () => {
    const [late, first, seen] = [
      await enqueueOne(job('late')),
      await enqueueOne(job('first')),
      await enqueueOne({ ...job('seen'), assetId: 77 }),
    ];
    await enqueueOne(job('ordinary'));
    await setPriority(late.id, 'last');
    await putFirst(db, 77);
    expect([await take(), await take(), await take(), await take()]).toEqual(['seen', 'first', 'ordinary', 'late']);
    expect(first.priority).toBe(0);
    expect((await JobRow.findByPk(seen.id))?.priority).toBeGreaterThan(0);
  });

  it('of a kind never more run than may, however many workers ask at once', async () => {
    await setJobLimits(db, [{ kind: 'verify', most: 3 }]);
    expect(await jobLimits(db)).toContainEqual({ kind: 'verify', most: 3 });
    for (let n = 0; n < 10; n += 1) await enqueueOne({ ...job(`v${n}`), kind: 'verify' });
    await enqueueOne({ ...job('other'), kind: 'find-missing', priority: -5 });
    const taken = (await Promise.all(Array.from({ length: 10 }, (_unused, n) => take(`w${n}`)))).filter(Boolean);
    expect(taken).toHaveLength(4);
    expect(taken).toContain('other');
    await setJobLimits(db, [{ kind: 'verify', most: 5 }]);
    expect([await take('x'), await take('y'), await take('z')].filter(Boolean)).toHaveLength(2);
  });

  it('speed is that of the last seconds, and unknown at first and after a new beginning', () => {
    const speed = new Speedometer();
    expect(speed.at(0, 0)).toBeNull();
    expect(speed.at(1000, 50)).toBe(50);
    expect(speed.at(2000, 150)).toBe(75);
    for (let second = 3; second <= 20; second += 1) speed.at(second * 1000, 150 + (second - 2) * 10);
    expect(speed.at(21_000, 340)).toBeCloseTo(10, 0);
    expect(speed.at(22_000, 5)).toBeNull();
  });
});

describe('a database that goes away', () => {
  const thrownBy = (work: Promise<unknown>): Promise<unknown> =>
    work.then(
      () => null,
      (thrown: unknown) => thrown,
    );
  it('is told from a mistake: a lost connection, the next words on it, and nobody at the port', async () => {
    const { port } = library.database.options;
    const lost = await thrownBy(
      db.transaction(async (transaction) => {
        const [[{ id } = { id: 0 }]] = (await db.query('SELECT CONNECTION_ID() AS id', { transaction })) as [
          { id: number }[],
          unknown,
        ];
        await db.query(`KILL ${id}`);
        await thrownBy(db.query('SELECT 1', { transaction }));
        await db.query('SELECT 2', { transaction });
      }),
    );
    expect(isDatabaseGone(lost)).toBe(true);
    const nobody = openDatabase({ ...library.database.options, port: port === 1 ? 2 : 1 });
    expect(isDatabaseGone(await thrownBy(nobody.query('SELECT 1')))).toBe(true);
    await nobody.close();
    expect(isDatabaseGone(await thrownBy(db.query('SELECT nothing FROM nowhere')))).toBe(false);
    expect(isDatabaseGone(new Error('something else'))).toBe(false);
    // And the pool has another connection.
    expect(await headRevision(db)).toBeGreaterThanOrEqual(0);
  });
});

describe('writing', () => {
  const log = (entityId: number) => ({ action: 'test', entity: 'asset' as const, entityId });

  it('revisions of many writers at once rise without a gap, and each reader sees them in order', async () => {
    const before = await headRevision(db);
    let reading = true;
    const seen: number[] = [];
    const reader = (async () => {
      for (let last = before; reading || (await headRevision(db)) > last;) {
        const rows = await feedAfter(db, last, 1000);
        seen.push(...rows.map((row) => row.revision));
        last = rows.at(-1)?.revision ?? last;
      }
    })();
    const outcomes = await Promise.all(
      Array.from({ length: 25 }, (_unused, writer) =>
        write(db, null, async ({ log: say }) => {
          for (let entry = 0; entry <= writer % 3; entry += 1) say(log(writer * 10 + entry));
          await Promise.resolve();
        }),
      ),
    );
    reading = false;
    await reader;
    const total = outcomes.reduce((sum, { changed }) => sum + changed, 0);
    expect(seen).toEqual(Array.from({ length: total }, (_unused, index) => before + index + 1));
    expect(new Set(outcomes.map(({ group }) => group)).size).toBe(25);
  });

  it('one that fails leaves nothing in the feed', async () => {
    const before = await headRevision(db);
    await expect(
      write(db, null, ({ log: say }) => {
        say(log(1));
        return Promise.reject(new Error('no'));
      }),
    ).rejects.toThrow('no');
    expect([await headRevision(db), (await feedAfter(db, before, 10)).length]).toEqual([before, 0]);
  });

  it('two that lock each other out are both carried out in the end', async () => {
    await ensurePerson('first', 'First', 'viewer', 'a password');
    await ensurePerson('second', 'Second', 'viewer', 'a password');
    let tries = 0;
    const rename = (logins: readonly string[], name: string) =>
      write(db, null, async ({ transaction }) => {
        tries += 1;
        for (const login of logins) {
          await PersonRow.update({ name }, { where: { login }, transaction });
          // Long enough for the other one to hold what this one wants next.
          await new Promise((resolve) => setTimeout(resolve, 60));
        }
      });
    await Promise.all([rename(['first', 'second'], 'A'), rename(['second', 'first'], 'B')]);
    const names = (await PersonRow.findAll({ where: { login: ['first', 'second'] } })).map((row) => row.name);
    expect(new Set(names).size).toBe(1);
    expect(tries).toBeGreaterThan(2);
  });

  it('any other error is not tried again', async () => {
    let tries = 0;
    const work = () => {
      tries += 1;
      return db.query('SELECT nothing FROM nowhere');
    };
    await expect(retried(work)).rejects.toThrow("doesn't exist");
    expect(tries).toBe(1);
  });
});
