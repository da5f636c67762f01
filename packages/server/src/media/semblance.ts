import sharp from 'sharp';
import { pictureHash, spreadWords, type Semblance } from '@larder/core/semblance';
import type { Asset } from '@larder/contract';
import { proxyExtension, type RenditionStore } from './rendition-store';
import type { MediaFacts } from './facts';
import { FILMSTRIP_FRAMES, filmstripScale, filmstripStep } from './renditions';
import { QUIET, seekTo } from './ffmpeg';
import { run, ToolError } from './run';

/** Every so many pictures of the filmstrip are hashed. */
const EVERY = 2;
const TIMEOUT_MS = 3_600_000;
const PICTURE_TIMEOUT_MS = 30_000;
const MAX_PIXELS = 100_000_000;

type Compared = Pick<Asset, 'id' | 'kind' | 'durationFrames' | 'durationMs' | 'rate' | 'renditions' | 'sound'>;

/** What an asset looks and sounds like, from its renditions; one that cannot be read says nothing. */
export async function semblanceOf(asset: Compared, store: RenditionStore, signal: AbortSignal): Promise<Semblance> {
  const { durationFrames, kind, rate, renditions } = asset;
  const step = filmstripStep(durationFrames);
  const has = (of: Asset['renditions'][number]): boolean => renditions.includes(of);
  const [picture, sound] = [
    kind === 'still'
      ? has('poster') && (await hashesIn(store.path(asset.id, 'poster'), 1, [0]))
      : has('filmstrip') &&
        (await hashesIn(store.path(asset.id, 'filmstrip'), FILMSTRIP_FRAMES, shownIn(durationFrames, step))),
    asset.sound && has('proxy') && (await soundWords(store.path(asset.id, 'proxy', proxyExtension(kind)), signal)),
  ];
  return {
    lengthMs: asset.durationMs ?? 0,
    everyMs: rate ? (EVERY * step * 1000 * rate.den) / rate.num : 0,
    picture: picture || null,
    sound: sound || null,
  };
}

/** Which pictures of a filmstrip are hashed: behind the last frame it is filled up with black. */
function shownIn(frames: number | null, step: number): number[] {
  const shown = Math.min(FILMSTRIP_FRAMES, Math.ceil(Math.max(1, frames ?? 1) / step));
  return Array.from({ length: Math.ceil(shown / EVERY) }, (_each, at) => EVERY * at);
}

/** Hashes of some of the pictures that stand side by side on one, one behind the other. */
async function hashesIn(source: string | Buffer, across: number, which: readonly number[]): Promise<Uint8Array | null> {
  const read = await sharp(source, { limitInputPixels: MAX_PIXELS })
    .toColourspace('srgb')
    .ensureAlpha()
    .raw()
    .toBuffer({ resolveWithObject: true })
    .catch(() => null);
  if (!read) return null;
  const { data, info } = read;
  const width = Math.floor(info.width / across);
  const hashes = which.map((at) => {
    const own = new Uint8Array(4 * width * info.height);
    for (let y = 0; y < info.height; y += 1) {
      const from = 4 * (y * info.width + at * width);
      own.set(data.subarray(from, from + 4 * width), 4 * y * width);
    }
    return pictureHash({ data: own, width, height: info.height });
  });
  return Buffer.concat(hashes);
}

/**
 * What a file looks and sounds like that has no renditions. Each picture is sought by itself, so many milliseconds after the last, as
 * what it is to be compared with has them. Of sound only what lies in one stream, as nobody has said yet what of several is heard.
 */
export async function semblanceOfFile(
  path: string,
  { durationMs, kind, rate, sound }: MediaFacts,
  { everyMs, signal }: { readonly everyMs: number; readonly signal: AbortSignal },
): Promise<Semblance | null> {
  if (durationMs === null || (kind !== 'video' && kind !== 'audio')) return null;
  const words = sound && (sound.streams?.length ?? 1) === 1 ? await soundWords(path, signal) : null;
  if (kind === 'audio' || !rate) return { lengthMs: durationMs, everyMs: 0, picture: null, sound: words };
  const hashes: Uint8Array[] = [];
  for (let ms = 0; ms < durationMs && hashes.length < FILMSTRIP_FRAMES / EVERY; ms += everyMs) {
    const picture = await pictureAt(path, seekTo(ms / 1000, rate), signal);
    const hash = picture && (await hashesIn(picture, 1, [0]));
    // What is said to be longer than it is ends here.
    if (!hash) break;
    hashes.push(hash);
    if (everyMs <= 0) break;
  }
  return { lengthMs: durationMs, everyMs, sound: words, picture: hashes.length > 0 ? Buffer.concat(hashes) : null };
}

const pictureAt = (path: string, seconds: number, signal: AbortSignal): Promise<Buffer | null> =>
  orNothing(
    run(
      'ffmpeg',
      [
        ...['-v', 'error', ...QUIET, '-ss', seconds.toFixed(6), '-i', path, '-map', '0:v:0', '-frames:v', '1'],
        ...['-vf', filmstripScale(), '-c:v', 'png', '-f', 'image2pipe', '-'],
      ],
      { signal, timeoutMs: PICTURE_TIMEOUT_MS },
    ),
    signal,
  );

/** Null where a tool could not do its work. */
const orNothing = (work: Promise<Buffer>, signal: AbortSignal): Promise<Buffer | null> =>
  work.catch((error: unknown) => {
    signal.throwIfAborted();
    if (error instanceof ToolError && error.reason !== 'cancelled') return null;
    throw error;
  });

async function soundWords(path: string, signal: AbortSignal): Promise<Uint32Array | null> {
  const raw = await orNothing(
    run(
      'ffmpeg',
      ['-v', 'error', ...QUIET, '-i', path, '-map', '0:a:0', '-ac', '1', '-f', 'chromaprint', '-fp_format', 'raw', '-'],
      { signal, timeoutMs: TIMEOUT_MS },
    ),
    signal,
  );
  if (!raw) return null;
  return spreadWords(Uint32Array.from({ length: Math.floor(raw.length / 4) }, (_word, at) => raw.readUInt32LE(4 * at)));
}
