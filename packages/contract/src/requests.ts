import { markerSchema } from '@larder/core/markers';
import {
  assetEditSchema,
  fieldsOf,
  operationSchema,
  saidChanges,
  shopFieldSchema,
  tagSchema,
  trimmed,
  type FieldId,
  type Operation,
  type SettableFieldId,
} from '@larder/core/fields';
import { RELEVANCE, type SortBy, type SortOrder } from '@larder/core/search';
import { innerPath } from '@larder/core/ingest';
import { SHELF_STATES } from '@larder/core/shelf';
import { tagChangeSchema, tagSetSchema } from '@larder/core/tags';
import { runMarkerSchema } from '@larder/core/sequence';
import { COUNTING_IDS } from '@larder/core/timecode';
import { array, boolean, number, object, string, type InferType } from 'yup';
import {
  JOB_KINDS,
  RELINK_DECISIONS,
  RELINK_STATES,
  STORAGE_KINDS,
  type JobKind,
  type RelinkDecision,
  type RelinkState,
  type StorageKind,
} from './model';
import { id, name, nameIfAny } from './schemas';

export { LONGEST_NAME } from './schemas';

const counting = string().oneOf(COUNTING_IDS, 'That is no frame rate known here.').required();
/** The answer shows at least what was written up to this revision. */
const atLeast = number().integer().min(0).default(0);
/** Characters of a search. */
export const LONGEST_QUERY = 2000;
const searchText = string().max(
  LONGEST_QUERY,
  `A search has at most ${LONGEST_QUERY.toLocaleString('en')} characters.`,
);
const query = searchText.default('');

/** More rows than fit on any screen, few enough to send while someone scrolls. */
export const MAX_WINDOW = 500;

export const signInSchema = object({
  login: trimmed().max(80).required('Who are you?'),
  password: string().max(200).required('A password is needed.'),
}).noUnknown();

function isOfLibrary(id: string, context: unknown): boolean {
  const field = fieldsOf(context).byId(id);
  return field !== undefined && !field.unordered;
}

/** The id of a field that the library has. */
const fieldId = (words: string) =>
  string<FieldId>().test('field', words, (id, { options }) => !id || isOfLibrary(id, options.context));

const sortBy = {
  field: string<SortBy['field']>()
    .test(
      'sort',
      'There is no such field to sort by.',
      (id, { options }) => !id || id === RELEVANCE || isOfLibrary(id, options.context),
    )
    .default('name'),
  descending: boolean().default(false),
};
export const orderBySchema = object({
  ...sortBy,
  /** What orders those that are equal in it. */
  then: array(object(sortBy).noUnknown()).max(4, 'A list is ordered by at most five fields.'),
  /** The bin whose order by hand comes before all of them. */
  hand: id,
}).noUnknown();

export const searchSchema = object({
  query,
  /** What of the list stands out among the rest of it. */
  lift: searchText,
  sort: orderBySchema.default({ field: 'name', descending: false }),
  offset: number().integer().min(0).default(0),
  limit: number().integer().min(0).max(MAX_WINDOW).default(100),
  /** The list is cut into groups by what is said in this field. */
  by: fieldId('There is no such field to group by.'),
  /** The groups themselves are wanted too. */
  groups: boolean().default(false),
  atLeast,
}).noUnknown();

/** A page of what has hits, with all of these. */
export const hitsSchema = searchSchema
  .omit(['groups', 'by', 'lift'])
  .shape({ limit: number().integer().min(0).max(MAX_WINDOW).default(50) });
export const idsSchema = searchSchema
  .omit(['groups'])
  .shape({ limit: number().integer().min(0).max(100_000).default(100_000) });
