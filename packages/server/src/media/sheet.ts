import { wordCodePoint } from '@larder/core/colour';
import type { Bext, Ixml } from '@larder/core/interchange/bwf';
import type { XmpProperty } from '@larder/core/interchange/xmp';
import { countingForRate, formatTimecode, parseRational, rational } from '@larder/core/timecode';
import type { InspectionSheet } from '@larder/contract';
import type { MediaFacts, ProbeOutput, ProbeStream } from './facts';

/** How ffmpeg's own list describes a pixel format. */
export interface PixelFormat {
  readonly name: string;
  readonly nb_components: number;
  readonly log2_chroma_w?: number;
  readonly log2_chroma_h?: number;
  readonly flags: { readonly alpha: number; readonly rgb: number };
  readonly components?: readonly { readonly bit_depth: number }[];
}

export interface Embedded {
  readonly bext: Bext | null;
  readonly ixml: Ixml | null;
  readonly xmp: readonly XmpProperty[];
  readonly exif: readonly XmpProperty[];
}

type Row = readonly [label: string, value: string | number | null | undefined];

const sheet = (title: string, rows: readonly Row[]): InspectionSheet[] => {
  const said = rows.flatMap(([label, value]) =>
    value === null || value === undefined || value === '' ? [] : [{ label, value: String(value) }],
  );
  return said.length > 0 ? [{ title, rows: said }] : [];
};

const SCANS: Readonly<Record<string, string>> = {
  progressive: 'Progressive',
  tt: 'Interlaced, top field first',
  bb: 'Interlaced, bottom field first',
  tb: 'Interlaced, coded top first, shown bottom first',
  bt: 'Interlaced, coded bottom first, shown top first',
};
const RANGES: Readonly<Record<string, string>> = { tv: 'Limited (video)', pc: 'Full' };

/** By the powers of two by which chroma is sampled less often across and down. */
const SUBSAMPLINGS: Readonly<Record<string, string>> = {
  '0 0': '4:4:4',
  '1 0': '4:2:2',
  '1 1': '4:2:0',
  '2 0': '4:1:1',
  '2 2': '4:1:0',
  '0 1': '4:4:0',
};

/** 4:2:0 and the like, by how much less often chroma is sampled than luma. */
export function wordChroma({
  flags,
  nb_components: parts,
  log2_chroma_w: w = 0,
  log2_chroma_h: h = 0,
}: PixelFormat): string {
  if (flags.rgb) return 'RGB';
  if (parts < 3) return 'None (grey)';
  return SUBSAMPLINGS[`${w} ${h}`] ?? '';
}

function exactRate(text: string | undefined): string | null {
  const rate = parseRational(text ?? '');
  if (!rate) return null;
  const { id } = countingForRate(rational(rate.num, rate.den));
  return rate.den === 1 ? id : `${id} (${rate.num}/${rate.den})`;
}

const kilobits = (text: string | undefined): string | null => {
  const bits = Number(text);
  if (!Number.isFinite(bits) || bits <= 0) return null;
  return bits >= 1e6 ? `${(bits / 1e6).toFixed(2)} Mbit/s` : `${Math.round(bits / 1000)} kbit/s`;
};

function picture(
  video: ProbeStream | undefined,
  facts: MediaFacts,
  format: PixelFormat | undefined,
): InspectionSheet[] {
  if (!video) return [];
  const rotation = video.side_data_list?.find((side) => side.rotation !== undefined)?.rotation;
  const square = video.sample_aspect_ratio === undefined || /^(1:1|0:1|N\/A)$/.test(video.sample_aspect_ratio);
  return [
    ...sheet('Picture', [
      ['Codec', [video.codec_long_name ?? video.codec_name, video.profile].filter(Boolean).join(', ')],
      ['Raster', `${video.width ?? 0} × ${video.height ?? 0}`],
      ['Pixel aspect', square ? 'Square' : video.sample_aspect_ratio],
      ['Scan', facts.kind === 'still' ? null : (SCANS[video.field_order ?? ''] ?? 'Not said')],
      ['Rate', facts.kind === 'still' ? null : exactRate(video.r_frame_rate)],
      [
        'Average rate',
        video.avg_frame_rate === video.r_frame_rate || facts.kind === 'still' ? null : exactRate(video.avg_frame_rate),
      ],
      ['Frames', facts.durationFrames],
      ['Bit depth', format?.components?.[0] ? `${format.components[0].bit_depth} bit` : null],
      ['Chroma', format && wordChroma(format)],
      ['Alpha', format && (format.flags.alpha ? 'Yes' : 'No')],
      ['Rotation', rotation === undefined ? 'None' : `${rotation}°`],
      ['Bit rate', kilobits(video.bit_rate)],
    ]),
    ...sheet('Colour (ITU-T H.273)', [
      ['Primaries', wordCodePoint('primaries', facts.colour?.primaries ?? null)],
      ['Transfer', wordCodePoint('transfer', facts.colour?.transfer ?? null)],
      ['Matrix', wordCodePoint('matrix', facts.colour?.matrix ?? null)],
      ['Range', RANGES[facts.colour?.range ?? ''] ?? 'Not said'],
    ]),
  ];
}

