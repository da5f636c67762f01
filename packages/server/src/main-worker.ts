import { work } from './jobs/worker';
import { Archive, type ArchiveChoice } from './media/archive';
import { ExportStore } from './media/export-store';
import { recogniserOf, type RecogniserChoice } from './media/recogniser-choice';
import { RenditionStore } from './media/rendition-store';
import { TableStore } from './media/table-store';
import { UploadStore } from './media/upload-store';
import { openDatabase, type DatabaseOptions } from './store/database';
import { bindModels } from './store/tables';

/** A worker process: takes jobs from the queue until it is told to stop or whoever started it is gone. */
const { archive, database, renditionRoot, uploadRoot, exportRoot, recogniser } = JSON.parse(
  process.env['LARDER_WORKER'] ?? '{}',
) as {
  database: DatabaseOptions;
  renditionRoot: string;
  uploadRoot: string;
  exportRoot: string;
  recogniser: RecogniserChoice | null;
  archive: ArchiveChoice | null;
};
const db = openDatabase(database);
bindModels(db);
const stop = new AbortController();
for (const signal of ['SIGTERM', 'SIGINT', 'disconnect'] as const) process.once(signal, () => stop.abort());

const stores = {
  store: new RenditionStore(renditionRoot),
  uploads: new UploadStore(uploadRoot),
  tables: new TableStore(uploadRoot),
  exports: new ExportStore(exportRoot),
  recogniser: recogniserOf(recogniser),
  archive: archive && new Archive(archive),
};

const RETRY_MS = 1000;
while (!stop.signal.aborted) {
  try {
    await work(db, stores, stop.signal);
  } catch (error) {
    process.stderr.write(`worker: ${String(error)}; trying again\n`);
    await new Promise((resolve) => setTimeout(resolve, RETRY_MS));
  }
}
await db.close().catch(() => undefined);
process.exit(0);
