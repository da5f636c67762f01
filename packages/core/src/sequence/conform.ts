import type { FileState } from '../fields';
import {
  containsRange,
  equalRational,
  intersectRanges,
  rangeFrames,
  rescaleFrames,
  type FrameRange,
} from '../timecode';
import type { CutEvent, CutList } from './cut-list';
import type { Media } from './string-out';

export interface ConformMedia extends Media {
  readonly state: FileState;
  /** Known from a cut list only: where it begins and ends, is what lists made use of. */
  readonly isListed?: boolean;
}

/** What the conform check asks of the library; each may find several. */
export interface ConformLibrary {
  byId(assetId: number): ConformMedia | undefined;
  byPath(path: string): readonly ConformMedia[];
  byReel(reel: string): readonly ConformMedia[];
  byName(name: string): readonly ConformMedia[];
}

export const MATCHED_BY = ['asset', 'file', 'reel-and-timecode', 'name'] as const;
export type MatchedBy = (typeof MATCHED_BY)[number];

/** What stands in the way of an event. `frames` says by how much, at the source's rate. */
export type ConformIssue =
  | { readonly code: 'no-media' }
  | { readonly code: 'several-media'; readonly assetIds: readonly number[] }
  | { readonly code: 'before-media'; readonly frames: number }
  | { readonly code: 'after-media'; readonly frames: number }
  | { readonly code: 'rate-differs'; readonly listed: string; readonly media: string }
  | { readonly code: 'not-online'; readonly state: FileState }
  | { readonly code: 'length-differs'; readonly sourceFrames: number; readonly recordFrames: number }
  | { readonly code: 'record-overlap'; readonly event: number };

export interface ConformedEvent {
  readonly event: CutEvent;
  readonly media: ConformMedia | null;
  readonly matchedBy: MatchedBy | null;
  /** The used stretch in frames from the media's first frame; null without media. */
  readonly used: FrameRange | null;
  readonly issues: readonly ConformIssue[];
}

export interface ConformReport {
  readonly events: readonly ConformedEvent[];
  readonly clean: boolean;
}

export const mediaRange = (media: Media): FrameRange => ({
  start: media.startFrame,
  end: media.startFrame + media.durationFrames,
});

/** The first way of finding the media that gives any; of several, those whose timecode covers the event are preferred. */
function findMedia(
  event: CutEvent,
  library: ConformLibrary,
): { readonly matchedBy: MatchedBy; readonly found: readonly ConformMedia[] } | null {
  const byId = event.assetId === null ? undefined : library.byId(event.assetId);
  const covering = (list: readonly ConformMedia[]) =>
    list.filter((media) => containsRange(mediaRange(media), event.source));
  // What is known from lists only has no more than these to tell it by.
  const isNoOtherReel = ({ isListed, reel }: ConformMedia): boolean => !isListed || reel === event.reel;
  const ways: [MatchedBy, () => readonly ConformMedia[]][] = [
    ['asset', () => (byId ? [byId] : [])],
    ['file', () => (event.sourceFile === null ? [] : library.byPath(event.sourceFile))],
    ['reel-and-timecode', () => (event.reel === null ? [] : covering(library.byReel(event.reel)))],
    ['name', () => (event.clipName === null ? [] : library.byName(event.clipName).filter(isNoOtherReel))],
  ];
  for (const [matchedBy, find] of ways) {
    const found = find();
    if (found.length === 0) continue;
    const better = found.length > 1 ? covering(found) : found;
    return { matchedBy, found: better.length > 0 ? better : found };
  }
  return null;
}

function checkEvent(event: CutEvent, list: CutList, library: ConformLibrary): ConformedEvent {
  const match = findMedia(event, library);
  const media = match?.found[0];
  if (!match || !media) return { event, media: null, matchedBy: null, used: null, issues: [{ code: 'no-media' }] };
  const issues: ConformIssue[] = [];
  if (match.found.length > 1) issues.push({ code: 'several-media', assetIds: match.found.map((each) => each.assetId) });
  if (!equalRational(event.sourceCounting.rate, media.counting.rate))
    issues.push({ code: 'rate-differs', listed: event.sourceCounting.id, media: media.counting.id });
  const bounds = mediaRange(media);
  if (event.source.start < bounds.start)
    issues.push({ code: 'before-media', frames: bounds.start - event.source.start });
  if (event.source.end > bounds.end) issues.push({ code: 'after-media', frames: event.source.end - bounds.end });
  if (media.state !== 'online') issues.push({ code: 'not-online', state: media.state });
  const expected = Math.max(1, rescaleFrames(rangeFrames(event.source), event.sourceCounting.rate, list.counting.rate));
  if (expected !== rangeFrames(event.record))
    issues.push({
      code: 'length-differs',
      sourceFrames: rangeFrames(event.source),
      recordFrames: rangeFrames(event.record),
    });
  const used = { start: event.source.start - bounds.start, end: event.source.end - bounds.start };
  return { event, media, matchedBy: match.matchedBy, used, issues };
}

/** Checks that every event finds its media, inside its bounds, to the frame, and that no two events lie on each other. */
export function conformCheck(list: CutList, library: ConformLibrary): ConformReport {
  const checked = list.events.map((event) => checkEvent(event, list, library));
  const picture = checked
    .filter(({ event }) => event.hasPicture)
    .sort((a, b) => a.event.record.start - b.event.record.start);
  const overlaps = new Map<CutEvent, number>();
  picture.forEach(({ event }, index) => {
    const before = picture[index - 1]?.event;
    if (before && intersectRanges(before.record, event.record)) overlaps.set(event, before.number);
  });
  const events = checked.map((each) => {
    const other = overlaps.get(each.event);
    return other === undefined
      ? each
      : { ...each, issues: [...each.issues, { code: 'record-overlap' as const, event: other }] };
  });
  return { events, clean: events.every((each) => each.issues.length === 0) };
}

/** The wording of a conform issue. */
export function wordConformIssue(issue: ConformIssue): string {
  switch (issue.code) {
    case 'no-media':
      return 'Nothing in the library fits this event. Scan the storage that holds it, or bring the list in and look for it.';
    case 'several-media':
      return `${issue.assetIds.length} assets fit equally well: ${issue.assetIds.map((id) => `#${id}`).join(', ')}.`;
    case 'before-media':
      return `Begins ${issue.frames} frames before its media does.`;
    case 'after-media':
      return `Ends ${issue.frames} frames after its media does.`;
    case 'rate-differs':
      return `The list counts at ${issue.listed}, the media at ${issue.media}.`;
    case 'not-online':
      return `The original is ${issue.state}.`;
    case 'length-differs':
      return `${issue.sourceFrames} source frames do not fill ${issue.recordFrames} record frames.`;
    case 'record-overlap':
      return `Lies on event ${issue.event}.`;
    default:
      return issue satisfies never;
  }
}
