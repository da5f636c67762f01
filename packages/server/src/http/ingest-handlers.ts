import { join } from 'node:path';
import type { RouteName } from '@larder/contract';
import { wordJobError } from '../jobs/context';
import { jobLimits, pauseJob, putFirst, resumeJob, setJobLimits, setPriority } from '../jobs/queue';
import { inspectItem, listenTo, unreadableItem } from '../media/inspect';
import { addBin, changeBin, changeBinAssets, listBins, orderBin, removeBin } from '../store/bins';
import { notFound } from '../store/errors';
import { checksOf, fixitySummary, queueVerify } from '../store/fixity';
import { ingestReport } from '../store/ingest-items';
import {
  listPresets,
  listWatches,
  queueIngest,
  queueUpload,
  removePreset,
  removeWatch,
  savePreset,
  saveWatch,
} from '../store/ingests';
import { otherLocations } from '../store/locations';
import { besideNeighbours, itemAt, reelNeighbours, twinsAmong } from '../store/shelf-items';
import { lookAtRoot, moveStorage } from '../store/storage-roots';
import { changeStorage, listStorages, watchStorages } from '../store/storages';
import type { Services } from './handlers';
import { signedIn, type Handlers } from './router';

/** The routes of storages, ingest, bins, fixity and the queue's steering. */
export const INGEST_ROUTES = [
  'changeStorage',
  'lookAtRoot',
  'moveStorage',
  'inspect',
  'listen',
  'twins',
  'ingest',
  'ingestReport',
  'ingestUpload',
  'volumes',
  'mountVolume',
  'presets',
  'newPreset',
  'changePreset',
  'removePreset',
  'watches',
  'newWatch',
  'changeWatch',
  'removeWatch',
  'bins',
  'newBin',
  'changeBin',
  'removeBin',
  'orderBin',
  'binAssets',
  'verify',
  'fixity',
  'fixityOf',
  'locations',
  'pauseJob',
  'resumeJob',
  'jobPriority',
  'jobLimits',
  'setJobLimits',
  'first',
] as const satisfies readonly RouteName[];

const found = <T>(value: T | null | undefined, what: string): T => {
  if (value === null || value === undefined) throw notFound(what);
  return value;
};

export function ingestHandlers({ db, volumes, nudge }: Services): Pick<Handlers, (typeof INGEST_ROUTES)[number]> {
  /** For handlers that write: whoever is looking learns of it without waiting for the next poll. */
  const told = async <T>(work: Promise<T>): Promise<T> => {
    const value = await work;
    nudge();
    return value;
  };
  const nothing = (work: Promise<unknown>): Promise<null> => told(work).then(() => null);

  return {
    changeStorage: async ({ id, body, person }) => {
      await told(changeStorage(db, signedIn(person).id, id, body));
      return found(
        (await listStorages(db)).find((storage) => storage.id === id),
        'storage',
      );
    },
    lookAtRoot: ({ id, body }) => lookAtRoot(db, id, body.rootPath),
    moveStorage: async ({ id, body, person }) => {
      await told(moveStorage(db, signedIn(person).id, id, body.rootPath));
      return found(
        (await listStorages(db)).find((storage) => storage.id === id),
        'storage',
      );
    },
    inspect: async ({ id, body: { path } }) => {
      const place = await itemAt(id, path);
      const { root, item } = place;
      const known = reelNeighbours(db, id, path);
      const neighbours = async (reel: string) => [...(await known(reel)), ...(await besideNeighbours(place, reel))];
      return inspectItem(root, item, neighbours).catch((error: unknown) =>
        unreadableItem(item, wordJobError(error).replaceAll(`${join(root, path)}: `, '')),
      );
    },
    listen: async ({ id, body: { path }, response }) => {
      const { root, item } = await itemAt(id, path);
      const gone = new AbortController();
      response.on('close', () => gone.abort());
      return listenTo(join(root, item.path), gone.signal);
    },
    twins: ({ id, body: { paths = [], folders = [] } }) => twinsAmong(db, id, paths, folders),
    ingest: async ({ id, body, person }) => ({ job: await told(queueIngest(id, signedIn(person).id, body)) }),
    ingestReport: ({ id }) => ingestReport(db, id),
    ingestUpload: async ({ body: { batch, settings }, person }) => ({
      job: await told(queueUpload(signedIn(person).id, batch, settings)),
    }),
    volumes: async () => ({ volumes: (await volumes?.list()) ?? [], slots: volumes?.slots ?? [] }),
    mountVolume: async ({ body: { name, slot } }) => {
      await found(volumes, 'volume').put(name, slot);
      await told(watchStorages(db));
      return { volumes: await found(volumes, 'volume').list() };
    },

    presets: async () => ({ presets: await listPresets(db) }),
    newPreset: ({ body, person }) => told(savePreset(db, signedIn(person).id, body, null)),
    changePreset: ({ body, person, id }) => told(savePreset(db, signedIn(person).id, body, id)),
    removePreset: ({ person, id }) => nothing(removePreset(db, signedIn(person).id, id)),
    watches: async () => ({ watches: await listWatches() }),
    newWatch: ({ body, person }) => told(saveWatch(db, signedIn(person).id, body, null)),
    changeWatch: ({ body, person, id }) => told(saveWatch(db, signedIn(person).id, body, id)),
    removeWatch: ({ person, id }) => nothing(removeWatch(db, signedIn(person).id, id)),

    bins: async () => ({ bins: await listBins(db) }),
    newBin: async ({ body, person }) => ({ id: await told(addBin(db, signedIn(person).id, body)) }),
    changeBin: async ({ body, person, id }) => {
      await told(changeBin(db, signedIn(person).id, id, body));
      return { id };
    },
    removeBin: ({ person, id }) => nothing(removeBin(db, signedIn(person).id, id)),
    orderBin: ({ body, person, id }) => told(orderBin(db, signedIn(person).id, id, body)),
    binAssets: ({ body, person, id }) => told(changeBinAssets(db, signedIn(person).id, id, body)),

    verify: async ({ body, person }) => ({ job: await told(queueVerify(signedIn(person).id, body)) }),
    fixity: () => fixitySummary(db),
    fixityOf: async ({ id }) => ({ checks: await checksOf(db, id) }),
    locations: async ({ id }) => ({ locations: await otherLocations(db, id) }),

    pauseJob: async ({ id }) => ({ job: found(await told(pauseJob(db, id)), 'job') }),
    resumeJob: async ({ id }) => ({ job: found(await told(resumeJob(db, id)), 'job') }),
    jobPriority: async ({ id, body }) => ({ job: found(await told(setPriority(id, body.when)), 'job') }),
    jobLimits: async () => ({ limits: await jobLimits(db) }),
    setJobLimits: async ({ body }) => {
      await setJobLimits(db, body.limits);
      return { limits: await jobLimits(db) };
    },
    first: ({ body }) => nothing(putFirst(db, body.assetId)),
  };
}
