import { createHash } from 'node:crypto';
import { join } from 'node:path';
import { speechPieces } from '@larder/core/audio';
import type { CustomWord, SpokenWord } from '@larder/core/dialogue';
import { cutSpeech, soundFrames } from '../media/speech';
import { assetsById } from '../store/assets';
import { customWords } from '../store/custom-words';
import { notFound, refused } from '../store/errors';
import { beginPieces, dropPieces, heardPieces, keepPiece, type HeardPiece } from '../store/heard-pieces';
import { originalPath } from '../store/locations';
import { keepTranscript } from '../store/transcripts';
import type { JobContext } from './context';

/** Listened to in one go: what is begun is done again after a restart, and each go reads the model anew. */
const BATCH_MS = 60_000;

const lengthOf = ({ startMs, endMs }: Pick<HeardPiece, 'startMs' | 'endMs'>): number => endMs - startMs;
const lengthOfAll = (pieces: readonly HeardPiece[]): number => pieces.reduce((sum, piece) => sum + lengthOf(piece), 0);
const seconds = (ms: number): number => Math.round(ms / 1000);

/** Writes down what is said in an asset: only where somebody speaks, piece by piece, so that it goes on where it was left. */
export async function recognise(context: JobContext): Promise<Record<string, unknown>> {
  const { db, job, recogniser: by, signal, store, report } = context;
  const [asset] = await assetsById(db, [Number(job.payload['assetId'])]);
  if (!asset) throw notFound('asset');
  if (asset.sound === null) throw refused('It has no sound.');
  const path = await originalPath(db, asset);
  const custom = await customWords(db);
  // Of another file, by another program, or with other custom words, what was heard is not gone on with.
  const heardBy = `${by.madeBy}, ${asset.bytes}, ${asset.modifiedMs}, ${markOf(custom)}`;
  const pieces = await begun(context, asset.id, heardBy, async () =>
    speechPieces(await soundFrames(path, asset, signal)),
  );
  const heard = new Map(pieces.flatMap(({ startMs, words }) => (words ? [[startMs, words] as const] : [])));
  let doneMs = lengthOfAll(pieces.filter(({ words }) => words));
  report({ done: seconds(doneMs), total: seconds(lengthOfAll(pieces)) });
  for (const batch of batchesOf(pieces.filter(({ words }) => !words))) {
    const words = await store.withFolder(asset.id, async (folder) => {
      const files = batch.map((piece, at) => ({ ...piece, name: `piece${at}` }));
      for (const file of files) await cutSpeech(path, asset, file, join(folder, `${file.name}.wav`), signal);
      return by.hear(files, custom, folder, signal);
    });
    for (const [at, { startMs }] of batch.entries()) {
      heard.set(startMs, words[at] ?? []);
      await keepPiece(db, asset.id, startMs, words[at] ?? []);
    }
    doneMs += lengthOfAll(batch);
    report({ done: seconds(doneMs), attempts: 1 });
  }
  const all = pieces.flatMap(({ startMs }): readonly SpokenWord[] => heard.get(startMs) ?? []);
  const { language } = by;
  const madeBy = custom.length > 0 ? `${by.madeBy}, with ${custom.length} custom words` : by.madeBy;
  await keepTranscript(db, null, asset.id, { source: 'recognised', madeBy, language }, { words: all, speakers: [] });
  await dropPieces(db, asset.id);
  return { words: all.length, remark: all.length === 0 ? 'Nobody speaks in it.' : null };
}

/** By what it is known whether custom words are others. */
const markOf = (words: readonly CustomWord[]): string =>
  createHash('sha256').update(JSON.stringify(words)).digest('hex').slice(0, 16);

/** The pieces as they were left, or all of them where it is begun. */
async function begun(
  { db }: JobContext,
  assetId: number,
  heardBy: string,
  find: () => Promise<readonly { readonly startMs: number; readonly endMs: number }[]>,
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
