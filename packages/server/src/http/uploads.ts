import { mkdirSync } from 'node:fs';
import { FileStore } from '@tus/file-store';
import { Server } from '@tus/server';
import type { Express, Request, Response } from 'express';
import { FILE_PATHS } from '@larder/contract';
import { uploadPath, type UploadStore } from '../media/upload-store';
import { RequestError } from '../store/errors';
import { admit, type Identify } from './router';

/** A terabyte: more than any file that a browser holds on to for as long as that takes. */
const MOST_BYTES = 1e12;

/** What tus sends back as the reason. */
function asTusError(error: unknown): unknown {
  return error instanceof RequestError
    ? Object.assign(new Error(error.message), { status_code: 422, body: error.message })
    : error;
}

/** Uploads by the tus protocol (1.0): in pieces, going on where they stopped, checked for where they may go before they begin. */
export function mountUploads(app: Express, uploads: UploadStore, identify: Identify): void {
  mkdirSync(uploads.incoming, { recursive: true });
  const server = new Server({
    path: FILE_PATHS.uploads,
    datastore: new FileStore({ directory: uploads.incoming }),
    maxSize: MOST_BYTES,
    relativeLocation: true,
    onUploadCreate: (_request, { metadata }) => {
      try {
        uploads.folder(metadata?.['batch'] ?? '');
        uploadPath(metadata?.['path'] ?? '');
      } catch (error) {
        throw asTusError(error);
      }
      return Promise.resolve({});
    },
    onUploadFinish: async (_request, { id, metadata }) => {
      await uploads
        .settle(id, metadata?.['batch'] ?? '', uploadPath(metadata?.['path'] ?? ''))
        .catch((error: unknown) => {
          throw asTusError(error);
        });
      return {};
    },
  });
  app.all([FILE_PATHS.uploads, `${FILE_PATHS.uploads}/:id`], async (request: Request, response: Response) => {
    await admit(request, 'log', identify);
    if (request.headers['sec-fetch-site'] === 'cross-site') throw new RequestError({ code: 'not-allowed' });
    await server.handle(request, response);
  });
}
