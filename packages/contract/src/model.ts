import type { RunMarker } from '@larder/core/sequence';
import type { FieldChanges, FileState, Kind, PlainChoice, SetValue, ShopField, Verdict } from '@larder/core/fields';
import type { Alpha } from '@larder/core/ingest';
import type { EvidenceKind, Likeness, Evidence } from '@larder/core/relink';
import type { Use } from '@larder/core/upkeep';
import type { ConformedEvent } from '@larder/core/sequence';
import type { Pattern } from '@larder/core/tags';
import type { Gap, KnownState, ShelfCounts, ShelfRow } from '@larder/core/shelf';

/** Milliseconds since 1970 in UTC; every `…Ms` that is a moment is one. */
export type Moment = number;

export const ROLES = ['manager', 'editor', 'viewer'] as const;
export type Role = (typeof ROLES)[number];

export interface Person {
  readonly id: number;
  readonly login: string;
  readonly name: string;
  readonly role: Role;
}

export const STORAGE_STATES = ['online', 'offline'] as const;
export type StorageState = (typeof STORAGE_STATES)[number];

export const STORAGE_KINDS = ['local', 'network', 'removable'] as const;
export type StorageKind = (typeof STORAGE_KINDS)[number];

export interface Storage {
  readonly id: number;
  readonly kind: StorageKind;
  /** By what it is known again under another path; null if it has nothing of the kind. */
  readonly volume: string | null;
  /** The library may copy to it. It never alters or deletes what is there. */
  readonly managed: boolean;
  /** Files are checked again when their last check is this old; null for never by itself. */
  readonly verifyDays: number | null;
  /** Whether all files are there is looked at again when the last look is this old; null for never by itself. */
  readonly presenceHours: number | null;
  /** Milliseconds since 1970, when all of it was last looked over; null for never. */
  readonly lookedMs: number | null;
  /** What is said in what is catalogued from it is recognised without being asked for. */
  readonly recognises: boolean;
  /** Of the whole volume; null where it does not say, or is not mounted. */
  readonly capacityBytes: number | null;
  readonly freeBytes: number | null;
  readonly name: string;
  readonly rootPath: string;
  readonly state: StorageState;
  readonly stateSinceMs: Moment;
  readonly counts: Readonly<Record<FileState, number>>;
  readonly bytes: number;
  readonly lastScan: Job | null;
}

export const RENDITION_KINDS = ['poster', 'filmstrip', 'peaks', 'proxy', 'mezzanine'] as const;
export type RenditionKind = (typeof RENDITION_KINDS)[number];

/** The sound of a file: all of its streams as one. Codec, layout and sample rate are those of the first that can be decoded. */
export interface Sound {
  readonly codec: string;
  readonly channels: number;
  /** Channels of each stream in the file's order, where there are several; 0 for one that cannot be decoded. */
  readonly streams?: readonly number[];
  readonly layout: string | null;
  readonly sampleRate: number;
}

/** Code points of ITU-T H.273 by the names ffprobe gives them; null where the file does not say. */
export interface ColourTags {
  readonly primaries: string | null;
  readonly transfer: string | null;
  readonly matrix: string | null;
  readonly range: string | null;
}

/** Of the whole programme, as ITU-R BS.1770 and EBU Tech 3342 measure it; null below the gate, as in silence. */
export interface Loudness {
  readonly integratedLufs: number | null;
  readonly rangeLu: number | null;
  readonly truePeakDb: number | null;
}

/** A frame counted from the asset's first; the first one that is not black; null to leave it to the library. */
export type PosterChoice = number | 'not-black' | null;

