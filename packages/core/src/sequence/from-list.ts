import { containsRange, equalRational, formatTimecode, rangeFrames, type Counting } from '../timecode';
import { mediaRange, type ConformedEvent, type ConformMedia, type ConformReport } from './conform';
import type { CutEvent } from './cut-list';

/** A clip that is known from a cut list only: one for all events of one reel and one name. Frames count at its own rate. */
export interface UnseenClip {
  readonly name: string;
  readonly reel: string | null;
  readonly counting: Counting;
  /** Timecode of the first frame that the list makes use of, as a frame count. */
  readonly startFrame: number;
  /** Up to the last frame that the list makes use of; how long the clip really is, nobody knows. */
  readonly durationFrames: number;
}

/** What an event becomes in a string-out: a stretch of an asset, or of the unseen clip at that place, in frames from its first. */
export interface Cut {
  readonly of: { readonly assetId: number } | { readonly unseen: number };
  readonly in: number;
  readonly out: number;
}

/** What of a list does not come into a string-out as it stands. */
export type ReadLoss =
  | { readonly code: 'sound-only'; readonly event: number }
  | { readonly code: 'other-rate'; readonly event: number; readonly media: string }
  | { readonly code: 'outside'; readonly event: number }
  | { readonly code: 'shortened'; readonly event: number; readonly frames: number }
  | { readonly code: 'unseen'; readonly event: number }
  | { readonly code: 'several'; readonly event: number; readonly taken: string }
  | { readonly code: 'gaps'; readonly gaps: number; readonly frames: number };

export interface ReadCuts {
  readonly cuts: readonly Cut[];
  readonly unseen: readonly UnseenClip[];
  /** Where the first event with picture is recorded; 0 for none. */
  readonly startFrame: number;
  readonly losses: readonly ReadLoss[];
}

/** Beyond this a count of frames is none of a clip's, but of a list that is broken: more than a year at any rate known here. */
const MOST_FRAMES = 4_000_000_000;
const LONGEST = { name: 200, reel: 100 } as const;

/** Whether an event's media is only known from a list too, and the event goes beyond what that said. */
const outgrows = (media: ConformMedia, { source }: CutEvent): boolean =>
  media.isListed === true && !containsRange(mediaRange(media), source);

/** What a list says, without breaks and the like. */
export const onOneLine = (text: string): string => text.replace(/\p{Cc}+/gu, ' ').trim();

/** What a list calls an event's clip: its file, its name, or its reel and timecode; never with folders. */
function nameOf({ clipName, reel, source, sourceCounting, sourceFile }: CutEvent): string {
  const name = [
    sourceFile?.split(/[/\\]/).at(-1),
    clipName?.replaceAll('/', '-'),
    `${reel ?? 'Clip'} ${formatTimecode(source.start, sourceCounting)}`,
  ]
    .map((text) => onOneLine(text ?? ''))
    .find(Boolean);
  return (name ?? '').slice(0, LONGEST.name);
}

const reelOf = ({ reel }: CutEvent): string | null => onOneLine(reel ?? '').slice(0, LONGEST.reel) || null;

/**
 * What a list that was checked against the library becomes as a string-out: its events in the order in which they are recorded, each
 * within its media. `listsUnseen`: what the library has never seen is cut too, from clips that are known from the list only.
 */
