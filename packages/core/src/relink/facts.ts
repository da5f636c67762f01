import type { Semblance } from '../semblance';
import type { Counting } from '../timecode';

/** What is known of a file; null where it is not known. Both the lost original and each candidate are described so. */
export interface FileFacts {
  /** With its folders from the root of its storage, parted by `/`. */
  readonly path: string;
  readonly bytes: number;
  readonly modifiedMs: number | null;
  /** Hash over the size and both ends of the file. */
  readonly fingerprint: string | null;
  /** Hash over all of the file. */
  readonly checksum: string | null;
  readonly counting: Counting | null;
  readonly durationFrames: number | null;
  /** Start timecode as a frame count at `counting`. */
  readonly startFrame: number | null;
  readonly reel: string | null;
  readonly width: number | null;
  readonly height: number | null;
  /** Of its sound. */
  readonly channels: number | null;
  /** When it was recorded, as the file says. */
  readonly shotMs: number | null;
  /**
   * Known from a cut list only: its start and duration are those of what the list makes use of, its folder is none that anybody saw, and
   * nothing else is known of it.
   */
  readonly isListed?: boolean;
  /** What it looks and sounds like, as far as that is known and anything else does not tell. */
  readonly semblance?: Semblance | null;
}
