import { FrameBuilder, SPEECH_RATE, type SoundFrames } from '@larder/core/audio';
import type { Asset } from '@larder/contract';
import { ffmpeg, QUIET } from './ffmpeg';
import { run } from './run';
import { wholeSamples } from './samples';
import { channelsIn, heard, merged, streamsOf } from './sound-streams';

const PIECE_TIMEOUT_MS = 120_000;

/** What is heard of a file, or one of its channels, as one channel of the rate that speech is listened to with: `[speech0]`. */
function speechGraph(
  { sound, durationMs }: Pick<Asset, 'sound' | 'durationMs'>,
  channel: number | null,
  input = 0,
): string {
  if (!sound) throw new Error('there is no sound');
  const all = merged(streamsOf(sound), (durationMs ?? 0) / 1000 || null, input);
  const one = channel === null ? heard(sound) : `pan=mono|c0=c${channel}`;
  return `${all},${one},aformat=sample_rates=${SPEECH_RATE}:channel_layouts=mono[speech${input}]`;
}

/** Listens to all of a file, for where in it somebody speaks. */
export async function soundFrames(path: string, asset: Asset, signal: AbortSignal): Promise<SoundFrames> {
  const builder = new FrameBuilder();
  const graph = ['-filter_complex', speechGraph(asset, null), '-map', '[speech0]'];
  await ffmpeg(['-i', path, ...graph, '-f', 's16le', 'pipe:3'], {
    signal,
    frames: () => undefined,
    onExtra: wholeSamples((samples) => builder.add(samples)),
  });
  return builder.finish();
}

/** As `soundFrames`, of each channel by itself. */
export async function channelFrames(path: string, asset: Asset, signal: AbortSignal): Promise<SoundFrames[]> {
  if (!asset.sound) return [];
  const streams = streamsOf(asset.sound);
  const builders = Array.from({ length: channelsIn(streams) }, () => new FrameBuilder());
  const all = merged(streams, (asset.durationMs ?? 0) / 1000 || null);
  const graph = ['-filter_complex', `${all},aformat=sample_rates=${SPEECH_RATE}[speech]`, '-map', '[speech]'];
  await ffmpeg(['-i', path, ...graph, '-f', 's16le', 'pipe:3'], {
    signal,
    frames: () => undefined,
    onExtra: wholeSamples((samples) => {
      const { length } = builders;
      const one = new Int16Array(samples.length / length);
      builders.forEach((builder, channel) => {
        for (let at = 0; at < one.length; at += 1) one[at] = samples[at * length + channel] as number;
        builder.add(one);
      });
    }, builders.length),
  });
  return builders.map((builder) => builder.finish());
}

/** A stretch of a file's sound, or of one of its channels, and where it is written. */
export interface SpeechCut {
  readonly startMs: number;
  readonly endMs: number;
  readonly channel: number | null;
  readonly to: string;
}

/**
 * Writes stretches of a file's sound as WAV files that a recogniser reads. Together, as to begin a process for each takes as long as
 * to listen to some of them.
 */
export async function cutSpeech(
  path: string,
  asset: Asset,
  cuts: readonly SpeechCut[],
  signal: AbortSignal,
): Promise<void> {
  const inputs = cuts.flatMap(({ endMs, startMs }) => [
    '-ss',
    `${startMs}ms`,
    '-t',
    `${endMs - startMs}ms`,
    '-i',
    path,
  ]);
  const graphs = cuts.map(({ channel, endMs, startMs }, at) =>
    speechGraph({ sound: asset.sound, durationMs: endMs - startMs }, channel, at),
  );
  const outputs = cuts.flatMap(({ to }, at) => ['-map', `[speech${at}]`, '-c:a', 'pcm_s16le', '-f', 'wav', to]);
  await run('ffmpeg', ['-v', 'error', ...QUIET, ...inputs, '-filter_complex', graphs.join(';'), ...outputs], {
    signal,
    timeoutMs: PIECE_TIMEOUT_MS * cuts.length,
  });
}
