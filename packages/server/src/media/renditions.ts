import { writeFile } from 'node:fs/promises';
import sharp from 'sharp';
import { codePoint, type CodePointTable } from '@larder/core/colour';
import { PeaksBuilder, readLoudness } from '@larder/core/audio';
import type { Asset, Loudness, RenditionKind } from '@larder/contract';
import { ffmpeg, seekTo, withInput, type Original, type Progress } from './ffmpeg';
import { proxyExtension, type RenditionStore } from './rendition-store';
import { run } from './run';
import { wholeSamples } from './samples';
import { heard, merged, streamsOf, weighed } from './sound-streams';

/** Columns of a filmstrip: enough to find a shot by moving over a thumbnail. */
export const FILMSTRIP_FRAMES = 20;
/** Frames from one column of it to the next. */
export const filmstripStep = (frames: number | null): number =>
  Math.max(1, Math.ceil(Math.max(1, frames ?? 1) / FILMSTRIP_FRAMES));
const FILMSTRIP_WIDTH = 288;
/** As wide as a picture of a filmstrip. */
export const filmstripScale = (): string => even(FILMSTRIP_WIDTH);
const POSTER_WIDTH = 480;
const PROXY_WIDTH = 960;
const PEAKS_RATE = 8000;
const PEAKS_PAIRS = 1200;
const MAX_PIXELS = 400_000_000;

const hasPicture = ({ kind }: Asset): boolean => kind === 'video' || kind === 'sequence';
/** Not wider than this, as it is shown, with even sides. */
const even = (width: number) => `scale='trunc(min(${width},iw*sar)/2)*2':-2,setsar=1`;

/** What was made of an original, with its sizes in bytes. */
export interface Made {
  readonly renditions: readonly (readonly [RenditionKind, number])[];
  /** How many frames the whole decoding gave; null without moving picture. */
  readonly frames: number | null;
  readonly loudness: Loudness | null;
}

/** The frame by which a clip is told if nobody says: a third of the way in, since first frames are black or a slate. */
const posterFrame = ({ durationFrames, poster }: Asset): number =>
  typeof poster === 'number' ? poster : Math.floor(Math.max(1, durationFrames ?? 1) / 3);

/** A picture is black if this many in a hundred of its pixels are darker than this; as the `blackframe` filter of ffmpeg has it. */
const BLACK = { percent: 95, level: 32 } as const;

/**
 * The picture to find a clip by: taken by seeking, in a moment. The frame that a person chose; else one a third of the way in, and
 * where that is black, or a person wants it so, the first that is not.
 */
export async function makePoster(original: Original, store: RenditionStore, progress: Progress): Promise<number> {
  const { asset } = original;
  if (asset.kind === 'sequence') return withInput(original, store, (input) => posterOf(asset, input, store, progress));
  return posterOf(asset, ['-i', original.path], store, progress);
}

async function posterOf(
  asset: Asset,
  input: readonly string[],
  store: RenditionStore,
  progress: Progress,
): Promise<number> {
  const notBlack = `blackframe=amount=0:threshold=${BLACK.level},metadata=mode=select:key=lavfi.blackframe.pblack:value=${BLACK.percent}:function=less,`;
  const { rate, durationFrames } = asset;
  const take = (frame: number, choosing: string, to: string) => {
    const seconds = rate ? seekTo((frame * rate.den) / rate.num, rate) : 0;
    // Not beyond the end of a part.
    const length = rate ? (Math.max(1, durationFrames ?? 1) * rate.den) / rate.num : 1;
    return ffmpeg(
      [
        ...[
          '-ss',
          seconds.toFixed(6),
          '-t',
          length.toFixed(6),
          ...input,
          '-map',
          '0:v:0',
          '-vf',
          prepared(asset, choosing + even(POSTER_WIDTH)),
        ],
        ...'-frames:v 1 -q:v 3 -f image2'.split(' '),
        to,
      ],
      progress,
    );
  };
  return store.put(asset.id, 'poster', async (to) => {
    await take(asset.inPlace + posterFrame(asset), '', to);
    if (asset.poster === 'not-black' || (asset.poster === null && (await isBlack(to))))
      // All of it may be black; then what was taken stays.
      await take(asset.inPlace, notBlack, to).catch(() => progress.signal.throwIfAborted());
  });
}