export function cutsIn({ events }: ConformReport, { listsUnseen }: { readonly listsUnseen: boolean }): ReadCuts {
  const sorted = events.toSorted((a, b) => a.event.record.start - b.event.record.start);
  const losses: ReadLoss[] = [];
  const clips = new UnseenClips();
  const cuts: ((() => Cut) | Cut)[] = [];
  let [recorded, gaps, lost]: [number | null, number, number] = [null, 0, 0];
  const first = sorted.find(({ event }) => event.hasPicture)?.event.record.start ?? 0;
  for (const checked of sorted) {
    const { event } = checked;
    if (!event.hasPicture) {
      losses.push({ code: 'sound-only', event: event.number });
      continue;
    }
    if (recorded !== null && event.record.start > recorded)
      [gaps, lost] = [gaps + 1, lost + event.record.start - recorded];
    recorded = Math.max(recorded ?? 0, event.record.end);
    if (checked.media && !outgrows(checked.media, event)) cuts.push(...within(checked, checked.media, losses));
    else if (!listsUnseen) losses.push({ code: 'unseen', event: event.number });
    else if (event.source.start < 0 || event.source.end > MOST_FRAMES)
      losses.push({ code: 'outside', event: event.number });
    else cuts.push(clips.add(event));
  }
  if (gaps > 0) losses.push({ code: 'gaps', gaps, frames: lost });
  // Only when all of a clip's events are known, is it known where it begins.
  return {
    cuts: cuts.map((cut) => (typeof cut === 'function' ? cut() : cut)),
    ...{ unseen: clips.all(), startFrame: Math.max(0, first), losses },
  };
}

/** The part of an event that lies in its media, and what is lost of it. */
function within({ event, issues }: ConformedEvent, media: ConformMedia, losses: ReadLoss[]): Cut[] {
  if (!equalRational(event.sourceCounting.rate, media.counting.rate)) {
    losses.push({ code: 'other-rate', event: event.number, media: media.counting.id });
    return [];
  }
  const from = Math.max(0, event.source.start - media.startFrame);
  const to = Math.min(media.durationFrames, event.source.end - media.startFrame);
  if (to <= from) {
    losses.push({ code: 'outside', event: event.number });
    return [];
  }
  const frames = rangeFrames(event.source) - (to - from);
  if (frames > 0) losses.push({ code: 'shortened', event: event.number, frames });
  if (issues.some(({ code }) => code === 'several-media'))
    losses.push({ code: 'several', event: event.number, taken: media.name });
  return [{ of: { assetId: media.assetId }, in: from, out: to }];
}

/** The clips that events make use of and the library has never seen. */
class UnseenClips {
  private readonly known = new Map<string, { at: number; clip: UnseenClip }>();

  /** Gives the event's cut, for when all events are added. */
  add(event: CutEvent): () => Cut {
    const { source, sourceCounting: counting } = event;
    const [name, reel] = [nameOf(event), reelOf(event)];
    const key = JSON.stringify([reel, name, counting.id]);
    const { at, clip } = this.known.get(key) ?? { at: this.known.size, clip: null };
    const start = Math.min(source.start, clip?.startFrame ?? Infinity);
    const end = Math.max(source.end, clip ? clip.startFrame + clip.durationFrames : 0);
    this.known.set(key, { at, clip: { name, reel, counting, startFrame: start, durationFrames: end - start } });
    return () => {
      const first = this.known.get(key)?.clip.startFrame ?? source.start;
      return { of: { unseen: at }, in: source.start - first, out: source.end - first };
    };
  }

  all(): UnseenClip[] {
    return [...this.known.values()].map(({ clip }) => clip);
  }
}

/** The wording of what does not come into a string-out. */
export function wordReadLoss(loss: ReadLoss): string {
  switch (loss.code) {
    case 'sound-only':
      return `Event ${loss.event} is sound without picture, and is left out.`;
    case 'other-rate':
      return `Event ${loss.event} counts at another rate than its media, ${loss.media}, and is left out.`;
    case 'outside':
      return `Event ${loss.event} lies outside its media, and is left out.`;
    case 'shortened':
      return `Event ${loss.event} is shorter by ${loss.frames} ${loss.frames === 1 ? 'frame' : 'frames'}, since its media ends or begins there.`;
    case 'unseen':
      return `Event ${loss.event} is of a clip that the library has never seen, and is left out.`;
    case 'several':
      return `Event ${loss.event} fits several assets equally well; ${loss.taken} is taken. Look whether it is the one.`;
    case 'gaps':
      return `${loss.gaps === 1 ? 'A gap' : `${loss.gaps} gaps`} of ${loss.frames} ${loss.frames === 1 ? 'frame' : 'frames'} ${loss.gaps === 1 ? 'is' : 'in all are'} closed.`;
    default:
      return loss satisfies never;
  }
}
