import type { RunMarker } from '@larder/core/sequence';
import { Model, type CreationOptional, type InferAttributes, type InferCreationAttributes } from 'sequelize';
import type { FieldChanges, Kind, Verdict } from '@larder/core/fields';
import type { Alpha, IngestSettings } from '@larder/core/ingest';
import type { SavedQuery } from '@larder/core/query';
import type { Gap, KnownState } from '@larder/core/shelf';
import type {
  ColourTags,
  JobKind,
  JobState,
  Loudness,
  Role,
  Sound,
  StorageKind,
  StorageState,
  StringOutItemRow,
} from '@larder/contract';

export class PersonRow extends Model<InferAttributes<PersonRow>, InferCreationAttributes<PersonRow>> {
  declare id: CreationOptional<number>;
  declare login: string;
  declare name: string;
  declare role: Role;
  declare passwordHash: string;
}

export class SessionRow extends Model<InferAttributes<SessionRow>, InferCreationAttributes<SessionRow>> {
  declare tokenHash: string;
  declare personId: number;
  declare expiresMs: number;
}

export class StorageRow extends Model<InferAttributes<StorageRow>, InferCreationAttributes<StorageRow>> {
  declare id: CreationOptional<number>;
  declare name: string;
  declare rootPath: string;
  declare state: StorageState;
  declare stateSinceMs: number;
  declare kind: CreationOptional<StorageKind>;
  declare volume: CreationOptional<string | null>;
  declare managed: CreationOptional<boolean>;
  declare verifyDays: CreationOptional<number | null>;
  declare presenceHours: CreationOptional<number | null>;
  declare lookedMs: CreationOptional<number | null>;
  declare recognises: CreationOptional<boolean>;
}

export class AssetRow extends Model<InferAttributes<AssetRow>, InferCreationAttributes<AssetRow>> {
  declare id: CreationOptional<number>;
  declare kind: Kind;
  declare name: string;
  declare title: CreationOptional<string | null>;
  declare description: CreationOptional<string | null>;
  declare notes: CreationOptional<string | null>;
  declare verdict: CreationOptional<Verdict | null>;
  declare reel: CreationOptional<string | null>;
  declare scene: CreationOptional<string | null>;
  declare take: CreationOptional<string | null>;
  declare place: CreationOptional<string | null>;
  declare shotMs: CreationOptional<number | null>;
  declare addedMs: number;
  declare rateNum: CreationOptional<number | null>;
  declare rateDen: CreationOptional<number | null>;
  declare dropFrame: CreationOptional<boolean>;
  declare durationFrames: CreationOptional<number | null>;
  declare durationMs: CreationOptional<number | null>;
  declare startFrame: CreationOptional<number | null>;
  declare width: CreationOptional<number | null>;
  declare height: CreationOptional<number | null>;
  declare codec: CreationOptional<string | null>;
  declare pixelFormat: CreationOptional<string | null>;
  declare colour: CreationOptional<ColourTags | null>;
  declare sound: CreationOptional<Sound | null>;
  declare timeReferenceSamples: CreationOptional<number | null>;
  declare storageId: number;
  declare path: string;
  /** SHA-1 of the path, since a path is too long for a unique key of its own. */
  declare pathHash: string;
  declare files: CreationOptional<number>;
  declare gaps: CreationOptional<readonly Gap[] | null>;
  declare logged: CreationOptional<FieldChanges>;
  declare alpha: CreationOptional<Alpha | null>;
  declare loudness: CreationOptional<Loudness | null>;
  declare bytes: number;
  declare modifiedMs: number;
  declare fingerprint: CreationOptional<string | null>;
  /** Known from a cut list only. */
  declare listed: CreationOptional<boolean>;
  /** As last seen on the shelf, storage mounted; what people are shown takes the storage's own state into account. */
  declare shelfState: KnownState;
  declare stateSinceMs: number;
  declare reason: CreationOptional<string | null>;
}

