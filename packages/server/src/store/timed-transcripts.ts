import type { Sequelize } from 'sequelize';
import {
  aligned,
  cuesOf,
  cuesOfTurns,
  isWrittenTable,
  passageRows,
  placeOfMs,
  readWrittenTable,
  readWrittenText,
  spokenOfCues,
  wordWrittenIssue,
  writeText,
  type PlaceOf,
  type Spoken,
} from '@larder/core/dialogue';
import { writeRows } from '@larder/core/interchange/table';
import { clock, readTimedText, wordTimedTextIssue, writeTimedText } from '@larder/core/interchange/timed-text';
import { formatTimecode } from '@larder/core/timecode';
import { countingOf, type Asset, type TranscriptFormat, type TranscriptRead } from '@larder/contract';
import { assetsById } from './assets';
import { notFound, refused } from './errors';
import { keepTranscript, recognisedOn, spokenOn } from './transcripts';

/** Nothing says in which language captions are. */
const UNKNOWN_LANGUAGE = 'und';
/** Issues told one by one. */
const MOST_TOLD = 20;

/** Takes captions as the transcript that was brought in, in place of one before. */
export async function readTranscript(
  db: Sequelize,
  personId: number,
  assetId: number,
  text: string,
  name: string,
): Promise<TranscriptRead> {
  const [asset] = await assetsById(db, [assetId]);
  if (!asset) throw notFound('asset');
  if (asset.sound === null || asset.durationMs === null)
    throw refused('This asset has no sound, so nothing is said in it.');
  const { format, issues, outside, spoken } =
    (await readCaptions(text, asset.durationMs)) ?? (await readWritten(db, asset, asset.durationMs, text));
  if (spoken.words.length === 0)
    throw refused(
      outside === 0
        ? ['Nothing that is said can be read in it.', ...issues].join(' ')
        : 'All its times lie beyond the end of this clip.',
    );
  const made = { source: 'brought-in', language: UNKNOWN_LANGUAGE, madeBy: name || `A file (${format})` } as const;
  const written = await keepTranscript(db, personId, assetId, made, spoken);
  return { ...written, words: spoken.words.length, outside, issues };
}

interface ReadIn {
  readonly format: string;
  readonly spoken: Spoken;
  /** Cues that lie beyond the end of the clip. */
  readonly outside: number;
  readonly issues: readonly string[];
}

/** Null if it is no captions. */
async function readCaptions(text: string, durationMs: number): Promise<ReadIn | null> {
  const read = await readTimedText(text);
  if (!read) return null;
  const { outside, ...spoken } = spokenOfCues(read.cues, durationMs);
  return { format: read.format, spoken, outside, issues: read.issues.map(wordTimedTextIssue) };
}

/** More than anybody says in a day. */
const MOST_WRITTEN_WORDS = 200_000;
/** With fewer words that were heard at their place, a text is of something else. */
const LEAST_SAME = 0.2;

/** A table or a text as it is typed. Without times it is aligned to what was recognised in the sound. */
async function readWritten(db: Sequelize, asset: Asset, durationMs: number, text: string): Promise<ReadIn> {
  // What is made for programs is not what somebody typed.
  if (/^\s*[<{]/.test(text) || text.includes('\0'))
    throw refused('That is neither WebVTT, SRT, TTML, a table nor plain text.');
  const times = { counting: countingOf(asset), startFrame: asset.startFrame ?? 0 };
  const isTable = isWrittenTable(text);
  const { issues, turns } = isTable ? readWrittenTable(text, times) : readWrittenText(text, times);
  const told = issues.slice(0, MOST_TOLD).map(wordWrittenIssue);
  const format = isTable ? 'table' : 'text';
  const cues = cuesOfTurns(turns);
  if (cues) {
    const { outside, ...spoken } = spokenOfCues(cues, durationMs);
    return { format, spoken, outside, issues: told };
  }
  if (turns.length === 0) return { format, spoken: { words: [], speakers: [] }, outside: 0, issues: told };
  if (turns.reduce((sum, each) => sum + each.text.split(/\s+/).length, 0) > MOST_WRITTEN_WORDS)
    throw refused(
      `That are more than ${MOST_WRITTEN_WORDS.toLocaleString('en')} words. Cut it, and bring in the part of this clip.`,
    );
  const heard = await recognisedOn(db, asset.id);
  if (!heard)
    throw refused(
      'This text has no times. It can be aligned to what was recognised, and nothing was recognised in this clip yet: choose “Recognise what is said”, then bring it in again.',
    );
  const { same, ...spoken } = aligned(turns, heard.words);
  if (same < spoken.words.length * LEAST_SAME)
    throw refused(
      `Only ${same} of its ${spoken.words.length} words were recognised in this clip: it seems to be the text of another. Nothing was changed.`,
    );
  return { format: 'aligned text', spoken, outside: 0, issues: told };
}

/** Moments as people know them: timecode where there is one, else from the beginning. */
/** Places of an asset as timecode, or as time where it counts no frames. */
export function placesIn(asset: Asset): PlaceOf {
  const counting = countingOf(asset);
  return (ms) =>
    counting ? formatTimecode((asset.startFrame ?? 0) + placeOfMs(ms, asset.rate), counting) : clock(ms, '.');
}

/** What is said in an asset, by its best transcript, as a file. */
export async function writeTranscript(db: Sequelize, asset: Asset, format: TranscriptFormat): Promise<string> {
  const spoken = (await spokenOn(db, [asset.id])).get(asset.id);
  if (!spoken) throw notFound('transcript');
  switch (format) {
    case 'vtt':
    case 'srt':
    case 'ttml':
      return writeTimedText(cuesOf(spoken), format);
    case 'txt':
      return writeText(spoken, placesIn(asset));
    case 'csv':
      return writeRows(passageRows(spoken, placesIn(asset)), ',');
    default:
      return format satisfies never;
  }
}
