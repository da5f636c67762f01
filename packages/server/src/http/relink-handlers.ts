import type { Job } from '@larder/contract';
import { enqueueOne } from '../jobs/queue';
import { notFound } from '../store/errors';
import { healthOf, lastSeenOf } from '../store/health';
import { StorageRow } from '../store/models';
import { decideRelink, queueMend, relinkItems, relinkPlan } from '../store/relink-plans';
import { queueRestore, restoreList, takenRestoreList } from '../store/restore-list';
import { partTwins } from '../store/semblances';
import { keepTwins, twinList } from '../store/twin-groups';
import type { Services } from './handlers';
import { signedIn, type Handlers } from './router';

type RelinkRoutes =
  | 'health'
  | 'lastSeen'
  | 'findMissing'
  | 'pointAt'
  | 'relinkPlan'
  | 'relinkItems'
  | 'decideRelink'
  | 'mend'
  | 'restoreList'
  | 'takeRestoreList'
  | 'restore'
  | 'twinList'
  | 'keepTwins'
  | 'partTwins';

/** Somebody waits for it. */
const PRIORITY = 60;

interface Search {
  readonly personId: number;
  readonly payload: Record<string, unknown>;
  /** Where is looked first, and in how many places besides. */
  readonly first: { readonly storageId: number; readonly folder: string };
  readonly others: number;
}

async function queueSearch({ first, others, payload, personId }: Search): Promise<Job> {
  const storage = await StorageRow.findByPk(first.storageId);
  if (!storage) throw notFound('storage');
  const place = first.folder ? `${storage.name}/${first.folder}` : storage.name;
  const more = others === 0 ? '' : others === 1 ? ' and one place more' : ` and ${others} places more`;
  return enqueueOne({
    ...{ kind: 'find-missing', subject: `${place}${more}`.slice(0, 250), payload, unit: 'files' },
    ...{ priority: PRIORITY, personId, storageId: storage.id },
  });
}

/** Finding lost originals and mending their links. `told` lets the open windows know of what was written. */
export function relinkHandlers(
  { archive, db }: Services,
  told: <T>(work: Promise<T>) => Promise<T>,
): Pick<Handlers, RelinkRoutes> {
  return {
    health: () => healthOf(db),
    lastSeen: ({ id }) => lastSeenOf(db, id),
    findMissing: async ({ body, person }) => {
      const [first, ...others] = body.places;
      if (!first) throw notFound('storage');
      const personId = signedIn(person).id;
      return { job: await told(queueSearch({ personId, payload: { ...body }, first, others: others.length })) };
    },
    pointAt: async ({ body, person }) => {
      const first = { storageId: body.storageId, folder: body.path };
      const personId = signedIn(person).id;
      return { job: await told(queueSearch({ personId, payload: { pointed: body }, first, others: 0 })) };
    },
    relinkPlan: ({ id }) => relinkPlan(db, id),
    relinkItems: ({ body, id }) => relinkItems(db, id, body),
    decideRelink: ({ body, id }) => decideRelink(db, id, body),
    mend: async ({ id, person }) => ({ job: await told(queueMend(db, signedIn(person).id, id)) }),
    restoreList: ({ body }) => restoreList(db, archive, body),
    takeRestoreList: ({ body }) => takenRestoreList(db, archive, body),
    restore: ({ body, person }) => told(queueRestore(db, archive, signedIn(person).id, body)),
    twinList: ({ body }) => twinList(db, body),
    partTwins: ({ body, person }) => partTwins(db, signedIn(person).id, body),
    keepTwins: ({ body, person }) => told(keepTwins(db, signedIn(person).id, body)),
  };
}
