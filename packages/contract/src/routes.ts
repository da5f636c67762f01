import type { AssetEdit, FieldId, NewShopField } from '@larder/core/fields';
import type { CustomWord, TranscriptSource } from '@larder/core/dialogue';
import { MEDIA_FORMS, type MediaForm } from '@larder/core/interchange/otio';
import type { TimedTextFormat } from '@larder/core/interchange/timed-text';
import type { Marker, NewMarker, TimedNotes } from '@larder/core/markers';
import { markingSchema, type Marking, type NewMarking } from '@larder/core/markings';
import type { Position } from '@larder/core/position';
import type { DaysAnswer, Facet, Group, MapAnswer, SearchAnswer } from '@larder/core/search';
import type { TagChange, TagSetChange } from '@larder/core/tags';
import type { AnySchema } from 'yup';
import type {
  Asset,
  Change,
  ConformAnswer,
  FieldsAnswer,
  Job,
  LedgerLayout,
  LibraryStatus,
  ListRead,
  LiveBin,
  LoggingPlace,
  OperationPreview,
  Person,
  Project,
  Health,
  LastSeen,
  RelinkItems,
  RelinkPlan,
  RootLook,
  ShelfAnswer,
  Storage,
  StringOutFull,
  TagBook,
} from './model';
import * as dialogue from './dialogue';
import * as ingest from './ingest';
import { readTableSchema, type ReadTable, type TableAnswer } from './tables';
import * as request from './requests';
import * as restore from './restore';
import * as twins from './twins';

/** What a person does with a route; `may` on the server decides who may. `open` needs no sign-in. */
export const ACTIONS = ['open', 'look', 'log', 'cut', 'keep'] as const;
export type Action = (typeof ACTIONS)[number];

/** One way in. `Body` and `Answer` are types only; the schema is what both sides check the body with. */
export interface Route<Body = unknown, Answer = unknown> {
  readonly method: 'GET' | 'POST' | 'PUT' | 'DELETE';
  /** `:id` in the path stands for a number. */
  readonly path: string;
  readonly action: Action;
  readonly body: AnySchema | null;
  readonly types?: { readonly body: Body; readonly answer: Answer };
}

const route = <Body, Answer>(
  method: Route['method'],
  path: string,
  action: Action,
  body: AnySchema | null = null,
): Route<Body, Answer> => ({ method, path, action, body });

/** How long the pieces are in which sound is sent with all of its channels, in milliseconds. */
export const SOUND_PIECE_MS = 6000;

export interface SearchWindow {
  /** How many assets stand out, and which of those that are given; null where nothing was to. */
  readonly lifted: NonNullable<SearchAnswer['lifted']> | null;
  readonly total: number;
  readonly offset: number;
  /** The revision of the library that the answer shows. */
  readonly revision: number;
  readonly assets: readonly Asset[];
  /** How many were found: fewer than the list has places where one stands in several groups. */
  readonly found: number;
  /** Where they were asked for, in the order of the list. */
  readonly groups: readonly Group[] | null;
}

export interface Town extends Position {
  readonly name: string;
}

export interface NearestTown {
  readonly name: string;
  readonly country: string;
  readonly metres: number;
  /** On which side of the town: `north-east`. */
  readonly side: string;
}

/** What lies where. */
export interface MapWindow extends Omit<MapAnswer, 'clusters'> {
  readonly clusters: readonly (MapAnswer['clusters'][number] & { readonly town: NearestTown | null })[];
  /** The largest in the stretch that is shown. */
  readonly towns: readonly Town[];
  readonly revision: number;
}

/** A page of assets that have hits, each with all of its own in the order of their places. */
export interface HitsWindow {
  /** Assets that have any. */
  readonly total: number;
  readonly offset: number;
  readonly assets: readonly {
    readonly asset: Asset;
    readonly hits: readonly Marker[];
    readonly said: readonly dialogue.SpokenExcerpt[];
    /** How many times more it is said in this asset. */
    readonly more: number;
  }[];
  readonly revision: number;
}

/** What became of an edit: the revision it made and the group by which it can be undone. */
export interface Written {
  readonly revision: number;
  readonly group: string;
  readonly changed: number;
}

