import type { CutEvent, CutList, CutMarker } from '../../sequence';
import { type Counting, type FrameRange, rangeFrames } from '../../timecode';
import { METADATA_KEY, OTIO_COLOURS, SCHEMA, type OtioRange, type OtioTime } from './types';

const time = (value: number, counting: Counting): OtioTime => ({
  OTIO_SCHEMA: SCHEMA.time,
  rate: counting.rate.num / counting.rate.den,
  value,
});
const range = (frames: FrameRange, counting: Counting): OtioRange => ({
  OTIO_SCHEMA: SCHEMA.range,
  duration: time(rangeFrames(frames), counting),
  start_time: time(frames.start, counting),
});

/** What the writer needs beyond the list: where each original lies as a URL, and how far it reaches. */
export interface OtioMedia {
  readonly url: string;
  readonly available: FrameRange;
}

/** On the clip that it stands on, in the clip's own time: a place has no length. */
const marker = ({ name, note, kind, colour, source }: CutMarker, counting: Counting): object => ({
  OTIO_SCHEMA: SCHEMA.marker,
  metadata: { [METADATA_KEY]: { kind, colour } },
  name,
  color: OTIO_COLOURS[colour],
  comment: note,
  marked_range: range(source, counting),
});

function clip(event: CutEvent, media: OtioMedia | undefined): object {
  const reference = media
    ? {
        OTIO_SCHEMA: SCHEMA.media,
        metadata: {},
        name: event.clipName ?? '',
        available_range: range(media.available, event.sourceCounting),
        available_image_bounds: null,
        target_url: media.url,
      }
    : {
        OTIO_SCHEMA: SCHEMA.missing,
        metadata: {},
        name: event.clipName ?? '',
        available_range: null,
        available_image_bounds: null,
      };
  return {
    OTIO_SCHEMA: SCHEMA.clip,
    metadata: {
      [METADATA_KEY]: {
        asset: event.assetId,
        reel: event.reel,
        source_file: event.sourceFile,
        counting: event.sourceCounting.id,
        sound: event.hasSound,
        ...(event.marking === undefined ? {} : { marking: event.marking }),
      },
    },
    name: event.clipName ?? '',
    source_range: range(event.source, event.sourceCounting),
    effects: [],
    markers: (event.markers ?? []).map((each) => marker(each, event.sourceCounting)),
    enabled: true,
    media_references: { DEFAULT_MEDIA: reference },
    active_media_reference_key: 'DEFAULT_MEDIA',
  };
}

/** Writes a cut list as an OpenTimelineIO timeline with one picture track. Source ranges are timecode as frame counts, as its media ranges are. */
export function writeOtio(list: CutList, mediaOf: (event: CutEvent) => OtioMedia | undefined): string {
  const start = list.events[0]?.record.start ?? 0;
  const parts = { effects: [], markers: [], enabled: true, source_range: null };
  return `${JSON.stringify(
    {
      OTIO_SCHEMA: SCHEMA.timeline,
      metadata: { [METADATA_KEY]: { counting: list.counting.id } },
      name: list.title,
      global_start_time: time(start, list.counting),
      tracks: {
        OTIO_SCHEMA: SCHEMA.stack,
        metadata: {},
        name: 'tracks',
        ...parts,
        children: [
          {
            OTIO_SCHEMA: SCHEMA.track,
            metadata: {},
            name: 'V1',
            ...parts,
            kind: 'Video',
            children: list.events.map((event) => clip(event, mediaOf(event))),
          },
        ],
      },
    },
    null,
    2,
  )}\n`;
}
