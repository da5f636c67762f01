import { number, object, string, type InferType } from 'yup';
import { trimmed } from '../fields';

export const MARKER_KINDS = ['note', 'chapter', 'problem', 'tag', 'hit'] as const;
export type MarkerKind = (typeof MARKER_KINDS)[number];
export const MARKER_KIND_LABELS: Readonly<Record<MarkerKind, string>> = {
  note: 'Note',
  chapter: 'Chapter',
  problem: 'Problem',
  tag: 'Tagged stretch',
  hit: 'Dialogue hit',
};

/** Colours by their names, which are always shown beside them. */
export const MARKER_COLOURS = ['none', 'red', 'orange', 'yellow', 'green', 'blue', 'violet'] as const;
export type MarkerColour = (typeof MARKER_COLOURS)[number];

const place = number().typeError('A marker stands on a whole frame.').integer('A marker stands on a whole frame.');

/** What a person says of a marker. `start` and `end` count as `Marker` says. */
export const markerSchema = object({
  kind: string<MarkerKind>().oneOf(MARKER_KINDS, 'That is no kind of marker.').default('note'),
  start: place.min(0, 'A marker stands at or after the first frame.').required('A marker stands somewhere.'),
  end: place
    .nullable()
    .default(null)
    .test('after', 'A range ends after it starts.', (end, { parent }) =>
      end == null ? true : end > Number((parent as { start?: unknown }).start),
    ),
  name: trimmed().max(200, 'The name of a marker has at most 200 characters.').default(''),
  note: string().max(5000, 'The note has at most 5,000 characters.').default(''),
  colour: string<MarkerColour>().oneOf(MARKER_COLOURS, 'That is no colour of markers.').default('none'),
}).noUnknown();

export type NewMarker = InferType<typeof markerSchema>;

/**
 * A place or a stretch of an asset. `start` is inclusive and `end` exclusive, null for a place; both count from 0 at the asset's
 * beginning, in its frames, or in milliseconds where it has no frames.
 */
export interface Marker extends NewMarker {
  readonly id: number;
  readonly by: string | null;
}

/** What a marker says, as searches read it. */
export const markerText = ({ name, note }: Pick<Marker, 'name' | 'note'>): string =>
  [name, note].filter(Boolean).join(' ');

/** A marker moved by so many frames, kept within an asset of this length; a stretch keeps its length. */
export function nudged<M extends Pick<NewMarker, 'start' | 'end'>>(marker: M, by: number, length: number): M {
  const span = marker.end === null ? 1 : marker.end - marker.start;
  const start = Math.min(Math.max(0, marker.start + by), Math.max(0, length - span));
  return start === marker.start ? marker : { ...marker, start, end: marker.end === null ? null : start + span };
}