/** What sidecars brought; `left` counts what was not taken: of some the whole file, of others one property. */
export interface SidecarsRead extends Written {
  readonly read: number;
  readonly left: number;
  readonly leftTold: readonly { readonly path: string; readonly why: string }[];
}

/** The forms in which a string-out leaves; captions have its markers. */
export const HANDED_OVER = ['edl', 'otio', 'vtt', 'srt'] as const;
export type HandedOver = (typeof HANDED_OVER)[number];
/** In which form of its media a string-out is worked with elsewhere. */
export const HANDED_MEDIA = MEDIA_FORMS;
export type HandedMedia = MediaForm;

/** The forms in which a transcript leaves: captions, a text, a table of passages. */
export const TRANSCRIPT_FORMATS = ['vtt', 'srt', 'ttml', 'txt', 'csv'] as const;
export type TranscriptFormat = (typeof TRANSCRIPT_FORMATS)[number];

/** What captions brought: `outside` lie beyond the asset, `issues` are lines that could not be read. */
export interface NotesRead extends Written {
  readonly added: number;
  readonly outside: number;
  readonly countedFrom: TimedNotes['countedFrom'];
  readonly issues: readonly string[];
}

/** What a transcript brought: `outside` cues begin beyond the end of the sound, `issues` are lines that could not be read. */
export interface TranscriptRead extends Written {
  readonly words: number;
  readonly outside: number;
  readonly issues: readonly string[];
}

/** A change that was undone or done again, and what it was about. */
export interface Undone extends Written {
  /** The change that it is about. */
  readonly of: string;
  readonly action: string;
  readonly fields: readonly string[];
  readonly assets: number;
  /** When the change was made. */
  readonly atMs: number;
}

