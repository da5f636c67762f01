import type { Counting } from '../timecode';

/** What tells that two files are one recording. */
export interface TwinFacts {
  readonly name: string;
  readonly bytes: number;
  readonly fingerprint: string | null;
  readonly counting: Counting | null;
  readonly durationFrames: number | null;
  readonly startFrame: number | null;
}

/** `same-ends`: size, beginning and end are equal. `same-facts`: name, size, duration and timecode are. */
export const TWIN_SIGNS = ['same-ends', 'same-facts'] as const;
export type TwinSign = (typeof TWIN_SIGNS)[number];

/** Why two files are taken for one recording; null if they are not. */
export function twinSign(a: TwinFacts, b: TwinFacts): TwinSign | null {
  if (a.bytes !== b.bytes) return null;
  if (a.fingerprint !== null && a.fingerprint === b.fingerprint) return 'same-ends';
  const same =
    a.name.toLowerCase() === b.name.toLowerCase() &&
    a.durationFrames !== null &&
    a.durationFrames === b.durationFrames &&
    a.startFrame !== null &&
    a.startFrame === b.startFrame &&
    a.counting?.id === b.counting?.id;
  return same ? 'same-facts' : null;
}
