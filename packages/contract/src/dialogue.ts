import {
  HOWS,
  MOST_THEME_FILES,
  MOST_WAYS,
  MOST_WORD_SOUNDS,
  NOTCHES,
  PASSAGE_LENGTHS,
  soundsOfWay,
  SPOKEN_SORTS,
  TRANSCRIPT_SOURCES,
  type PassageLength,
  type ReducedQuestion,
  type RelatedTerm,
  type SpeakerFrom,
  type SpokenHow,
  type SpokenPassage,
  type SpokenPlace,
  type SpokenSort,
  type SpokenTotals,
  type SpokenWord,
  type Themes,
  type TranscriptSource,
} from '@larder/core/dialogue';
import { spokenWords } from '@larder/core/fields';
import { array, boolean, number, object, string, type InferType } from 'yup';
import type { Asset } from './model';
import { id } from './schemas';

/** A transcript without its words. */
export interface TranscriptInfo {
  readonly source: TranscriptSource;
  /** Counts up with each change. */
  readonly version: number;
  /** As BCP 47 has it. */
  readonly language: string;
  /** The program and its model, or the file. */
  readonly madeBy: string;
  readonly madeMs: number;
  /** Whose it is; null for what no person made. */
  readonly by: string | null;
}

export interface Transcript extends TranscriptInfo {
  readonly words: readonly SpokenWord[];
  readonly speakers: readonly SpeakerFrom[];
}

/** What transcripts there are of an asset, the best first, and the one that was asked for. */
export interface TranscriptAnswer {
  readonly sources: readonly TranscriptInfo[];
  readonly shown: Transcript | null;
}

/** Words in which a search found something, and what is said around them. */
export interface SpokenExcerpt {
  readonly startMs: number;
  readonly endMs: number;
  readonly before: string;
  readonly hit: string;
  readonly after: string;
  /** That of the least certain of the words; null where a person says so. */
  readonly certainty: number | null;
}

export const transcriptSchema = object({
  source: string<TranscriptSource>().oneOf(TRANSCRIPT_SOURCES).nullable().default(null),
}).noUnknown();

/** Other words for some of a transcript, or who speaks them. */
export interface Correction {
  readonly source: TranscriptSource;
  /** Of the transcript that was looked at. */
  readonly version: number;
  /** The first of the words, and the one after the last. */
  readonly from: number;
  readonly to: number;
  readonly text?: string | undefined;
  readonly speaker?: string | undefined;
}

/** A transcript as it was when it was looked at. */
export type TranscriptAt = Pick<Correction, 'source' | 'version'>;

const atVersion = {
  source: string<TranscriptSource>().oneOf(TRANSCRIPT_SOURCES).required(),
  version: number().integer().min(1).required(),
};
export const transcriptAtSchema = object(atVersion).noUnknown();

const place = number().integer().min(0).required();
export const correctionSchema = object({
  ...atVersion,
  from: place,
  to: place,
  text: string().max(20_000, 'At most 20,000 letters at once.'),
  speaker: string().max(80, 'A name has at most 80 letters.'),
}).noUnknown();

/** Letters of a transcript that is brought in: a day of speech has not so many. */
const LONGEST_TRANSCRIPT = 8_000_000;
export const readTranscriptSchema = object({
  text: string().max(LONGEST_TRANSCRIPT, 'That is longer than a day of speech.').required('The file is empty.'),
  name: string().max(200).default(''),
}).noUnknown();

export const recogniseSchema = object({
  assetIds: array(id.required()).min(1).max(10_000, 'At most 10,000 at once.').required(),
  /** Each channel by itself, as where everybody has a microphone of their own. */
  apart: boolean().default(false),
}).noUnknown();

/** How many were put into the queue; of the rest why not. */
export interface Recognising {
  readonly queued: number;
  readonly left: readonly { readonly assetId: number; readonly why: string }[];
}

/** Files at once. */
const MOST_SPOKEN = 100;
const WITHIN_S = 10;
/** What is looked for, with all its ways. */
export const LONGEST_SAID = 1000;

const narrowed = {
  /** What else holds of the assets, as in the search line. */
  query: string().max(4000).default(''),
  atLeast: number().integer().min(0).default(0),
};
/** What is looked for in what is said, in how strict a way, and where. */
const looked = {
  said: string().max(LONGEST_SAID, `At most ${LONGEST_SAID} letters.`).default(''),
  how: string<SpokenHow>().oneOf(HOWS).default('all'),
  withinS: number().min(0.1, 'At least a tenth of a second.').max(3600, 'At most an hour.').default(WITHIN_S),
  notch: number()
    .integer()
    .min(0)
    .max(NOTCHES.length - 1)
    .default(0),
  ...narrowed,
};

export const spokenSchema = object({
  ...looked,
  sort: string<SpokenSort>().oneOf(SPOKEN_SORTS).default('best'),
  offset: number().integer().min(0).default(0),
  limit: number().integer().min(1).max(MOST_SPOKEN).default(20),
}).noUnknown();
export type SpokenAsked = InferType<typeof spokenSchema>;

/** How hits are taken along: a list of markers, or cut together. */
export const HIT_FORMATS = ['csv', 'edl', 'otio'] as const;
export type HitFormat = (typeof HIT_FORMATS)[number];
export const takeHitsSchema = object({
  ...looked,
  sort: string<SpokenSort>().oneOf(SPOKEN_SORTS).default('best'),
  format: string<HitFormat>().oneOf(HIT_FORMATS).required(),
}).noUnknown();
export type HitsTaken = Partial<InferType<typeof takeHitsSchema>> & { readonly format: HitFormat };