/** Goes on from a place of a list to the next that stands out, or back to the last. */
export const stepSchema = searchSchema.omit(['groups', 'offset', 'limit']).shape({
  lift: searchText.defined(),
  from: number().integer().min(0).required(),
  backwards: boolean().default(false),
});
const degrees = (most: number) => number().min(-most).max(most).required();
/** To be told what comes into a live bin, or no longer. */
export const liveBinWatchSchema = object({ on: boolean().required() }).noUnknown();
/** What came in up to this revision of the library was looked at. */
export const sawSchema = object({ revision: number().integer().min(0).required() }).noUnknown();
export const mapSchema = object({
  query,
  /** The stretch that is shown; none for all that there is. */
  box: object({ south: degrees(90), west: degrees(180), north: degrees(90), east: degrees(180) })
    .noUnknown()
    .nullable()
    .default(null),
  /** How finely places are gathered: as many spots side by side at most. */
  columns: number().integer().min(1).max(60).default(12),
  atLeast,
}).noUnknown();
export const daysSchema = object({
  query,
  field: fieldId('There is no such field to count days of.').default('shot'),
  atLeast,
}).noUnknown();
export const flagsSchema = object({
  assetIds: array(id.required())
    .min(1, 'Select at least one asset.')
    .max(100_000, 'At most 100,000 assets at once.')
    .required(),
  on: boolean().required(),
}).noUnknown();
export const rowsSchema = object({ ids: array(id.required()).max(MAX_WINDOW).required() }).noUnknown();
export const facetSchema = object({
  query,
  field: fieldId('There is no such field to count.').required(),
  atLeast,
}).noUnknown();
/** What a list offers to narrow it by: what is said in each of these fields, so many things of each. */
export const facetsSchema = object({
  query,
  fields: array(fieldId('There is no such field to narrow by.').required())
    .max(40, 'At most 40 fields at once.')
    .required(),
  limit: number().integer().min(1).max(200).default(8),
  spread: boolean().default(false),
  atLeast,
}).noUnknown();
export const orderSchema = object({ ids: array(id.required()).max(1000).required() }).noUnknown();
/** The fields built in that plain words look into. */
export const plainFieldsSchema = object({
  ids: array(string().max(40).required()).max(200).required(),
}).noUnknown();

