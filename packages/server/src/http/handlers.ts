import type { Sequelize } from 'sequelize';
import { FILE_STATES, KINDS } from '@larder/core/fields';
import { useIssue, wordUseIssue } from '@larder/core/interchange/table';
import { EVERYTHING, type Query } from '@larder/core/query';
import { JOB_STATES, type Change, type LibraryStatus } from '@larder/contract';
import { cancelJob, jobOf, retryJob } from '../jobs/queue';
import { foldersBelow } from '../media/walk';
import type { Archive } from '../media/archive';
import type { RenditionStore } from '../media/rendition-store';
import type { SearchClient } from '../search/client';
import { assetsById } from '../store/assets';
import { headRevision, write } from '../store/change-feed';
import { conformList } from '../store/conform';
import { readList } from '../store/read-list';
import { fromJson, select } from '../store/database';
import { editEach } from '../store/each-edits';
import { GatheredEdits } from '../store/gathered-edits';
import { addSubclip, addSubclips, changeSubclip, removeSubclips, subclipsOf } from '../store/subclips';
import { redoChange, undoChange } from '../store/undo';
import { notFound, refused } from '../store/errors';
import { keepLayout, layoutsFor, removeLayout } from '../store/layouts';
import { loggingPlaces, setLoggingPlace } from '../store/logging-places';
import { addMarkers, addMarkersOn, changeMarker, markersOf, removeMarkers } from '../store/markers';
import { JobRow, StorageRow } from '../store/models';
import { carryOut, previewOperation } from '../store/operations';
import { saySidecars } from '../store/sidecar-jobs';
import { saySidecar } from '../store/sidecars';
import { readNotes } from '../store/timed-notes';
import { setPosters } from '../store/posters';
import { allPeople } from '../store/people';
import {
  addProject,
  addStringOut,
  findStringOut,
  listProjects,
  removeStringOut,
  saveStringOut,
} from '../store/projects';
import { Shelf } from '../store/shelf';
import type { KnownFields } from '../store/shop-fields';
import { queueTable, tableReport } from '../store/table-jobs';
import { queuePresenceOfAll, queueScan } from '../store/scans';
import { addStorage, listStorages } from '../store/storages';
import type { SimulatedVolumes } from '../stand-ins/volumes';
import { liveBinHandlers } from './live-bin-handlers';
import { customWordHandlers } from './custom-word-handlers';
import { dialogueHandlers } from './dialogue-handlers';
import { fieldHandlers } from './field-handlers';
import { ingestHandlers } from './ingest-handlers';
import { may } from './may';
import { signedIn, type Handlers } from './router';
import { relinkHandlers } from './relink-handlers';
import { searchHandlers } from './search-handlers';
import { tagHandlers } from './tag-handlers';
import { endSession, startSession } from './session';

export interface Services {
  readonly db: Sequelize;
  readonly store: RenditionStore;
  readonly search: SearchClient;
  /** The library's fields as of now. */
  readonly fields: KnownFields;
  /** Called after a write, so that the index and the open windows learn of it at once. */
  nudge(): void;
  /** In the demo the sign-in screen offers its people; elsewhere null. */
  readonly demoPassword: string | null;
  /** Stands in for card readers in the demo; elsewhere null. */
  readonly volumes: SimulatedVolumes | null;
  /** What lost originals can be fetched from; null where none is set up. */
  readonly archive: Archive | null;
}

const JOBS_SHOWN = 500;
const FOLDERS_SHOWN = 2000;
const HISTORY_SHOWN = 200;
const RECENT = 12;

const word = (field: 'kind' | 'state', text: string): Query => ({
  kind: 'field',
  field,
  test: { op: 'text', text, prefix: false },
});

async function countBy<Key extends string>(
  search: SearchClient,
  keys: readonly Key[],
  tree: (key: Key) => Query,
  atLeast: number,
): Promise<Record<Key, number>> {
  const { value } = await search.ask({ ask: 'counts', trees: keys.map(tree), atLeast });
  return Object.fromEntries(keys.map((key, index) => [key, value[index] ?? 0])) as Record<Key, number>;
}

