import { existsSync } from 'node:fs';
import { join } from 'node:path';
import { constants } from 'node:zlib';
import compression from 'compression';
import express, { type Express } from 'express';
import helmet from 'helmet';
import { FILE_PATHS } from '@larder/contract';
import type { ExportStore } from '../media/export-store';
import type { TableStore } from '../media/table-store';
import type { UploadStore } from '../media/upload-store';
import { notFound } from '../store/errors';
import type { EventHub } from './events';
import { mountFiles } from './files';
import { mountShelfFiles } from './shelf-files';
import { mountTables } from './tables';
import { mountUploads } from './uploads';
import { handlersFor, type Services } from './handlers';
import { admit, answerErrors, mountRoutes } from './router';
import { identify } from './session';

export interface AppOptions extends Services {
  readonly uploads: UploadStore;
  readonly tables: TableStore;
  readonly exports: ExportStore;
  readonly hub: EventHub;
  /** Where the built web application lies. */
  readonly webRoot: string;
  log(line: string): void;
}

/** Cut lists come back as JSON with their text inside; the schema bounds the text, this bounds the rest. */
const BODY_LIMIT = '24mb';

/** Somebody waits for each answer, and it is read once: packed quickly rather than small. */
const ANSWERS: compression.CompressionOptions = {
  level: constants.Z_BEST_SPEED,
  brotli: { params: { [constants.BROTLI_PARAM_QUALITY]: 1 } },
};

/** The HTTP side of the library: the routes of the contract, the files, the events and the web application itself. */
export function createApp(options: AppOptions): Express {
  const app = express();
  app.disable('x-powered-by');
  app.use(
    helmet({
      contentSecurityPolicy: {
        useDefaults: false,
        // The browser asks only this server. Styles are set in line by Angular and the grid.
        directives: {
          defaultSrc: ["'self'"],
          imgSrc: ["'self'", 'data:', 'blob:'],
          mediaSrc: ["'self'", 'blob:'],
          styleSrc: ["'self'", "'unsafe-inline'"],
          fontSrc: ["'self'", 'data:'],
          objectSrc: ["'none'"],
          frameAncestors: ["'none'"],
          baseUri: ["'self'"],
          formAction: ["'self'"],
        },
      },
      // Served over plain HTTP on loopback; a proxy in front that speaks TLS says so itself.
      strictTransportSecurity: false,
    }),
  );
  const packed = (options: compression.CompressionOptions, isMeant: (path: string) => boolean) =>
    compression({ ...options, filter: (...each) => isMeant(each[0].originalUrl) && compression.filter(...each) });
  const isAnswer = (path: string): boolean => path.startsWith('/api/') && !path.startsWith(FILE_PATHS.events);
  app.use(packed(ANSWERS, isAnswer));
  app.use(packed({}, (path) => !path.startsWith('/api/')));
  app.use('/api', express.json({ limit: BODY_LIMIT, strict: true }), (_request, response, next) => {
    response.set('Cache-Control', 'no-store');
    next();
  });
  app.get(FILE_PATHS.events, async (request, response) => {
    await admit(request, 'look', identify);
    options.hub.open(response);
  });
  mountRoutes(app, handlersFor(options), identify, () => options.fields.current);
  mountUploads(app, options.uploads, identify);
  mountShelfFiles(app, identify);
  mountTables(app, { ...options, fields: () => options.fields.current }, identify);
  mountFiles(app, options, identify);
  app.use(['/api', '/files'], () => {
    throw notFound('address');
  });
  app.use(
    express.static(options.webRoot, {
      index: false,
      immutable: true,
      maxAge: '1y',
      setHeaders: (response, path) =>
        void (/\.(html|webmanifest)$/.test(path) && response.setHeader('Cache-Control', 'no-cache')),
    }),
  );
  const index = join(options.webRoot, 'index.html');
  app.get('/{*path}', (request, response, next) => {
    // A file that is not there is not a page: an old window asking for a script of the last build must not get HTML.
    if (/\.\w+$/.test(request.path) || !existsSync(index)) return next(notFound('page'));
    response.set('Cache-Control', 'no-cache').sendFile(index);
  });
  app.use(answerErrors(options.log));
  return app;
}
