import { SOUND_PIECE_MS } from '@larder/contract';
import { run } from './run';

const TIMEOUT_MS = 30_000;

/** A piece of a file's sound with all of its channels, without loss (FLAC); empty beyond its end. */
export const soundPiece = (path: string, fromMs: number, signal: AbortSignal): Promise<Buffer> =>
  run(
    'ffmpeg',
    [
      ...'-v error -nostdin'.split(' '),
      ...['-ss', `${fromMs}ms`, '-t', `${SOUND_PIECE_MS}ms`, '-i', path],
      // Of several streams ffmpeg takes the one with the most channels, as the catalogue does.
      ...'-vn -sn -dn -c:a flac -compression_level 1 -f flac pipe:1'.split(' '),
    ],
    { timeoutMs: TIMEOUT_MS, signal },
  );
