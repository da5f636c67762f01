import { formatClock, labelParts } from './timecode';
import type { Counting } from './rates';

/**
 * A timecode's label as one number that rates do not matter to: seconds of the day × 1000, and the frames. So clips of any rate can be
 * put in order and asked for by `10:04:00:00`, as they are read off a slate.
 */
export const LABEL_SECOND = 1000;

/** The label of a frame count as one number. */
export function labelOfFrames(frames: number, counting: Counting): number {
  const { seconds, ff } = labelParts(frames, counting);
  return seconds * LABEL_SECOND + ff;
}

/** The label of a moment of the day in seconds, without frames. */
export const labelOfSeconds = (seconds: number): number => (Math.floor(seconds) % 86_400) * LABEL_SECOND;

export const printLabel = (label: number): string =>
  `${formatClock(Math.floor(label / LABEL_SECOND))}:${String(label % LABEL_SECOND).padStart(2, '0')}`;

/** Reads `10:04`, `10:04:00` or `10:04:00:12` as the whole span it names, up to what follows it; null if it is no timecode. */
export function readLabel(text: string): { readonly from: number; readonly to: number } | null {
  const match = /^(\d{1,2}):([0-5]\d)(?::([0-5]\d)(?:[:;.](\d{2,3}))?)?$/.exec(text);
  if (!match || Number(match[1]) > 23) return null;
  const [h = 0, m = 0, s = 0, ff = 0] = match.slice(1).map((part) => Number(part ?? 0));
  const from = ((h * 60 + m) * 60 + s) * LABEL_SECOND + ff;
  const length = match[4] !== undefined ? 1 : match[3] !== undefined ? LABEL_SECOND : 60 * LABEL_SECOND;
  return { from, to: from + length };
}
