import type { Kind } from '@larder/core/fields';
import type { Bext, Ixml } from '@larder/core/interchange/bwf';
import {
  countingForRate,
  parseRational,
  parseTimecode,
  rescaleFrames,
  secondsToFrames,
  type Rational,
} from '@larder/core/timecode';
import type { ColourTags, Sound } from '@larder/contract';
import { fileSays, type FileSays } from './file-says';

/** What a file says of itself, in the catalogue's terms. */
export interface MediaFacts {
  readonly kind: Kind;
  readonly rate: Rational | null;
  readonly dropFrame: boolean;
  readonly durationFrames: number | null;
  readonly durationMs: number | null;
  readonly startFrame: number | null;
  readonly reel: string | null;
  readonly scene: string | null;
  readonly take: string | null;
  /** In the fields that people fill in. */
  readonly says: FileSays;
  readonly shotMs: number | null;
  readonly width: number | null;
  readonly height: number | null;
  readonly codec: string | null;
  readonly pixelFormat: string | null;
  readonly colour: ColourTags | null;
  readonly sound: Sound | null;
  readonly timeReferenceSamples: number | null;
}

type Tags = Readonly<Record<string, string | undefined>>;

export interface ProbeStream {
  readonly codec_type?: string;
  readonly codec_name?: string;
  readonly codec_long_name?: string;
  readonly profile?: string;
  readonly field_order?: string;
  readonly sample_aspect_ratio?: string;
  readonly bit_rate?: string;
  readonly bits_per_sample?: number;
  readonly bits_per_raw_sample?: string;
  readonly width?: number;
  readonly height?: number;
  readonly pix_fmt?: string;
  readonly r_frame_rate?: string;
  readonly avg_frame_rate?: string;
  readonly time_base?: string;
  readonly duration_ts?: number;
  readonly nb_frames?: string;
  readonly color_primaries?: string;
  readonly color_transfer?: string;
  readonly color_space?: string;
  readonly color_range?: string;
  readonly channels?: number;
  readonly channel_layout?: string;
  readonly sample_rate?: string;
  readonly disposition?: { readonly attached_pic?: number };
  readonly tags?: Tags;
  readonly side_data_list?: readonly { readonly rotation?: number }[];
}

/** ffprobe's JSON, as far as it is read. It describes a file we did not make: every part may be absent or untrue. */
export interface ProbeOutput {
  readonly streams?: readonly ProbeStream[];
  readonly format?: {
    readonly format_name?: string;
    readonly format_long_name?: string;
    readonly duration?: string;
    readonly bit_rate?: string;
    readonly tags?: Tags;
  };
}

const STILL_FORMATS =
  /^(image2|png_pipe|jpeg_pipe|tiff_pipe|webp_pipe|bmp_pipe|dpx_pipe|exr_pipe|psd_pipe|svg_pipe|gif_pipe)/;
const STILL_CODECS = new Set(['png', 'mjpeg', 'tiff', 'webp', 'bmp', 'dpx', 'exr']);
/** Reel and clip number in a camera's file name, as in `A003C012`: common practice, no source. */
const CAMERA_NAME = /^([A-Z]\d{3})_?C\d{3}/;

const said = (value: string | undefined): string | null =>
  value === undefined || value === '' || value === 'unknown' ? null : value;
const positive = (value: number | undefined): number | null =>
  value !== undefined && Number.isFinite(value) && value > 0 ? value : null;

/** The first of the tags that says something; names are compared without case. */
function tag(sources: readonly (Tags | undefined)[], ...names: string[]): string | null {
  for (const name of names)
    for (const tags of sources)
      for (const [key, value] of Object.entries(tags ?? {}))
        if (key.toLowerCase() === name && said(value)) return said(value)?.slice(0, 100) ?? null;
  return null;
}

/** A duration in seconds printed as a decimal, exactly: `5.005000` is 5005/1000. */
function decimalSeconds(text: string | undefined): Rational | null {
  const match = /^(\d{1,9})(?:\.(\d{1,6}))?$/.exec(text ?? '');
  if (!match) return null;
  const digits = match[2] ?? '';
  return { num: Number((match[1] as string) + digits), den: 10 ** digits.length };
}

function videoFrames(video: ProbeStream, rate: Rational, formatDuration: string | undefined): number | null {
  const counted = Number(video.nb_frames);
  if (Number.isSafeInteger(counted) && counted > 0) return counted;
  const base = parseRational(video.time_base ?? '');
  if (base && positive(video.duration_ts))
    return rescaleFrames(video.duration_ts as number, { num: base.den, den: base.num }, rate);
  const seconds = decimalSeconds(formatDuration);
  return seconds && secondsToFrames(seconds, rate, 'nearest');
}

const milliseconds = (frames: number, rate: Rational): number => rescaleFrames(frames, rate, { num: 1000, den: 1 });

function shotOn(text: string | null, bext: Bext | null): number | null {
  const stamp = bext?.originationDate
    ? `${bext.originationDate.replace(/[^\d]/g, '-')}T${bext.originationTime.replace(/[^\d]/g, ':') || '00:00:00'}Z`
    : text;
  const ms = stamp === null ? NaN : Date.parse(stamp);
  // Cameras whose clock was never set say 1904 or 1970.
  return Number.isFinite(ms) && ms > Date.UTC(1980, 0, 1) ? ms : null;
}

