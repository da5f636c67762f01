import { FRAME_MS, type SoundFrames } from './sound-frames';

export const SOUND_KINDS = ['speech', 'music', 'noise', 'silence'] as const;
export type SoundKind = (typeof SOUND_KINDS)[number];

/** A stretch of a sound that is of one kind, in milliseconds from the beginning. */
export interface SoundPart {
  readonly kind: SoundKind;
  readonly startMs: number;
  readonly endMs: number;
}

/** Frames that a kind is told by, and how far from one to the next. */
const WINDOW = 1000 / FRAME_MS;
const HOP = WINDOW / 2;
/** Above the quietest tenth of the frames by so much, something sounds; but nothing below the one level, and all above the other. */
const ABOVE_FLOOR_DB = 8;
const SILENT_DB = -55;
const LOUD_DB = -35;
/** Of a window, at least so much sounds if anything does. */
const SOUNDING = 0.2;
/**
 * Vowels and hissing consonants follow each other only in speech, so that how often samples change sign varies as in nothing else
 * (J. Saunders, “Real-time discrimination of broadcast speech/music”, ICASSP 1996), and so does the level. The bounds are by
 * measurement, second by second: of two synthetic voices and of read speech changes of sign vary by 0.02 to 0.27 and levels by 5 dB
 * and more; of bells, blows and plucked chords signs by 0 to 0.03, of water, fire and even noise levels by 1 to 2 dB.
 */
const SIGNS_VARY = 0.035;
const LEVELS_VARY_DB = 3;
/** Something is pitched from this likeness on; of speech at least a few frames are, of music most. */
const PITCHED = 0.7;
const SPEECH_PITCHED = 0.08;
const MUSIC_PITCHED = 0.6;
/** A second without a hiss in it may be speech all the same, no further than so many windows from one that is. */
const MAYBE_PITCHED = 0.3;
const MAYBE_WINDOWS = 6;
/** Gaps within speech that are shorter belong to it, and as much is left around it for soft beginnings and ends. */
const GAP_MS = 400;
const AROUND_MS = 200;
const LEAST_MS = 200;

/** Tells speech, music, noise and silence apart, so that nothing is recognised where nobody speaks; the parts cover all of it. */
export function soundParts(frames: SoundFrames): SoundPart[] {
  const count = frames.levels.length;
  const sounding = soundingOf(frames.levels);
  const kinds = kindsOf(frames, sounding);
  const isSpeech = Uint8Array.from({ length: count }, (_unused, at) =>
    sounding[at] === 1 && kinds[at] === 'speech' ? 1 : 0,
  );
  closeGaps(isSpeech, 1, GAP_MS / FRAME_MS);
  closeGaps(isSpeech, 0, LEAST_MS / FRAME_MS);
  const kindAt = widened(isSpeech, AROUND_MS / FRAME_MS);
  const parts: { kind: SoundKind; startMs: number; endMs: number }[] = [];
  for (let at = 0; at < count; at += 1) {
    const told = kinds[at] as SoundKind;
    const kind = kindAt[at] === 1 ? 'speech' : told === 'speech' ? 'silence' : told;
    const last = parts.at(-1);
    if (last?.kind === kind) last.endMs += FRAME_MS;
    else parts.push({ kind, startMs: at * FRAME_MS, endMs: (at + 1) * FRAME_MS });
  }
  return parts;
}

function soundingOf(levels: Float32Array): Uint8Array {
  const floor = levels.toSorted((a, b) => a - b)[Math.floor(levels.length / 10)] ?? 0;
  const least = Math.max(SILENT_DB, Math.min(floor + ABOVE_FLOOR_DB, LOUD_DB));
  return Uint8Array.from(levels, (level) => (level > least ? 1 : 0));
}

interface Heard {
  readonly from: number;
  readonly to: number;
  kind: SoundKind;
  /** May be speech where speech is next to it. */
  readonly mayBeSpeech: boolean;
}

function heardIn({ levels, crossings, pitched }: SoundFrames, sounding: Uint8Array, from: number): Heard {
  const to = Math.min(sounding.length, from + WINDOW);
  const heard: number[] = [];
  for (let at = from; at < to; at += 1) if (sounding[at] === 1) heard.push(at);
  if (heard.length < (to - from) * SOUNDING) return { from, to, kind: 'silence', mayBeSpeech: false };
  const signs = deviation(Float32Array.from(heard, (at) => crossings[at] as number));
  const level = deviation(levels.slice(from, to));
  const share = heard.filter((at) => (pitched[at] as number) > PITCHED).length / heard.length;
  const isSpeech = signs >= SIGNS_VARY && level >= LEVELS_VARY_DB && share >= SPEECH_PITCHED;
  return {
    ...{ from, to },
    kind: isSpeech ? 'speech' : share >= MUSIC_PITCHED ? 'music' : 'noise',
    mayBeSpeech: level >= LEVELS_VARY_DB && share >= MAYBE_PITCHED,
  };
}

