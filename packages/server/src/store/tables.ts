import {
  DataTypes,
  type InferAttributes,
  type InferCreationAttributes,
  type Model,
  type ModelAttributeColumnOptions,
  type ModelStatic,
  type Sequelize,
} from 'sequelize';
import { fromJson } from './database';
import {
  PersonRow,
  SessionRow,
  StorageRow,
  AssetRow,
  TagRow,
  RenditionRow,
  JobRow,
  LiveBinRow,
  BinRow,
  PresetRow,
  WatchRow,
  ProjectRow,
  StringOutRow,
} from './models';

type Row<M extends Model> = Model<InferAttributes<M>, InferCreationAttributes<M>>;

const text = (bytes: number, allowNull = true): ModelAttributeColumnOptions => ({
  type: DataTypes.STRING(bytes),
  allowNull,
});
const big = (allowNull = false): ModelAttributeColumnOptions => ({ type: DataTypes.BIGINT, allowNull });
const integer = (allowNull = false): ModelAttributeColumnOptions => ({ type: DataTypes.INTEGER, allowNull });
const key: ModelAttributeColumnOptions = { type: DataTypes.BIGINT, autoIncrement: true, primaryKey: true };
const long = { type: DataTypes.TEXT('medium'), allowNull: true };

/** A JSON column read back as a value, whatever the driver makes of it. */
const json = <M extends Model>(
  name: keyof InferAttributes<M> & string,
  allowNull = true,
): ModelAttributeColumnOptions => ({
  type: DataTypes.JSON,
  allowNull,
  get(this: Row<M>) {
    return fromJson(this.getDataValue(name as never));
  },
});

const id = (
  model: ModelStatic<Model>,
  sequelize: Sequelize,
  attributes: Record<string, ModelAttributeColumnOptions>,
  tableName: string,
): void => {
  model.init(attributes as never, { sequelize, tableName });
};

/** Binds every model to a database. The migrations make the tables; this says how rows read and write. */
export function bindModels(db: Sequelize): void {
  id(
    PersonRow,
    db,
    { id: key, login: text(80, false), name: text(120, false), role: text(20, false), passwordHash: text(200, false) },
    'person',
  );
  id(
    SessionRow,
    db,
    { tokenHash: { type: DataTypes.CHAR(64), primaryKey: true }, personId: big(), expiresMs: big() },
    'session',
  );
  id(
    StorageRow,
    db,
    {
      id: key,
      name: text(120, false),
      rootPath: text(1000, false),
      state: text(10, false),
      stateSinceMs: big(),
      kind: { ...text(10, false), defaultValue: 'local' },
      volume: text(80),
      managed: { type: DataTypes.BOOLEAN, allowNull: false, defaultValue: false },
      verifyDays: integer(true),
      presenceHours: integer(true),
      lookedMs: integer(true),
      recognises: { type: DataTypes.BOOLEAN, allowNull: false, defaultValue: false },
    },
    'storage',
  );
  id(
    AssetRow,
    db,
    {
      id: key,
      kind: text(12, false),
      name: text(500, false),
      title: text(200),
      description: long,
      notes: long,
      verdict: text(10),
      reel: text(100),
      scene: text(100),
      take: text(100),
      place: text(200),
      shotMs: big(true),
      addedMs: big(),
      rateNum: big(true),
      rateDen: big(true),
      dropFrame: { type: DataTypes.BOOLEAN, allowNull: false, defaultValue: false },
      durationFrames: big(true),
      durationMs: big(true),
      startFrame: big(true),
      width: integer(true),
      height: integer(true),
      codec: text(60),
      pixelFormat: text(40),
      colour: json<AssetRow>('colour'),
      sound: json<AssetRow>('sound'),
      timeReferenceSamples: big(true),
      storageId: big(),
      path: text(2000, false),
      pathHash: { type: DataTypes.CHAR(40), allowNull: false },
      files: { ...integer(), defaultValue: 1 },
      gaps: json<AssetRow>('gaps'),
      logged: { ...json<AssetRow>('logged'), allowNull: false, defaultValue: '{}' },
      alpha: text(14),
      loudness: json<AssetRow>('loudness'),
      bytes: big(),
      modifiedMs: big(),
      fingerprint: text(60),
      listed: { type: DataTypes.BOOLEAN, allowNull: false, defaultValue: false },
      shelfState: text(10, false),
      stateSinceMs: big(),
      reason: text(500),
    },
    'asset',
  );
  id(TagRow, db, { id: key, name: text(60, false), folded: text(120, false) }, 'tag');
  id(
    RenditionRow,
    db,
    {
      assetId: { type: DataTypes.BIGINT, primaryKey: true },
      kind: { type: DataTypes.STRING(12), primaryKey: true },
      bytes: big(),
      madeMs: big(),
      extension: { ...text(8, false), defaultValue: '' },
    },
    'rendition',
  );
  id(
    JobRow,
    db,
    {
      id: key,
      kind: text(20, false),
      subject: text(500, false),
      state: { ...text(12, false), defaultValue: 'queued' },
      priority: { ...integer(), defaultValue: 0 },
      payload: json<JobRow>('payload', false),
      result: json<JobRow>('result'),
      done: { ...big(), defaultValue: 0 },
      total: big(true),
      unit: { ...text(20, false), defaultValue: '' },
      message: text(1000),
      attempts: { ...integer(), defaultValue: 0 },
      worker: text(80),
      leaseUntilMs: big(true),
      cancelAsked: { type: DataTypes.BOOLEAN, allowNull: false, defaultValue: false },
      pauseAsked: { type: DataTypes.BOOLEAN, allowNull: false, defaultValue: false },
      speed: { type: DataTypes.DOUBLE, allowNull: true },
      personId: big(true),
      storageId: big(true),
      assetId: big(true),
      createdMs: big(),
      startedMs: big(true),
      endedMs: big(true),
      updatedMs: big(),
    },
    'job',
  );
  id(
    LiveBinRow,
    db,
    {
      id: key,
      name: text(120, false),
      query: json<LiveBinRow>('query', false),
      parentId: big(true),
      projectId: big(true),
      shared: { type: DataTypes.BOOLEAN, allowNull: false, defaultValue: true },
      personId: big(true),
      createdMs: big(),
    },
    'live_bin',
  );
  id(
    BinRow,
    db,
    {
      id: key,
      parentId: big(true),
      name: text(120, false),
      path: text(2000, false),
      personId: big(true),
      createdMs: big(),
    },
    'bin',
  );
  id(
    PresetRow,
    db,
    {
      id: key,
      name: text(120, false),
      settings: json<PresetRow>('settings', false),
      personId: big(true),
      updatedMs: big(),
    },
    'preset',
  );
  id(
    WatchRow,
    db,
    {
      id: key,
      storageId: big(),
      folder: text(2000, false),
      presetId: big(),
      active: { type: DataTypes.BOOLEAN, allowNull: false },
      quietSeconds: integer(),
      personId: big(true),
    },
    'watch_folder',
  );
  id(
    ProjectRow,
    db,
    {
      id: key,
      name: text(120, false),
      description: text(2000),
      counting: text(12, false),
      personId: big(true),
      createdMs: big(),
    },
    'project',
  );
  id(
    StringOutRow,
    db,
    {
      id: key,
      projectId: big(),
      name: text(120, false),
      counting: text(12, false),
      startFrame: big(),
      items: json<StringOutRow>('items', false),
      markers: { ...json<StringOutRow>('markers', false), defaultValue: [] },
      version: { ...integer(), defaultValue: 1 },
      personId: big(true),
      updatedMs: big(),
    },
    'string_out',
  );
}