async function statusOf({ db, search }: Services): Promise<LibraryStatus> {
  const revision = await headRevision(db);
  const noTag: Query = { kind: 'field', field: 'tag', test: { op: 'presence', present: false } };
  const [byState, byKind, { value: counts }, days, jobs, recent] = await Promise.all([
    countBy(search, FILE_STATES, (state) => word('state', state), revision),
    countBy(search, KINDS, (kind) => word('kind', kind), revision),
    search.ask({ ask: 'counts', trees: [EVERYTHING, noTag], atLeast: revision }),
    select<{ day: string; count: number }>(
      db,
      `SELECT DATE_FORMAT(FROM_UNIXTIME(shot_ms / 1000), '%Y-%m-%d') AS day, COUNT(*) AS count FROM asset WHERE shot_ms IS NOT NULL GROUP BY day ORDER BY day`,
    ),
    select<{ state: string; count: number }>(db, 'SELECT state, COUNT(*) AS count FROM job GROUP BY state'),
    search.ask({
      ask: 'search',
      tree: EVERYTHING,
      sort: { field: 'added', descending: true },
      offset: 0,
      limit: RECENT,
      atLeast: revision,
    }),
  ]);
  return {
    revision,
    assets: counts[0] ?? 0,
    byState,
    byKind,
    untagged: counts[1] ?? 0,
    unreadable: byKind.unreadable,
    shotDays: days.map(({ day, count }) => ({ day, count: Number(count) })),
    jobs: Object.fromEntries(
      JOB_STATES.map((state) => [state, Number(jobs.find((job) => job.state === state)?.count ?? 0)]),
    ) as LibraryStatus['jobs'],
    recent: recent.value.ids,
  };
}

async function historyOf(db: Sequelize, id: number): Promise<Change[]> {
  const rows = await select<Omit<Change, 'before' | 'after'> & { before: unknown; after: unknown }>(
    db,
    `SELECT c.revision, c.change_group AS \`group\`, c.at_ms AS atMs, p.name AS \`by\`, c.action, JSON_REMOVE(c.before_values, '$.transcript') AS \`before\`, c.after_values AS \`after\`
     FROM change_feed c LEFT JOIN person p ON p.id = c.person_id WHERE c.entity = 'asset' AND c.entity_id = :id ORDER BY c.revision DESC LIMIT :limit`,
    { id, limit: HISTORY_SHOWN },
  );
  return rows.map((row) => ({ ...row, before: fromJson(row.before), after: fromJson(row.after) }));
}

async function pullOf(db: Sequelize, personId: number): Promise<number[]> {
  return (
    await select<{ assetId: number }>(
      db,
      'SELECT asset_id AS assetId FROM pull WHERE person_id = :personId ORDER BY position',
      { personId },
    )
  ).map((row) => row.assetId);
}

async function setPull(db: Sequelize, personId: number, assetIds: readonly number[]): Promise<number[]> {
  await write(db, personId, async ({ transaction }) => {
    await db.query('DELETE FROM pull WHERE person_id = :personId', { replacements: { personId }, transaction });
    const there = new Set((await assetsById(db, assetIds, transaction)).map((asset) => asset.id));
    const rows = [...new Set(assetIds)].filter((id) => there.has(id)).map((id, position) => [personId, position, id]);
    if (rows.length > 0)
      await db.query('INSERT INTO pull (person_id, position, asset_id) VALUES :rows', {
        replacements: { rows },
        transaction,
      });
  });
  return pullOf(db, personId);
}

const found = <T>(value: T | null, what: string): T => {
  if (value === null) throw notFound(what);
  return value;
};

