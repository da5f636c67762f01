import type { SoundFrames } from './sound-frames';
import { speechPieces } from './sound-parts';

/**
 * A voice reaches the microphones of the others too, more softly: of a moment only the channels count that are no softer than the
 * loudest one by so much. Common practice of automatic mixers, no source; the value is by judgement.
 */
const NEAR_DB = 6;
const SILENT_DB = -100;

/** A stretch in which somebody speaks into a channel; channels count from 0, times in milliseconds. */
export interface ChannelPiece {
  readonly channel: number;
  readonly startMs: number;
  readonly endMs: number;
}

/** Where somebody speaks in each of several channels that are recorded together, each voice in the channel that is nearest to it; by time. */
export function channelPieces(channels: readonly SoundFrames[]): ChannelPiece[] {
  const loudest = loudestOf(channels);
  return channels
    .flatMap((frames, channel) => speechPieces(nearestOnly(frames, loudest)).map((piece) => ({ ...piece, channel })))
    .sort((a, b) => a.startMs - b.startMs || a.channel - b.channel);
}

function loudestOf(channels: readonly SoundFrames[]): Float32Array {
  const length = Math.max(0, ...channels.map(({ levels }) => levels.length));
  const loudest = new Float32Array(length).fill(SILENT_DB);
  for (const { levels } of channels)
    for (let at = 0; at < levels.length; at += 1) loudest[at] = Math.max(loudest[at] as number, levels[at] as number);
  return loudest;
}

/** As if nothing were heard where another channel hears it better. */
function nearestOnly({ crossings, levels, pitched }: SoundFrames, loudest: Float32Array): SoundFrames {
  const isNear = (_value: number, at: number) => (levels[at] as number) >= (loudest[at] as number) - NEAR_DB;
  const where = (values: Float32Array, other: number) => values.map((value, at) => (isNear(value, at) ? value : other));
  return { levels: where(levels, SILENT_DB), crossings: where(crossings, 0), pitched: where(pitched, 0) };
}
