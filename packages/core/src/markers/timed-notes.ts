import type { Cue } from '../interchange/timed-text';
import { formatTimecode, scale, type Counting } from '../timecode';
import { MARKER_COLOURS, MARKER_KINDS, type NewMarker } from './markers';

/** What markers of an asset count in: its frames, or milliseconds where `counting` is null. */
export interface Timeline {
  readonly counting: Counting | null;
  /** In frames or milliseconds. */
  readonly length: number;
  /** The frame of the timecode that it begins with. */
  readonly startFrame: number;
}

const msOf = (at: number, counting: Counting | null): number =>
  counting ? scale(at, 1000n * BigInt(counting.rate.den), BigInt(counting.rate.num), 'nearest') : at;
const placeOf = (ms: number, counting: Counting | null): number =>
  counting ? scale(ms, BigInt(counting.rate.num), 1000n * BigInt(counting.rate.den), 'nearest') : ms;

/**
 * A marker as a cue: its name is the identifier and the first line, its note the rest, kind and colour are classes. A cue has to
 * last, so a place lasts a frame or a millisecond.
 */
export function cueOf({ kind, start, end, name, note, colour }: NewMarker, counting: Counting | null): Cue {
  return {
    startMs: msOf(start, counting),
    endMs: Math.max(msOf(end ?? start + 1, counting), msOf(start, counting) + 1),
    id: name,
    text: [name, note].filter(Boolean).join('\n'),
    voice: '',
    classes: [kind, ...(colour === 'none' ? [] : [colour])],
  };
}

/** Milliseconds that the timecode of the first frame reads as on a clock: cues that count from it go on in real time. */
function clockOf({ counting, startFrame }: Timeline): number {
  if (!counting) return 0;
  const [hours = 0, minutes = 0, seconds = 0, frames = 0] = formatTimecode(startFrame, counting)
    .split(/[:;]/)
    .map(Number);
  return ((hours * 60 + minutes) * 60 + seconds) * 1000 + Math.round((frames * 1000) / counting.nominal);
}

export interface TimedNotes {
  readonly markers: readonly NewMarker[];
  /** So many lie outside of the asset and are left out. */
  readonly outside: number;
  /** Whether their times were counted from the first frame or are its timecode. */
  readonly countedFrom: 'start' | 'timecode';
}

/** Cues as markers. Times that all lie beyond the end are taken for timecode if that brings any of them in. */
export function timedNotes(cues: readonly Cue[], timeline: Timeline): TimedNotes {
  const fromStart = fitting(cues, timeline, 0);
  const clock = clockOf(timeline);
  const fromTimecode = fromStart.length === 0 && clock > 0 ? fitting(cues, timeline, clock) : [];
  const markers = fromTimecode.length > 0 ? fromTimecode : fromStart;
  return {
    markers,
    outside: cues.length - markers.length,
    countedFrom: fromTimecode.length > 0 ? 'timecode' : 'start',
  };
}

const fitting = (cues: readonly Cue[], { counting, length }: Timeline, clock: number): NewMarker[] =>
  cues.flatMap((cue): NewMarker[] => {
    const start = placeOf(cue.startMs - clock, counting);
    if (start < 0 || start >= length) return [];
    const end = Math.min(placeOf(cue.endMs - clock, counting), length);
    return [{ ...sayingOf(cue), start, end: end > start + 1 ? end : null }];
  });

const NAME_LIMIT = 200;
const NOTE_LIMIT = 5000;

function sayingOf({ id, text, voice, classes }: Cue): Pick<NewMarker, 'kind' | 'colour' | 'name' | 'note'> {
  const kind = MARKER_KINDS.find((each) => classes.includes(each));
  const colour = MARKER_COLOURS.find((each) => classes.includes(each)) ?? 'none';
  if (kind) return { kind, colour, ...ownWords(id, text) };
  const words = voice ? `${voice}: ${text}` : text;
  const named = id.length > 0 ? id.slice(0, NAME_LIMIT) : '';
  const isName = named === '' && words.length <= NAME_LIMIT && !words.includes('\n');
  return {
    ...{ kind: 'note', colour },
    name: isName ? words.trim() : named,
    note: isName ? '' : words.slice(0, NOTE_LIMIT),
  };
}

/** What was written by `cueOf`. */
function ownWords(id: string, text: string): Pick<NewMarker, 'name' | 'note'> {
  const [first = '', ...rest] = text.split('\n');
  return id !== '' && first === id ? { name: id, note: rest.join('\n') } : { name: id, note: text };
}
