import type { CutEvent, CutList, CutMarker } from '../../sequence';
import { type Counting, type FrameRange, rangeFrames } from '../../timecode';
import {
  MEDIA_FORMS,
  MEDIA_KEYS,
  METADATA_KEY,
  OTIO_COLOURS,
  SCHEMA,
  type MediaForm,
  type OtioRange,
  type OtioTime,
} from './types';

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

/** What the writer needs beyond the list: where a clip lies in each form that there is, how far it reaches, and which form is worked with. */
export interface OtioMedia {
  readonly urls: Readonly<Partial<Record<MediaForm, string>>>;
  readonly available: FrameRange;
  /** Where there is no such form, the original. */
  readonly active: MediaForm;
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

/** All forms of a clip's media, so that whoever has the list works with one and goes back to another. */
function references(event: CutEvent, media: OtioMedia | undefined): Record<string, object> {
  const about = { metadata: {}, name: event.clipName ?? '', available_image_bounds: null };
  const external = (form: MediaForm): [string, object][] => {
    const url = media?.urls[form];
    if (!media || url === undefined) return [];
    const available = range(media.available, event.sourceCounting);
    return [[MEDIA_KEYS[form], { OTIO_SCHEMA: SCHEMA.media, ...about, available_range: available, target_url: url }]];
  };
  const missing = { OTIO_SCHEMA: SCHEMA.missing, ...about, available_range: null };
  return { [MEDIA_KEYS.original]: missing, ...Object.fromEntries(MEDIA_FORMS.flatMap(external)) };
}

function clip(event: CutEvent, media: OtioMedia | undefined): object {
  const active = media?.urls[media.active] === undefined ? 'original' : media.active;
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
    media_references: references(event, media),
    active_media_reference_key: MEDIA_KEYS[active],
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
