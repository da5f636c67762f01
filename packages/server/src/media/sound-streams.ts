import type { Sound } from '@larder/contract';

/** FLAC has no more, and nor do the meters. */
export const MOST_CHANNELS = 8;
/** ffmpeg’s `amerge` takes no more inputs or channels. */
const MOST_MERGED = 64;
/** Names under which `ebur128` weighs channels alike: it leaves out what is for low frequencies and lifts what is behind. */
const WEIGHED_ALIKE = 'FL FR FC FLC FRC TC TFL TFC TFR DL DR WL WR SDL SDR'.split(' ');

/** Channels of each stream of sound in a file, in its order; 0 for one that cannot be decoded. */
export type Streams = readonly number[];

export const streamsOf = ({ channels, streams }: Sound): Streams => streams ?? [channels];
const sumOf = (counts: readonly number[]): number => counts.reduce((sum, each) => sum + each, 0);

/** Places in the file of the streams that can be decoded. */
export const decodableOf = (streams: Streams): number[] =>
  streams.flatMap((channels, index) => (channels > 0 ? [index] : []));

/** The streams that are made one, by their place in the file. */
function taken(streams: Streams): { readonly index: number; readonly channels: number }[] {
  let room = MOST_MERGED;
  return streams.flatMap((channels, index) => {
    if (channels === 0 || channels > room) return [];
    room -= channels;
    return [{ index, channels }];
  });
}

/** How many channels there are once all streams are one. */
export const channelsIn = (streams: Streams): number => sumOf(taken(streams).map(({ channels }) => channels));

const picked = (layout: string, channels: readonly number[]): string =>
  `channelmap=map=${channels.join('|')}:channel_layout=${layout}`;
const first = (count: number): number[] => Array.from({ length: count }, (_unused, index) => index);
const mixed = (channels: readonly number[]): string => channels.map((channel) => `c${channel}`).join('+');

/**
 * A graph that makes all the streams of a file one, channel after channel in the file’s order: cameras write each microphone to a
 * stream of its own. Streams that are shorter are filled up with silence to the end, if that is known.
 * @param seconds from where the reading begins to the end
 * @param input which of those that are read the file is
 */
export function merged(streams: Streams, seconds: number | null, input = 0): string {
  const all = taken(streams);
  if (all.length < 2) return `[${input}:a:${all[0]?.index ?? 0}]anull`;
  const fill = seconds === null ? '' : ',apad';
  const inputs = all.map(({ index, channels }) => {
    // Where the places of channels do not overlap, `amerge` puts them into an order of its own.
    const place = channels === 1 ? picked('FL', [0]) : channels === 2 ? picked('stereo', [0, 1]) : 'anull';
    return `[${input}:a:${index}]${place}${fill}[s${input}_${index}]`;
  });
  const together = `${all.map(({ index }) => `[s${input}_${index}]`).join('')}amerge=inputs=${all.length}`;
  return `${inputs.join(';')};${together}${seconds === null ? '' : `,atrim=end=${seconds.toFixed(6)}`}`;
}

/** The same, with at most so many channels as are heard one by one. */
export function mergedForEars(streams: Streams, seconds: number | null): string {
  const cut = channelsIn(streams) > MOST_CHANNELS ? `,${picked('7.1', first(MOST_CHANNELS))}` : '';
  return merged(streams, seconds) + cut;
}

/** Whether channels stand for themselves, one microphone each, rather than for places of loudspeakers. */
const apart = (sound: Sound): boolean =>
  streamsOf(sound).filter((channels) => channels > 0).length > 1 || sound.layout === null;

/**
 * What is heard of the one stream: where the first stream is of one channel, all such, odd ones at the left and even ones at the
 * right, none louder than another; else the first stream, with the others being other mixes.
 */
export function heard(sound: Sound): string {
  const all = taken(streamsOf(sound));
  const [{ channels: leading } = { channels: 0 }] = all;
  let from = 0;
  const places = all.map(({ channels }) => ({ channels, from: (from += channels) - channels }));
  const single = places.filter(({ channels }) => channels === 1).map((each) => each.from);
  const channels = leading === 1 ? single : first(leading);
  if (all.length < 2 && (leading <= 2 || sound.layout !== null)) return 'anull';
  if (channels.length === 1) return picked('mono', channels);
  if (leading > 2 && sound.layout !== null) return picked(sound.layout, channels);
  const side = (right: number) => mixed(channels.filter((_channel, index) => index % 2 === right));
  return `pan=stereo|c0<${side(0)}|c1<${side(1)}`;
}

/** What makes loudness be measured with all channels counting alike, where they stand for themselves. */
export function weighed(sound: Sound): string {
  const channels = Math.min(WEIGHED_ALIKE.length, channelsIn(streamsOf(sound)));
  return channels > 2 && apart(sound) ? picked(WEIGHED_ALIKE.slice(0, channels).join('+'), first(channels)) : 'anull';
}