export class TagRow extends Model<InferAttributes<TagRow>, InferCreationAttributes<TagRow>> {
  declare id: CreationOptional<number>;
  declare name: string;
  /** Case and accents folded: two spellings of one word are one tag. */
  declare folded: string;
}

export class RenditionRow extends Model<InferAttributes<RenditionRow>, InferCreationAttributes<RenditionRow>> {
  declare assetId: number;
  declare kind: string;
  declare bytes: number;
  declare madeMs: number;
  declare extension: CreationOptional<string>;
}

export class JobRow extends Model<InferAttributes<JobRow>, InferCreationAttributes<JobRow>> {
  declare id: CreationOptional<number>;
  declare kind: JobKind;
  declare subject: string;
  declare state: CreationOptional<JobState>;
  declare priority: CreationOptional<number>;
  declare payload: Record<string, unknown>;
  declare result: CreationOptional<Record<string, unknown> | null>;
  declare done: CreationOptional<number>;
  declare total: CreationOptional<number | null>;
  declare unit: CreationOptional<string>;
  declare message: CreationOptional<string | null>;
  declare attempts: CreationOptional<number>;
  declare worker: CreationOptional<string | null>;
  declare leaseUntilMs: CreationOptional<number | null>;
  declare cancelAsked: CreationOptional<boolean>;
  declare pauseAsked: CreationOptional<boolean>;
  declare speed: CreationOptional<number | null>;
  declare personId: CreationOptional<number | null>;
  declare storageId: CreationOptional<number | null>;
  declare assetId: CreationOptional<number | null>;
  declare createdMs: number;
  declare startedMs: CreationOptional<number | null>;
  declare endedMs: CreationOptional<number | null>;
  declare updatedMs: number;
}

export class LiveBinRow extends Model<InferAttributes<LiveBinRow>, InferCreationAttributes<LiveBinRow>> {
  declare id: CreationOptional<number>;
  declare name: string;
  declare query: SavedQuery;
  /** The bin or the project that it stands in; both null at the top. */
  declare parentId: CreationOptional<number | null>;
  declare projectId: CreationOptional<number | null>;
  /** Seen by everybody, or only by whoever made it. */
  declare shared: CreationOptional<boolean>;
  declare personId: number | null;
  declare createdMs: number;
}

export class BinRow extends Model<InferAttributes<BinRow>, InferCreationAttributes<BinRow>> {
  declare id: CreationOptional<number>;
  declare parentId: number | null;
  declare name: string;
  /** Names from the top, with `/`: kept, since every search and every row asks for it. */
  declare path: string;
  declare personId: number | null;
  declare createdMs: number;
}

export class PresetRow extends Model<InferAttributes<PresetRow>, InferCreationAttributes<PresetRow>> {
  declare id: CreationOptional<number>;
  declare name: string;
  declare settings: IngestSettings;
  declare personId: number | null;
  declare updatedMs: number;
}

export class WatchRow extends Model<InferAttributes<WatchRow>, InferCreationAttributes<WatchRow>> {
  declare id: CreationOptional<number>;
  declare storageId: number;
  declare folder: string;
  declare presetId: number;
  declare active: boolean;
  declare quietSeconds: number;
  declare personId: number | null;
}

export class ProjectRow extends Model<InferAttributes<ProjectRow>, InferCreationAttributes<ProjectRow>> {
  declare id: CreationOptional<number>;
  declare name: string;
  declare description: CreationOptional<string | null>;
  declare counting: string;
  declare personId: number | null;
  declare createdMs: number;
}

export class StringOutRow extends Model<InferAttributes<StringOutRow>, InferCreationAttributes<StringOutRow>> {
  declare id: CreationOptional<number>;
  declare projectId: number;
  declare name: string;
  declare counting: string;
  declare startFrame: number;
  declare items: readonly StringOutItemRow[];
  declare markers: CreationOptional<readonly RunMarker[]>;
  declare version: CreationOptional<number>;
  declare personId: number | null;
  declare updatedMs: number;
}
