import { createHash } from 'node:crypto';
import { join } from 'node:path';
import { channelPieces, speechPieces } from '@larder/core/audio';
import { wovenChannels, type CustomWord, type Spoken, type SpokenWord } from '@larder/core/dialogue';
import { readBwf } from '@larder/core/interchange/bwf';
import { withFile } from '../media/file-source';
import { channelFrames, cutSpeech, soundFrames } from '../media/speech';
import { assetsById } from '../store/assets';
import { customWords } from '../store/custom-words';
import { notFound, refused } from '../store/errors';
import { beginPieces, dropPieces, heardPieces, keepPiece, type HeardPiece } from '../store/heard-pieces';
import { originalPath } from '../store/locations';
import { keepTranscript } from '../store/transcripts';
import type { JobContext } from './context';

/** Listened to in one go: what is begun is done again after a restart, and each go reads the model anew. */
const BATCH_MS = 60_000;
const LONGEST_NAME = 80;

const lengthOf = ({ startMs, endMs }: Pick<HeardPiece, 'startMs' | 'endMs'>): number => endMs - startMs;
const lengthOfAll = (pieces: readonly HeardPiece[]): number => pieces.reduce((sum, piece) => sum + lengthOf(piece), 0);
const seconds = (ms: number): number => Math.round(ms / 1000);

/**
 * Writes down what is said in an asset: only where somebody speaks, piece by piece, so that it goes on where it was left. Channels that are
 * taken apart are heard one by one, each voice in the one that is nearest to it.
 */
export async function recognise(context: JobContext): Promise<Record<string, unknown>> {
  const { db, job, recogniser: by, signal, store, report } = context;
  const [asset] = await assetsById(db, [Number(job.payload['assetId'])]);
  if (!asset) throw notFound('asset');
  if (asset.sound === null) throw refused('It has no sound.');
  const path = await originalPath(db, asset);
  const custom = await customWords(db);
  const isApart = job.payload['apart'] === true;
  // Of another file, by another program, or with other custom words, what was heard is not gone on with.
  const heardBy = `${by.madeBy}, ${asset.bytes}, ${asset.modifiedMs}, ${markOf(custom)}${isApart ? ', apart' : ''}`;
  const pieces = await begun(context, asset.id, heardBy, async () =>
    isApart
      ? channelPieces(await channelFrames(path, asset, signal))
      : speechPieces(await soundFrames(path, asset, signal)).map((piece) => ({ ...piece, channel: 0 })),
  );
  const heard = new Map(pieces.flatMap((piece) => (piece.words ? [[keyOf(piece), piece.words] as const] : [])));
  let doneMs = lengthOfAll(pieces.filter(({ words }) => words));
  report({ done: seconds(doneMs), total: seconds(lengthOfAll(pieces)) });
  for (const batch of batchesOf(pieces.filter(({ words }) => !words))) {
    const words = await store.withFolder(asset.id, async (folder) => {
      const files = batch.map((piece, at) => ({ ...piece, name: `piece${at}` }));
      const cuts = files.map(({ channel, endMs, name, startMs }) => ({
        ...{ startMs, endMs, channel: isApart ? channel : null },
        to: join(folder, `${name}.wav`),
      }));
      await cutSpeech(path, asset, cuts, signal);
      return by.hear(files, custom, folder, signal);
    });
    for (const [at, piece] of batch.entries()) {
      heard.set(keyOf(piece), words[at] ?? []);
      await keepPiece(db, asset.id, piece, words[at] ?? []);
    }
    doneMs += lengthOfAll(batch);
    report({ done: seconds(doneMs), attempts: 1 });
  }
  const heardIn = (some: readonly HeardPiece[]) =>
    some.flatMap((piece): readonly SpokenWord[] => heard.get(keyOf(piece)) ?? []);
  const spoken = isApart ? await woven(path, pieces, heardIn) : { words: heardIn(pieces), speakers: [] };
  const { language } = by;
  const madeBy = [
    by.madeBy,
    ...(isApart ? ['each channel by itself'] : []),
    ...(custom.length > 0 ? [`with ${custom.length} custom words`] : []),
  ].join(', ');
  await keepTranscript(db, null, asset.id, { source: 'recognised', madeBy, language }, spoken);
  await dropPieces(db, asset.id);
  const { length } = spoken.words;
  return { words: length, remark: length === 0 ? 'Nobody speaks in it.' : null };
}

const keyOf = ({ channel, startMs }: Pick<HeardPiece, 'channel' | 'startMs'>): string => `${startMs} ${channel}`;

/** What was heard in all channels, each by the name that the recorder gave it; by its number where it gave none. */
async function woven(
  path: string,
  pieces: readonly HeardPiece[],
  heardIn: (pieces: readonly HeardPiece[]) => readonly SpokenWord[],
): Promise<Spoken> {
  const { ixml } = await withFile(path, readBwf);
  const channels = [...new Set(pieces.map(({ channel }) => channel))];
  return wovenChannels(
    channels.map((channel) => ({
      name: (ixml?.tracks.get(channel + 1) ?? `Channel ${channel + 1}`).slice(0, LONGEST_NAME),
      words: heardIn(pieces.filter((piece) => piece.channel === channel)),
    })),
  );
}

/** By what it is known whether custom words are others. */
const markOf = (words: readonly CustomWord[]): string =>
  createHash('sha256').update(JSON.stringify(words)).digest('hex').slice(0, 16);

/** The pieces as they were left, or all of them where it is begun. */
async function begun(
  { db }: JobContext,
  assetId: number,
  heardBy: string,
  find: () => Promise<readonly Omit<HeardPiece, 'words'>[]>,
): Promise<HeardPiece[]> {
  const left = await heardPieces(db, assetId, heardBy);
  if (left.length > 0) return left;
  await beginPieces(db, assetId, heardBy, await find());
  return heardPieces(db, assetId, heardBy);
}

function batchesOf(pieces: readonly HeardPiece[]): HeardPiece[][] {
  const batches: HeardPiece[][] = [];
  let ms = BATCH_MS;
  for (const piece of pieces) {
    if (ms + lengthOf(piece) > BATCH_MS) {
      batches.push([]);
      ms = 0;
    }
    batches.at(-1)?.push(piece);
    ms += lengthOf(piece);
  }
  return batches;
}
