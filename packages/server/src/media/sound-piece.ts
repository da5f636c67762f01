import { SOUND_PIECE_MS, type Asset } from '@larder/contract';
import { run } from './run';
import { mergedForEars, streamsOf } from './sound-streams';

const TIMEOUT_MS = 30_000;

/**
 * A piece of a file's sound with its channels each by itself, eight at most, without loss (FLAC); empty beyond its end.
 * @param of what is known of the file, or null for one that has one stream
 */
export async function soundPiece(
  path: string,
  of: Pick<Asset, 'sound' | 'durationMs'> | null,
  fromMs: number,
  signal: AbortSignal,
): Promise<Buffer> {
  const left = of?.durationMs ? Math.min(SOUND_PIECE_MS, of.durationMs - fromMs) : SOUND_PIECE_MS;
  if (left <= 0) return Buffer.alloc(0);
  const streams = of?.sound ? streamsOf(of.sound) : [1];
  return run(
    'ffmpeg',
    [
      ...'-v error -nostdin'.split(' '),
      ...['-ss', `${fromMs}ms`, '-t', `${SOUND_PIECE_MS}ms`, '-i', path],
      ...['-filter_complex', `${mergedForEars(streams, left / 1000)}[heard]`, '-map', '[heard]'],
      ...'-c:a flac -compression_level 1 -f flac pipe:1'.split(' '),
    ],
    { timeoutMs: TIMEOUT_MS, signal },
  );
}
