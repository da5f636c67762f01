import { rescaleFrames, type Counting, type FrameRange } from '../timecode';

/** What a string-out needs to know of an asset with picture. Frames are counted at the asset's own rate from its first frame. */
export interface Media {
  readonly assetId: number;
  readonly name: string;
  /** Where the original is, as `storage/path`. */
  readonly path: string;
  readonly reel: string | null;
  readonly counting: Counting;
  readonly durationFrames: number;
  /** Start timecode as a frame count; 0 if the file carries none. */
  readonly startFrame: number;
  readonly hasSound: boolean;
}

export interface StringOutItem {
  /** Unique within the string-out. */
  readonly id: string;
  readonly assetId: number;
  /** Source frames from the media's first frame: `in` inclusive, `out` exclusive. */
  readonly in: number;
  readonly out: number;
}

/** A cuts-only run of clips in order, counted at one rate. */
export interface StringOut {
  readonly title: string;
  readonly counting: Counting;
  /** Timecode of the first frame, as a frame count. */
  readonly startFrame: number;
  readonly items: readonly StringOutItem[];
}

export type MediaLookup = (assetId: number) => Media | undefined;

export interface LaidOutItem {
  readonly item: StringOutItem;
  /** Undefined if the library no longer has the asset; it is then laid out at the string-out's own rate. */
  readonly media: Media | undefined;
  /** Where the item lies in the string-out, in its frames, start timecode included. */
  readonly record: FrameRange;
}

/**
 * Frames an item takes up: its exact length in time, rounded to the nearest whole frame of the string-out, at least one.
 * Each item is rounded by itself, so that moving one never changes the length of another.
 */
export const recordFrames = (item: StringOutItem, media: Media | undefined, counting: Counting): number =>
  Math.max(1, media ? rescaleFrames(item.out - item.in, media.counting.rate, counting.rate) : item.out - item.in);

export function layOut({ items, counting, startFrame }: StringOut, mediaOf: MediaLookup): LaidOutItem[] {
  let start = startFrame;
  return items.map((item) => {
    const media = mediaOf(item.assetId);
    const record = { start, end: start + recordFrames(item, media, counting) };
    start = record.end;
    return { item, media, record };
  });
}

export function totalFrames(stringOut: StringOut, mediaOf: MediaLookup): number {
  const last = layOut(stringOut, mediaOf).at(-1);
  return last ? last.record.end - stringOut.startFrame : 0;
}
