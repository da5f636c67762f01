import { randomUUID } from 'node:crypto';
import type { Job, ReadTable, TableAnswer, TableReport } from '@larder/contract';
import { enqueueOne, jobOf } from '../jobs/queue';
import { notFound } from './errors';
import { JobRow } from './models';

/** Somebody waits for it. */
const URGENT = 70;

/** Has a table read by a worker. Its group is chosen now, so that one taken up again after an interruption is still undone as one. */
export const queueTable = (personId: number, asked: ReadTable): Promise<Job> =>
  enqueueOne({
    kind: 'table',
    subject: asked.keep ? asked.fileName : `${asked.fileName}, only tried`,
    payload: { ...asked, group: randomUUID() },
    unit: 'rows',
    priority: URGENT,
    personId,
  });

/** What became of a table; null while it is being read, or if that failed. */
export async function tableReport(id: number): Promise<TableAnswer> {
  const row = await JobRow.findByPk(id);
  if (!row || row.kind !== 'table') throw notFound('table');
  const report = row.state === 'done' ? (row.result as unknown as TableReport) : null;
  const { group: _group, ...asked } = row.payload as unknown as ReadTable & { group: string };
  return { job: jobOf(row), asked, report };
}
