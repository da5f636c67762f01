import type { Sequelize, Transaction } from 'sequelize';
import type { FieldChanges, FileState } from '@larder/core/fields';
import type { ConformMedia } from '@larder/core/sequence';
import type { SearchDocument } from '@larder/core/search';
import {
  countingOf,
  fieldValues,
  type Asset,
  type ColourTags,
  type Loudness,
  type RenditionKind,
  type Sound,
  type StorageState,
} from '@larder/contract';
import { ASSETS_BY_PARENT, fromJson, select, selectByIds } from './database';
import { posterChoice } from './posters';
import type { Gap, KnownState } from '@larder/core/shelf';

/** An asset as one SELECT gives it, its storage, tags and renditions with it. */
interface AssetRecord extends Omit<
  Asset,
  | 'rate'
  | 'state'
  | 'logged'
  | 'tags'
  | 'bins'
  | 'markers'
  | 'renditions'
  | 'otherLocations'
  | 'colour'
  | 'sound'
  | 'gaps'
  | 'loudness'
  | 'poster'
  | 'posterMadeMs'
> {
  readonly rateNum: number | null;
  readonly rateDen: number | null;
  readonly dropFrame: number;
  readonly colour: unknown;
  readonly sound: unknown;
  readonly gaps: unknown;
  readonly logged: unknown;
  readonly poster: string | null;
  readonly loudness: unknown;
  readonly shelfState: KnownState;
  readonly storageState: StorageState;
  readonly storageSinceMs: number;
  readonly fingerprint: string | null;
}

/** What hangs on assets, by their ids: asked for all of them together, since a look-up for each row made reading many times slower. */
interface Hanging {
  readonly tags: ReadonlyMap<number, readonly string[]>;
  readonly bins: ReadonlyMap<number, readonly string[]>;
  readonly markers: ReadonlyMap<number, readonly string[]>;
  readonly renditions: ReadonlyMap<number, readonly string[]>;
  readonly locations: ReadonlyMap<number, readonly string[]>;
}

/** Of each kind what it says, and where that stands: by a text, then by a number, then by its id. */
const HANGING = {
  tags: {
    said: 't.name',
    text: 't.folded',
    number: '0',
    id: 't.id',
    from: 'asset_tag x STRAIGHT_JOIN tag t ON t.id = x.tag_id',
  },
  bins: {
    said: 'b.path',
    text: 'b.path',
    number: '0',
    id: 'b.id',
    from: 'bin_asset x STRAIGHT_JOIN bin b ON b.id = x.bin_id',
  },
  markers: {
    said: `TRIM(CONCAT(x.name, ' ', x.note))`,
    text: `''`,
    number: 'x.start_at',
    id: 'x.id',
    from: 'marker x',
  },
  renditions: { said: `CONCAT(x.kind, ' ', x.made_ms)`, text: 'x.kind', number: '0', id: '0', from: 'rendition x' },
  locations: { said: 'x.path', text: `''`, number: '0', id: 'x.id', from: 'asset_location x' },
} as const satisfies Record<keyof Hanging, unknown>;
const HANGING_KINDS = Object.keys(HANGING) as (keyof Hanging)[];

/**
 * All of it in one question: a way to the database and back takes longer than most of what is asked. Of a long list of ids MariaDB
 * may read all of `asset_tag` for each, by what it knows of a library that has just grown.
 */
const SELECT_HANGING = HANGING_KINDS.map((kind) => {
  const { said, text, number, id, from } = HANGING[kind];
  return `SELECT '${kind}' AS kind, x.asset_id AS assetId, ${said} AS value, ${text} AS text, ${number} AS number, ${id} AS id FROM ${from} WHERE x.asset_id IN (:ids)`;
}).join(' UNION ALL ');

interface HangingRow {
  readonly kind: keyof Hanging;
  readonly assetId: number;
  readonly value: string;
  readonly text: string;
  readonly number: number;
  readonly id: number;
}

const asTheyStand = (a: HangingRow, b: HangingRow): number =>
  a.text < b.text ? -1 : a.text > b.text ? 1 : a.number - b.number || a.id - b.id;

async function hangingOn(db: Sequelize, ids: readonly number[], transaction?: Transaction): Promise<Hanging> {
  const found = Object.fromEntries(HANGING_KINDS.map((kind) => [kind, new Map<number, string[]>()])) as {
    [Kind in keyof Hanging]: Map<number, string[]>;
  };
  const rows = await selectByIds<HangingRow>(db, SELECT_HANGING, ids, transaction);
  for (const { kind, assetId, value } of rows.sort(asTheyStand)) {
    const values = found[kind].get(assetId);
    if (values) values.push(value);
    else found[kind].set(assetId, [value]);
  }
  return found;
}

