import { existsSync } from 'node:fs';
import { pipeline } from 'node:stream/promises';
import type { Express, Request, Response } from 'express';
import type { Sequelize } from 'sequelize';
import { soundsOfWay } from '@larder/core/dialogue';
import { TIMED_TEXT_FORMATS, TIMED_TEXT_TYPES } from '@larder/core/interchange/timed-text';
import {
  HANDED_MEDIA,
  HANDED_OVER,
  RENDITION_KINDS,
  TRANSCRIPT_FORMATS,
  type Asset,
  type RenditionKind,
  type TranscriptFormat,
} from '@larder/contract';
import type { ExportStore } from '../media/export-store';
import { ToolError } from '../media/run';
import { soundPiece } from '../media/sound-piece';
import { spokenAloud } from '../media/spoken-aloud';
import { proxyExtension, type RenditionStore } from '../media/rendition-store';
import { assetsById } from '../store/assets';
import { notFound, refused } from '../store/errors';
import { originalPath } from '../store/locations';
import { RenditionRow } from '../store/models';
import { readFields } from '../store/shop-fields';
import { sidecarOf } from '../store/sidecars';
import { notesOf } from '../store/timed-notes';
import { writeTranscript } from '../store/timed-transcripts';
import { handOver } from './cut-lists';
import { admit, type Identify } from './router';

const TYPES: Readonly<Record<string, string>> = {
  poster: 'image/jpeg',
  filmstrip: 'image/jpeg',
  peaks: 'application/json',
};
const TRANSCRIPT_TYPES: Readonly<Record<TranscriptFormat, string>> = {
  ...TIMED_TEXT_TYPES,
  txt: 'text/plain; charset=utf-8',
  csv: 'text/csv; charset=utf-8',
};
/** Renditions change only when they are made again; the browser asks once more after this, with the entity tag. */
const MAX_AGE_SECONDS = 3600;

/** The ending of an asset's mezzanine, which its codec decides. */
async function mezzanineExtension(assetId: number): Promise<string> {
  const row = await RenditionRow.findOne({ where: { assetId, kind: 'mezzanine' } });
  if (!row) throw notFound('rendition');
  return row.extension;
}

async function assetOf(db: Sequelize, request: Request): Promise<Asset> {
  const id = Number(request.params['id']);
  const [asset] = Number.isSafeInteger(id) && id > 0 ? await assetsById(db, [id]) : [];
  if (!asset) throw notFound('asset');
  return asset;
}

/** Sends a file with byte ranges, which seeking in a player needs. */
export function send(response: Response, path: string, type: string | null): Promise<void> {
  if (type) response.type(type);
  return new Promise((resolve, reject) => {
    response.sendFile(
      path,
      {
        dotfiles: 'allow',
        acceptRanges: true,
        cacheControl: false,
        headers: { 'Cache-Control': `private, max-age=${MAX_AGE_SECONDS}` },
      },
      (error?: Error & { code?: string; status?: number }) => {
        if (
          !error ||
          error.code === 'ECONNABORTED' ||
          error.code === 'ERR_STREAM_PREMATURE_CLOSE' ||
          response.headersSent
        )
          resolve();
        else reject(error.code === 'ENOENT' || error.status === 404 ? notFound('file') : error);
      },
    );
  });
}

/** A name that is safe in a header and on every file system. */
export const fileName = (title: string, extension: string): string =>
  `${
    title
      .replace(/[^\p{L}\p{N} _.-]+/gu, '_')
      .trim()
      .slice(0, 80) || 'string-out'
  }.${extension}`;

export interface FileServices {
  readonly db: Sequelize;
  readonly store: RenditionStore;
  readonly exports: ExportStore;
}