export const freeTagsSchema = object({ allowed: boolean().required() }).noUnknown();
export const mergeTagsSchema = object({ into: id.required('Choose the tag that stays.') }).noUnknown();
export const splitTagSchema = object({
  names: array(tagSchema).min(1, 'Name at least one new tag.').max(20, 'At most 20 new tags.').required(),
  /** Which of its clips get the new ones in its place; without a search all of them. */
  query,
}).noUnknown();
export const layoutSchema = object({
  name,
  /** For everybody who uses the library. */
  shared: boolean().required(),
  columns: array(
    object({
      colId: string().max(60).required(),
      shown: boolean().required(),
      width: number().min(0).max(4000).required(),
      pinned: boolean().required(),
    }).noUnknown(),
  )
    .max(1000)
    .required(),
}).noUnknown();
export const sidecarSchema = object({
  text: string().max(2_000_000, 'A sidecar has at most 2,000,000 characters.').required('The sidecar is empty.'),
}).noUnknown();
/** The assets whose sidecars are written: those of a selection, or all that a search finds. */
export const writeSidecarsSchema = object({
  query,
  assetIds: array(id.required()).max(200_000, 'At most 200,000 at once.').nullable().default(null),
}).noUnknown();
export const readSidecarsSchema = object({
  files: array(
    object({
      /** As the person who chose it sees it; the name decides, and where several are called so its folders. */
      path: string().max(4000).required(),
      text: string().max(2_000_000, 'A sidecar has at most 2,000,000 characters.').defined(),
    }).noUnknown(),
  )
    .min(1, 'Choose at least one file.')
    .max(2000, 'At most 2,000 files at once.')
    .required(),
}).noUnknown();
export const timedTextSchema = object({
  text: string().max(5_000_000, 'Captions have at most 5,000,000 characters.').required('There is nothing in it.'),
}).noUnknown();
/** What each of some assets is to be shown by. */
export const POSTER_WAYS = ['frame', 'not-black', 'start', 'middle', 'percent', 'library'] as const;
export type PosterWay = (typeof POSTER_WAYS)[number];
export const postersSchema = object({
  assetIds: array(id.required()).min(1, 'Select at least one asset.').max(10_000, 'At most 10,000 at once.').required(),
  way: string<PosterWay>().oneOf(POSTER_WAYS).required(),
  /** Counted from the first frame of the asset; only with the way `frame`. */
  frame: number().integer().min(0).default(0),
  /** How far in, in parts of a hundred; only with the way `percent`. */
  percent: number().integer().min(0).max(100, 'A clip ends at 100 percent.').default(0),
}).noUnknown();
export const removeMarkersSchema = object({
  ids: array(id.required()).min(1, 'Choose at least one marker.').max(20_000).required(),
}).noUnknown();
export const askedOperationSchema = object({
  assetIds: array(id.required())
    .min(1, 'Select at least one asset.')
    .max(100_000, 'At most 100,000 assets at once.')
    .required(),
  seenRevision: number().integer().min(0).required(),
  field: string<SettableFieldId>().max(60).required('Choose a field.'),
  operation: operationSchema,
}).noUnknown();
const range = {
  /** Inclusive, in frames of the asset, or milliseconds without frames. */
  in: number().integer('In and out are whole frames.').min(0, 'The in is at or after the first frame.').required(),
  /** Exclusive. */
  out: number()
    .integer('In and out are whole frames.')
    .required()
    .test('after', 'The out is after the in.', (out, { parent }) => out > Number((parent as { in?: unknown }).in)),
};
export const subclipSchema = object({ ...range, name }).noUnknown();
/** So many at once: the hits that a search lists. */
export const MAX_KEPT = 2000;
export const subclipsSchema = object({
  subclips: array(object({ ...range, name, assetId: id.required() }).noUnknown())
    .min(1)
    .max(MAX_KEPT, `At most ${MAX_KEPT} subclips at once.`)
    .required(),
}).noUnknown();
export const markersSchema = object({
  markers: array(markerSchema.shape({ assetId: id.required() }).noUnknown())
    .min(1)
    .max(MAX_KEPT, `At most ${MAX_KEPT} markers at once.`)
    .required(),
}).noUnknown();
export const subclipRangeSchema = object(range).noUnknown();
export const removeSubclipsSchema = object({
  ids: array(id.required()).min(1, 'Choose at least one subclip.').max(1000).required(),
}).noUnknown();
/** Rows that are pasted or filled in at once. */
export const MAX_EACH = 10_000;
export const editEachSchema = object({
  seenRevision: number().integer().min(0).required(),
  edits: array(
    object({
      assetId: id.required(),
      set: saidChanges,
    }).noUnknown(),
  )
    .min(1, 'There is nothing to change.')
    .max(MAX_EACH, `At most ${MAX_EACH.toLocaleString('en')} assets at once.`)
    .required(),
}).noUnknown();
export const loggingPlaceSchema = object({
  query,
  assetId: id.required(),
  done: number().integer().min(0).required(),
  total: number().integer().min(0).required(),
}).noUnknown();
/** Without a group the last of one's changes is meant. */
export const undoSchema = object({ group: string().max(40) }).noUnknown();
export const liveBinSchema = object({
  name,
  query: query.min(1, 'A live bin needs a search: an empty one would hold the whole library.').required(),
  parentId: id.nullable().default(null),
  projectId: id.nullable().default(null),
  shared: boolean().default(true),
}).noUnknown();
/** The form of live bins as a file; those of another are refused. */
export const LIVE_BINS_VERSION = 1;
export const MOST_LIVE_BINS = 500;
/** Live bins as they leave the library and come back: a name and a search, and the path of the bin that each stands in. */
export const liveBinsFileSchema = object({
  version: number()
    .oneOf([LIVE_BINS_VERSION], `This file is not of version ${LIVE_BINS_VERSION}, the one that is read here.`)
    .required('This is no file of live bins: it says no version.'),
  liveBins: array(
    object({
      name,
      query: query.min(1, 'A live bin needs a search.').required(),
      in: string().trim().max(2000).nullable().default(null),
    }).noUnknown(),
  )
    .min(1, 'There are no live bins in this file.')
    .max(MOST_LIVE_BINS, `At most ${MOST_LIVE_BINS} live bins come in at once.`)
    .required('This is no file of live bins: it has no list of them.'),
}).noUnknown();
export const liveBinsInSchema = object({
  file: liveBinsFileSchema.required(),
  projectId: id.nullable().default(null),
  shared: boolean().default(true),
}).noUnknown();
export const pastSearchSchema = object({ query: query.min(1, 'There is nothing to remember.').required() }).noUnknown();
export const renameSchema = object({ name }).noUnknown();
const rootPath = trimmed()
  .matches(/^\//, 'The folder is an absolute path on the server, such as /media/shelf.')
  .max(1000)
  .required('The folder is needed.');
/** Where a storage lies now. */
export const rootSchema = object({ rootPath }).noUnknown();
export const storageSchema = object({
  name,
  rootPath,
  /** Null to have it told by where the folder lies. */
  kind: string<StorageKind>()
    .oneOf(STORAGE_KINDS, 'A storage is local, network or removable.')
    .nullable()
    .default(null),
  managed: boolean().default(false),
}).noUnknown();
export const storageChangeSchema = object({
  name,
  kind: string<StorageKind>().oneOf(STORAGE_KINDS, 'A storage is local, network or removable.').required(),
  managed: boolean().required(),
  /** Every file is checked again when its last check is this old; null for never by itself. */
  verifyDays: number().integer().min(1, 'At least a day.').max(3650, 'At most ten years.').nullable().default(null),
  /** Whether all files are there is looked at again when the last look is this old; null for never by itself. */
  presenceHours: number().integer().min(1, 'At least an hour.').max(8760, 'At most a year.').nullable().default(null),
  recognises: boolean().default(false),
}).noUnknown();
export const jobPrioritySchema = object({ when: string().oneOf(['first', 'last']).required() }).noUnknown();
export const firstSchema = object({ assetId: id.required() }).noUnknown();
export const jobLimitsSchema = object({
  limits: array(
    object({
      kind: string<JobKind>().oneOf(JOB_KINDS).required(),
      most: number().integer().min(1, 'At least one at a time.').max(256, 'At most 256 at a time.').required(),
    }).noUnknown(),
  )
    .max(JOB_KINDS.length)
    .required(),
}).noUnknown();
export const scanSchema = object({
  folders: array(object({ path: innerPath.default(''), deep: boolean().default(true) }).noUnknown())
    .max(1000, 'At most 1,000 folders at once.')
    .default([]),
}).noUnknown();
export const browseSchema = object({
  path: innerPath.default(''),
  /** Everything below in one list, instead of the folder alone. */
  flat: boolean().default(false),
  only: array(string().oneOf(SHELF_STATES).required()).default([]),
  offset: number().integer().min(0).default(0),
  limit: number().integer().min(0).max(MAX_WINDOW).default(200),
}).noUnknown();
/** Which missing originals are looked for. */
export const LOST_OF = ['everything', 'assets', 'storage', 'bin', 'project', 'string-out'] as const;
export type LostOf = (typeof LOST_OF)[number];
export const lostOf = object({
  of: string<LostOf>().oneOf(LOST_OF).default('everything'),
  /** Of one of those. */
  id: number().integer().positive().nullable().default(null),
  /** On a storage, with all below it. */
  folder: innerPath.default(''),
  assetIds: array(id.required()).max(100_000).default([]),
}).noUnknown();

const relinkPlace = object({
  storageId: id.required('Choose a storage to look in.'),
  folder: innerPath.default(''),
  /** With all folders below. */
  deep: boolean().default(true),
}).noUnknown();

const filePath = innerPath.min(1).required();

export const findMissingSchema = object({
  lost: lostOf.default(() => lostOf.getDefault()),
  /** Those on storages that are away too: they may have been copied elsewhere. */
  away: boolean().default(false),
  places: array(relinkPlace).min(1, 'Choose a storage to look in.').max(100).required(),
  /** Folders that are passed over, by their names, with `*` and `?`. */
  passOver: array(string().min(1).max(200).required()).max(200).default([]),
  /** Only files of such names, with `*` and `?`; empty for all. */
  names: trimmed().max(200).default(''),
  /** Whether what is exact is accepted without a look. */
  acceptsExact: boolean().default(true),
}).noUnknown();

/** A file that a person says is the original of an asset; what it tells of the others is found out. */
export const pointSchema = object({ assetId: id.required(), storageId: id.required(), path: filePath }).noUnknown();

export const relinkItemsSchema = object({
  state: string<RelinkState>().oneOf(RELINK_STATES).nullable().default(null),
  /** Only what a rule explains, by its place. */
  rule: number().integer().min(0).nullable().default(null),
  offset: number().integer().min(0).default(0),
  limit: number().integer().min(1).max(MAX_WINDOW).default(100),
}).noUnknown();

/** What is decided of some originals, of all that a rule explains, or of all in a state. */
export const relinkDecisionSchema = object({
  decision: string<RelinkDecision>().oneOf(RELINK_DECISIONS).required(),
  assetIds: array(id.required()).max(10_000).default([]),
  rule: number().integer().min(0).nullable().default(null),
  state: string<RelinkState>().oneOf(RELINK_STATES).nullable().default(null),
  /** The candidate, by its place; only of one original. */
  chosen: number().integer().min(0).nullable().default(null),
})
  .noUnknown()
  .test('some', 'Say what it is decided of.', ({ assetIds = [], rule = null, state = null }) =>
    assetIds.length > 0 ? rule === null && state === null : rule !== null || state !== null,
  )
  .test('one', 'One candidate is chosen for one original.', ({ assetIds = [], chosen = null }) =>
    chosen === null ? true : assetIds.length === 1,
  );

export const projectSchema = object({
  name,
  description: string().max(2000).nullable().default(null),
  counting,
}).noUnknown();
export const stringOutItemSchema = object({
  id: string().min(1).max(40).required(),
  assetId: id.required(),
  in: number().integer().min(0).required(),
  out: number().integer().moreThan(0).required(),
}).noUnknown();
export const newStringOutSchema = object({
  name,
  projectId: id.required(),
  assetIds: array(id.required()).max(2000).default([]),
  /** Stretches of assets, in their order, in milliseconds of each; what overlaps the one before it becomes one with it. */
  parts: array(
    object({
      assetId: id.required(),
      startMs: number().min(0).required(),
      endMs: number().moreThan(0).required(),
    })
      .noUnknown()
      .required(),
  )
    .max(2000, 'At most 2,000 at once.')
    .default([]),
  /** As much more is taken before and after each. */
  handlesMs: number().min(0).max(600_000, 'At most ten minutes.').default(0),
}).noUnknown();
/** Clips of a string-out. */
export const MOST_ITEMS = 5000;
export const saveStringOutSchema = object({
  name,
  version: number().integer().min(1).required(),
  items: array(stringOutItemSchema).max(MOST_ITEMS).required(),
  markers: array(runMarkerSchema.required()).max(5000, 'A string-out has at most 5,000 markers.').required(),
}).noUnknown();
export const pullSchema = object({ assetIds: array(id.required()).max(10_000).required() }).noUnknown();
export const conformSchema = object({
  fileName: string().max(300).required(),
  text: string().max(20_000_000).required(),
  counting: counting.default('25'),
}).noUnknown();

export const readListSchema = conformSchema
  .shape({
    projectId: id.required(),
    /** Of the string-out; what the list or its file is called where none is given. */
    name: nameIfAny,
    /** The storage on which clips that the library has never seen are missing until they are found; null to leave them out. */
    expectedOn: id.nullable().default(null),
  })
  .noUnknown();

export type NewMarkers = InferType<typeof markersSchema>;
export type NewSubclips = InferType<typeof subclipsSchema>;
export type NewSubclip = InferType<typeof subclipSchema>;
export type SubclipRange = InferType<typeof subclipRangeSchema>;
export type EditEach = InferType<typeof editEachSchema>;
export type AskedOperation = InferType<typeof askedOperationSchema> & { readonly operation: Operation };
export type NewLayout = InferType<typeof layoutSchema>;
export type Posters = InferType<typeof postersSchema>;
export type LoggingPlaceAt = InferType<typeof loggingPlaceSchema>;
export type WriteSidecars = InferType<typeof writeSidecarsSchema>;
export type ReadSidecars = InferType<typeof readSidecarsSchema>;
export type SignIn = InferType<typeof signInSchema>;
/** By fields, and before them by hand in the bin of that number. */
export type AskedOrder = SortOrder & { readonly hand?: number | undefined };
export type SearchQuery = Omit<InferType<typeof searchSchema>, 'sort'> & { readonly sort: AskedOrder };
export type IdsQuery = Omit<SearchQuery, 'groups'>;
export type StepAsked = Omit<InferType<typeof stepSchema>, 'sort'> & { readonly sort: AskedOrder };
export type FacetsAsked = InferType<typeof facetsSchema>;
export type MapAsked = InferType<typeof mapSchema>;
export type HitsAsked = Omit<InferType<typeof hitsSchema>, 'sort'> & { readonly sort: AskedOrder };
export type DaysAsked = InferType<typeof daysSchema>;
export type SetFlags = InferType<typeof flagsSchema>;
export type PastSearch = InferType<typeof pastSearchSchema>;
export type LiveBinsFile = InferType<typeof liveBinsFileSchema>;
export type LiveBinsIn = InferType<typeof liveBinsInSchema>;
export type NewLiveBin = InferType<typeof liveBinSchema>;
/** What has to be said of a live bin; the rest has defaults. */
export type LiveBinAsked = Pick<NewLiveBin, 'name' | 'query'> & Partial<NewLiveBin>;
export type NewStorage = InferType<typeof storageSchema>;
/** What has to be said of a storage; the rest has defaults. */
export type StorageAsked = Pick<NewStorage, 'name' | 'rootPath'> & Partial<NewStorage>;
export type StorageChange = InferType<typeof storageChangeSchema>;
export type JobLimits = InferType<typeof jobLimitsSchema>;
export type Scan = InferType<typeof scanSchema>;
export type Browse = InferType<typeof browseSchema>;
export type NewProject = InferType<typeof projectSchema>;
type NewStringOutFull = InferType<typeof newStringOutSchema>;
export type NewStringOut = Pick<NewStringOutFull, 'name' | 'projectId'> & Partial<NewStringOutFull>;
export type SaveStringOut = InferType<typeof saveStringOutSchema>;
export type FindMissing = InferType<typeof findMissingSchema>;
export type LostOriginals = InferType<typeof lostOf>;
export type RelinkPoint = InferType<typeof pointSchema>;
export type RelinkItemsAsked = InferType<typeof relinkItemsSchema>;
export type RelinkDecided = InferType<typeof relinkDecisionSchema>;
export type ConformRequest = InferType<typeof conformSchema>;
export type ReadList = InferType<typeof readListSchema>;
export { markerSchema };
export { assetEditSchema, shopFieldSchema, tagChangeSchema, tagSetSchema };