const audioStreams = (probe: ProbeOutput): ProbeStream[] =>
  (probe.streams ?? []).filter((stream) => stream.codec_type === 'audio');
/** Of a stream that ffmpeg has no decoder for, as some telephones write beside the others, ffprobe names no codec. */
const decodable = ({ codec_name: codec, channels }: ProbeStream): boolean =>
  said(codec) !== null && codec !== 'none' && positive(channels) !== null;

/** Channels of each stream of sound, in the file's order; 0 for one that cannot be decoded. */
export const soundStreams = (probe: ProbeOutput): number[] =>
  audioStreams(probe).map((stream) => (decodable(stream) ? (stream.channels ?? 0) : 0));

/** Null also where ffprobe merely counts the channels, as it does where it has no name for their places. */
function layoutOf({ channel_layout: layout }: ProbeStream): string | null {
  return /^\d+ channels/.test(layout ?? '') ? null : said(layout);
}

function soundOf(probe: ProbeOutput): Sound | null {
  const streams = soundStreams(probe);
  const first = audioStreams(probe).find(decodable);
  if (!first) return null;
  return {
    codec: first.codec_name as string,
    channels: streams.reduce((sum, channels) => sum + channels, 0),
    ...(streams.length > 1 ? { streams } : {}),
    layout: layoutOf(first),
    sampleRate: positive(Number(first.sample_rate)) ?? 0,
  };
}

/** Puts what ffprobe and the sound chunks say into the catalogue's terms. `fileName` helps where a file itself says nothing of its reel. */
export function mediaFacts(
  probe: ProbeOutput,
  fileName: string,
  bwf: { readonly bext: Bext | null; readonly ixml: Ixml | null } = { bext: null, ixml: null },
): MediaFacts {
  const streams = probe.streams ?? [];
  const video = streams.find((stream) => stream.codec_type === 'video' && !stream.disposition?.attached_pic);
  const audios = audioStreams(probe);
  const sources = [...streams.map((stream) => stream.tags), probe.format?.tags];
  const still =
    video !== undefined &&
    audios.length === 0 &&
    STILL_FORMATS.test(probe.format?.format_name ?? '') &&
    STILL_CODECS.has(video.codec_name ?? '');
  const kind: Kind = video ? (still ? 'still' : 'video') : audios.length > 0 ? 'audio' : 'unreadable';
  // r_frame_rate is the exact rate of constant-rate material; the average covers material without one.
  const rate =
    kind === 'video' ? (parseRational(video?.r_frame_rate ?? '') ?? parseRational(video?.avg_frame_rate ?? '')) : null;
  const start = tag(sources, 'timecode');
  const dropFrame = start !== null && start.includes(';');
  const parsed = start && rate ? parseTimecode(start, countingForRate(rate, dropFrame)) : null;
  const durationFrames = video && rate ? videoFrames(video, rate, probe.format?.duration) : null;
  const seconds = decimalSeconds(probe.format?.duration);
  const turned =
    Math.abs(video?.side_data_list?.find((side) => side.rotation !== undefined)?.rotation ?? 0) % 180 === 90;
  const { bext, ixml } = bwf;
  return {
    kind,
    rate,
    dropFrame,
    durationFrames,
    durationMs:
      durationFrames !== null && rate
        ? milliseconds(durationFrames, rate)
        : kind === 'audio' && seconds
          ? Math.round((seconds.num * 1000) / seconds.den)
          : null,
    startFrame: parsed && 'frames' in parsed ? parsed.frames : null,
    reel: tag(sources, 'reel_name', 'reel') ?? ixml?.tape ?? CAMERA_NAME.exec(fileName)?.[1] ?? null,
    scene: ixml?.scene ?? tag(sources, 'scene'),
    take: ixml?.take ?? tag(sources, 'take'),
    says: fileSays(tag(sources, 'location', 'location-eng'), bext, ixml),
    shotMs: shotOn(tag(sources, 'creation_time', 'date'), bext),
    width: positive(turned ? video?.height : video?.width),
    height: positive(turned ? video?.width : video?.height),
    codec: kind === 'audio' ? null : said(video?.codec_name),
    pixelFormat: said(video?.pix_fmt),
    colour: video
      ? {
          primaries: said(video.color_primaries),
          transfer: said(video.color_transfer),
          matrix: said(video.color_space),
          range: said(video.color_range),
        }
      : null,
    sound: soundOf(probe),
    timeReferenceSamples: bext && bext.timeReferenceSamples > 0 ? bext.timeReferenceSamples : null,
  };
}

/** The facts of an image sequence: those of its first picture, and as many frames as its numbers span. */
export const sequenceFacts = (first: MediaFacts, frames: number, rate: Rational): MediaFacts => ({
  ...first,
  kind: 'sequence',
  rate,
  durationFrames: frames,
  durationMs: milliseconds(frames, rate),
});
