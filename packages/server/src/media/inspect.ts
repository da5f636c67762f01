import { readFile } from 'node:fs/promises';
import { join } from 'node:path';
import ExifReader from 'exifreader';
import { readBwf } from '@larder/core/interchange/bwf';
import { findXmp, readXmp, type XmpProperty } from '@larder/core/interchange/xmp';
import { unusual, type ClipFacts, type ReelNeighbour } from '@larder/core/judge';
import { folderOf, framesOf, isMediaName, type ShelfItem } from '@larder/core/shelf';
import { countingForRate, parseRational, type Rational } from '@larder/core/timecode';
import type { ChannelPeaks, Inspection } from '@larder/contract';
import { mediaFacts, sequenceFacts, soundStreams, type MediaFacts, type ProbeOutput } from './facts';
import { withFile } from './file-source';
import { probeRaw, SEQUENCE_RATE } from './probe';
import { run } from './run';
import { channelsIn, mergedForEars, MOST_CHANNELS } from './sound-streams';
import { sheetsOf, type Embedded, type PixelFormat } from './sheet';

/** Packets and headers stand at the beginning or the end; this much is looked at of either. */
const LOOKED_AT_BYTES = 8 * 1024 * 1024;
const LONGEST_VALUE = 500;
const STILL = /\.(jpe?g|tiff?|png|webp)$/i;
/** Thumbnails and notes of the maker's own are no facts to read. */
const NOT_EXIF =
  /^(MakerNote|UserComment|Thumbnail|JPEGInterchange|undefined|PrintImageMatching|PaddingBytes|Image (Width|Height))/i;

let pixelFormats: Promise<ReadonlyMap<string, PixelFormat>> | null = null;
const formats = (): Promise<ReadonlyMap<string, PixelFormat>> =>
  (pixelFormats ??= run('ffprobe', '-v error -show_pixel_formats -print_format json'.split(' '), { timeoutMs: 30_000 })
    .then((output) => JSON.parse(output.toString('utf8')) as { pixel_formats: PixelFormat[] })
    .then(({ pixel_formats: all }) => new Map(all.map((format) => [format.name, format]))));

/** EXIF as names and values for reading; none where there is none, or where it is damaged. */
export function readExif(bytes: Uint8Array): XmpProperty[] {
  try {
    const { exif = {}, gps = {} } = ExifReader.load(Buffer.from(bytes), { expanded: true });
    return [...Object.entries(exif), ...Object.entries(gps)].flatMap(([name, tag]) => {
      const described: unknown =
        typeof tag === 'object' && tag !== null ? (tag as { description?: unknown }).description : tag;
      const value = typeof described === 'string' || typeof described === 'number' ? String(described).trim() : '';
      return value === '' || NOT_EXIF.test(name) ? [] : [{ name, value: value.slice(0, LONGEST_VALUE) }];
    });
  } catch {
    return [];
  }
}

async function embeddedIn(root: string, item: ShelfItem): Promise<Embedded> {
  const path = join(root, item.path);
  const read = await withFile(path, async (source) => {
    const head = await source.read(0, LOOKED_AT_BYTES);
    const rest = source.bytes - head.length;
    const tail =
      rest > 0
        ? await source.read(Math.max(head.length, source.bytes - LOOKED_AT_BYTES), LOOKED_AT_BYTES)
        : head.subarray(0, 0);
    const bwf = /\.(wav|bwf|rf64)$/i.test(item.path) ? await readBwf(source) : { bext: null, ixml: null };
    const packet = findXmp(head) ?? findXmp(tail);
    return { ...bwf, xmp: packet ? readXmp(packet) : [], exif: STILL.test(item.path) ? readExif(head) : [] };
  });
  const beside = item.sidecars.find((name) => /\.xmp$/i.test(name));
  if (read.xmp.length > 0 || !beside) return read;
  const document = await readFile(join(root, folderOf(item.path), beside), 'utf8').catch(() => '');
  return { ...read, xmp: readXmp(document.slice(0, LOOKED_AT_BYTES)) };
}

function ratesOf(probe: ProbeOutput, kind: MediaFacts['kind']): { nominal: Rational; average: Rational } | null {
  if (kind !== 'video') return null;
  const video = (probe.streams ?? []).find(
    (stream) => stream.codec_type === 'video' && !stream.disposition?.attached_pic,
  );
  const [nominal, average] = [parseRational(video?.r_frame_rate ?? ''), parseRational(video?.avg_frame_rate ?? '')];
  return nominal && average ? { nominal, average } : null;
}

