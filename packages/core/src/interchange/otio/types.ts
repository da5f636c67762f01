import type { MarkerColour } from '../../markers';

/** The schemas of OpenTimelineIO that are written and read here, as its published file format names them. */
export const SCHEMA = {
  timeline: 'Timeline.1',
  stack: 'Stack.1',
  track: 'Track.1',
  clip: 'Clip.2',
  media: 'ExternalReference.1',
  missing: 'MissingReference.1',
  range: 'TimeRange.1',
  time: 'RationalTime.1',
  marker: 'Marker.2',
} as const;

/** The name under which our own facts travel in `metadata`; other programs leave it alone. */
export const METADATA_KEY = 'neat_larder';

/** Colours of markers as the published file format names them; the names are from memory. */
export const OTIO_COLOURS: Readonly<Record<MarkerColour, string>> = {
  none: 'WHITE',
  red: 'RED',
  orange: 'ORANGE',
  yellow: 'YELLOW',
  green: 'GREEN',
  blue: 'BLUE',
  violet: 'PURPLE',
};

/** The keys under which a clip names its media in each form; the first is what the published format takes where none is said. */
export const MEDIA_KEYS = { original: 'DEFAULT_MEDIA', mezzanine: 'mezzanine', proxy: 'proxy' } as const;
export type MediaForm = keyof typeof MEDIA_KEYS;
export const MEDIA_FORMS = Object.keys(MEDIA_KEYS) as MediaForm[];

export interface OtioTime {
  readonly OTIO_SCHEMA: typeof SCHEMA.time;
  readonly rate: number;
  readonly value: number;
}

export interface OtioRange {
  readonly OTIO_SCHEMA: typeof SCHEMA.range;
  readonly start_time: OtioTime;
  readonly duration: OtioTime;
}

export type OtioIssue =
  | { readonly code: 'not-json'; readonly reason: string }
  | { readonly code: 'not-a-timeline'; readonly schema: string }
  | { readonly code: 'no-picture-track' }
  | { readonly code: 'unknown-child'; readonly at: string; readonly schema: string }
  | { readonly code: 'bad-range'; readonly at: string }
  | { readonly code: 'unknown-rate'; readonly at: string; readonly rate: number };

export function wordOtioIssue(issue: OtioIssue): string {
  switch (issue.code) {
    case 'not-json':
      return `The file is not JSON: ${issue.reason}`;
    case 'not-a-timeline':
      return `The file holds ${issue.schema} where a timeline is expected.`;
    case 'no-picture-track':
      return 'The timeline has no picture track.';
    case 'unknown-child':
      return `${issue.at}: ${issue.schema} is not read and was left out.`;
    case 'bad-range':
      return `${issue.at}: the range is not in whole frames or has no length.`;
    case 'unknown-rate':
      return `${issue.at}: ${issue.rate} frames per second is no rate known here.`;
    default:
      return issue satisfies never;
  }
}
