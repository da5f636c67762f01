import type { Job, LibraryStatus, Storage } from '@larder/contract';

/** A job for tests, to be changed where it matters. */
export const job = (id: number, changes: Partial<Job> = {}): Job => ({
  id,
  kind: 'scan',
  subject: 'Shelf',
  state: 'done',
  done: 3,
  total: 3,
  unit: 'files',
  speed: null,
  priority: 0,
  message: null,
  attempts: 1,
  worker: null,
  createdMs: 0,
  startedMs: 0,
  endedMs: 0,
  updatedMs: 0,
  storageId: 1,
  assetId: null,
  ...changes,
});

export const storage = (id: number, changes: Partial<Storage> = {}): Storage => ({
  id,
  name: `Shelf ${id}`,
  rootPath: `/media/shelf${id}`,
  kind: 'local',
  volume: null,
  managed: false,
  verifyDays: null,
  presenceHours: null,
  lookedMs: null,
  recognises: false,
  capacityBytes: 2_000_000_000_000,
  freeBytes: 500_000_000_000,
  state: 'online',
  stateSinceMs: 0,
  counts: { online: 12, offline: 0, missing: 0, changed: 0 },
  bytes: 5_000_000,
  lastScan: null,
  ...changes,
});

export const status = (changes: Partial<LibraryStatus> = {}): LibraryStatus => ({
  revision: 1,
  assets: 14,
  byState: { online: 14, offline: 0, missing: 0, changed: 0 },
  byKind: { video: 12, audio: 2 },
  untagged: 0,
  unreadable: 0,
  shotDays: [],
  jobs: { queued: 0, running: 0, paused: 0, done: 0, failed: 0, cancelled: 0 },
  recent: [],
  ...changes,
});