function clipFacts(facts: MediaFacts, item: ShelfItem, probe: ProbeOutput): ClipFacts {
  return {
    hasPicture: facts.kind === 'video',
    counting: facts.rate && countingForRate(facts.rate, facts.dropFrame),
    rates: ratesOf(probe, facts.kind),
    startFrame: facts.startFrame,
    durationFrames: facts.durationFrames,
    reel: facts.reel,
    width: facts.width,
    height: facts.height,
    gaps: item.sequence?.gaps ?? [],
    channelPeaksDb: null,
  };
}

/** Reads everything that a file on a storage says of itself, catalogued or not. Throws ToolError or a file system error. */
export async function inspectItem(
  root: string,
  item: ShelfItem,
  neighboursOf: (reel: string) => Promise<readonly ReelNeighbour[]>,
): Promise<Inspection> {
  const { path, name, files, bytes, modifiedMs } = item;
  const known = { path, name, files, bytes, modifiedMs, gaps: item.sequence?.gaps ?? [] };
  if (!isMediaName(path)) return { ...known, ...NOTHING, kind: 'document' };
  const [probe, embedded, all] = await Promise.all([probeRaw(join(root, path)), embeddedIn(root, item), formats()]);
  const first = mediaFacts(probe, name, embedded);
  const facts = item.sequence ? sequenceFacts(first, framesOf(item.sequence), SEQUENCE_RATE) : first;
  const { kind, rate, dropFrame, durationFrames, durationMs, startFrame, width, height, reel } = facts;
  const neighbours = reel === null ? [] : await neighboursOf(reel);
  return {
    ...known,
    kind,
    rate: rate && { num: rate.num, den: rate.den, dropFrame },
    durationFrames,
    durationMs,
    startFrame,
    width,
    height,
    channels: channelsIn(soundStreams(probe)),
    sheets: sheetsOf(probe, facts, all.get(facts.pixelFormat ?? ''), embedded),
    unusual: unusual(clipFacts(facts, item, probe), neighbours),
    reason: kind === 'unreadable' ? 'It holds neither picture nor sound.' : null,
  };
}

const NOTHING = {
  rate: null,
  durationFrames: null,
  durationMs: null,
  startFrame: null,
  width: null,
  height: null,
  channels: 0,
  sheets: [],
  unusual: [],
  reason: null,
} as const;

/** What could not be read at all, as an inspection that says why. */
export const unreadableItem = ({ path, name, files, bytes, modifiedMs }: ShelfItem, reason: string): Inspection => ({
  path,
  name,
  files,
  bytes,
  modifiedMs,
  gaps: [],
  ...NOTHING,
  kind: 'unreadable',
  reason,
});

const LISTENED_SECONDS = 60;

/** Listens to the beginning of a file and tells the loudest sample of each channel. */
export async function listenTo(path: string, signal: AbortSignal): Promise<ChannelPeaks> {
  const probe = await probeRaw(path, signal);
  const streams = soundStreams(probe);
  if (channelsIn(streams) === 0) return { peaksDb: [], seconds: 0, unusual: [] };
  const listened = Math.min(LISTENED_SECONDS, Number(probe.format?.duration) || LISTENED_SECONDS);
  const peaksDb: (number | null)[] = [];
  let seconds = 0;
  const line = (text: string) => {
    const peak = /Peak level dB: (-?[\d.]+|-inf)/.exec(text)?.[1];
    const number = Number(peak);
    if (peak !== undefined) peaksDb.push(Number.isFinite(number) ? number : null);
    const clock = /time=(\d+):(\d+):([\d.]+)/.exec(text);
    if (clock) seconds = Number(clock[1]) * 3600 + Number(clock[2]) * 60 + Number(clock[3]);
    return text;
  };
  await run(
    'ffmpeg',
    [
      ...'-hide_banner -nostdin -protocol_whitelist file,pipe -t'.split(' '),
      String(LISTENED_SECONDS),
      '-i',
      path,
      '-filter_complex',
      `${mergedForEars(streams, listened)},astats=measure_perchannel=Peak_level:measure_overall=none[heard]`,
      ...'-map [heard] -f null -'.split(' '),
    ],
    { timeoutMs: 60_000, signal, errorLine: line },
  );
  const heard = peaksDb.slice(0, Math.min(MOST_CHANNELS, channelsIn(streams)));
  const facts = { ...SILENT_CLIP, channelPeaksDb: heard.map((peak) => peak ?? -Infinity) };
  return { peaksDb: heard, seconds: Math.round(seconds * 10) / 10, unusual: unusual(facts, []) };
}

const SILENT_CLIP: ClipFacts = {
  hasPicture: false,
  counting: null,
  rates: null,
  startFrame: null,
  durationFrames: null,
  reel: null,
  width: null,
  height: null,
  gaps: [],
  channelPeaksDb: null,
};