export function mountFiles(app: Express, { db, store, exports }: FileServices, identify: Identify): void {
  app.get('/files/exports/:id.zip', async (request: Request, response: Response) => {
    await admit(request, 'look', identify);
    const id = Number(request.params['id']);
    if (!Number.isSafeInteger(id) || id < 1) throw notFound('export');
    const archive = await exports.archive(id);
    response.attachment(`export-${id}.zip`).type('application/zip').set('Cache-Control', 'no-store');
    await pipeline(archive, response).catch(() => response.destroy());
  });

  for (const format of HANDED_OVER)
    app.get(`/files/string-outs/:id.${format}`, async (request: Request, response: Response) => {
      await admit(request, 'look', identify);
      const id = Number(request.params['id']);
      if (!Number.isSafeInteger(id) || id < 1) throw notFound('string-out');
      const media = HANDED_MEDIA.find((each) => each === request.query['media']);
      const { title, text, type } = await handOver(db, id, { format, media: media ?? 'mezzanine' }, store);
      response.attachment(fileName(title, format)).type(type);
      response.set('Cache-Control', 'no-store').send(text);
    });

  app.get('/files/spoken-way', async (request, response) => {
    await admit(request, 'look', identify);
    const { way } = request.query;
    const sounds = typeof way === 'string' ? soundsOfWay(way) : null;
    if (!sounds) throw refused('That is no way to say a word.');
    response
      .type('audio/wav')
      .set('Cache-Control', 'no-store')
      .send(await spokenAloud(sounds));
  });

  app.get('/files/:id/original', async (request, response) => {
    await admit(request, 'look', identify);
    const asset = await assetOf(db, request);
    await send(response, await originalPath(db, asset), null);
  });

  app.get('/files/:id/sidecar.xmp', async (request, response) => {
    await admit(request, 'look', identify);
    const asset = await assetOf(db, request);
    response.attachment(fileName(asset.name, 'xmp')).type('application/rdf+xml; charset=utf-8');
    response.set('Cache-Control', 'no-store').send(await sidecarOf(db, asset, await readFields(db)));
  });

  for (const format of TIMED_TEXT_FORMATS)
    app.get(`/files/:id/markers.${format}`, async (request, response) => {
      await admit(request, 'look', identify);
      const asset = await assetOf(db, request);
      response.attachment(fileName(asset.name, format)).type(TIMED_TEXT_TYPES[format]);
      response.set('Cache-Control', 'no-store').send(await notesOf(db, asset, format));
    });

  for (const format of TRANSCRIPT_FORMATS)
    app.get(`/files/:id/said.${format}`, async (request, response) => {
      await admit(request, 'look', identify);
      const asset = await assetOf(db, request);
      response.attachment(fileName(asset.name, format)).type(TRANSCRIPT_TYPES[format]);
      response.set('Cache-Control', 'no-store').send(await writeTranscript(db, asset, format));
    });

  app.get('/files/:id/sound', async (request, response) => {
    await admit(request, 'look', identify);
    const { from } = request.query;
    if (typeof from !== 'string' || !/^\d{1,12}$/.test(from))
      throw refused('A piece of sound begins at a whole millisecond.');
    const asset = await assetOf(db, request);
    if (!asset.sound) throw notFound('sound');
    const gone = new AbortController();
    response.on('close', () => gone.abort());
    // The proxy has what every browser plays; all the channels are in the original.
    const proxy = store.path(asset.parentId ?? asset.id, 'proxy', proxyExtension(asset.kind));
    const path = await originalPath(db, asset).catch((error: unknown) => {
      if (!existsSync(proxy)) throw error;
      return proxy;
    });
    const [whole = asset] = asset.parentId === null ? [] : await assetsById(db, [asset.parentId]);
    const known = path === proxy ? null : whole;
    const piece = await soundPiece(path, known, Number(from), gone.signal).catch((error: unknown) => {
      // Somebody who stops listening is no fault.
      if (gone.signal.aborted) return;
      throw error instanceof ToolError ? refused('This sound cannot be decoded.') : error;
    });
    if (piece) response.type('audio/flac').set('Cache-Control', `private, max-age=${MAX_AGE_SECONDS}`).send(piece);
  });

  app.get('/files/:id/:kind', async (request, response) => {
    await admit(request, 'look', identify);
    const kind = request.params['kind'] as RenditionKind;
    if (!RENDITION_KINDS.includes(kind)) throw notFound('rendition');
    const shown = await assetOf(db, request);
    // Of a subclip only its poster is its own.
    const asset = { ...shown, id: kind === 'poster' ? shown.id : (shown.parentId ?? shown.id) };
    const extension =
      kind === 'mezzanine' ? await mezzanineExtension(asset.id) : kind === 'proxy' ? proxyExtension(asset.kind) : '';
    if (kind === 'mezzanine') response.attachment(fileName(asset.name.replace(/\.[^.]*$/, ''), extension.slice(1)));
    await send(
      response,
      store.path(asset.id, kind, extension),
      TYPES[kind] ?? (kind === 'mezzanine' ? null : extension === '.jpg' ? 'image/jpeg' : 'video/mp4'),
    );
  });
}