export const ROUTES = {
  session: route<null, { person: Person } | { person: null }>('GET', '/api/session', 'open'),
  signIn: route<request.SignIn, { person: Person }>('POST', '/api/session', 'open', request.signInSchema),
  signOut: route<null, null>('DELETE', '/api/session', 'open'),
  demoPeople: route<null, { people: readonly Person[]; password: string | null }>('GET', '/api/demo-people', 'open'),
  status: route<null, LibraryStatus>('GET', '/api/status', 'look'),

  search: route<Partial<request.SearchQuery>, SearchWindow>('POST', '/api/search', 'look', request.searchSchema),
  searchStep: route<
    Partial<request.StepAsked> & Pick<request.StepAsked, 'lift' | 'from'>,
    { place: number | null; revision: number }
  >('POST', '/api/search/step', 'look', request.stepSchema),
  searchIds: route<Partial<request.IdsQuery>, { ids: readonly number[]; revision: number }>(
    'POST',
    '/api/search/ids',
    'look',
    request.idsSchema,
  ),
  facet: route<
    { query: string; field: FieldId; atLeast?: number },
    { values: readonly { value: string; count: number }[] }
  >('POST', '/api/search/facet', 'look', request.facetSchema),
  facets: route<
    Partial<request.FacetsAsked> & Pick<request.FacetsAsked, 'fields'>,
    { facets: readonly Facet[]; revision: number }
  >('POST', '/api/search/facets', 'look', request.facetsSchema),
  map: route<Partial<request.MapAsked>, MapWindow>('POST', '/api/search/map', 'look', request.mapSchema),
  hits: route<Partial<request.HitsAsked>, HitsWindow>('POST', '/api/search/hits', 'look', request.hitsSchema),
  days: route<Partial<request.DaysAsked>, DaysAnswer & { revision: number }>(
    'POST',
    '/api/search/days',
    'look',
    request.daysSchema,
  ),
  /** One's own. */
  flags: route<null, { ids: readonly number[]; revision: number }>('GET', '/api/flags', 'look'),
  setFlags: route<request.SetFlags, Written>('POST', '/api/flags', 'look', request.flagsSchema),
  rows: route<{ ids: readonly number[] }, { assets: readonly Asset[]; revision: number }>(
    'POST',
    '/api/assets/rows',
    'look',
    request.rowsSchema,
  ),
  history: route<null, { changes: readonly Change[] }>('GET', '/api/assets/:id/history', 'look'),
  edit: route<AssetEdit, Written>('POST', '/api/assets/edit', 'log', request.assetEditSchema),
  /** Says something different of each of some assets, as one write. */
  editEach: route<request.EditEach, Written>('POST', '/api/assets/edit-each', 'log', request.editEachSchema),
  previewOperation: route<request.AskedOperation, OperationPreview>(
    'POST',
    '/api/assets/operate/preview',
    'look',
    request.askedOperationSchema,
  ),
  operate: route<request.AskedOperation, Written>('POST', '/api/assets/operate', 'log', request.askedOperationSchema),
  /** Says of an asset what a sidecar says. */
  readSidecar: route<{ text: string }, Written & { issues: readonly string[] }>(
    'POST',
    '/api/assets/:id/sidecar',
    'log',
    request.sidecarSchema,
  ),
  writeSidecars: route<request.WriteSidecars, { job: Job }>(
    'POST',
    '/api/sidecars',
    'log',
    request.writeSidecarsSchema,
  ),
  /** Says of many assets what their sidecars say. */
  readSidecars: route<request.ReadSidecars, SidecarsRead>(
    'POST',
    '/api/sidecars/read',
    'log',
    request.readSidecarsSchema,
  ),
  posters: route<request.Posters, Written>('POST', '/api/assets/posters', 'log', request.postersSchema),
  /** Reads a table that was sent into the library, or tries it. */
  readTable: route<ReadTable, { job: Job }>('POST', '/api/tables', 'log', readTableSchema),
  tableReport: route<null, TableAnswer>('GET', '/api/tables/:id', 'look'),
  undo: route<{ group?: string | undefined }, Undone>('POST', '/api/undo', 'log', request.undoSchema),
  redo: route<null, Undone>('POST', '/api/redo', 'log'),
  tags: route<null, TagBook>('GET', '/api/tags', 'look'),
  newTag: route<TagChange, { id: number }>('POST', '/api/tags', 'keep', request.tagChangeSchema),
  changeTag: route<TagChange, { id: number }>('PUT', '/api/tags/:id', 'keep', request.tagChangeSchema),
  mergeTag: route<{ into: number }, Written>('POST', '/api/tags/:id/merge', 'keep', request.mergeTagsSchema),
  splitTag: route<{ names: readonly string[]; query?: string }, Written>(
    'POST',
    '/api/tags/:id/split',
    'keep',
    request.splitTagSchema,
  ),
  orderTags: route<{ ids: readonly number[] }, null>('PUT', '/api/tag-order', 'keep', request.orderSchema),
  newTagSet: route<TagSetChange, { id: number }>('POST', '/api/tag-sets', 'keep', request.tagSetSchema),
  changeTagSet: route<TagSetChange, { id: number }>('PUT', '/api/tag-sets/:id', 'keep', request.tagSetSchema),
  removeTagSet: route<null, null>('DELETE', '/api/tag-sets/:id', 'keep'),
  orderTagSets: route<{ ids: readonly number[] }, null>('PUT', '/api/tag-set-order', 'keep', request.orderSchema),
  freeTags: route<{ allowed: boolean }, null>('PUT', '/api/free-tags', 'keep', request.freeTagsSchema),

  loggingPlaces: route<null, { places: readonly LoggingPlace[] }>('GET', '/api/logging-places', 'look'),
  setLoggingPlace: route<request.LoggingPlaceAt, null>(
    'PUT',
    '/api/logging-places',
    'look',
    request.loggingPlaceSchema,
  ),
  markers: route<null, { markers: readonly Marker[] }>('GET', '/api/assets/:id/markers', 'look'),
  newMarker: route<NewMarker, Written & { id: number }>('POST', '/api/assets/:id/markers', 'log', request.markerSchema),
  /** On several assets at once. */
  newMarkers: route<request.NewMarkers, Written>('POST', '/api/markers', 'log', request.markersSchema),
  /** Sets a marker for each cue of captions that lies within the asset. */
  readNotes: route<{ text: string }, NotesRead>('POST', '/api/assets/:id/notes', 'log', request.timedTextSchema),
  transcript: route<{ source: TranscriptSource | null }, dialogue.TranscriptAnswer>(
    'POST',
    '/api/assets/:id/transcript',
    'look',
    dialogue.transcriptSchema,
  ),
  spoken: route<Partial<dialogue.SpokenAsked>, dialogue.SpokenAnswer>(
    'POST',
    '/api/spoken',
    'look',
    dialogue.spokenSchema,
  ),
  /** How much of it there is: by day, reel and speaker. */
  /** All that a search of what is said found, but for what the person dismissed, as a file. */
  takeHits: route<dialogue.HitsTaken, dialogue.TakenFile>('POST', '/api/spoken/hits', 'look', dialogue.takeHitsSchema),
  related: route<Partial<dialogue.RelatedAskedFor>, dialogue.RelatedAnswer>(
    'POST',
    '/api/spoken/related',
    'look',
    dialogue.relatedSchema,
  ),
  spokenTotals: route<Partial<dialogue.SpokenTotalsAsked>, dialogue.SpokenTotalsAnswer>(
    'POST',
    '/api/spoken/totals',
    'look',
    dialogue.spokenTotalsSchema,
  ),
  /** The same as passages, the most telling first. */
  spokenPassages: route<Partial<dialogue.SpokenPassagesAsked>, dialogue.SpokenPassages>(
    'POST',
    '/api/spoken/passages',
    'look',
    dialogue.spokenPassagesSchema,
  ),
  themes: route<Partial<dialogue.ThemesAsked>, dialogue.ThemesAnswer>(
    'POST',
    '/api/spoken/themes',
    'look',
    dialogue.themesSchema,
  ),
  themePassages: route<dialogue.ThemePassagesBody, dialogue.Passages>(
    'POST',
    '/api/spoken/themes/passages',
    'look',
    dialogue.themePassagesSchema,
  ),
  /** One's own: nobody else sees it. */
  dismissHit: route<dialogue.DismissHit, null>('PUT', '/api/spoken/dismissed', 'look', dialogue.dismissHitSchema),
  correctTranscript: route<dialogue.Correction, Written>(
    'PUT',
    '/api/assets/:id/transcript',
    'log',
    dialogue.correctionSchema,
  ),
  removeTranscript: route<dialogue.TranscriptAt, Written>(
    'POST',
    '/api/assets/:id/transcript/remove',
    'log',
    dialogue.transcriptAtSchema,
  ),
  /** Takes captions as what is said, each word with the time that its cue leaves it. */
  readTranscript: route<{ text: string; name?: string }, TranscriptRead>(
    'POST',
    '/api/assets/:id/transcript/read',
    'log',
    dialogue.readTranscriptSchema,
  ),
  recognise: route<{ assetIds: readonly number[]; apart?: boolean }, dialogue.Recognising>(
    'POST',
    '/api/recognise',
    'log',
    dialogue.recogniseSchema,
  ),
  changeMarker: route<NewMarker, Written>('PUT', '/api/markers/:id', 'log', request.markerSchema),
  removeMarkers: route<{ ids: readonly number[] }, Written>(
    'POST',
    '/api/markers/remove',
    'log',
    request.removeMarkersSchema,
  ),

  subclips: route<null, { assets: readonly Asset[] }>('GET', '/api/assets/:id/subclips', 'look'),
  newSubclip: route<request.NewSubclip, Written & { id: number }>(
    'POST',
    '/api/assets/:id/subclips',
    'log',
    request.subclipSchema,
  ),
  /** Of several assets at once. */
  newSubclips: route<request.NewSubclips, Written>('POST', '/api/subclips', 'log', request.subclipsSchema),
  changeSubclip: route<request.SubclipRange, Written>('PUT', '/api/subclips/:id', 'log', request.subclipRangeSchema),
  removeSubclips: route<{ ids: readonly number[] }, Written>(
    'POST',
    '/api/subclips/remove',
    'log',
    request.removeSubclipsSchema,
  ),

  fields: route<null, FieldsAnswer>('GET', '/api/fields', 'look'),
  newField: route<NewShopField, { id: number }>('POST', '/api/fields', 'keep', request.shopFieldSchema),
  changeField: route<NewShopField, { id: number }>('PUT', '/api/fields/:id', 'keep', request.shopFieldSchema),
  orderFields: route<{ ids: readonly number[] }, null>('PUT', '/api/field-order', 'keep', request.orderSchema),

  plainFields: route<{ ids: readonly string[] }, null>('PUT', '/api/plain-fields', 'keep', request.plainFieldsSchema),
  customWords: route<null, { words: readonly CustomWord[] }>('GET', '/api/custom-words', 'look'),
  /** How each is said is suggested. */
  newCustomWords: route<{ names: string }, dialogue.CustomWordsAdded>(
    'POST',
    '/api/custom-words',
    'log',
    dialogue.newCustomWordsSchema,
  ),
  changeCustomWord: route<dialogue.CustomWordChange, null>(
    'PUT',
    '/api/custom-words/:id',
    'log',
    dialogue.customWordSchema,
  ),
  removeCustomWord: route<null, null>('DELETE', '/api/custom-words/:id', 'log'),
  markings: route<null, { markings: readonly Marking[] }>('GET', '/api/markings', 'look'),
  newMarking: route<NewMarking, { id: number }>('POST', '/api/markings', 'keep', markingSchema),
  changeMarking: route<NewMarking, { id: number }>('PUT', '/api/markings/:id', 'keep', markingSchema),
  removeMarking: route<null, null>('DELETE', '/api/markings/:id', 'keep'),
  orderMarkings: route<{ ids: readonly number[] }, null>('PUT', '/api/marking-order', 'keep', request.orderSchema),

  layouts: route<null, { layouts: readonly LedgerLayout[] }>('GET', '/api/layouts', 'look'),
  newLayout: route<request.NewLayout, { id: number }>('POST', '/api/layouts', 'look', request.layoutSchema),
  removeLayout: route<null, null>('DELETE', '/api/layouts/:id', 'look'),

  /** One's own, the last one first. */
  pastSearches: route<null, { queries: readonly string[] }>('GET', '/api/past-searches', 'look'),
  rememberSearch: route<request.PastSearch, null>('POST', '/api/past-searches', 'look', request.pastSearchSchema),
  forgetSearches: route<null, null>('DELETE', '/api/past-searches', 'look'),

  liveBins: route<null, { bins: readonly LiveBin[] }>('GET', '/api/live-bins', 'look'),
  newLiveBin: route<request.LiveBinAsked, LiveBin>('POST', '/api/live-bins', 'log', request.liveBinSchema),
  changeLiveBin: route<request.LiveBinAsked, LiveBin>('PUT', '/api/live-bins/:id', 'log', request.liveBinSchema),
  removeLiveBin: route<null, null>('DELETE', '/api/live-bins/:id', 'log'),
  watchLiveBin: route<{ on: boolean }, null>('PUT', '/api/live-bins/:id/watch', 'look', request.liveBinWatchSchema),
  cameIn: route<null, { ids: readonly number[] }>('GET', '/api/live-bins/:id/came-in', 'look'),
  sawLiveBin: route<{ revision: number }, null>('POST', '/api/live-bins/:id/saw', 'look', request.sawSchema),
  /** Live bins of a file, all of them that can be read; what became of each. */
  takeLiveBins: route<request.LiveBinsIn, { made: readonly string[]; left: readonly { name: string; why: string }[] }>(
    'POST',
    '/api/live-bins-in',
    'log',
    request.liveBinsInSchema,
  ),
  /** Makes a bin filled by hand of what a live bin finds now. */
  freezeLiveBin: route<ingest.NewBin, { id: number; count: number }>(
    'POST',
    '/api/live-bins/:id/freeze',
    'log',
    ingest.binSchema,
  ),

  storages: route<null, { storages: readonly Storage[] }>('GET', '/api/storages', 'look'),
  newStorage: route<request.StorageAsked, Storage>('POST', '/api/storages', 'keep', request.storageSchema),
  scan: route<Partial<request.Scan>, { job: Job }>('POST', '/api/storages/:id/scan', 'keep', request.scanSchema),
  /** Whether all that is catalogued is there, on each storage that is. */
  checkPresence: route<null, { jobs: number }>('POST', '/api/presence', 'keep'),
  browse: route<Partial<request.Browse>, ShelfAnswer>('POST', '/api/storages/:id/browse', 'look', request.browseSchema),
  folders: route<null, { folders: readonly string[] }>('GET', '/api/storages/:id/folders', 'look'),
  changeStorage: route<request.StorageChange, Storage>('PUT', '/api/storages/:id', 'keep', request.storageChangeSchema),
  /** Whether a folder holds what the storage holds. */
  lookAtRoot: route<{ rootPath: string }, RootLook>('POST', '/api/storages/:id/root/look', 'keep', request.rootSchema),
  moveStorage: route<{ rootPath: string }, Storage>('PUT', '/api/storages/:id/root', 'keep', request.rootSchema),
  inspect: route<ingest.Inspect, ingest.Inspection>('POST', '/api/storages/:id/inspect', 'look', ingest.inspectSchema),
  listen: route<ingest.Inspect, ingest.ChannelPeaks>('POST', '/api/storages/:id/listen', 'look', ingest.inspectSchema),
  twins: route<Partial<ingest.TwinsAsked>, { twins: readonly ingest.Twin[]; looked: number; total: number }>(
    'POST',
    '/api/storages/:id/twins',
    'look',
    ingest.twinsSchema,
  ),
  ingest: route<ingest.Ingest, { job: Job }>('POST', '/api/storages/:id/ingest', 'keep', ingest.ingestSchema),
  ingestReport: route<null, ingest.IngestReport>('GET', '/api/jobs/:id/items', 'look'),
  /** Everything of a batch has been sent: what becomes of it. */
  ingestUpload: route<ingest.Upload, { job: Job }>('POST', '/api/uploads', 'log', ingest.uploadSchema),
  volumes: route<null, { volumes: readonly ingest.SimulatedVolume[]; slots: readonly string[] }>(
    'GET',
    '/api/volumes',
    'look',
  ),
  mountVolume: route<ingest.Mount, { volumes: readonly ingest.SimulatedVolume[] }>(
    'POST',
    '/api/volumes',
    'keep',
    ingest.mountSchema,
  ),

  presets: route<null, { presets: readonly ingest.Preset[] }>('GET', '/api/presets', 'look'),
  newPreset: route<ingest.NewPreset, { id: number }>('POST', '/api/presets', 'keep', ingest.presetSchema),
  changePreset: route<ingest.NewPreset, { id: number }>('PUT', '/api/presets/:id', 'keep', ingest.presetSchema),
  removePreset: route<null, null>('DELETE', '/api/presets/:id', 'keep'),
  watches: route<null, { watches: readonly ingest.WatchFolder[] }>('GET', '/api/watches', 'look'),
  newWatch: route<ingest.NewWatch, { id: number }>('POST', '/api/watches', 'keep', ingest.watchSchema),
  changeWatch: route<ingest.NewWatch, { id: number }>('PUT', '/api/watches/:id', 'keep', ingest.watchSchema),
  removeWatch: route<null, null>('DELETE', '/api/watches/:id', 'keep'),

  bins: route<null, { bins: readonly ingest.Bin[] }>('GET', '/api/bins', 'look'),
  newBin: route<ingest.NewBin, { id: number }>('POST', '/api/bins', 'log', ingest.binSchema),
  changeBin: route<ingest.NewBin, { id: number }>('PUT', '/api/bins/:id', 'log', ingest.binSchema),
  removeBin: route<null, null>('DELETE', '/api/bins/:id', 'log'),
  orderBin: route<ingest.BinOrder, Written>('PUT', '/api/bins/:id/order', 'log', ingest.binOrderSchema),
  binAssets: route<Partial<ingest.BinAssets>, Written>('PUT', '/api/bins/:id/assets', 'log', ingest.binAssetsSchema),

  verify: route<Partial<ingest.Verify>, { job: Job }>('POST', '/api/verify', 'keep', ingest.verifySchema),
  fixity: route<null, ingest.FixitySummary>('GET', '/api/fixity', 'look'),
  fixityOf: route<null, { checks: readonly ingest.FixityCheck[] }>('GET', '/api/assets/:id/fixity', 'look'),
  locations: route<null, { locations: readonly ingest.Location[] }>('GET', '/api/assets/:id/locations', 'look'),

  jobs: route<null, { jobs: readonly Job[] }>('GET', '/api/jobs', 'look'),
  cancelJob: route<null, { job: Job }>('POST', '/api/jobs/:id/cancel', 'keep'),
  retryJob: route<null, { job: Job }>('POST', '/api/jobs/:id/retry', 'keep'),
  pauseJob: route<null, { job: Job }>('POST', '/api/jobs/:id/pause', 'keep'),
  resumeJob: route<null, { job: Job }>('POST', '/api/jobs/:id/resume', 'keep'),
  jobPriority: route<{ when: string }, { job: Job }>(
    'PUT',
    '/api/jobs/:id/priority',
    'keep',
    request.jobPrioritySchema,
  ),
  jobLimits: route<null, request.JobLimits>('GET', '/api/job-limits', 'look'),
  setJobLimits: route<request.JobLimits, request.JobLimits>('PUT', '/api/job-limits', 'keep', request.jobLimitsSchema),
  /** Somebody looks at this asset: what is still to be made of it goes before everything else. */
  first: route<{ assetId: number }, null>('POST', '/api/jobs/first', 'look', request.firstSchema),

  health: route<null, Health>('GET', '/api/health', 'look'),
  lastSeen: route<null, LastSeen>('GET', '/api/assets/:id/last-seen', 'look'),
  findMissing: route<request.FindMissing, { job: Job }>('POST', '/api/relink/find', 'keep', request.findMissingSchema),
  /** Makes a plan from one file that a person points at. */
  pointAt: route<request.RelinkPoint, { job: Job }>('POST', '/api/relink/point', 'keep', request.pointSchema),
  relinkPlan: route<null, RelinkPlan>('GET', '/api/relink/:id', 'look'),
  relinkItems: route<request.RelinkItemsAsked, RelinkItems>(
    'POST',
    '/api/relink/:id/items',
    'look',
    request.relinkItemsSchema,
  ),
  decideRelink: route<request.RelinkDecided, RelinkPlan>(
    'PUT',
    '/api/relink/:id/decisions',
    'keep',
    request.relinkDecisionSchema,
  ),
  /** Carries out what is accepted: all of it, or none. */
  mend: route<null, { job: Job }>('POST', '/api/relink/:id/mend', 'keep'),
  restoreList: route<restore.RestoreListAsked, restore.RestoreList>(
    'POST',
    '/api/restore/list',
    'look',
    restore.restoreListSchema,
  ),
  takeRestoreList: route<restore.RestoreListTaken, dialogue.TakenFile>(
    'POST',
    '/api/restore/list/file',
    'look',
    restore.takeRestoreListSchema,
  ),
  /** Has originals fetched from the archive; each is mended when it is there. */
  restore: route<restore.RestoreAsked, { jobs: number }>('POST', '/api/restore', 'keep', restore.restoreSchema),

  twinList: route<{ offset: number; limit: number }, twins.TwinList>(
    'POST',
    '/api/twins',
    'look',
    twins.twinListSchema,
  ),
  /** How many pairs are told apart, or are no longer. */
  partTwins: route<twins.PartTwins, { pairs: number }>('POST', '/api/twins/apart', 'keep', twins.partTwinsSchema),
  /** Keeps one of each, and takes the others into it. */
  keepTwins: route<twins.KeepTwins, Written>('POST', '/api/twins/keep', 'keep', twins.keepTwinsSchema),

  pull: route<null, { assetIds: readonly number[] }>('GET', '/api/pull', 'look'),
  setPull: route<{ assetIds: readonly number[] }, { assetIds: readonly number[] }>(
    'PUT',
    '/api/pull',
    'look',
    request.pullSchema,
  ),
  projects: route<null, { projects: readonly Project[] }>('GET', '/api/projects', 'look'),
  newProject: route<request.NewProject, Project>('POST', '/api/projects', 'cut', request.projectSchema),
  newStringOut: route<request.NewStringOut, StringOutFull>(
    'POST',
    '/api/string-outs',
    'cut',
    request.newStringOutSchema,
  ),
  stringOut: route<null, StringOutFull>('GET', '/api/string-outs/:id', 'look'),
  saveStringOut: route<request.SaveStringOut, StringOutFull>(
    'PUT',
    '/api/string-outs/:id',
    'cut',
    request.saveStringOutSchema,
  ),
  removeStringOut: route<null, null>('DELETE', '/api/string-outs/:id', 'cut'),
  conform: route<request.ConformRequest, ConformAnswer>('POST', '/api/conform', 'look', request.conformSchema),
  readList: route<request.ReadList, ListRead>('POST', '/api/cut-lists', 'cut', request.readListSchema),
} as const satisfies Record<string, Route>;

