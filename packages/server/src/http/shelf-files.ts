import { pipeline } from 'node:stream/promises';
import { join } from 'node:path';
import type { Express, Request, Response } from 'express';
import { fileOf, folderOf, isInner, type ShelfItem } from '@larder/core/shelf';
import { countingById, parseRational, type Rational } from '@larder/core/timecode';
import { inputOf, QUIET } from '../media/ffmpeg';
import { probeRaw, SEQUENCE_RATE } from '../media/probe';
import { soundStreams, type ProbeOutput } from '../media/facts';
import { run, stream, ToolError } from '../media/run';
import { channelsIn, mergedForEars } from '../media/sound-streams';
import { notFound, refused } from '../store/errors';
import { itemAt } from '../store/shelf-items';
import { send } from './files';
import { admit, type Identify } from './router';

const FRAME_WIDTH = 960;
const FRAME_TIMEOUT_MS = 20_000;
const FITTED = `scale='trunc(min(${FRAME_WIDTH},iw*sar)/2)*2':-2,setsar=1`;

interface Asked {
  readonly root: string;
  readonly item: ShelfItem;
  readonly frame: number;
  /** At which a sequence plays; other files say it themselves. */
  readonly sequenceRate: Rational;
}

async function askedOf(request: Request): Promise<Asked> {
  const storageId = Number(request.params['id']);
  const { path, frame = '0', rate = '' } = request.query as Record<string, unknown>;
  if (!Number.isSafeInteger(storageId) || storageId < 1) throw notFound('storage');
  if (typeof path !== 'string' || !isInner(path)) throw notFound('file');
  if (typeof frame !== 'string' || !/^\d{1,9}$/.test(frame)) throw refused('A frame is a number.');
  const sequenceRate = typeof rate === 'string' ? (countingById(rate)?.rate ?? SEQUENCE_RATE) : SEQUENCE_RATE;
  return { ...(await itemAt(storageId, path)), frame: Number(frame), sequenceRate };
}

const rateIn = (probe: ProbeOutput): Rational | null => {
  const video = (probe.streams ?? []).find((each) => each.codec_type === 'video' && !each.disposition?.attached_pic);
  return parseRational(video?.r_frame_rate ?? '') ?? parseRational(video?.avg_frame_rate ?? '');
};

/** Seeks to half a frame before one, so that rounded time stamps cannot make it the next. */
const seekTo = (frame: number, rate: Rational): string[] =>
  frame === 0 ? [] : ['-ss', (((frame - 0.5) * rate.den) / rate.num).toFixed(6)];

/** The picture of a sequence that shows a frame: its own, or the one that is held over a gap. */
function pictureAt({ path, sequence }: ShelfItem, frame: number): string {
  if (!sequence) return path;
  const number = Math.min(sequence.last, sequence.first + frame);
  const gap = sequence.gaps.find(([first, last]) => number >= first && number <= last);
  return [folderOf(path), fileOf(sequence, gap ? gap[0] - 1 : number)].filter(Boolean).join('/');
}

/** What seeks and reads a file; of a sequence its pictures from a frame on, as far as they are there in a row. */
function inputFrom({ root, item, frame, sequenceRate }: Asked, probe: ProbeOutput): string[] {
  if (!item.sequence) return [...seekTo(frame, rateIn(probe) ?? SEQUENCE_RATE), '-i', join(root, item.path)];
  const source = { kind: 'sequence' as const, files: item.files, gaps: [], durationFrames: null };
  return inputOf({ ...source, rate: { ...sequenceRate, dropFrame: false } }, join(root, pictureAt(item, frame)));
}

async function sendFrame(asked: Asked, response: Response, signal: AbortSignal): Promise<void> {
  const { root, item, frame } = asked;
  const path = join(root, pictureAt(item, frame));
  const seek = item.sequence ? [] : seekTo(frame, rateIn(await probeRaw(path, signal)) ?? SEQUENCE_RATE);
  const picture = await run(
    'ffmpeg',
    ['-v', 'error', ...QUIET, ...seek, '-i', path].concat(
      ['-map', '0:v:0', '-frames:v', '1', '-vf', FITTED],
      '-q:v 4 -f mjpeg pipe:1'.split(' '),
    ),
    { timeoutMs: FRAME_TIMEOUT_MS, signal },
  ).catch((error: unknown) => {
    throw error instanceof ToolError && error.reason !== 'cancelled' ? refused('This frame cannot be decoded.') : error;
  });
  if (picture.length === 0) throw refused('There is no such frame.');
  response.type('image/jpeg').set('Cache-Control', 'private, max-age=60').send(picture);
}

/** A stream that a browser plays while it is being made: H.264, and all channels without loss. */
async function sendStream(asked: Asked, response: Response, signal: AbortSignal): Promise<void> {
  const probe = await probeRaw(join(asked.root, asked.item.path), signal);
  const streams = asked.item.sequence ? [] : soundStreams(probe);
  const sound = channelsIn(streams) > 0;
  const picture = asked.item.sequence !== null || rateIn(probe) !== null;
  const args = [
    ...inputFrom(asked, probe),
    ...(sound ? ['-filter_complex', `${mergedForEars(streams, null)}[heard]`] : []),
    ...(picture
      ? [
          '-map',
          '0:v:0',
          '-vf',
          FITTED,
          ...'-c:v libx264 -preset ultrafast -crf 26 -pix_fmt yuv420p -bf 0 -g 25 -fps_mode passthrough'.split(' '),
        ]
      : []),
    ...(sound ? '-map [heard] -c:a flac -strict -2'.split(' ') : []),
    ...'-movflags frag_keyframe+empty_moov+default_base_moof -frag_duration 500000 -f mp4 pipe:1'.split(' '),
  ];
  const { output } = stream('ffmpeg', ['-v', 'error', ...QUIET, ...args], signal);
  response.type('video/mp4').set('Cache-Control', 'no-store');
  await pipeline(output, response).catch((error: unknown) => {
    // Somebody who stops listening is no fault.
    if (!signal.aborted && (error as NodeJS.ErrnoException).code !== 'ERR_STREAM_PREMATURE_CLOSE') throw error;
  });
}

const SENDERS = { frame: sendFrame, play: sendStream } as const;

/** Files of storages that need not be catalogued: one frame, a stream made on the fly, or the file as it is. */
export function mountShelfFiles(app: Express, identify: Identify): void {
  for (const [what, give] of Object.entries(SENDERS))
    app.get(`/files/shelf/:id/${what}`, async (request, response) => {
      await admit(request, 'look', identify);
      const asked = await askedOf(request);
      const gone = new AbortController();
      response.on('close', () => gone.abort());
      await give(asked, response, gone.signal).catch((error: unknown) => {
        if (!gone.signal.aborted) throw error;
      });
    });
  app.get('/files/shelf/:id/file', async (request, response) => {
    await admit(request, 'look', identify);
    const { root, item } = await askedOf(request);
    await send(response, join(root, item.path), null);
  });
}
