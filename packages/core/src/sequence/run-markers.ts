import { object, string, type InferType } from 'yup';
import { markerSchema } from '../markers';
import { rescaleFrames, type Counting, type FrameRange } from '../timecode';
import type { LaidOutItem } from './string-out';

const key = string().max(60);

/** A marker on a string-out, as it is saved. */
export const runMarkerSchema = markerSchema.concat(
  object({
    /** Unique within the string-out. */
    id: key.required(),
    /** The item that it stands on. */
    itemId: key.required(),
    /** The name of whoever set it; the server says so. */
    by: string().max(200).nullable().default(null),
  }),
);

/**
 * A marker on a string-out. It stands on a frame of one of its clips, and goes where that goes: `start` and `end` are frames of the
 * clip's media, as `in` and `out` of the item are. While its frame is trimmed away it is not shown.
 */
export type RunMarker = InferType<typeof runMarkerSchema>;

export interface LaidOutMarker {
  readonly marker: RunMarker;
  /** Where it lies in the string-out, in its frames, start timecode included; a place is one frame. */
  readonly record: FrameRange;
}

/** The markers whose frames are in the string-out, in the order of the run. */
export function layOutMarkers(
  laidOut: readonly LaidOutItem[],
  markers: readonly RunMarker[],
  counting: Counting,
): LaidOutMarker[] {
  const byItem = new Map(laidOut.map((laid) => [laid.item.id, laid]));
  return markers
    .flatMap((marker): LaidOutMarker[] => {
      const laid = byItem.get(marker.itemId);
      if (!laid || marker.start < laid.item.in || marker.start >= laid.item.out) return [];
      const at = (frame: number, rounding: 'floor' | 'ceil') =>
        laid.record.start +
        (laid.media
          ? rescaleFrames(frame - laid.item.in, laid.media.counting.rate, counting.rate, rounding)
          : frame - laid.item.in);
      const start = Math.min(at(marker.start, 'floor'), laid.record.end - 1);
      const end = marker.end === null ? start + 1 : Math.min(at(marker.end, 'ceil'), laid.record.end);
      return [{ marker, record: { start, end: Math.max(end, start + 1) } }];
    })
    .toSorted((a, b) => a.record.start - b.record.start);
}

/** Markers of the items that there still are; the very same list if none went. */
export function keptMarkers(
  items: readonly { readonly id: string }[],
  markers: readonly RunMarker[],
): readonly RunMarker[] {
  const there = new Set(items.map(({ id }) => id));
  const kept = markers.filter(({ itemId }) => there.has(itemId));
  return kept.length === markers.length ? markers : kept;
}
