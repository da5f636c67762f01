import type { Response } from 'express';
import { Op, type Sequelize } from 'sequelize';
import type { Entity, ServerEvent } from '@larder/contract';
import { jobOf } from '../jobs/queue';
import { feedAfter, headRevision } from '../store/change-feed';
import { JobRow } from '../store/models';

const POLL_MS = 250;
const KEEP_ALIVE_MS = 20_000;
/** What many people write within this time is told together: a look for each edit would cost more than the edits. */
const SOON_MS = 30;
/** While writes go on and on, looks are this far apart. */
const BUSY_MS = 120;
const FEED_BATCH = 2000;
const JOBS_BATCH = 300;

/**
 * Tells every open window what changed. Workers and other servers write to the same database, so the feed and the jobs are
 * looked at there a few times a second instead of being passed around between processes.
 */
export class EventHub {
  private readonly windows = new Set<Response>();
  private revision = 0;
  private jobsSeenMs = Date.now();
  private timer: NodeJS.Timeout | null = null;
  private looking = false;
  private lastSentMs = 0;
  private lookedMs = 0;
  private soon: NodeJS.Timeout | null = null;

  constructor(
    private readonly db: Sequelize,
    private readonly onFeed: (changed: readonly Entity[]) => void,
  ) {}

  async start(): Promise<void> {
    this.revision = await headRevision(this.db);
    this.timer = setInterval(() => void this.look(), POLL_MS);
  }

  stop(): void {
    if (this.timer) clearInterval(this.timer);
    if (this.soon) clearTimeout(this.soon);
    for (const window of this.windows) window.end();
  }

  open(response: Response): void {
    response.writeHead(200, {
      'Content-Type': 'text/event-stream',
      'Cache-Control': 'no-store',
      'X-Accel-Buffering': 'no',
    });
    this.windows.add(response);
    this.send({ type: 'hello', revision: this.revision }, [response]);
    response.on('close', () => this.windows.delete(response));
  }

  /** Answers given a moment ago were older than what has been told: every window asks again. */
  caughtUp(): void {
    this.send({ type: 'hello', revision: this.revision }, this.windows);
  }

  /** Looks at once: called after a write of this process, so that its own windows do not wait. */
  nudge(): void {
    this.soon ??= setTimeout(
      () => {
        this.soon = null;
        void this.look();
      },
      Math.max(SOON_MS, this.lookedMs + BUSY_MS - Date.now()),
    );
  }

  private async look(): Promise<void> {
    if (this.looking) return;
    this.looking = true;
    this.lookedMs = Date.now();
    try {
      await this.lookAtFeed();
      await this.lookAtJobs();
      if (Date.now() - this.lastSentMs > KEEP_ALIVE_MS) this.broadcast(': still here\n\n', this.windows);
    } catch {
      // The database is away; windows keep what they have until it is back.
    } finally {
      this.looking = false;
    }
  }

  private async lookAtFeed(): Promise<void> {
    const rows = await feedAfter(this.db, this.revision, FEED_BATCH);
    const last = rows.at(-1);
    if (!last) return;
    this.revision = last.revision;
    this.onFeed(rows.map(({ entity }) => entity));
    this.send(
      {
        type: 'feed',
        revision: last.revision,
        changed: rows.map((row) => ({ entity: row.entity, id: row.entityId, by: row.personId })),
      },
      this.windows,
    );
  }

  private async lookAtJobs(): Promise<void> {
    const rows = await JobRow.findAll({
      where: { updatedMs: { [Op.gt]: this.jobsSeenMs } },
      order: ['updatedMs'],
      limit: JOBS_BATCH,
    });
    const last = rows.at(-1);
    if (!last) return;
    // Rows of the same millisecond that the limit cut off would be lost, so the last one is looked at again.
    this.jobsSeenMs = rows.length === JOBS_BATCH ? last.updatedMs - 1 : last.updatedMs;
    this.send({ type: 'jobs', jobs: rows.map(jobOf) }, this.windows);
  }

  private send(event: ServerEvent, to: Iterable<Response>): void {
    this.broadcast(`data: ${JSON.stringify(event)}\n\n`, to);
  }

  private broadcast(text: string, to: Iterable<Response>): void {
    this.lastSentMs = Date.now();
    for (const window of to) {
      window.write(text);
      (window as Response & { flush?: () => void }).flush?.();
    }
  }
}
