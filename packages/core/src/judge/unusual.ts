import type { Gap } from '../shelf';
import { formatTimecode, type Counting, type Rational } from '../timecode';

/** What judging needs to know of a clip. Frames count at its own rate. */
export interface ClipFacts {
  readonly hasPicture: boolean;
  readonly counting: Counting | null;
  /** The rate that its frames are stamped for, and the rate that they come at on average. */
  readonly rates: { readonly nominal: Rational; readonly average: Rational } | null;
  readonly startFrame: number | null;
  readonly durationFrames: number | null;
  readonly reel: string | null;
  readonly width: number | null;
  readonly height: number | null;
  readonly gaps: readonly Gap[];
  /** Loudest sample of each channel in decibels below full scale, where it was measured; −∞ for digital silence. */
  readonly channelPeaksDb: readonly number[] | null;
}

/** Another clip of the same reel. */
export interface ReelNeighbour {
  readonly name: string;
  readonly counting: Counting;
  readonly startFrame: number;
  readonly durationFrames: number;
}

export type Unusual =
  | { readonly code: 'variable-rate'; readonly nominal: number; readonly average: number }
  | { readonly code: 'no-timecode' }
  | {
      readonly code: 'timecode-overlap';
      readonly reel: string;
      readonly other: string;
      readonly from: string;
      readonly to: string;
    }
  | { readonly code: 'odd-size'; readonly width: number; readonly height: number }
  | { readonly code: 'gaps'; readonly gaps: readonly Gap[] }
  | { readonly code: 'silent-channels'; readonly channels: readonly number[]; readonly of: number };

/** Containers round their time stamps: rates this far apart, in parts per million, are the same. */
const SAME_RATE_PPM = 500;
/** Below this no recorder's own noise lies; common practice, no source. */
const SILENT_DB = -85;

/** Everything about a clip that somebody should look at, the gravest first. */
export function unusual(clip: ClipFacts, neighbours: readonly ReelNeighbour[]): Unusual[] {
  return [gapsIn(clip), varying(clip), overlapping(clip, neighbours), untimed(clip), odd(clip), silent(clip)].flatMap(
    (found) => found ?? [],
  );
}

const per = ({ num, den }: Rational): number => num / den;

function varying({ rates }: ClipFacts): Unusual | null {
  if (!rates) return null;
  const [nominal, average] = [per(rates.nominal), per(rates.average)];
  return Math.abs(nominal - average) * 1e6 > nominal * SAME_RATE_PPM
    ? { code: 'variable-rate', nominal, average }
    : null;
}

const untimed = ({ hasPicture, startFrame }: ClipFacts): Unusual | null =>
  hasPicture && startFrame === null ? { code: 'no-timecode' } : null;

const odd = ({ width, height }: ClipFacts): Unusual | null =>
  width !== null && height !== null && (width % 2 !== 0 || height % 2 !== 0)
    ? { code: 'odd-size', width, height }
    : null;

const gapsIn = ({ gaps }: ClipFacts): Unusual | null => (gaps.length > 0 ? { code: 'gaps', gaps } : null);

function silent({ channelPeaksDb: peaks }: ClipFacts): Unusual | null {
  const channels = (peaks ?? []).flatMap((peak, index) => (peak < SILENT_DB ? [index + 1] : []));
  return channels.length > 0 ? { code: 'silent-channels', channels, of: peaks?.length ?? 0 } : null;
}

/** Two clips of one reel at one rate cannot both have been recorded at the same timecode. */
function overlapping(
  { counting, startFrame, durationFrames, reel }: ClipFacts,
  neighbours: readonly ReelNeighbour[],
): Unusual | null {
  if (!counting || startFrame === null || durationFrames === null || reel === null) return null;
  for (const other of neighbours) {
    if (other.counting.id !== counting.id) continue;
    const from = Math.max(startFrame, other.startFrame);
    const to = Math.min(startFrame + durationFrames, other.startFrame + other.durationFrames);
    if (from < to)
      return {
        code: 'timecode-overlap',
        reel,
        other: other.name,
        from: formatTimecode(from, counting),
        to: formatTimecode(to, counting),
      };
  }
  return null;
}

const rateOf = (rate: number): string => String(Math.round(rate * 1000) / 1000);
const gapOf = ([first, last]: Gap): string => (first === last ? String(first) : `${first} to ${last}`);
const GAPS_WORDED = 4;

export function wordUnusual(found: Unusual): string {
  switch (found.code) {
    case 'variable-rate':
      return `Its frame rate varies: stamped for ${rateOf(found.nominal)}, ${rateOf(found.average)} on average.`;
    case 'no-timecode':
      return 'It carries no timecode; it will be counted from zero.';
    case 'timecode-overlap':
      return `Its timecode overlaps ${found.other} of the same reel ${found.reel}, from ${found.from} to ${found.to}.`;
    case 'odd-size':
      return `Its size is odd: ${found.width} × ${found.height}. Many codecs need even numbers.`;
    case 'gaps': {
      const more = found.gaps.length - GAPS_WORDED;
      return `Pictures are missing: ${found.gaps.slice(0, GAPS_WORDED).map(gapOf).join(', ')}${more > 0 ? ` and ${more} more` : ''}. The one before is held.`;
    }
    case 'silent-channels':
      return found.channels.length === found.of
        ? 'All of its sound is silent.'
        : `Silent: channel ${found.channels.join(', ')} of ${found.of}.`;
    default:
      return found satisfies never;
  }
}
