import { literal, QueryTypes, type Sequelize, type Transaction } from 'sequelize';
import type { Job, JobKind, JobLimits } from '@larder/contract';
import { retried, select } from '../store/database';
import { JobRow } from '../store/models';
import { IS_UNDERWAY } from './states';

/** A worker that has not been heard of for this long has died; its job goes to another. */
export const LEASE_MS = 10_000;
/** A job whose worker died this often is taken to be the reason. */
const MAX_ATTEMPTS = 3;

export interface NewJob {
  readonly kind: JobKind;
  readonly subject: string;
  readonly payload: Record<string, unknown>;
  readonly unit: string;
  readonly priority?: number;
  readonly personId?: number | null;
  readonly storageId?: number | null;
  readonly assetId?: number | null;
}

export const jobOf = (row: JobRow): Job => ({
  id: row.id,
  kind: row.kind,
  subject: row.subject,
  state: row.state,
  done: row.done,
  total: row.total,
  unit: row.unit,
  speed: row.speed,
  priority: row.priority,
  message: row.message,
  attempts: row.attempts,
  worker: row.worker,
  createdMs: row.createdMs,
  startedMs: row.startedMs,
  endedMs: row.endedMs,
  updatedMs: row.updatedMs,
  storageId: row.storageId,
  assetId: row.assetId,
});

export async function enqueue(jobs: readonly NewJob[], transaction?: Transaction): Promise<void> {
  const now = Date.now();
  await JobRow.bulkCreate(
    jobs.map((job) => ({
      priority: 0,
      personId: null,
      storageId: null,
      assetId: null,
      ...job,
      createdMs: now,
      updatedMs: now,
    })),
    transaction ? { transaction } : {},
  );
}

export async function enqueueOne(job: NewJob): Promise<Job> {
  const now = Date.now();
  return jobOf(
    await JobRow.create({
      priority: 0,
      personId: null,
      storageId: null,
      assetId: null,
      ...job,
      createdMs: now,
      updatedMs: now,
    }),
  );
}

/**
 * Takes the most urgent waiting job of a kind that may have more, or one whose worker is gone. `SKIP LOCKED` lets any number of
 * workers ask at once, and none gets a job that another just took. Null too for one that was given up for good.
 */
export const takeJob = (db: Sequelize, worker: string): Promise<JobRow | null> =>
  retried(() => db.transaction((transaction) => takeWithin(db, worker, transaction)));

async function takeWithin(db: Sequelize, worker: string, transaction: Transaction): Promise<JobRow | null> {
  const now = Date.now();
  const [found] = await select<{ id: number }>(
    db,
    // Two look-ups, each along the index, instead of an OR that would read the whole table.
    `(SELECT id FROM job WHERE state = 'running' AND lease_until_ms < :now ORDER BY priority DESC, id LIMIT 1 FOR UPDATE SKIP LOCKED)`,
    { now },
    transaction,
  ).then(async (expired) =>
    expired.length > 0
      ? expired
      : select<{ id: number }>(
          db,
          `SELECT id FROM job WHERE state = 'queued' AND kind NOT IN (:full) ORDER BY priority DESC, id LIMIT 1 FOR UPDATE SKIP LOCKED`,
          { full: await fullKinds(db, now, transaction) },
          transaction,
        ),
  );
  if (!found) return null;
  const row = (await JobRow.findByPk(found.id, { transaction })) as JobRow;
  if (row.attempts >= MAX_ATTEMPTS) {
    await row.update(
      {
        state: 'failed',
        message: `Its worker ended ${MAX_ATTEMPTS} times while on it.`,
        endedMs: now,
        updatedMs: now,
        worker: null,
      },
      { transaction },
    );
    return null;
  }
  return row.update(
    {
      state: 'running',
      worker,
      leaseUntilMs: now + LEASE_MS,
      attempts: row.attempts + 1,
      startedMs: now,
      endedMs: null,
      updatedMs: now,
      message: null,
      done: 0,
      speed: null,
    },
    { transaction },
  );
}