export interface Asset {
  readonly id: number;
  readonly kind: Kind;
  /** The asset that a subclip is a part of; null for a whole one. */
  readonly parentId: number | null;
  readonly parentName: string | null;
  /** Where a subclip begins in its whole: in frames, or in milliseconds without frames; 0 for a whole one. */
  readonly inPlace: number;
  readonly name: string;
  readonly title: string | null;
  readonly description: string | null;
  readonly notes: string | null;
  readonly verdict: Verdict | null;
  /** What people said in the fields that have no place of their own here; a field that says nothing is not in it. */
  readonly logged: FieldChanges;
  readonly tags: readonly string[];
  readonly reel: string | null;
  readonly scene: string | null;
  readonly take: string | null;
  readonly place: string | null;
  readonly shotMs: Moment | null;
  readonly addedMs: Moment;
  /** Exact frames a second as a fraction; null without moving picture. */
  readonly rate: { readonly num: number; readonly den: number; readonly dropFrame: boolean } | null;
  readonly durationFrames: number | null;
  readonly durationMs: number | null;
  /** Start timecode as a frame count at `rate`; null if the file carries none. */
  readonly startFrame: number | null;
  readonly width: number | null;
  readonly height: number | null;
  readonly codec: string | null;
  readonly pixelFormat: string | null;
  readonly colour: ColourTags | null;
  readonly alpha: Alpha | null;
  readonly sound: Sound | null;
  readonly loudness: Loudness | null;
  /** Sound start in samples since midnight, as a BWF file says. */
  readonly timeReferenceSamples: number | null;
  readonly storageId: number;
  readonly storage: string;
  /** Path within the storage; for an image sequence that of its first file. */
  readonly path: string;
  /** How many files the original is made of: more than one for an image sequence. */
  readonly files: number;
  /** Pictures of a sequence that are not there; the one before is held. */
  readonly gaps: readonly Gap[];
  /** What each of its markers says, in their order. */
  readonly markers: readonly string[];
  /** Paths of the bins it is in. */
  readonly bins: readonly string[];
  /** How many other places its file lies at. */
  readonly otherLocations: number;
  readonly bytes: number;
  readonly modifiedMs: Moment;
  readonly state: FileState;
  readonly stateSinceMs: Moment;
  /** Why the file could not be read, or what is not right with it. */
  readonly reason: string | null;
  readonly renditions: readonly RenditionKind[];
  /** The frame that a person wants it to be shown by. */
  readonly poster: PosterChoice;
  /** When its poster frame was made, which tells one from the one before; null without one. */
  readonly posterMadeMs: Moment | null;
}

/** How the ledger's columns are arranged, under a name. */
export interface LedgerLayout {
  readonly id: number;
  readonly name: string;
  readonly shared: boolean;
  /** Made by whoever asks. */
  readonly own: boolean;
  readonly columns: readonly {
    readonly colId: string;
    readonly shown: boolean;
    readonly width: number;
    readonly pinned: boolean;
  }[];
}

/** A set of tags of one topic, in the order in which people want to see it. */
export interface TagSet {
  readonly id: number;
  readonly name: string;
  readonly description: string;
  /** Chosen by a person; empty for the one that its name gives it. */
  readonly letter: string;
  readonly pattern: Pattern;
}

export interface Tag {
  readonly id: number;
  readonly name: string;
  /** How many assets have it. */
  readonly uses: number;
  /** Null for a free tag. */
  readonly setId: number | null;
  readonly letter: string;
  readonly description: string;
  /** Other words that are read as this tag. */
  readonly synonyms: readonly string[];
}

/** Every tag that people choose from: those of sets in order, then free ones, the most used first. */
export interface TagBook {
  /** Words that are in no set may be used as tags. */
  readonly freeTags: boolean;
  readonly sets: readonly TagSet[];
  readonly tags: readonly Tag[];
}

/** What an operation on many assets would do: the first of those that change, and of those whose field does not take it. */
export interface OperationPreview {
  readonly changed: number;
  readonly rows: readonly {
    readonly assetId: number;
    readonly name: string;
    readonly before: SetValue;
    readonly after: SetValue;
  }[];
  readonly wrong: readonly { readonly assetId: number; readonly name: string; readonly message: string }[];
}

/** Where somebody stopped logging: what they walked through, and how far they had come. */
export interface LoggingPlace {
  readonly query: string;
  readonly assetId: number;
  readonly done: number;
  readonly total: number;
  readonly atMs: Moment;
}

