import type { AddressInfo } from 'node:net';
import { createServer } from 'node:http';
import { EventHub } from './http/events';
import { createApp } from './http/app';
import { Archive, type ArchiveChoice } from './media/archive';
import { ExportStore } from './media/export-store';
import { RenditionStore } from './media/rendition-store';
import { TableStore } from './media/table-store';
import { UploadStore } from './media/upload-store';
import { SearchClient } from './search/client';
import { openDatabase, type DatabaseOptions } from './store/database';
import { FIELD_ENTITIES, KnownFields } from './store/shop-fields';
import { bindModels } from './store/tables';
import { watchStorages } from './store/storages';
import { SimulatedVolumes, type SimulatedPlaces } from './stand-ins/volumes';
import { Watcher } from './jobs/watcher';

export interface ServeOptions {
  readonly database: DatabaseOptions;
  readonly host: string;
  /** 0 for any free port. */
  readonly port: number;
  readonly renditionRoot: string;
  readonly uploadRoot: string;
  /** Where files lie that people take along. */
  readonly exportRoot: string;
  /** Volumes that can be plugged in and pulled; null but in the demo. */
  readonly volumes: SimulatedPlaces | null;
  /** What lost originals can be fetched from; null where none is set up. */
  readonly archive: ArchiveChoice | null;
  readonly webRoot: string;
  /** The built scripts of the search index's threads. */
  readonly searchScript: string;
  readonly mergeScript: string;
  /** Where the index is kept between two starts; it can be thrown away. */
  readonly indexRoot: string;
  /** So long a question waits for the newest before it is answered from what the index has. */
  readonly indexWaitMs: number;
  readonly demoPassword: string | null;
  log(line: string): void;
}

export interface Serving {
  readonly port: number;
  stop(): Promise<void>;
}

const WATCH_MS = 3000;
const KEEP_ALIVE_MS = 65_000;

/** Starts the server on a migrated database. Throws if the port is taken or the index cannot be built. */
export async function serve(options: ServeOptions): Promise<Serving> {
  const db = openDatabase(options.database);
  bindModels(db);
  const search = new SearchClient(
    options.searchScript,
    { database: options.database, indexRoot: options.indexRoot, mergeScript: options.mergeScript },
    options.indexWaitMs,
    () => hub.caughtUp(),
  );
  const fields = new KnownFields(db);
  const hub: EventHub = new EventHub(db, (changed) => {
    // A failed look is made good by the next change or start; what is known stays good enough meanwhile.
    if (changed.some((entity) => FIELD_ENTITIES.includes(entity)))
      void fields.refresh().catch((error: unknown) => options.log(String(error)));
  });
  const app = createApp({
    db,
    search,
    fields,
    hub,
    store: new RenditionStore(options.renditionRoot),
    uploads: new UploadStore(options.uploadRoot),
    tables: new TableStore(options.uploadRoot),
    exports: new ExportStore(options.exportRoot),
    volumes: options.volumes && new SimulatedVolumes(options.volumes),
    archive: options.archive && new Archive(options.archive),
    webRoot: options.webRoot,
    demoPassword: options.demoPassword,
    nudge: () => hub.nudge(),
    log: options.log,
  });
  const server = createServer(app);
  // Longer than proxies and clients keep a connection, so that none is closed while a request is on its way.
  server.keepAliveTimeout = KEEP_ALIVE_MS;
  const closeAll = async () => {
    hub.stop();
    server.closeAllConnections();
    await new Promise((resolve) => server.close(resolve));
    await search.stop();
    await db.close();
  };
  try {
    await watchStorages(db);
    await fields.refresh();
    await search.ready;
    await hub.start();
    await new Promise<void>((resolve, reject) =>
      server.once('error', reject).listen(options.port, options.host, resolve),
    );
  } catch (error) {
    await closeAll();
    throw error;
  }
  const watcher = new Watcher(db);
  let watching = Promise.resolve();
  const watch = setInterval(() => {
    // A storage that hangs must not pile up looks, nor end the server.
    watching = watching
      .then(() => watchStorages(db))
      .then(() => watcher.look())
      .catch((error: unknown) => options.log(`storages could not be looked at: ${String(error)}`));
  }, WATCH_MS);
  return {
    port: (server.address() as AddressInfo).port,
    stop: async () => {
      clearInterval(watch);
      await watching;
      await closeAll();
    },
  };
}
