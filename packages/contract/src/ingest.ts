import type { Kind } from '@larder/core/fields';
import {
  ingestSettingsSchema,
  innerPath,
  TWIN_WAYS,
  type IngestSettings,
  type TwinSign,
  type TwinWay,
} from '@larder/core/ingest';
import type { Unusual } from '@larder/core/judge';
import type { Gap } from '@larder/core/shelf';
import { array, boolean, number, object, string, type InferType } from 'yup';
import type { Moment } from './model';
import { id, name } from './schemas';

/** What a file that need not be catalogued says of itself, for somebody who decides about it. */
export interface Inspection {
  readonly path: string;
  readonly name: string;
  readonly kind: Kind;
  readonly files: number;
  readonly bytes: number;
  readonly modifiedMs: Moment;
  readonly rate: { readonly num: number; readonly den: number; readonly dropFrame: boolean } | null;
  readonly durationFrames: number | null;
  readonly durationMs: number | null;
  readonly startFrame: number | null;
  readonly width: number | null;
  readonly height: number | null;
  /** Channels of all its sound together; 0 without sound. */
  readonly channels: number;
  readonly gaps: readonly Gap[];
  readonly sheets: readonly InspectionSheet[];
  readonly unusual: readonly Unusual[];
  /** Why it cannot be read; null if it can. */
  readonly reason: string | null;
}

/** A group of lines to read: container, picture, colour, sound, and what is embedded. */
export interface InspectionSheet {
  readonly title: string;
  readonly rows: readonly { readonly label: string; readonly value: string }[];
}

/** The loudest sample of each channel, in decibels below full scale; null for digital silence. */
export interface ChannelPeaks {
  readonly peaksDb: readonly (number | null)[];
  /** How much of it was listened to, from the start. */
  readonly seconds: number;
  readonly unusual: readonly Unusual[];
}

export interface Twin {
  readonly path: string;
  readonly sign: TwinSign;
  readonly assetId: number;
  readonly assetName: string;
  /** Where the library has it. */
  readonly at: string;
}

export const INGEST_STATES = ['waiting', 'working', 'done', 'skipped', 'failed'] as const;
export type IngestState = (typeof INGEST_STATES)[number];

export interface IngestItem {
  readonly path: string;
  readonly state: IngestState;
  readonly bytes: number;
  readonly assetId: number | null;
  /** Where the copy lies, from its storage on. */
  readonly toPath: string | null;
  readonly xxh64: string | null;
  readonly message: string | null;
}

export interface IngestReport {
  readonly counts: Readonly<Record<IngestState, number>>;
  readonly items: readonly IngestItem[];
}

export interface Preset {
  readonly id: number;
  readonly name: string;
  readonly settings: IngestSettings;
  readonly by: string | null;
}

export interface WatchFolder {
  readonly id: number;
  readonly storageId: number;
  readonly folder: string;
  readonly presetId: number;
  readonly active: boolean;
  /** A file that has not grown for this long has arrived. */
  readonly quietSeconds: number;
}

export interface Bin {
  readonly id: number;
  readonly parentId: number | null;
  readonly name: string;
  /** Names from the top, with `/`. */
  readonly path: string;
  readonly count: number;
  /** How many originals of what it holds are missing or changed. */
  readonly broken: number;
  readonly by: string | null;
}

/** A place where an asset's file also lies, beside its first one. */
export interface Location {
  readonly storageId: number;
  readonly storage: string;
  readonly path: string;
  readonly state: 'online' | 'offline' | 'missing' | 'changed';
}

export const FIXITY_OUTCOMES = ['first', 'same', 'changed', 'missing', 'unreadable'] as const;
export type FixityOutcome = (typeof FIXITY_OUTCOMES)[number];

/** One look at every byte of a file. */
export interface FixityCheck {
  readonly atMs: Moment;
  readonly path: string;
  readonly outcome: FixityOutcome;
  readonly xxh64: string | null;
  readonly by: string | null;
}