/** A field that the shop defined, by the number under which it is changed. */
export interface ShopFieldRow extends ShopField {
  readonly id: number;
}

export interface FieldsAnswer {
  readonly fields: readonly ShopFieldRow[];
  /** Where plain words look among what is built in, as far as that was chosen. */
  readonly plain: PlainChoice;
}

export interface Change {
  readonly revision: number;
  readonly group: string;
  readonly atMs: Moment;
  readonly by: string | null;
  readonly action: string;
  readonly before: Readonly<Record<string, unknown>>;
  readonly after: Readonly<Record<string, unknown>>;
}

export const JOB_KINDS = [
  'scan',
  'presence',
  'ingest',
  'poster',
  'renditions',
  'mezzanine',
  'compare',
  'verify',
  'find-missing',
  'mend',
  'restore',
  'table',
  'sidecars',
  'recognise',
] as const;
export type JobKind = (typeof JOB_KINDS)[number];
export const JOB_STATES = ['queued', 'running', 'paused', 'done', 'failed', 'cancelled'] as const;
export type JobState = (typeof JOB_STATES)[number];
/** What waits, is at work or was halted: neither done nor given up. */
export const UNDERWAY: readonly JobState[] = ['queued', 'running', 'paused'];

export interface Job {
  readonly id: number;
  readonly kind: JobKind;
  /** What it works on, for reading. */
  readonly subject: string;
  readonly state: JobState;
  readonly done: number;
  /** Null while not known. */
  readonly total: number | null;
  readonly unit: string;
  /** Units a second of late; null while not known. */
  readonly speed: number | null;
  readonly priority: number;
  readonly message: string | null;
  readonly attempts: number;
  readonly worker: string | null;
  readonly createdMs: Moment;
  readonly startedMs: Moment | null;
  readonly endedMs: Moment | null;
  readonly updatedMs: Moment;
  readonly storageId: number | null;
  readonly assetId: number | null;
}

export interface ScanResult {
  readonly seen: number;
  readonly added: number;
  readonly unchanged: number;
  readonly changed: number;
  readonly missing: number;
  readonly back: number;
  readonly unreadable: number;
  /** New paths that are byte for byte a missing asset: left for relinking, so that no second asset is made. */
  readonly foundAgain: readonly string[];
  /** Folders that could not be read. Their files were left as they stood. */
  readonly unreadableFolders: readonly string[];
  /** What somebody should know of a scan that otherwise went well. */
  readonly remark: string | null;
}

/** A folder to scan; the empty path is the storage itself. */
export interface ScanFolder {
  readonly path: string;
  /** With all folders below it. */
  readonly deep: boolean;
}

export const FOLDER_SCAN_STATES = ['not-scanned', 'queued', 'scanning', 'scanned', 'interrupted', 'failed'] as const;
export type FolderScanState = (typeof FOLDER_SCAN_STATES)[number];

/** The last scan that took a folder in. */
export interface FolderScan {
  readonly state: FolderScanState;
  readonly jobId: number | null;
  readonly done: number;
  readonly total: number | null;
  readonly atMs: Moment | null;
  readonly by: string | null;
  readonly message: string | null;
}

export interface ShelfFolder {
  readonly path: string;
  readonly name: string;
  /** What lies in it and below it. `new` is null where it was too much to look through at once. */
  readonly counts: Readonly<Record<KnownState, number>> & { readonly new: number | null };
  readonly scan: FolderScan;
}

/** A folder of a storage, beside what the library has of it. */
export interface ShelfAnswer {
  readonly path: string;
  /** False where the storage is not mounted: then this is what the catalogue knows. */
  readonly mounted: boolean;
  readonly scan: FolderScan;
  readonly folders: readonly ShelfFolder[];
  readonly counts: ShelfCounts;
  readonly total: number;
  readonly offset: number;
  readonly rows: readonly ShelfRow[];
  /** Files that are neither footage nor sound, nor go with any. */
  readonly others: number;
  /** Files whose names are not UTF-8: they cannot be asked for until somebody renames them. */
  readonly unnameable: number;
}

