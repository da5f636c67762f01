import { array, boolean, number, object, string, type InferType } from 'yup';
import { CODE_POINTS, type CodePointTable } from '../colour';
import { tagSchema, trimmed } from '../fields';
import { isInner } from '../shelf';
import { COUNTING_IDS } from '../timecode';
import { readNaming, wordNamingIssue } from './naming';

/** Used where it lies, or copied to a storage that the library may copy to. */
export const WAYS = ['in-place', 'copy'] as const;
export type Way = (typeof WAYS)[number];
export const MEZZANINES = ['none', 'vc3', 'ffv1'] as const;
export type MezzanineCodec = (typeof MEZZANINES)[number];
/** What becomes of something that the library has already. */
export const TWIN_WAYS = ['skip', 'location', 'anyway'] as const;
export type TwinWay = (typeof TWIN_WAYS)[number];
/** How the alpha channel is meant. */
export const ALPHAS = ['straight', 'premultiplied', 'ignored'] as const;
export type Alpha = (typeof ALPHAS)[number];

/** The version of saved settings; a preset of another one is refused. */
export const SETTINGS_VERSION = 1;

const short = (longest: number) => trimmed().max(longest, `At most ${longest} characters.`).default('');
const colourId = (table: CodePointTable) =>
  string()
    .oneOf(
      CODE_POINTS[table].map(({ id }) => id),
      'That is no code point of ITU-T H.273.',
    )
    .nullable()
    .default(null);
const timecode = string()
  .matches(/^\d\d:\d\d:\d\d[:;]\d\d$/, 'A timecode is written as 10:00:00:00.')
  .nullable()
  .default(null);
/** A path within a storage: no step leads out of it, and no two spellings mean one folder. */
export const innerPath = string()
  .max(2000, 'A path has at most 2,000 characters.')
  .test(
    'inner',
    'The folder lies within the storage; write its path from the storage on.',
    (path = '') => path === '' || isInner(path),
  );

/** Everything that the ingest sheet asks, but for what comes in. */
export const ingestSettingsSchema = object({
  version: number().oneOf([SETTINGS_VERSION], 'These settings are of another version.').default(SETTINGS_VERSION),
  way: string<Way>().oneOf(WAYS).default('in-place'),
  /** Where copies go; needed for `copy` only. */
  destination: object({
    storageId: number().integer().positive().required('Choose a storage to copy to.'),
    folder: innerPath.default(''),
  })
    .noUnknown()
    .nullable()
    .default(null)
    .when('way', {
      is: 'copy',
      then: (schema) => schema.required('Choose a storage to copy to.'),
    }),
  mezzanine: string<MezzanineCodec>().oneOf(MEZZANINES).default('none'),
  /** What is said in it is written down, whether its storage is set so or not. */
  recognises: boolean().default(false),
  /** A bin that exists or, by name, a new one; with `mirror` the folders become bins within it. */
  bin: object({
    id: number().integer().positive().nullable().default(null),
    name: short(120),
    mirror: boolean().default(false),
  })
    .noUnknown()
    .default({ id: null, name: '', mirror: false }),
  tags: array(tagSchema.required()).max(50, 'At most 50 tags at once.').default([]),
  fields: object({
    title: short(200),
    description: short(20_000),
    notes: short(20_000),
    reel: short(100),
    scene: short(100),
  })
    .noUnknown()
    .default({ title: '', description: '', notes: '', reel: '', scene: '' }),
  /** A pattern for names; empty to keep them. A copy's file is named by it, else the title. */
  naming: string()
    .max(200, 'A pattern has at most 200 characters.')
    .default('')
    .test(
      'naming',
      ({ value }) => firstIssue(value as string),
      (text) => text === '' || firstIssue(text) === '',
    ),
  corrections: object({
    /** The rate at which image sequences play. */
    sequenceRate: string().oneOf(COUNTING_IDS, 'That is no frame rate known here.').nullable().default(null),
    colour: object({
      primaries: colourId('primaries'),
      transfer: colourId('transfer'),
      matrix: colourId('matrix'),
    })
      .noUnknown()
      .default({ primaries: null, transfer: null, matrix: null }),
    alpha: string<Alpha>().oneOf(ALPHAS).nullable().default(null),
    /** Start timecode instead of what the file says. */
    startTimecode: timecode,
    /** Frames to add to the start timecode, before or after. */
    offsetFrames: number().integer().min(-10_000_000).max(10_000_000).default(0),
  })
    .noUnknown()
    .default({
      sequenceRate: null,
      colour: { primaries: null, transfer: null, matrix: null },
      alpha: null,
      startTimecode: null,
      offsetFrames: 0,
    }),
  twins: string<TwinWay>().oneOf(TWIN_WAYS).default('skip'),
}).noUnknown();

const firstIssue = (text: string | undefined): string => {
  const [issue] = readNaming(text ?? '').issues;
  return issue ? wordNamingIssue(issue) : '';
};

export type IngestSettings = InferType<typeof ingestSettingsSchema>;
/** The settings of somebody who has not touched any. */
export const plainSettings = (): IngestSettings => ingestSettingsSchema.getDefault();
