import { FrameBuilder, SPEECH_RATE, type SoundFrames } from '@larder/core/audio';
import type { Asset } from '@larder/contract';
import { ffmpeg, QUIET } from './ffmpeg';
import { run } from './run';
import { wholeSamples } from './samples';
import { heard, merged, streamsOf } from './sound-streams';

const PIECE_TIMEOUT_MS = 120_000;

/** What is heard of a file, as one channel of the rate that speech is listened to with. */
function speechGraph({ sound, durationMs }: Pick<Asset, 'sound' | 'durationMs'>): string {
  if (!sound) throw new Error('there is no sound');
  const all = merged(streamsOf(sound), (durationMs ?? 0) / 1000 || null);
  return `${all},${heard(sound)},aformat=sample_rates=${SPEECH_RATE}:channel_layouts=mono[speech]`;
}

/** Listens to all of a file, for where in it somebody speaks. */
export async function soundFrames(path: string, asset: Asset, signal: AbortSignal): Promise<SoundFrames> {
  const builder = new FrameBuilder();
  const graph = ['-filter_complex', speechGraph(asset), '-map', '[speech]'];
  await ffmpeg(['-i', path, ...graph, '-f', 's16le', 'pipe:3'], {
    signal,
    frames: () => undefined,
    onExtra: wholeSamples((samples) => builder.add(samples)),
  });
  return builder.finish();
}

/** Writes a stretch of a file's sound as a WAV file that a recogniser reads. */
export async function cutSpeech(
  path: string,
  asset: Asset,
  { startMs, endMs }: { readonly startMs: number; readonly endMs: number },
  to: string,
  signal: AbortSignal,
): Promise<void> {
  const length = endMs - startMs;
  await run(
    'ffmpeg',
    [
      ...['-v', 'error', ...QUIET, '-ss', `${startMs}ms`, '-t', `${length}ms`, '-i', path],
      ...['-filter_complex', speechGraph({ sound: asset.sound, durationMs: length }), '-map', '[speech]'],
      ...['-c:a', 'pcm_s16le', '-f', 'wav', to],
    ],
    { signal, timeoutMs: PIECE_TIMEOUT_MS },
  );
}
