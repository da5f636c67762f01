import type { Sequelize } from 'sequelize';
import { cuesOf, passageRows, placeOfMs, spokenOfCues, writeText, type PlaceOf } from '@larder/core/dialogue';
import { writeRows } from '@larder/core/interchange/table';
import { clock, readTimedText, wordTimedTextIssue, writeTimedText } from '@larder/core/interchange/timed-text';
import { formatTimecode } from '@larder/core/timecode';
import { countingOf, type Asset, type TranscriptFormat, type TranscriptRead } from '@larder/contract';
import { assetsById } from './assets';
import { notFound, refused } from './errors';
import { keepTranscript, spokenOn } from './transcripts';

/** Nothing says in which language captions are. */
const UNKNOWN_LANGUAGE = 'und';

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
  const read = await readTimedText(text);
  if (!read) throw refused('That is neither WebVTT, SRT nor TTML.');
  const { outside, ...spoken } = spokenOfCues(read.cues, asset.durationMs);
  if (spoken.words.length === 0)
    throw refused(
      outside === 0
        ? 'There is no text with times in it that can be read.'
        : 'All its times lie beyond the end of this clip.',
    );
  const made = { source: 'brought-in', language: UNKNOWN_LANGUAGE, madeBy: name || `A file (${read.format})` } as const;
  const written = await keepTranscript(db, personId, assetId, made, spoken);
  return { ...written, words: spoken.words.length, outside, issues: read.issues.map(wordTimedTextIssue) };
}

/** Moments as people know them: timecode where there is one, else from the beginning. */
function placesIn(asset: Asset): PlaceOf {
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