function deviation(values: Float32Array): number {
  const mean = values.reduce((sum, value) => sum + value, 0) / values.length;
  return Math.sqrt(values.reduce((sum, value) => sum + (value - mean) ** 2, 0) / values.length);
}

/** Of each frame what the windows say in which it lies; where they differ, speech rather than music, music rather than noise. */
function kindsOf(frames: SoundFrames, sounding: Uint8Array): SoundKind[] {
  const windows: Heard[] = [];
  for (let from = 0; from === 0 || from < sounding.length - HOP; from += HOP)
    windows.push(heardIn(frames, sounding, from));
  const certain = windows.flatMap(({ kind }, at) => (kind === 'speech' ? [at] : []));
  for (const from of certain)
    for (const by of [1, -1]) {
      let reach = 0;
      for (let step = 1; step <= MAYBE_WINDOWS; step += 1) {
        const window = windows[from + step * by];
        if (!window || window.kind === 'silence') break;
        if (window.mayBeSpeech) reach = step;
      }
      // What lies between is speech too.
      for (let step = 1; step <= reach; step += 1) (windows[from + step * by] as Heard).kind = 'speech';
    }
  const rank = (kind: SoundKind) => SOUND_KINDS.indexOf(kind);
  const kinds = Array.from<SoundKind>({ length: sounding.length }).fill('silence');
  for (const { from, to, kind } of windows)
    for (let at = from; at < to; at += 1) if (rank(kind) < rank(kinds[at] as SoundKind)) kinds[at] = kind;
  return kinds;
}

/** Runs of the other value that are shorter than so many frames, with `value` on both sides, become `value`. */
function closeGaps(flags: Uint8Array, value: 0 | 1, least: number): void {
  for (let at = 0; at < flags.length;) {
    const from = at;
    while (at < flags.length && flags[at] === flags[from]) at += 1;
    const isWithin = from > 0 && at < flags.length;
    if (flags[from] !== value && at - from < least && (isWithin || value === 0)) flags.fill(value, from, at);
  }
}

function widened(flags: Uint8Array, by: number): Uint8Array {
  const out = flags.slice();
  for (let at = 0; at < flags.length; at += 1) {
    if (flags[at] === 0 || (flags[at - 1] === 1 && flags[at + 1] === 1)) continue;
    out.fill(1, Math.max(0, at - by), Math.min(flags.length, at + by + 1));
  }
  return out;
}

/** A piece is listened to at once; a longer one would take a recogniser much memory, and more to do again. */
const LONGEST_PIECE_MS = 20_000;
const SHORTEST_PIECE_MS = 5000;

/** The speech among the parts of a sound, in pieces that are short enough: cut where it is quietest. */
export function speechPieces(frames: SoundFrames): SoundPart[] {
  const pieces: SoundPart[] = [];
  for (const { kind, startMs, endMs } of soundParts(frames)) {
    if (kind !== 'speech') continue;
    let from = startMs;
    while (endMs - from > LONGEST_PIECE_MS) {
      const to = quietestIn(
        frames,
        from + SHORTEST_PIECE_MS,
        Math.min(endMs - SHORTEST_PIECE_MS, from + LONGEST_PIECE_MS),
      );
      pieces.push({ kind, startMs: from, endMs: to });
      from = to;
    }
    pieces.push({ kind, startMs: from, endMs });
  }
  return pieces;
}

function quietestIn(frames: SoundFrames, fromMs: number, toMs: number): number {
  let quietest = Math.ceil(fromMs / FRAME_MS);
  for (let at = quietest; at < toMs / FRAME_MS; at += 1)
    if (levelAround(frames, at) < levelAround(frames, quietest)) quietest = at;
  return quietest * FRAME_MS;
}

/** How loud it is a tenth of a second before and after the beginning of a frame. */
function levelAround({ levels }: SoundFrames, at: number): number {
  let sum = 0;
  for (let each = at - 5; each < at + 5; each += 1) sum += levels[each] ?? 0;
  return sum;
}