/**
 * Kinds of which as many run as may. The limits stay locked until the job is taken, or two workers could each take the last one
 * that is allowed; that part of taking a job is a few look-ups along indexes.
 */
async function fullKinds(db: Sequelize, now: number, transaction: Transaction): Promise<string[]> {
  const limits = await select<{ kind: string; most: number }>(
    db,
    'SELECT kind, most FROM job_limit FOR UPDATE',
    {},
    transaction,
  );
  const running = await select<{ kind: string; n: number }>(
    db,
    `SELECT kind, COUNT(*) AS n FROM job WHERE state = 'running' AND lease_until_ms >= :now GROUP BY kind`,
    { now },
    transaction,
  );
  const full = limits.filter(({ kind, most }) => (running.find((each) => each.kind === kind)?.n ?? 0) >= most);
  // A list for NOT IN may not be empty.
  return ['', ...full.map(({ kind }) => kind)];
}

export interface Report {
  readonly done?: number;
  readonly total?: number | null;
  readonly message?: string | null;
  /** Units a second. */
  readonly speed?: number | null;
  /** What is done stays done: workers that died before are not counted against the job any more. */
  readonly attempts?: 1;
}

/** Says that the worker lives and how far it is. Tells whether to go on: not if the job was cancelled, paused or given to another. */
export async function reportJob(
  db: Sequelize,
  id: number,
  worker: string,
  report: Report,
): Promise<'go-on' | 'cancel' | 'pause' | 'lost'> {
  const now = Date.now();
  const [held] = await select<{ cancelAsked: number; pauseAsked: number }>(
    db,
    `SELECT cancel_asked AS cancelAsked, pause_asked AS pauseAsked FROM job WHERE id = :id AND worker = :worker AND state = 'running'`,
    { id, worker },
  );
  if (!held) return 'lost';
  await retried(() =>
    JobRow.update(
      { ...report, leaseUntilMs: now + LEASE_MS, updatedMs: now },
      { where: { id, worker, state: 'running' } },
    ),
  );
  return held.cancelAsked ? 'cancel' : held.pauseAsked ? 'pause' : 'go-on';
}

export type Ending =
  | { readonly state: 'done'; readonly result: Record<string, unknown> | null; readonly remark?: string | null }
  | { readonly state: 'failed' | 'cancelled' | 'paused'; readonly message: string };

/** Ends a job, unless it has been given to another worker meanwhile. */
export async function endJob(id: number, worker: string, ending: Ending): Promise<void> {
  const now = Date.now();
  const values =
    ending.state === 'done'
      ? { result: ending.result, message: ending.remark?.slice(0, 1000) ?? null }
      : { message: ending.message.slice(0, 1000) };
  await retried(() =>
    JobRow.update(
      {
        ...values,
        state: ending.state,
        endedMs: now,
        updatedMs: now,
        leaseUntilMs: null,
        speed: null,
        pauseAsked: false,
        // A pause says nothing against the job.
        ...(ending.state === 'paused' ? { attempts: 0 } : {}),
      },
      { where: { id, worker, state: 'running' } },
    ),
  );
}

/** Gives the jobs of a worker known to be dead back at once, without waiting for their leases. */
export async function releaseWorker(worker: string): Promise<void> {
  await retried(() =>
    JobRow.update(
      { state: 'queued', worker: null, leaseUntilMs: null, updatedMs: Date.now() },
      { where: { worker, state: 'running' } },
    ),
  );
}

/** Gives a job back unfinished because its worker is told to stop, which says nothing against the job. */
export async function giveBackJob(id: number, worker: string): Promise<void> {
  await retried(() =>
    JobRow.update(
      { state: 'queued', worker: null, leaseUntilMs: null, attempts: literal('attempts - 1'), updatedMs: Date.now() },
      { where: { id, worker, state: 'running' } },
    ),
  );
}

