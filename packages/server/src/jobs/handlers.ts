import type { MezzanineCodec } from '@larder/core/ingest';
import { formatTimecode } from '@larder/core/timecode';
import { countingOf, type Asset, type JobKind, type RenditionKind } from '@larder/contract';
import type { Original } from '../media/ffmpeg';
import { makeMezzanine } from '../media/mezzanine';
import { makePoster, makeRenditions, type Made } from '../media/renditions';
import { proxyExtension } from '../media/rendition-store';
import { assetsById } from '../store/assets';
import { write } from '../store/change-feed';
import { notFound } from '../store/errors';
import { originalPath } from '../store/locations';
import { AssetRow, RenditionRow } from '../store/models';
import { compare, compareAll } from './compare';
import { findMissing } from './find-missing';
import { ingest } from './ingest';
import { recognise } from './recognise';
import { restore } from './restore';
import { checkPresence, scanStorage } from './scan';
import { writeSidecars } from './sidecars';
import { mend } from './mend';
import { readIntoLibrary } from './table';
import { verifyFiles } from './verify';
import type { JobContext } from './context';

type Handler = (context: JobContext) => Promise<Record<string, unknown> | null>;

async function originalOf({ db, job, store }: JobContext): Promise<Original> {
  const [asset] = await assetsById(db, [Number(job.payload['assetId'])]);
  if (!asset) throw notFound('asset');
  // For a poster a proxy has every frame too, and is nearer than the original, which may be away.
  if (job.kind === 'poster' && asset.kind !== 'still' && asset.renditions.includes('proxy')) {
    const path = store.path(asset.parentId ?? asset.id, 'proxy', proxyExtension(asset.kind));
    return { asset: { ...asset, kind: 'video', colour: null, alpha: null }, path };
  }
  return { asset, path: await originalPath(db, asset) };
}

/** Renditions are derived, so no one edits them; the feed row only tells open windows to look again. */
async function record({ db }: JobContext, { asset }: Original, made: Made, extension = ''): Promise<void> {
  await write(db, null, async ({ transaction, log }) => {
    const madeMs = Date.now();
    await RenditionRow.bulkCreate(
      made.renditions.map(([kind, bytes]) => ({ assetId: asset.id, kind, bytes, madeMs, extension })),
      { transaction, updateOnDuplicate: ['bytes', 'madeMs', 'extension'] },
    );
    const after: Record<string, unknown> = { renditions: made.renditions.map(([kind]) => kind) };
    if (made.loudness) await AssetRow.update({ loudness: made.loudness }, { where: { id: asset.id }, transaction });
    if (made.frames !== null && made.frames !== asset.durationFrames) {
      // The whole file has been decoded, which is better evidence than what its header promised.
      const reason = `Its header promises ${asset.durationFrames ?? 'no'} frames; ${made.frames} could be decoded.`;
      const durationMs = asset.rate ? Math.round((made.frames * 1000 * asset.rate.den) / asset.rate.num) : null;
      const facts = { durationFrames: made.frames, durationMs, reason };
      await AssetRow.update(facts, { where: { id: asset.id }, transaction });
      Object.assign(after, { durationFrames: made.frames, reason });
    }
    log({ action: 'rendition', entity: 'asset', entityId: asset.id, after });
  });
}

/** The asset as it is with what was just made of it. */
const withMade = (asset: Asset, { renditions }: Made): Asset => ({
  ...asset,
  renditions: [...asset.renditions, ...renditions.map(([kind]) => kind)],
});

/** One thing made of an original, with its frames told as they are done; what was made of all of it is compared with others. */
const making =
  (
    make: (context: JobContext, original: Original) => Promise<Made & { readonly extension?: string }>,
    { compares = false } = {},
  ): Handler =>
  async (context) => {
    const original = await originalOf(context);
    context.report({ total: original.asset.durationFrames });
    const made = await make(context, original);
    if (compares) await compare(context, withMade(original.asset, made));
    await record(context, original, made, made.extension);
    if (made.frames !== null) context.report({ done: made.frames, total: made.frames });
    return null;
  };

const progressOf = ({ signal, report }: JobContext) => ({ signal, frames: (done: number) => report({ done }) });
const single = (kind: RenditionKind, bytes: number): Made => ({
  renditions: [[kind, bytes]],
  frames: null,
  loudness: null,
});

export const HANDLERS: Readonly<Record<JobKind, Handler>> = {
  scan: scanStorage,
  presence: checkPresence,
  ingest,
  verify: verifyFiles,
  'find-missing': findMissing,
  mend,
  restore,
  table: readIntoLibrary,
  sidecars: writeSidecars,
  recognise,
  poster: making(async (context, original) =>
    single('poster', await makePoster(original, context.store, progressOf(context))),
  ),
  renditions: making((context, original) => makeRenditions(original, context.store, progressOf(context)), {
    compares: true,
  }),
  compare: compareAll,
  mezzanine: making(async (context, original) => {
    const { asset } = original;
    const counting = countingOf(asset);
    const timecode = counting && asset.startFrame !== null ? formatTimecode(asset.startFrame, counting) : null;
    const codec = (context.job.payload['codec'] ?? 'vc3') as Exclude<MezzanineCodec, 'none'>;
    const { bytes, extension } = await makeMezzanine(original, codec, timecode, context.store, progressOf(context));
    return { ...single('mezzanine', bytes), extension };
  }),
};