/** A file that the browser saves. */
export interface TakenFile {
  readonly name: string;
  /** As IANA has it. */
  readonly type: string;
  readonly text: string;
}

/** A hit that somebody does not want to see again when they look for the same, or does. */
export const dismissHitSchema = object({
  said: string().max(LONGEST_SAID).required(),
  assetId: id.required(),
  startMs: number().integer().min(0).required(),
  dismissed: boolean().required(),
}).noUnknown();
export type DismissHit = InferType<typeof dismissHitSchema>;

/** What was found in what is said: how much at each notch, and a window of the files at the one that was asked for. */
export interface SpokenAnswer {
  readonly revision: number;
  /** What was looked for, as it was read, and how it sounds; no sound is known of what nobody can say. */
  readonly items: readonly { readonly text: string; readonly without: boolean; readonly sounds: string }[];
  /** By `NOTCHES`. */
  readonly notches: readonly { readonly files: number; readonly hits: number }[];
  readonly offset: number;
  readonly files: readonly {
    readonly asset: Asset;
    readonly count: number;
    readonly best: number;
    readonly hits: readonly (SpokenPlace & { readonly dismissed: boolean })[];
  }[];
  /** Assets of which it is written down what is said in them, and which the search looked through. */
  readonly searched: number;
}

/** What goes with what is looked for, or what a question is about. */
export const relatedSchema = object({
  said: looked.said,
  /** Words of a question that say nothing by themselves, and are wanted all the same. */
  kept: array(string().max(100).required()).max(50).default([]),
  ...narrowed,
}).noUnknown();
export type RelatedAskedFor = InferType<typeof relatedSchema>;

/** Of a question what it is about; of anything else what goes with each thing that is looked for, as far as anybody says it. */
export interface RelatedAnswer {
  readonly revision: number;
  readonly question: ReducedQuestion | null;
  readonly terms: readonly RelatedTerm[];
}

export const spokenTotalsSchema = object(looked).noUnknown();
export type SpokenTotalsAsked = InferType<typeof spokenTotalsSchema>;

/** How much was found, when it was shot, in which reel, and by whom it was said. */
export interface SpokenTotalsAnswer extends SpokenTotals {
  readonly revision: number;
  /** By `NOTCHES`. */
  readonly notches: SpokenAnswer['notches'];
}

const asPassages = {
  length: string<PassageLength>().oneOf(PASSAGE_LENGTHS).default('thought'),
  limit: number().integer().min(1).max(200, 'At most 200 passages at once.').default(25),
};
export const spokenPassagesSchema = object({ ...looked, ...asPassages }).noUnknown();
export type SpokenPassagesAsked = InferType<typeof spokenPassagesSchema>;

/** Passages, and the assets that they are in. */
export interface Passages {
  readonly revision: number;
  /** How many there are; the first of them are listed. */
  readonly count: number;
  readonly passages: readonly SpokenPassage[];
  readonly assets: readonly Asset[];
}
export interface SpokenPassages extends Passages {
  /** By `NOTCHES`. */
  readonly notches: SpokenAnswer['notches'];
}

/** What the files that a search finds are about. */
export const themesSchema = object(narrowed).noUnknown();
export type ThemesAsked = InferType<typeof themesSchema>;

export interface ThemesAnswer extends Themes {
  readonly revision: number;
  readonly assets: readonly Asset[];
}

/** Where in some files any of some words and phrases is said, in whatever form. */
export const themePassagesSchema = object({
  ...narrowed,
  ...asPassages,
  terms: array(string().max(200).required()).min(1).max(20).required(),
  /** Of the files that are found, only these. */
  assetIds: array(id.required()).min(1).max(MOST_THEME_FILES).required(),
}).noUnknown();
export type ThemePassagesAsked = InferType<typeof themePassagesSchema>;
/** What need not be said is as usual. */
export type ThemePassagesBody = Partial<ThemePassagesAsked> & Pick<ThemePassagesAsked, 'terms' | 'assetIds'>;

/** Letters of names that are written down at once: a list of the people and places of a production. */
const LONGEST_NAMES = 20_000;
/** Names, as somebody writes them down: each of their words is a custom word, but for those that the recogniser knows. */
export const newCustomWordsSchema = object({
  names: string()
    .max(LONGEST_NAMES, 'Those are too many at once.')
    .test('some', 'There is no word in that.', (names = '') => spokenWords(names).length > 0)
    .required('A name is needed.'),
}).noUnknown();

/** A way to say a word, in the sounds of the dictionary of Carnegie Mellon. */
const way = string()
  .trim()
  .test(
    'sounds',
    `A way to say it is made of at most ${MOST_WORD_SOUNDS} sounds such as AA T ER M AW TH, parted by spaces.`,
    (text = '') => text !== '' && soundsOfWay(text) !== null,
  )
  .required();
export const customWordSchema = object({
  says: array(way).min(1, 'A word is said in one way at least.').max(MOST_WAYS).required(),
}).noUnknown();
export type CustomWordChange = InferType<typeof customWordSchema>;

/** What came of names: how many words were added, and which of them are none that can be heard as one, or are known already. */
export interface CustomWordsAdded {
  readonly added: number;
  readonly known: readonly string[];
  readonly left: readonly string[];
}
