import type { Sequelize } from 'sequelize';
import {
  readTimedText,
  wordTimedTextIssue,
  writeTimedText,
  type TimedTextFormat,
} from '@larder/core/interchange/timed-text';
import { cueOf, timedNotes } from '@larder/core/markers';
import { countingOf, type Asset, type NotesRead } from '@larder/contract';
import { assetsById } from './assets';
import { notFound, refused } from './errors';
import { addMarkers, markersOf } from './markers';

/** The markers of an asset as captions, counted from its beginning. */
export async function notesOf(db: Sequelize, asset: Asset, format: TimedTextFormat): Promise<string> {
  const counting = countingOf(asset);
  return writeTimedText(
    (await markersOf(db, asset.id)).map((marker) => cueOf(marker, counting)),
    format,
  );
}

/** Sets a marker for each cue that lies within the asset; those that do not, and lines that cannot be read, are told. */
export async function readNotes(db: Sequelize, personId: number, assetId: number, text: string): Promise<NotesRead> {
  const read = await readTimedText(text);
  if (!read) throw refused('That is neither WebVTT, SRT nor TTML.');
  const [asset] = await assetsById(db, [assetId]);
  if (!asset) throw notFound('asset');
  const { markers, outside, countedFrom } = timedNotes(read.cues, {
    counting: countingOf(asset),
    length: asset.durationFrames ?? asset.durationMs ?? 0,
    startFrame: asset.startFrame ?? 0,
  });
  if (markers.length === 0)
    throw refused(
      read.cues.length === 0
        ? 'There is no text with times in it that can be read.'
        : 'All its times lie beyond the end of this clip.',
    );
  const { ids, ...written } = await addMarkers(db, personId, assetId, markers);
  return { ...written, added: ids.length, outside, countedFrom, issues: read.issues.map(wordTimedTextIssue) };
}