const sound = (audio: ProbeStream, index: number, all: readonly ProbeStream[]): InspectionSheet[] =>
  sheet(all.length > 1 ? `Sound ${index + 1}` : 'Sound', [
    ['Codec', audio.codec_long_name ?? audio.codec_name],
    ['Channels', audio.channels],
    ['Layout', audio.channel_layout ?? 'Not said'],
    ['Sample rate', audio.sample_rate ? `${audio.sample_rate} Hz` : null],
    [
      'Bit depth',
      audio.bits_per_raw_sample && audio.bits_per_raw_sample !== '0'
        ? `${audio.bits_per_raw_sample} bit`
        : audio.bits_per_sample
          ? `${audio.bits_per_sample} bit`
          : null,
    ],
    ['Bit rate', kilobits(audio.bit_rate)],
  ]);

function slate(facts: MediaFacts, tag: (name: string) => string | null): InspectionSheet[] {
  const counting = facts.rate && countingForRate(facts.rate, facts.dropFrame);
  const maker = [tag('make'), tag('model')];
  return sheet('Recording', [
    ['Start timecode', counting && facts.startFrame !== null ? formatTimecode(facts.startFrame, counting) : null],
    ['Reel', facts.reel],
    ['Scene', facts.scene],
    ['Take', facts.take],
    ['Shot on', facts.shotMs === null ? null : new Date(facts.shotMs).toISOString().replace('T', ' ').slice(0, 19)],
    ['Device', maker.filter(Boolean).join(' ')],
    ['Position', facts.says.position],
    ['Samples since midnight', facts.timeReferenceSamples],
  ]);
}

const bextSheet = (bext: Bext | null): InspectionSheet[] =>
  bext
    ? sheet('Broadcast extension (EBU Tech 3285)', [
        ['Description', bext.description],
        ['Originator', bext.originator],
        ['Reference', bext.originatorReference],
        ['Date', bext.originationDate],
        ['Time', bext.originationTime],
        ['Time reference', `${bext.timeReferenceSamples} samples`],
        ['Version', bext.version],
        ['Coding history', bext.codingHistory],
      ])
    : [];

const ixmlSheet = (ixml: Ixml | null): InspectionSheet[] =>
  ixml
    ? sheet('iXML', [
        ['Project', ixml.project],
        ['Scene', ixml.scene],
        ['Take', ixml.take],
        ['Tape', ixml.tape],
        ['Note', ixml.note],
        ['Circled', ixml.circled === null ? null : ixml.circled ? 'Yes' : 'No'],
        ...[...ixml.tracks].map(([channel, name]): Row => [`Track ${channel}`, name]),
      ])
    : [];

/** Everything that a file says of itself, in groups to read. */
export function sheetsOf(
  probe: ProbeOutput,
  facts: MediaFacts,
  pixelFormat: PixelFormat | undefined,
  { bext, ixml, xmp, exif }: Embedded,
): InspectionSheet[] {
  const streams = probe.streams ?? [];
  const audios = streams.filter((stream) => stream.codec_type === 'audio');
  const video = streams.find((stream) => stream.codec_type === 'video' && !stream.disposition?.attached_pic);
  const tags = [probe.format?.tags, ...streams.map((stream) => stream.tags)];
  // Containers write the same names with and without a domain before them.
  const tag = (name: string) =>
    tags.flatMap((each) => Object.entries(each ?? {})).find(([key]) => key === name || key.endsWith(`.${name}`))?.[1] ??
    null;
  const plain = (properties: readonly XmpProperty[]) => properties.map(({ name, value }): Row => [name, value]);
  return [
    ...sheet('Container', [
      ['Format', probe.format?.format_long_name ?? probe.format?.format_name],
      ['Duration', facts.durationMs === null ? null : `${(facts.durationMs / 1000).toFixed(3)} s`],
      ['Streams', streams.map((stream) => stream.codec_type ?? 'unknown').join(', ')],
      ['Bit rate', kilobits(probe.format?.bit_rate)],
    ]),
    ...picture(video, facts, pixelFormat),
    ...audios.flatMap(sound),
    ...slate(facts, tag),
    ...bextSheet(bext),
    ...ixmlSheet(ixml),
    ...sheet('EXIF', plain(exif)),
    ...sheet('XMP', plain(xmp)),
    ...sheet(
      'Tags of the container',
      Object.entries(probe.format?.tags ?? {}).map(([name, value]): Row => [name, value]),
    ),
  ];
}