export type RouteName = keyof typeof ROUTES;
export type BodyOf<Name extends RouteName> = NonNullable<(typeof ROUTES)[Name]['types']>['body'];
export type AnswerOf<Name extends RouteName> = NonNullable<(typeof ROUTES)[Name]['types']>['answer'];

export const TABLE_FORMATS = ['csv', 'tsv'] as const;
export type TableFormat = (typeof TABLE_FORMATS)[number];

/** Files that the browser fetches by address. */
export const FILE_PATHS = {
  rendition: (assetId: number, kind: string) => `/files/${assetId}/${kind}`,
  /** Another poster frame is another picture, whatever the browser has kept. */
  poster: ({ id, posterMadeMs }: Pick<Asset, 'id' | 'posterMadeMs'>) => `/files/${id}/poster?made=${posterMadeMs ?? 0}`,
  /** All channels of a piece of an asset's sound, of the length of `SOUND_PIECE_MS`. */
  soundPiece: (assetId: number, fromMs: number) => `/files/${assetId}/sound?from=${fromMs}`,
  original: (assetId: number) => `/files/${assetId}/original`,
  /** @param media what an OpenTimelineIO list is worked with; mezzanines where there are any, if nothing is said */
  cutList: (stringOutId: number, format: HandedOver, media?: HandedMedia) =>
    `/files/string-outs/${stringOutId}.${format}${media ? `?media=${media}` : ''}`,
  events: '/api/events',
  /** A file of a storage that need not be catalogued: as it is, one frame of it, or made playable on the fly. */
  shelfFile: (storageId: number, path: string) => `/files/shelf/${storageId}/file?path=${encodeURIComponent(path)}`,
  shelfFrame: (storageId: number, path: string, frame: number, sequenceRate: string | null) =>
    `/files/shelf/${storageId}/frame?path=${encodeURIComponent(path)}&frame=${frame}${sequenceRate ? `&rate=${sequenceRate}` : ''}`,
  shelfPlay: (storageId: number, path: string, frame: number, sequenceRate: string | null) =>
    `/files/shelf/${storageId}/play?path=${encodeURIComponent(path)}&frame=${frame}${sequenceRate ? `&rate=${sequenceRate}` : ''}`,
  /** All that is said of an asset, as XMP. */
  sidecar: (assetId: number) => `/files/${assetId}/sidecar.xmp`,
  /** What a job wrote into the export folder. */
  exported: (jobId: number) => `/files/exports/${jobId}.zip`,
  /** The markers of an asset, as captions. */
  notes: (assetId: number, format: TimedTextFormat) => `/files/${assetId}/markers.${format}`,
  /** What is said in an asset, by its best transcript. */
  transcript: (assetId: number, format: TranscriptFormat) => `/files/${assetId}/said.${format}`,
  /** A way to say a word, spoken. */
  spokenWay: (way: string) => `/files/spoken-way?way=${encodeURIComponent(way)}`,
  uploads: '/files/uploads',
  /** Takes a table as it is, and says what it looks like. */
  tables: '/files/tables',
  /** Row by row what became of a table; `id` is that of its job. */
  tableReport: (id: number) => `/files/tables/${id}`,
  /** What a search found, in its order, as a table. */
  tableOf: (format: TableFormat, query: string, columns: readonly string[], order: request.AskedOrder) =>
    `/files/table.${format}?${new URLSearchParams({ query, columns: columns.join(','), order: JSON.stringify(order) }).toString()}`,
} as const;