export interface RelinkMatch {
  readonly storageId: number;
  readonly storage: string;
  readonly path: string;
  readonly likeness: Likeness;
  readonly probability: number;
  readonly evidence: readonly Evidence[];
  readonly blockedBy: readonly EvidenceKind[];
  /** The asset that has this file now, if one does. Only one that nobody logged or used may be folded into the mended one. */
  readonly catalogued: { readonly assetId: number; readonly untouched: boolean } | null;
}

/**
 * How far a plan is with one original: to be decided, accepted or rejected; ruled out, with what rules it out; not found; mended, or
 * back without it.
 */
export const RELINK_STATES = ['decide', 'accepted', 'rejected', 'blocked', 'unfound', 'mended', 'back'] as const;
export type RelinkState = (typeof RELINK_STATES)[number];
export const RELINK_DECISIONS = ['open', 'accepted', 'rejected'] as const;
export type RelinkDecision = (typeof RELINK_DECISIONS)[number];

/** One original of a plan. */
export interface RelinkItem {
  readonly assetId: number;
  readonly name: string;
  /** A storage, with the path in it. */
  readonly lastSeen: string;
  readonly state: RelinkState;
  /** Best first; empty where nothing was found. */
  readonly matches: readonly RelinkMatch[];
  /** The place of the one that is taken, if any is. */
  readonly chosen: number;
  /** Why it was not mended when that was tried; null for nothing. */
  readonly trouble: string | null;
  /** What was found to agree, and to disagree, when the file was opened to mend it; null before. */
  readonly verified: readonly Evidence[] | null;
}

/** What became of a whole folder, as many files tell it. */
export interface RelinkRule {
  /** A storage, with the folder in it. */
  readonly from: string;
  readonly to: string;
  /** What became of their names, where that is more than another folder. */
  readonly extension: { readonly from: string; readonly to: string } | null;
  readonly before: string;
  readonly behind: string;
  /** How many of the files that it explains are still to be decided, and accepted, with the candidate that it is about. */
  readonly decide: number;
  readonly accepted: number;
}

/** What a search for missing originals came to, and what is to be done about it. Nothing happens before it is mended. */
export interface RelinkPlan {
  readonly job: Job;
  /** Files that were looked at. */
  readonly looked: number;
  readonly counts: Readonly<Record<RelinkState, number>>;
  /** That which explains most first; the place tells a rule apart. */
  readonly rules: readonly RelinkRule[];
  /** What mends it, or did last; with the write that it made, by which it is undone, and how many second entries were folded in. */
  readonly mending: { readonly job: Job; readonly group: string | null; readonly folded: number } | null;
}

export interface RelinkItems {
  readonly total: number;
  readonly items: readonly RelinkItem[];
}

/** A folder in which originals are missing or changed. */
export interface HealthFolder {
  readonly storageId: number;
  readonly storage: string;
  readonly folder: string;
  /** How the originals directly in it are. */
  readonly online: number;
  readonly missing: number;
  readonly changed: number;
  /** Since when the first of them is. */
  readonly sinceMs: Moment;
  /** What depends on them: string-outs with the names of their projects, then bins with their paths. */
  readonly uses: readonly Use[];
  /** How many more do. */
  readonly moreUses: number;
}

/** A storage that is not there: how its originals are is not known. */
export interface AwayStorage {
  readonly storageId: number;
  readonly storage: string;
  readonly originals: number;
  readonly sinceMs: Moment;
  readonly uses: readonly Use[];
  readonly moreUses: number;
}

export interface Health {
  /** Those that most depends on first. */
  readonly away: readonly AwayStorage[];
  /** Worst first; of storages that are there. */
  readonly folders: readonly HealthFolder[];
  /** How many more folders there are. */
  readonly more: number;
}

