import { TRANSCRIPT_SOURCES, type SpeakerFrom, type SpokenWord, type TranscriptSource } from '@larder/core/dialogue';
import { array, number, object, string } from 'yup';
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

const place = number().integer().min(0).required();
export const correctionSchema = object({
  source: string<TranscriptSource>().oneOf(TRANSCRIPT_SOURCES).required(),
  version: number().integer().min(1).required(),
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
}).noUnknown();

/** How many were put into the queue; of the rest why not. */
export interface Recognising {
  readonly queued: number;
  readonly left: readonly { readonly assetId: number; readonly why: string }[];
}
