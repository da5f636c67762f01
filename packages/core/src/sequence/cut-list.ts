import type { Counting, FrameRange } from '../timecode';
import type { NewMarker } from '../markers';
import { layOutMarkers, type LaidOutMarker, type RunMarker } from './run-markers';
import { layOut, type MediaLookup, type StringOut } from './string-out';

/** A marker on an event. A place has a source that ends where it starts. */
export interface CutMarker extends Pick<NewMarker, 'kind' | 'name' | 'note' | 'colour'> {
  readonly source: FrameRange;
  readonly record: FrameRange;
}

/** One event of a cut list, whatever format it came in or goes out in. */
export interface CutEvent {
  readonly number: number;
  readonly reel: string | null;
  readonly clipName: string | null;
  /** Path of the original as the list names it. */
  readonly sourceFile: string | null;
  /** The library's own number of the asset, if the list carries it. */
  readonly assetId: number | null;
  readonly hasPicture: boolean;
  readonly hasSound: boolean;
  /** Source timecode as frame counts at `sourceCounting`; in inclusive, out exclusive. */
  readonly source: FrameRange;
  readonly sourceCounting: Counting;
  /** Record timecode as frame counts at the list's counting. */
  readonly record: FrameRange;
  /** The name of the marking that the original has. */
  readonly marking?: string;
  readonly markers?: readonly CutMarker[];
}

export interface CutList {
  readonly title: string;
  readonly counting: Counting;
  readonly events: readonly CutEvent[];
}

/** The string-out as a cut list. Items whose asset is gone from the library are left out and named in `gone`. */
export function cutListOf(
  stringOut: StringOut,
  mediaOf: MediaLookup,
  markers: readonly RunMarker[] = [],
): { readonly list: CutList; readonly gone: readonly number[] } {
  const laidOut = layOut(stringOut, mediaOf);
  const marked = new Map<string, LaidOutMarker[]>();
  for (const each of layOutMarkers(laidOut, markers, stringOut.counting)) {
    const own = marked.get(each.marker.itemId);
    if (own) own.push(each);
    else marked.set(each.marker.itemId, [each]);
  }
  const events = laidOut.flatMap(({ item, media, record }): Omit<CutEvent, 'number'>[] =>
    media
      ? [
          {
            reel: media.reel,
            clipName: media.name,
            sourceFile: media.path,
            assetId: media.assetId,
            hasPicture: true,
            hasSound: media.hasSound,
            source: { start: media.startFrame + item.in, end: media.startFrame + item.out },
            sourceCounting: media.counting,
            record,
            markers: (marked.get(item.id) ?? []).map(
              ({ marker: { kind, name, note, colour, start, end }, record: at }) => ({
                ...{ kind, name, note, colour },
                source: { start: media.startFrame + start, end: media.startFrame + (end ?? start) },
                record: at,
              }),
            ),
          },
        ]
      : [],
  );
  return {
    list: {
      title: stringOut.title,
      counting: stringOut.counting,
      events: events.map((event, index) => ({ number: index + 1, ...event })),
    },
    gone: laidOut.filter(({ media }) => !media).map(({ item }) => item.assetId),
  };
}