/** What is the whole's of a subclip too: its own columns for these are empty. */
const OF_FILE = {
  rateNum: 'rate_num',
  rateDen: 'rate_den',
  dropFrame: 'drop_frame',
  width: 'width',
  height: 'height',
  codec: 'codec',
  pixelFormat: 'pixel_format',
  colour: 'colour',
  alpha: 'alpha',
  sound: 'sound',
  loudness: 'loudness',
  timeReferenceSamples: 'time_reference_samples',
  path: 'path',
  files: 'files',
  gaps: 'gaps',
  bytes: 'bytes',
  modifiedMs: 'modified_ms',
  fingerprint: 'fingerprint',
  shelfState: 'shelf_state',
  stateSinceMs: 'state_since_ms',
  reason: 'reason',
} as const;

const SELECT_ASSETS = `
  SELECT a.id, a.kind, a.name, a.title, a.description, a.notes, a.verdict, a.logged, a.reel, a.scene, a.take, a.place, a.shot_ms AS shotMs, a.added_ms AS addedMs, a.poster,
    a.duration_frames AS durationFrames, a.duration_ms AS durationMs, IF(p.id IS NULL, a.start_frame, p.start_frame + a.in_place) AS startFrame,
    a.parent_id AS parentId, p.name AS parentName, COALESCE(a.in_place, 0) AS inPlace,
    ${Object.entries(OF_FILE)
      .map(([name, column]) => `IF(p.id IS NULL, a.${column}, p.${column}) AS ${name}`)
      .join(', ')},
    s.id AS storageId, s.name AS storage, s.state AS storageState, s.state_since_ms AS storageSinceMs
  FROM asset a LEFT JOIN asset p ON p.id = a.parent_id JOIN storage s ON s.id = COALESCE(p.storage_id, a.storage_id)`;

/** An unplugged disk takes all its files offline; what is known of each file on it is kept for when it returns. */
const stateOf = (record: AssetRecord): FileState => (record.storageState === 'offline' ? 'offline' : record.shelfState);

/** Field by field: to leave some out of a copy takes ten times as long, and the index reads every asset through this. */
function assetOf(record: AssetRecord, hanging: Hanging, ofWholes: Hanging['renditions']): Asset {
  const { id, rateNum, rateDen, storageState, storageSinceMs } = record;
  const { renditions, posterMadeMs } = renditionsOf(record, hanging.renditions, ofWholes);
  return {
    id,
    kind: record.kind,
    parentId: record.parentId,
    parentName: record.parentName,
    inPlace: record.inPlace,
    name: record.name,
    title: record.title,
    description: record.description,
    notes: record.notes,
    verdict: record.verdict,
    logged: fromJson<FieldChanges>(record.logged),
    tags: hanging.tags.get(id) ?? [],
    reel: record.reel,
    scene: record.scene,
    take: record.take,
    place: record.place,
    shotMs: record.shotMs,
    addedMs: record.addedMs,
    rate: rateNum && rateDen ? { num: rateNum, den: rateDen, dropFrame: Boolean(record.dropFrame) } : null,
    durationFrames: record.durationFrames,
    durationMs: record.durationMs,
    startFrame: record.startFrame,
    width: record.width,
    height: record.height,
    codec: record.codec,
    pixelFormat: record.pixelFormat,
    colour: fromJson<ColourTags | null>(record.colour),
    alpha: record.alpha,
    sound: fromJson<Sound | null>(record.sound),
    loudness: fromJson<Loudness | null>(record.loudness),
    timeReferenceSamples: record.timeReferenceSamples,
    storageId: record.storageId,
    storage: record.storage,
    path: record.path,
    files: record.files,
    gaps: fromJson<readonly Gap[] | null>(record.gaps) ?? [],
    markers: hanging.markers.get(id) ?? [],
    bins: hanging.bins.get(id) ?? [],
    otherLocations: hanging.locations.get(id)?.length ?? 0,
    bytes: record.bytes,
    modifiedMs: record.modifiedMs,
    state: stateOf(record),
    stateSinceMs: storageState === 'offline' ? storageSinceMs : record.stateSinceMs,
    reason: record.reason,
    renditions,
    poster: posterChoice(record.poster),
    posterMadeMs,
  };
}

/** A subclip has a poster of its own and is played from the proxy of its whole. */
function renditionsOf(
  { id, parentId }: AssetRecord,
  renditions: Hanging['renditions'],
  ofWholes: Hanging['renditions'],
): Pick<Asset, 'renditions' | 'posterMadeMs'> {
  const made = (texts: readonly string[] = []) =>
    texts.map((text) => text.split(' ')).map(([kind, ms]) => ({ kind: kind as RenditionKind, ms: Number(ms) }));
  const own = made(renditions.get(id));
  const whole = parentId === null ? [] : made(ofWholes.get(parentId)).filter(({ kind }) => kind === 'proxy');
  return {
    renditions: [...own, ...whole].map(({ kind }) => kind),
    posterMadeMs: own.find(({ kind }) => kind === 'poster')?.ms ?? null,
  };
}