export interface FixitySummary {
  readonly checked: number;
  readonly never: number;
  readonly oldestMs: Moment | null;
  /** The last look at these found them other than they were. */
  readonly bad: readonly {
    readonly assetId: number;
    readonly name: string;
    readonly outcome: FixityOutcome;
    readonly atMs: Moment;
  }[];
}

/** A volume that the demo can plug in and pull. */
export interface SimulatedVolume {
  readonly name: string;
  /** The place it is plugged in at; null if it is not. */
  readonly slot: string | null;
}

export const ingestSchema = object({
  paths: array(innerPath.required())
    .max(10_000, 'At most 10,000 files at once; choose their folder instead.')
    .default([]),
  folders: array(object({ path: innerPath.default(''), deep: boolean().default(true) }).noUnknown())
    .max(1000, 'At most 1,000 folders at once.')
    .default([]),
  settings: ingestSettingsSchema.required(),
  /** What becomes of single twins, where that is not what the settings say. */
  twins: array(object({ path: innerPath.required(), way: string<TwinWay>().oneOf(TWIN_WAYS).required() }).noUnknown())
    .max(10_000)
    .default([]),
})
  .noUnknown()
  .test('something', 'Choose what comes in.', ({ paths = [], folders = [] }) => paths.length + folders.length > 0);
export const inspectSchema = object({ path: innerPath.required('Choose a file.') }).noUnknown();
export const twinsSchema = object({
  paths: array(innerPath.required()).max(1000).default([]),
  folders: array(object({ path: innerPath.default(''), deep: boolean().default(true) }).noUnknown())
    .max(1000)
    .default([]),
}).noUnknown();
export const uploadSchema = object({
  batch: string()
    .matches(/^[A-Za-z0-9-]{8,64}$/, 'That is no upload.')
    .required(),
  settings: ingestSettingsSchema.required(),
}).noUnknown();
export const presetSchema = object({ name, settings: ingestSettingsSchema.required() }).noUnknown();
export const watchSchema = object({
  storageId: id.required('Choose a storage.'),
  folder: innerPath.default(''),
  presetId: id.required('Choose a preset.'),
  active: boolean().default(true),
  quietSeconds: number().integer().min(2, 'At least 2 seconds.').max(3600, 'At most an hour.').default(10),
}).noUnknown();
export const binSchema = object({ name, parentId: id.nullable().default(null) }).noUnknown();
export const binAssetsSchema = object({
  add: array(id.required()).max(100_000).default([]),
  remove: array(id.required()).max(100_000).default([]),
}).noUnknown();
export const binOrderSchema = object({
  assetIds: array(id.required()).min(1, 'Choose what is to be moved.').max(100_000).required(),
  /** They are put before this one; null for the end. */
  before: id.nullable().default(null),
}).noUnknown();
export const verifySchema = object({
  assetIds: array(id.required()).max(100_000).default([]),
  storageId: id.nullable().default(null),
})
  .noUnknown()
  .test(
    'something',
    'Choose what is to be checked.',
    ({ assetIds = [], storageId = null }) => assetIds.length > 0 || storageId !== null,
  );
export const mountSchema = object({
  name: string().max(80).required(),
  slot: string().max(80).nullable().default(null),
}).noUnknown();

export type Ingest = InferType<typeof ingestSchema>;
export type Inspect = InferType<typeof inspectSchema>;
export type TwinsAsked = InferType<typeof twinsSchema>;
export type Upload = InferType<typeof uploadSchema>;
export type NewPreset = InferType<typeof presetSchema>;
export type NewWatch = InferType<typeof watchSchema>;
export type NewBin = InferType<typeof binSchema>;
export type BinAssets = InferType<typeof binAssetsSchema>;
export type BinOrder = InferType<typeof binOrderSchema>;
export type Verify = InferType<typeof verifySchema>;
export type Mount = InferType<typeof mountSchema>;