/** How much of what a storage holds lies in a folder, of some files that were looked for there. */
export interface RootLook {
  readonly looked: number;
  readonly same: number;
  /** Of other sizes. */
  readonly changed: number;
  readonly missing: number;
}

/** Where an original was seen last, and how all else in its folder is. */
export interface LastSeen {
  readonly storageId: number;
  readonly storage: string;
  readonly path: string;
  readonly bytes: number;
  readonly modifiedMs: Moment;
  readonly addedMs: Moment;
  /** The last scan that found it, or when it was catalogued. */
  readonly seenMs: Moment;
  /** The hash of its bytes, where they were read once and were as they should be. */
  readonly xxh64: string | null;
  /** Never seen: a cut list names it. */
  readonly isListed: boolean;
  readonly folder: {
    readonly path: string;
    readonly online: number;
    readonly missing: number;
    readonly changed: number;
  };
}

/** What somebody is told of a live bin. */
export interface LiveBinWatch {
  /** How many came in that they have not seen, and are there still. */
  readonly cameIn: number;
  /** The revision of the library with which the last of them did; 0 for none. */
  readonly upTo: number;
  /** When they began to watch it, or last said that they have seen what came in. */
  readonly sinceMs: Moment;
}

export interface LiveBin {
  readonly id: number;
  readonly name: string;
  readonly query: string;
  readonly count: number;
  /** The bin or the project that it stands in; both null at the top. */
  readonly parentId: number | null;
  readonly projectId: number | null;
  /** Seen by everybody, or only by whoever made it. */
  readonly shared: boolean;
  readonly by: string | null;
  readonly createdMs: Moment;
  /** Null where whoever asks does not want to be told of it. */
  readonly watch: LiveBinWatch | null;
}

export interface StringOutItemRow {
  readonly id: string;
  readonly assetId: number;
  readonly in: number;
  readonly out: number;
}

export interface StringOutSummary {
  readonly id: number;
  readonly projectId: number;
  readonly name: string;
  readonly counting: string;
  readonly items: number;
  /** How many originals that it is cut from are missing or changed. */
  readonly broken: number;
  readonly updatedMs: Moment;
}

export interface StringOutFull {
  readonly id: number;
  readonly projectId: number;
  readonly name: string;
  readonly counting: string;
  readonly startFrame: number;
  /** Goes up with every save; a save names the one it started from. */
  readonly version: number;
  readonly items: readonly StringOutItemRow[];
  readonly markers: readonly RunMarker[];
}

export interface Project {
  readonly id: number;
  readonly name: string;
  readonly description: string | null;
  readonly counting: string;
  readonly by: string | null;
  readonly createdMs: Moment;
  readonly stringOuts: readonly StringOutSummary[];
  /** How many originals that any of them is cut from are missing or changed. */
  readonly broken: number;
}

export interface ConformAnswer {
  readonly title: string;
  readonly counting: string;
  readonly clean: boolean;
  readonly events: readonly (Omit<ConformedEvent, 'media'> & {
    readonly asset: { readonly id: number; readonly name: string } | null;
    readonly words: readonly string[];
  })[];
  /** What could not be read of the list itself. */
  readonly issues: readonly string[];
}

/** What a cut list became. */
export interface ListRead {
  readonly stringOutId: number;
  readonly name: string;
  readonly items: number;
  /** Clips that the library had never seen, and that are missing now. */
  readonly unseen: number;
  /** What of it did not come in as it stands, in words. */
  readonly losses: readonly string[];
}

export interface LibraryStatus {
  readonly revision: number;
  readonly assets: number;
  readonly byState: Readonly<Record<FileState, number>>;
  readonly byKind: Readonly<Record<string, number>>;
  readonly untagged: number;
  readonly unreadable: number;
  /** Assets by the day they were shot on, `yyyy-mm-dd`, ascending. */
  readonly shotDays: readonly { readonly day: string; readonly count: number }[];
  readonly jobs: Readonly<Record<JobState, number>>;
  readonly recent: readonly number[];
}