async function records(
  db: Sequelize,
  where: string,
  values: Record<string, unknown>,
  transaction?: Transaction,
): Promise<AssetRecord[]> {
  return select<AssetRecord>(db, `${SELECT_ASSETS} ${where}`, values, transaction);
}

/** The assets that a condition finds, with what hangs on them. */
async function assetsWhere(
  db: Sequelize,
  where: string,
  values: Record<string, unknown>,
  transaction?: Transaction,
): Promise<Asset[]> {
  const found = await records(db, where, values, transaction);
  if (found.length === 0) return [];
  const ids = found.map(({ id }) => id);
  return withWholes(db, found, await hangingOn(db, ids, transaction), transaction);
}

/** Subclips are played from the proxies of their wholes, which may not be among them. */
async function withWholes(
  db: Sequelize,
  found: readonly AssetRecord[],
  hanging: Hanging,
  transaction?: Transaction,
): Promise<Asset[]> {
  const wholes = [...new Set(found.flatMap(({ parentId }) => parentId ?? []))];
  const { renditions } = wholes.length > 0 ? await hangingOn(db, wholes, transaction) : hanging;
  return found.map((record) => assetOf(record, hanging, renditions));
}

/** The assets of those ids that exist, in the order of the ids. */
export async function assetsById(db: Sequelize, ids: readonly number[], transaction?: Transaction): Promise<Asset[]> {
  if (ids.length === 0) return [];
  // Side by side: a list that is shown waits for both.
  const [rows, hanging] = await Promise.all([
    records(db, 'WHERE a.id IN (:ids)', { ids }, transaction),
    hangingOn(db, ids, transaction),
  ]);
  const found = new Map((await withWholes(db, rows, hanging, transaction)).map((asset) => [asset.id, asset]));
  return ids.flatMap((id) => found.get(id) ?? []);
}

/** Assets after an id, ascending: the whole library in batches. */
export const assetsAfter = (db: Sequelize, id: number, limit: number): Promise<Asset[]> =>
  assetsWhere(db, 'WHERE a.id > :id ORDER BY a.id LIMIT :limit', { id, limit });

/** Assets of one storage after an id, ascending. The ids come first and along the primary key: other keys would sort the whole storage each time. */
export async function assetsOfStorage(
  db: Sequelize,
  storageId: number,
  afterId: number,
  limit: number,
): Promise<Asset[]> {
  const rows = await select<{ id: number }>(
    db,
    'SELECT id FROM asset FORCE INDEX (PRIMARY) WHERE storage_id = :storageId AND id > :afterId ORDER BY id LIMIT :limit',
    { storageId, afterId, limit },
  );
  return assetsById(
    db,
    rows.map((row) => row.id),
  );
}

/** Ids of assets with a tag, after an id, ascending. */
export const assetsTagged = async (db: Sequelize, tagId: number, afterId: number, limit: number): Promise<number[]> =>
  (
    await select<{ id: number }>(
      db,
      'SELECT asset_id AS id FROM asset_tag WHERE tag_id = :tagId AND asset_id > :afterId ORDER BY asset_id LIMIT :limit',
      { tagId, afterId, limit },
    )
  ).map(({ id }) => id);

/** The subclips of some assets, which say what their wholes say of the file. */
export const partsOf = async (db: Sequelize, ids: readonly number[]): Promise<number[]> =>
  ids.length === 0
    ? []
    : (await select<{ id: number }>(db, `SELECT id FROM ${ASSETS_BY_PARENT} WHERE parent_id IN (:ids)`, { ids })).map(
        ({ id }) => id,
      );

/** Counts up whenever `searchDocument` says something else of the same asset: what was kept of the index is made anew then. */
export const DOCUMENTS_VERSION = 5;

/** What the index is told of an asset, and what it does not say itself. */
export const searchDocument = (asset: Asset, others: SearchDocument['values']): SearchDocument => ({
  id: asset.id,
  values: { ...fieldValues(asset), ...others },
});

/** What string-outs and the conform check need of an asset; undefined for one without moving picture. */
export function mediaOf(asset: Asset): ConformMedia | undefined {
  const counting = countingOf(asset);
  if (!counting || asset.durationFrames === null) return undefined;
  return {
    assetId: asset.id,
    name: asset.name,
    path: `${asset.storage}/${asset.path}`,
    reel: asset.reel,
    counting,
    durationFrames: asset.durationFrames,
    startFrame: asset.startFrame ?? 0,
    hasSound: asset.sound !== null,
    state: asset.state,
  };
}
