import { hostname } from 'node:os';
import type { Sequelize } from 'sequelize';
import { isDatabaseGone } from '../store/database';
import type { JobRow } from '../store/models';
import { wordJobError, type JobContext } from './context';
import { HANDLERS } from './handlers';
import { endJob, giveBackJob, LEASE_MS, reportJob, takeJob, type Report } from './queue';

const IDLE_MS = 150;
/** The speed that is told is that of the last few seconds. */
const SPEED_WINDOW_MS = 8000;
const REPORT_MS = 400;

type Stores = Pick<JobContext, 'store' | 'uploads' | 'tables' | 'exports' | 'recogniser' | 'archive'>;

export const workerName = (): string => `${hostname()}:${process.pid}`;

/** Takes jobs one after the other until told to stop; the job in hand is then given up and taken up again by another worker. */
export async function work(db: Sequelize, stores: Stores, stop: AbortSignal): Promise<void> {
  const worker = workerName();
  while (!stop.aborted) {
    const job = await takeJob(db, worker);
    if (job) await carryOut(db, stores, job, worker, stop);
    else await new Promise((resolve) => setTimeout(resolve, IDLE_MS));
  }
}

async function carryOut(db: Sequelize, stores: Stores, job: JobRow, worker: string, stop: AbortSignal): Promise<void> {
  const cancel = new AbortController();
  const signal = AbortSignal.any([cancel.signal, stop]);
  let pending: Report = {};
  let [lost, paused] = [false, false];
  const speed = new Speedometer();
  const beat = async () => {
    const report = pending;
    pending = {};
    const told = report.done === undefined ? report : { ...report, speed: speed.at(Date.now(), report.done) };
    const verdict = await reportJob(db, job.id, worker, told);
    lost ||= verdict === 'lost';
    paused ||= verdict === 'pause';
    if (verdict !== 'go-on') cancel.abort();
  };
  let beating = false;
  let sent = 0;
  const timer = setInterval(() => {
    const due = Date.now() - sent > (Object.keys(pending).length > 0 ? REPORT_MS : LEASE_MS / 4);
    if (!due || beating) return;
    [beating, sent] = [true, Date.now()];
    // A database that is away for a moment must not end the job; the lease decides.
    void beat()
      .catch(() => undefined)
      .finally(() => (beating = false));
  }, REPORT_MS / 2);
  try {
    const result = await HANDLERS[job.kind]({
      db,
      job,
      signal,
      ...stores,
      report: (report) => void (pending = { ...pending, ...report }),
    });
    await reportJob(db, job.id, worker, pending);
    const remark = result?.['remark'];
    await endJob(job.id, worker, { state: 'done', result, remark: typeof remark === 'string' ? remark : null });
  } catch (error) {
    if (lost) return;
    if (stop.aborted) return giveBackJob(job.id, worker);
    if (isDatabaseGone(error)) return giveBackWhenThere(job.id, worker, stop);
    if (paused) return endJob(job.id, worker, { state: 'paused', message: 'Paused.' });
    const cancelled = cancel.signal.aborted;
    await endJob(job.id, worker, {
      state: cancelled ? 'cancelled' : 'failed',
      message: cancelled ? 'Cancelled.' : wordJobError(error),
    });
  } finally {
    clearInterval(timer);
  }
}

/** Gives a job back once the database answers again; if it takes longer than the lease, another worker has it by then. */
async function giveBackWhenThere(id: number, worker: string, stop: AbortSignal): Promise<void> {
  while (!stop.aborted) {
    try {
      return await giveBackJob(id, worker);
    } catch (error) {
      if (!isDatabaseGone(error)) throw error;
      await new Promise((resolve) => setTimeout(resolve, IDLE_MS));
    }
  }
}

/** Units a second over the last few seconds. */
export class Speedometer {
  private readonly marks: { readonly ms: number; readonly done: number }[] = [];

  /** Null until two reports lie far enough apart, and after work was begun anew. */
  at(ms: number, done: number): number | null {
    if ((this.marks.at(-1)?.done ?? 0) > done) this.marks.length = 0;
    this.marks.push({ ms, done });
    while (this.marks.length > 2 && ms - (this.marks[0]?.ms ?? ms) > SPEED_WINDOW_MS) this.marks.shift();
    const [first] = this.marks;
    return first && ms - first.ms >= REPORT_MS ? ((done - first.done) * 1000) / (ms - first.ms) : null;
  }
}
