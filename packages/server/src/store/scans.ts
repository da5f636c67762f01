import type { Sequelize } from 'sequelize';
import { covers } from '@larder/core/shelf';
import type { Job, ScanFolder } from '@larder/contract';
import { enqueueOne, jobOf } from '../jobs/queue';
import { select } from './database';
import { notFound } from './errors';
import { JobRow, StorageRow } from './models';

const SCAN_PRIORITY = 50;

/** The folders that a scan's job is of; the whole storage if none is named. */
export function scanFolders(payload: Readonly<Record<string, unknown>>): readonly ScanFolder[] {
  const folders = (payload['folders'] ?? []) as readonly ScanFolder[];
  return folders.length > 0 ? folders : [{ path: '', deep: true }];
}

/** Queues a scan of folders, or of the whole storage; if one that takes them in is waiting or running already, gives that one. */
export const queueScan = (
  storageId: number,
  personId: number | null,
  folders: readonly ScanFolder[] = [],
): Promise<Job> => queueLook('scan', storageId, personId, folders);

/** As `queueScan`, to find what went, changed or came back only. */
export const queuePresence = (
  storageId: number,
  personId: number | null,
  folders: readonly ScanFolder[] = [],
): Promise<Job> => queueLook('presence', storageId, personId, folders);

/** Queues a look at every storage that is there; gives how many. */
export async function queuePresenceOfAll(personId: number | null): Promise<number> {
  const storages = await StorageRow.findAll({ where: { state: 'online' } });
  for (const { id } of storages) await queuePresence(id, personId);
  return storages.length;
}

const HOUR_MS = 3_600_000;

/** Queues the looks that are due by the storages' own schedules. One that failed is not tried again before its time. */
export async function queueDueLooks(db: Sequelize, now: number): Promise<void> {
  const due = await select<{ id: number }>(
    db,
    `SELECT s.id FROM storage s WHERE s.state = 'online' AND s.presence_hours IS NOT NULL
       AND COALESCE(s.looked_ms, 0) <= :now - s.presence_hours * ${HOUR_MS}
       AND NOT EXISTS (SELECT 1 FROM job j WHERE j.storage_id = s.id AND j.kind = 'presence' AND JSON_LENGTH(j.payload, '$.folders') = 0 AND j.created_ms > :now - s.presence_hours * ${HOUR_MS})`,
    { now },
  );
  for (const { id } of due) await queuePresence(id, null);
}

async function queueLook(
  kind: 'scan' | 'presence',
  storageId: number,
  personId: number | null,
  folders: readonly ScanFolder[],
): Promise<Job> {
  const storage = await StorageRow.findByPk(storageId);
  if (!storage) throw notFound('storage');
  const wanted = scanFolders({ folders });
  // A scan finds what went too.
  const kinds = kind === 'scan' ? ['scan' as const] : ['scan' as const, kind];
  const open = await JobRow.findAll({ where: { storageId, kind: kinds, state: ['queued', 'running'] } });
  const same = open.find(({ payload }) => {
    const theirs = scanFolders(payload);
    return wanted.every(({ path, deep }) =>
      theirs.some((each) => covers(each, path) && (each.deep || (!deep && each.path === path))),
    );
  });
  if (same) return jobOf(same);
  const [first, ...more] = folders.map(({ path }) => path);
  return enqueueOne({
    kind,
    subject: [storage.name, first, more.length > 0 ? `and ${more.length} more` : '']
      .filter(Boolean)
      .join('/')
      .slice(0, 500),
    payload: { storageId, folders },
    unit: 'files',
    priority: SCAN_PRIORITY,
    personId,
    storageId,
  });
}