/** Whether next to nothing can be seen on a picture. */
async function isBlack(path: string): Promise<boolean> {
  const { data } = await sharp(path).greyscale().raw().toBuffer({ resolveWithObject: true });
  const dark = data.reduce((count, value) => count + (value < BLACK.level ? 1 : 0), 0);
  return (dark * 100) / Math.max(1, data.length) >= BLACK.percent;
}

/** Everything that is made of an original for looking at and listening to it, from decoding it once. */
export async function makeRenditions(original: Original, store: RenditionStore, progress: Progress): Promise<Made> {
  if (original.asset.kind === 'still') return makeStill(original, store);
  return withInput(original, store, (input) => new OneDecode(original.asset, store, progress).run(input));
}

async function makeStill({ asset, path }: Original, store: RenditionStore): Promise<Made> {
  const sized = (kind: RenditionKind, width: number, quality: number, extension = '') =>
    store.put(
      asset.id,
      kind,
      (to) =>
        sharp(path, { limitInputPixels: MAX_PIXELS })
          .rotate()
          .resize({ width, withoutEnlargement: true })
          .jpeg({ quality })
          .toFile(to),
      extension,
    );
  return {
    renditions: [
      ['poster', await sized('poster', POSTER_WIDTH, 82)],
      ['proxy', await sized('proxy', 2000, 88, proxyExtension(asset.kind))],
    ],
    frames: null,
    loudness: null,
  };
}

/** Filters that read the picture as somebody has said it is meant. */
function prepared(asset: Asset, then: string): string {
  const { colour, alpha } = asset;
  const params = (
    [
      ['primaries', 'color_primaries'],
      ['transfer', 'color_trc'],
      ['matrix', 'colorspace'],
    ] as const satisfies readonly (readonly [CodePointTable, string])[]
  ).flatMap(([table, name]) => (codePoint(table, colour?.[table] ?? null) ? [`${name}=${colour?.[table] ?? ''}`] : []));
  return [
    ...(params.length > 0 ? [`setparams=${params.join(':')}`] : []),
    // Straight alpha is laid over black, as premultiplied alpha already is.
    ...(alpha === 'straight' ? ['premultiply=inplace=1'] : []),
    then,
  ].join(',');
}

/** One run of ffmpeg with several outputs. */
class OneDecode {
  private readonly lines: string[] = [];
  private readonly peaks: PeaksBuilder;

  constructor(
    private readonly asset: Asset,
    private readonly store: RenditionStore,
    private readonly progress: Progress,
  ) {
    const samples = Math.ceil(((asset.durationMs ?? 0) / 1000) * PEAKS_RATE);
    this.peaks = new PeaksBuilder(PEAKS_RATE, Math.max(1, Math.ceil(samples / PEAKS_PAIRS)));
  }

  async run(input: readonly string[]): Promise<Made> {
    const { asset, store } = this;
    const picture = hasPicture(asset);
    const kinds: readonly RenditionKind[] = picture ? ['proxy', 'poster', 'filmstrip'] : ['proxy'];
    let frames: number | null = null;
    const sizes = await store.putAll(
      asset.id,
      kinds.map((kind) => ({ kind, extension: kind === 'proxy' ? proxyExtension(asset.kind) : '' })),
      async (to) => {
        await ffmpeg([...input, ...this.graph(), ...this.outputs(to)], {
          ...this.progress,
          onLine: (line) => void this.lines.push(line),
          ...(asset.sound ? { onExtra: wholeSamples((samples) => this.peaks.add(samples)) } : {}),
        });
        if (picture) frames = await countFrames(to[0] as string);
      },
    );
    if (picture) sizes[1] = await this.poster(sizes[1] ?? 0);
    const made = kinds.map((kind, index) => [kind, sizes[index] ?? 0] as const);
    if (asset.sound)
      made.push([
        'peaks',
        await store.put(asset.id, 'peaks', (to) => writeFile(to, JSON.stringify(this.peaks.finish()))),
      ]);
    return { renditions: made, frames, loudness: asset.sound ? readLoudness(this.lines) : null };
  }