/** Asks a running job to stop, or takes a waiting one out of the queue. */
export async function cancelJob(db: Sequelize, id: number): Promise<Job | null> {
  const now = Date.now();
  await retried(() =>
    db.query(
      `UPDATE job SET cancel_asked = state = 'running', ended_ms = IF(state = 'running', ended_ms, :now), message = IF(state = 'running', message, IF(state = 'paused', 'Cancelled while it was paused.', 'Cancelled before it began.')), updated_ms = :now, state = IF(state = 'running', state, 'cancelled')
     WHERE id = :id AND ${IS_UNDERWAY}`,
      { replacements: { id, now }, type: QueryTypes.UPDATE },
    ),
  );
  return jobById(id);
}

/** Asks a running job to stop where it is, or takes a waiting one out of turn, until it is resumed. */
export async function pauseJob(db: Sequelize, id: number): Promise<Job | null> {
  await retried(() =>
    db.query(
      `UPDATE job SET pause_asked = state = 'running', updated_ms = :now, state = IF(state = 'queued', 'paused', state)
     WHERE id = :id AND state IN ('queued', 'running')`,
      { replacements: { id, now: Date.now() }, type: QueryTypes.UPDATE },
    ),
  );
  return jobById(id);
}

/** Puts a paused job back into its turn; takes back a pause that has not come about yet. */
export async function resumeJob(db: Sequelize, id: number): Promise<Job | null> {
  await retried(() =>
    db.query(
      `UPDATE job SET pause_asked = FALSE, updated_ms = :now, ended_ms = IF(state = 'paused', NULL, ended_ms), message = IF(state = 'paused', NULL, message), state = IF(state = 'paused', 'queued', state)
     WHERE id = :id AND state IN ('paused', 'running')`,
      { replacements: { id, now: Date.now() }, type: QueryTypes.UPDATE },
    ),
  );
  return jobById(id);
}

async function jobById(id: number): Promise<Job | null> {
  const row = await JobRow.findByPk(id);
  return row && jobOf(row);
}

/** Above everything that jobs are given by themselves, and below it. */
const FIRST = 100;
const LAST = -100;

/** Puts a job before or behind all others that wait. */
export async function setPriority(id: number, when: string): Promise<Job | null> {
  await retried(() =>
    JobRow.update({ priority: when === 'first' ? FIRST : LAST, updatedMs: Date.now() }, { where: { id } }),
  );
  return jobById(id);
}

/** Somebody looks at an asset: what waits to be made of it goes first. */
export async function putFirst(db: Sequelize, assetId: number): Promise<void> {
  await retried(() =>
    db.query(
      `UPDATE job SET priority = :first, updated_ms = :now WHERE asset_id = :assetId AND state = 'queued' AND priority < :first`,
      { replacements: { assetId, first: FIRST, now: Date.now() }, type: QueryTypes.UPDATE },
    ),
  );
}

export const jobLimits = (db: Sequelize): Promise<JobLimits['limits']> =>
  select(db, 'SELECT kind, most FROM job_limit ORDER BY kind');

/** How many jobs of a kind may run at once, on all machines together. */
export async function setJobLimits(db: Sequelize, limits: JobLimits['limits']): Promise<void> {
  for (const { kind, most } of limits)
    await retried(() =>
      db.query('INSERT INTO job_limit (kind, most) VALUES (:kind, :most) ON DUPLICATE KEY UPDATE most = :most', {
        replacements: { kind, most },
        type: QueryTypes.INSERT,
      }),
    );
}

export async function retryJob(id: number): Promise<Job | null> {
  await retried(() =>
    JobRow.update(
      {
        state: 'queued',
        attempts: 0,
        cancelAsked: false,
        pauseAsked: false,
        message: null,
        done: 0,
        worker: null,
        endedMs: null,
        updatedMs: Date.now(),
      },
      { where: { id, state: ['failed', 'cancelled', 'paused'] } },
    ),
  );
  return jobById(id);
}
