import { array, boolean, number, object, type InferType } from 'yup';
import type { Likeness, UsedRange } from '@larder/core/relink';
import type { CountingId } from '@larder/core/timecode';
import type { Job } from './model';
import { lostOf, MAX_WINDOW } from './requests';

/** Handles are seconds before and after each cut; more than a minute is the whole clip to most people. */
export const MOST_HANDLES_SECONDS = 60;

const asked = {
  lost: lostOf.default(() => lostOf.getDefault()),
  /** Only what was not found by this search, or is not to be mended by it; with that of `lost` nothing is done then. */
  plan: number().integer().positive().nullable().default(null),
  /** Of what string-outs and subclips are cut from, only that. */
  isCut: boolean().default(false),
  handlesSeconds: number().min(0).max(MOST_HANDLES_SECONDS).default(2),
};
export const restoreListSchema = object({
  ...asked,
  offset: number().integer().min(0).default(0),
  limit: number().integer().min(1).max(MAX_WINDOW).default(100),
}).noUnknown();
export const takeRestoreListSchema = object(asked).noUnknown();
export type RestoreListAsked = InferType<typeof restoreListSchema>;
export type RestoreListTaken = InferType<typeof takeRestoreListSchema>;

export const restoreSchema = object({
  /** A storage that the library may copy to. */
  storageId: number().integer().positive().required('Choose a storage to restore to.'),
  assetIds: array(number().integer().positive().required())
    .min(1, 'Choose what is to be restored.')
    .max(10_000, 'At most 10,000 at once.')
    .required(),
}).noUnknown();
export type RestoreAsked = InferType<typeof restoreSchema>;

/** Where a lost original is kept, and how alike it is as far as the archive's catalogue tells. */
export interface Archived {
  readonly tape: string;
  readonly path: string;
  readonly likeness: Likeness;
  readonly probability: number;
}

/** A lost original on the list of what has to be fetched or shot again. */
export interface RestoreRow {
  readonly assetId: number;
  readonly name: string;
  readonly state: 'missing' | 'changed';
  readonly reel: string | null;
  readonly counting: CountingId | null;
  /** Of its first frame; null without timecode. */
  readonly startFrame: number | null;
  readonly durationFrames: number | null;
  /** What is needed of it, with handles, in frames from its first; none for all of it. */
  readonly ranges: readonly UsedRange[];
  /** String-outs that are cut from it, with their projects. */
  readonly uses: readonly string[];
  /** A storage, with the path in it. */
  readonly lastSeen: string;
  readonly bytes: number;
  readonly xxh64: string | null;
  /** Null where no archive is set up, or it has nothing that could be it. */
  readonly archived: Archived | null;
  /** What fetches it, or did last and failed. */
  readonly job: Job | null;
}

export interface RestoreList {
  readonly total: number;
  /** Of all files together. */
  readonly bytes: number;
  /** How many the archive has. */
  readonly archived: number;
  /** Reel by reel, each from its beginning. */
  readonly rows: readonly RestoreRow[];
  /** Null where none is set up. */
  readonly archive: {
    readonly name: string;
    readonly files: number;
    /** What cannot be read of its catalogue, in words. */
    readonly troubles: readonly string[];
  } | null;
}