  /** Another poster than the one that was decoded along, if that is black or the first that is not black is wanted: from the proxy. */
  private async poster(bytes: number): Promise<number> {
    const { asset, store, progress } = this;
    const wanted =
      asset.poster === 'not-black' || (asset.poster === null && (await isBlack(store.path(asset.id, 'poster'))));
    if (!wanted) return bytes;
    const proxy = store.path(asset.id, 'proxy', proxyExtension(asset.kind));
    return posterOf({ ...asset, colour: null, alpha: null, poster: 'not-black' }, ['-i', proxy], store, progress);
  }

  private graph(): string[] {
    const { asset } = this;
    const step = filmstripStep(asset.durationFrames);
    const picture = hasPicture(asset)
      ? [
          `[0:v:0]${prepared(asset, 'split=3[v1][v2][v3]')}`,
          `[v1]${even(PROXY_WIDTH)}[proxy]`,
          `[v2]select='eq(n,${posterFrame(asset)})',${even(POSTER_WIDTH)}[poster]`,
          `[v3]select='not(mod(n,${step}))',${even(FILMSTRIP_WIDTH)},tile=${FILMSTRIP_FRAMES}x1[strip]`,
        ]
      : [];
    const sound = asset.sound
      ? [
          `${merged(streamsOf(asset.sound), (asset.durationMs ?? 0) / 1000 || null)},asplit[a1][a2]`,
          `[a1]${heard(asset.sound)},asplit[heard][drawn]`,
          `[a2]${weighed(asset.sound)},ebur128=peak=true:framelog=verbose,anullsink`,
        ]
      : [];
    return ['-filter_complex', [...picture, ...sound].join(';')];
  }

  private outputs([proxy = '', poster = '', strip = '']: readonly string[]): string[] {
    const { asset } = this;
    const stills = ['-frames:v', '1', '-q:v', '3', '-f', 'image2'];
    const sound = asset.sound
      ? [
          '-map',
          '[heard]',
          '-c:a',
          'aac',
          '-b:a',
          '160k',
          '-ac',
          String(Math.min(2, Math.max(1, asset.sound.channels))),
          '-ar',
          '48000',
        ]
      : [];
    return [
      ...(hasPicture(asset) ? ['-map', '[proxy]', ...proxyPicture(asset)] : []),
      ...sound,
      '-movflags',
      '+faststart',
      '-f',
      'mp4',
      proxy,
      ...(poster ? ['-map', '[poster]', ...stills, poster, '-map', '[strip]', ...stills, strip] : []),
      ...(asset.sound ? ['-map', '[drawn]', '-ac', '1', '-ar', String(PEAKS_RATE), '-f', 's16le', 'pipe:3'] : []),
    ];
  }
}

/** A second of a proxy’s clock has at least so many ticks. */
const LEAST_TICKS = 10_000;

/**
 * H.264 with exactly the frames and the rate of the original, no reordered frames and a key frame twice a second or so, so that
 * a browser steps it frame by frame.
 */
function proxyPicture({ rate }: Asset): string[] {
  const { num, den } = rate ?? { num: 25, den: 1 };
  return [
    ...'-c:v libx264 -preset veryfast -crf 23 -pix_fmt yuv420p -bf 0 -fps_mode passthrough'.split(' '),
    '-g',
    String(Math.max(1, Math.round(num / den / 2))),
    // Each frame takes whole ticks, and many of them: browsers that seek round to a tick.
    '-video_track_timescale',
    String(num * Math.ceil(LEAST_TICKS / num)),
  ];
}

export async function countFrames(path: string): Promise<number> {
  const output = await run(
    'ffprobe',
    [...'-v error -select_streams v:0 -show_entries stream=nb_frames -of csv=p=0'.split(' '), path],
    { timeoutMs: 60_000 },
  );
  return Number.parseInt(output.toString('latin1'), 10);
}