/** What each route does. Checking, permission and errors are the router's. */
export function handlersFor(services: Services): Handlers {
  const { db, fields, nudge } = services;
  const shelf = new Shelf(db);
  /** For handlers that write: whoever is looking learns of it without waiting for the next poll. */
  const edits = new GatheredEdits(db);
  const told = async <T>(work: Promise<T>): Promise<T> => {
    const value = await work;
    nudge();
    return value;
  };

  return {
    ...ingestHandlers(services),

    session: async ({ person }) => ({ person }),
    signIn: async ({ body, request, response }) => ({
      person: await startSession(request, response, body.login, body.password),
    }),
    signOut: async ({ request, response }) => {
      await endSession(request, response);
      return null;
    },
    demoPeople: async () =>
      services.demoPassword === null
        ? { people: [], password: null }
        : { people: await allPeople(), password: services.demoPassword },
    status: () => statusOf(services),

    ...searchHandlers(services, told),
    rows: async ({ body }) => ({ revision: await headRevision(db), assets: await assetsById(db, body.ids) }),
    history: async ({ id }) => ({ changes: await historyOf(db, id) }),
    edit: ({ body, person }) => told(edits.edit(signedIn(person).id, body)),
    editEach: ({ body, person }) => {
      const said = new Map(body.edits.map(({ assetId, set }) => [assetId, set]));
      return told(editEach(db, signedIn(person).id, { ...body, assetIds: [...said.keys()] }, () => said));
    },
    previewOperation: ({ body }) => previewOperation(db, fields.current, body),
    operate: ({ body, person }) => told(carryOut(db, fields.current, signedIn(person).id, body)),
    readSidecar: ({ body, person, id }) => told(saySidecar(db, signedIn(person).id, id, body.text, fields.current)),
    readSidecars: ({ body, person }) => told(saySidecars(db, signedIn(person).id, body, fields.current)),
    posters: ({ body, person }) => told(setPosters(db, signedIn(person).id, body)),
    readTable: async ({ body, person }) => {
      const issue = useIssue(body.uses, fields.current);
      if (issue) throw refused(wordUseIssue(issue));
      return { job: await told(queueTable(signedIn(person).id, body)) };
    },
    tableReport: ({ id }) => tableReport(id),
    undo: ({ body, person }) => told(undoChange(db, signedIn(person).id, body.group)),
    redo: ({ person }) => told(redoChange(db, signedIn(person).id)),
    ...tagHandlers(services, told),

    loggingPlaces: async ({ person }) => ({ places: await loggingPlaces(db, signedIn(person).id) }),
    setLoggingPlace: async ({ body, person }) => {
      await setLoggingPlace(db, signedIn(person).id, body);
      return null;
    },
    layouts: async ({ person }) => ({ layouts: await layoutsFor(db, signedIn(person).id) }),
    newLayout: async ({ body, person }) => ({
      id: await keepLayout(db, signedIn(person).id, body, may(person, 'log')),
    }),
    removeLayout: async ({ person, id }) => {
      await removeLayout(db, signedIn(person).id, id, may(person, 'keep'));
      return null;
    },
    markers: async ({ id }) => ({ markers: await markersOf(db, id) }),
    newMarker: async ({ body, person, id }) => {
      const { ids, ...written } = await told(addMarkers(db, signedIn(person).id, id, [body]));
      return { ...written, id: ids[0] ?? 0 };
    },
    newMarkers: ({ body, person }) => told(addMarkersOn(db, signedIn(person).id, body.markers)),
    readNotes: ({ body, person, id }) => told(readNotes(db, signedIn(person).id, id, body.text)),
    changeMarker: ({ body, person, id }) => told(changeMarker(db, signedIn(person).id, id, body)),
    removeMarkers: ({ body, person }) => told(removeMarkers(db, signedIn(person).id, body.ids)),

    subclips: async ({ id }) => ({ assets: await subclipsOf(db, id) }),
    newSubclip: ({ body, person, id }) => told(addSubclip(db, signedIn(person).id, id, body)),
    newSubclips: ({ body, person }) => told(addSubclips(db, signedIn(person).id, body.subclips)),
    changeSubclip: ({ body, person, id }) => told(changeSubclip(db, signedIn(person).id, id, body)),
    removeSubclips: ({ body, person }) => told(removeSubclips(db, signedIn(person).id, body.ids)),

    ...dialogueHandlers(services, told),
    ...customWordHandlers(services, told),
    ...fieldHandlers(services, told),

    ...liveBinHandlers(services, told),

    storages: async () => ({ storages: await listStorages(db) }),
    newStorage: async ({ body, person }) => {
      const row = await told(addStorage(db, signedIn(person).id, body));
      return found((await listStorages(db)).find((storage) => storage.id === row.id) ?? null, 'storage');
    },
    scan: async ({ id, person, body }) => ({ job: await told(queueScan(id, signedIn(person).id, body.folders)) }),
    checkPresence: async ({ person }) => ({ jobs: await told(queuePresenceOfAll(signedIn(person).id)) }),
    browse: ({ id, body }) => shelf.browse(id, body),
    folders: async ({ id }) => ({
      folders: await foldersBelow(found(await StorageRow.findByPk(id), 'storage').rootPath, FOLDERS_SHOWN),
    }),

    jobs: async () => ({
      jobs: (
        await JobRow.findAll({
          order: [
            db.literal(`FIELD(state, 'running', 'queued', 'failed', 'cancelled', 'done')`),
            ['updatedMs', 'DESC'],
          ] as never,
          limit: JOBS_SHOWN,
        })
      ).map(jobOf),
    }),
    cancelJob: async ({ id }) => ({ job: found(await told(cancelJob(db, id)), 'job') }),
    retryJob: async ({ id }) => ({ job: found(await told(retryJob(id)), 'job') }),

    ...relinkHandlers(services, told),

    pull: async ({ person }) => ({ assetIds: await pullOf(db, signedIn(person).id) }),
    setPull: async ({ body, person }) => ({ assetIds: await setPull(db, signedIn(person).id, body.assetIds) }),
    projects: async () => ({ projects: await listProjects(db) }),
    newProject: ({ body, person }) => told(addProject(db, signedIn(person).id, body)),
    newStringOut: ({ body, person }) => told(addStringOut(db, signedIn(person).id, body)),
    stringOut: ({ id }) => findStringOut(id),
    saveStringOut: ({ body, person, id }) => told(saveStringOut(db, signedIn(person).id, id, body)),
    removeStringOut: async ({ person, id }) => {
      await told(removeStringOut(db, signedIn(person).id, id));
      return null;
    },
    conform: ({ body }) => conformList(db, body),
    readList: ({ body, person }) => told(readList(db, signedIn(person).id, body)),
  };
}
