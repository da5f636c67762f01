import type { Asset } from '@larder/contract';
import type { MezzanineCodec } from '@larder/core/ingest';
import { ffmpeg, withInput, type Original, type Progress } from './ffmpeg';
import { countFrames } from './renditions';
import type { RenditionStore } from './rendition-store';
import { ToolError } from './run';
import { decodableOf, merged, streamsOf } from './sound-streams';

type Codec = Exclude<MezzanineCodec, 'none'>;

const deep = (pixelFormat: string | null): boolean =>
  /(9|1\d)(le|be)$|^(x2|v)?(rgb|bgr)?48|p0?1\d/.test(pixelFormat ?? '');

/** VC-3 (SMPTE ST 2019-1) at any size, in 8 or 10 bit 4:2:2; FFV1 (RFC 9043) version 3, each frame on its own, with its checks. */
const PICTURES: Readonly<Record<Codec, (pixelFormat: string | null) => string[]>> = {
  vc3: (pixelFormat) =>
    deep(pixelFormat)
      ? '-c:v dnxhd -profile:v dnxhr_hqx -pix_fmt yuv422p10le'.split(' ')
      : '-c:v dnxhd -profile:v dnxhr_hq -pix_fmt yuv422p'.split(' '),
  ffv1: () => '-c:v ffv1 -level 3 -g 1 -slices 16 -slicecrc 1'.split(' '),
};
const CONTAINERS: Readonly<Record<Codec | 'sound', { readonly extension: string; readonly format: string }>> = {
  vc3: { extension: '.mov', format: 'mov' },
  ffv1: { extension: '.mkv', format: 'matroska' },
  sound: { extension: '.wav', format: 'wav' },
};

/** Beside a picture each stream stays a stream; a file of sound alone has one. */
function soundOf({ sound, durationMs }: Asset, picture: boolean): string[] {
  if (!sound) return [];
  const streams = streamsOf(sound);
  const args = picture
    ? decodableOf(streams).flatMap((index) => ['-map', `0:a:${index}`])
    : [
        '-filter_complex',
        `${merged(streams, durationMs === null ? null : durationMs / 1000)}[sound]`,
        '-map',
        '[sound]',
      ];
  return [...args, '-c:a', 'pcm_s24le'];
}

/**
 * The edit-ready copy: every frame and every channel of the original, picture in VC-3 or FFV1, sound as 24 bit PCM, timecode
 * along. Gives its size in bytes and its file's ending. Throws if a frame is missing at the end.
 */
export async function makeMezzanine(
  original: Original,
  codec: Codec,
  timecode: string | null,
  store: RenditionStore,
  progress: Progress,
): Promise<{ readonly bytes: number; readonly extension: string; readonly frames: number | null }> {
  const { asset } = original;
  const picture = asset.rate !== null;
  const { extension, format } = CONTAINERS[picture ? codec : 'sound'];
  let frames: number | null = null;
  const bytes = await store.put(
    asset.id,
    'mezzanine',
    (to) =>
      withInput(original, store, async (input) => {
        const args = [
          ...input,
          ...(picture ? ['-map', '0:v:0', ...PICTURES[codec](asset.pixelFormat), '-fps_mode', 'passthrough'] : []),
          // A file larger than 4 GiB needs another header than WAVE's (EBU Tech 3306).
          ...(picture ? [] : ['-rf64', 'auto']),
          ...soundOf(asset, picture),
          ...(picture && timecode ? ['-timecode', timecode] : []),
          '-f',
          format,
          to,
        ];
        let done = 0;
        await ffmpeg(args, {
          signal: progress.signal,
          frames: (now) => {
            done = now;
            progress.frames(now);
          },
        });
        if (picture) frames = codec === 'vc3' ? await countFrames(to) : done;
        if (picture && frames === 0) throw new ToolError('ffmpeg', 'failed', 'No frame of it could be decoded.');
      }),
    extension,
  );
  return { bytes, extension, frames };
}
