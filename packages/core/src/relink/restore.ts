import { formatTimecode, type Counting } from '../timecode';
import { writeRows } from '../interchange/table';
import type { UsedRange } from './score';

/**
 * What has to come back of a clip so that everything that is cut from it has its pictures, with so many frames before and after each
 * cut, within the clip. What meets is one. `frames` is the length of the clip; null where it is not known.
 */
export function wantedRanges(cuts: readonly UsedRange[], handles: number, frames: number | null): UsedRange[] {
  const wide = cuts
    .map(({ from, to }) => ({ from: Math.max(0, from - handles), to: Math.min(frames ?? Infinity, to + handles) }))
    .filter(({ from, to }) => from < to)
    .sort((a, b) => a.from - b.from);
  const joined: UsedRange[] = [];
  for (const range of wide) {
    const last = joined.at(-1);
    if (last && range.from <= last.to) joined[joined.length - 1] = { ...last, to: Math.max(last.to, range.to) };
    else joined.push(range);
  }
  return joined;
}

/** An original that is to be fetched from wherever it is kept, or shot again. */
export interface ToRestore {
  readonly reel: string | null;
  readonly name: string;
  readonly counting: Counting | null;
  /** Of its first frame, counted at `counting`; null without timecode. */
  readonly startFrame: number | null;
  readonly durationFrames: number | null;
  /** Frames from its first; none for all of it. */
  readonly ranges: readonly UsedRange[];
  readonly lastSeen: string;
  readonly bytes: number;
  readonly checksum: string | null;
  /** What it lies on in the archive; null where it is not known there. */
  readonly tape: string | null;
  /** String-outs that are cut from it. */
  readonly uses: readonly string[];
}

/** As somebody takes tapes from a shelf: reel by reel, each from its beginning; what has no reel by name, at the end. */
export function byReel(a: ToRestore, b: ToRestore): number {
  if ((a.reel === null) !== (b.reel === null)) return a.reel === null ? 1 : -1;
  return (
    compared(a.reel ?? '', b.reel ?? '') || (a.startFrame ?? 0) - (b.startFrame ?? 0) || compared(a.name, b.name) || 0
  );
}

const inOrder = new Intl.Collator('en', { numeric: true });
const compared = (a: string, b: string): number => inOrder.compare(a, b);

/** The first frame that is wanted and the one behind the last, as timecode; of what has none, counted from its beginning. */
export function timecodesOf(
  { counting, durationFrames, startFrame }: Pick<ToRestore, 'counting' | 'durationFrames' | 'startFrame'>,
  range: UsedRange | null,
): { readonly start: string; readonly end: string; readonly frames: number } | null {
  const whole = durationFrames === null ? null : { from: 0, to: durationFrames };
  const { from, to } = range ?? whole ?? { from: 0, to: 0 };
  if (!counting || to <= from) return null;
  const at = (frame: number): string => formatTimecode((startFrame ?? 0) + frame, counting);
  return { start: at(from), end: at(to), frames: to - from };
}

const HEAD = [
  ...['Reel', 'Clip', 'Start', 'End', 'Frames', 'Rate', 'Part', 'Timecode', 'Tape'],
  ...['Last seen', 'Bytes', 'xxHash64', 'Needed by'],
];

/** A restore list as a table, a row for each range. The end is the frame behind the last, as in cut lists. */
export const writeRestoreList = (rows: readonly ToRestore[]): string =>
  writeRows(
    [
      HEAD,
      ...rows.flatMap((row) =>
        (row.ranges.length > 0 ? row.ranges : [null]).map((range) => {
          const at = timecodesOf(row, range);
          return [
            ...[row.reel ?? '', row.name, at?.start ?? '', at?.end ?? '', String(at?.frames ?? '')],
            ...[row.counting?.id ?? '', range ? 'range' : 'whole', row.startFrame === null ? 'none' : 'source'],
            ...[row.tape ?? '', row.lastSeen, String(row.bytes), row.checksum ?? '', row.uses.join('; ')],
          ];
        }),
      ),
    ],
    ',',
  );
