import { join } from 'node:path';
import { pathToFileURL } from 'node:url';
import type { Sequelize } from 'sequelize';
import { MAX_EVENTS, writeEdl } from '@larder/core/interchange/edl';
import { writeOtio } from '@larder/core/interchange/otio';
import { TIMED_TEXT_TYPES, writeTimedText, type TimedTextFormat } from '@larder/core/interchange/timed-text';
import { cueOf } from '@larder/core/markers';
import { MarkingRules } from '@larder/core/markings';
import { cutListOf, layOut, layOutMarkers, type CutEvent, type CutList } from '@larder/core/sequence';
import { fieldValues, type Asset, type HandedMedia, type HandedOver } from '@larder/contract';
import { proxyExtension, type RenditionStore } from '../media/rendition-store';
import { assetsById, mediaOf } from '../store/assets';
import { refused } from '../store/errors';
import { markings } from '../store/markings';
import { RenditionRow, StorageRow } from '../store/models';
import { loadStringOut } from '../store/projects';
import { readFields } from '../store/shop-fields';

export type Loaded = Awaited<ReturnType<typeof loadStringOut>>;

/** Where the mezzanines and proxies of assets lie that have them: what an editing system opens instead of the original. */
async function madeOf(
  store: RenditionStore,
  assetIds: readonly number[],
): Promise<ReadonlyMap<number, Readonly<Partial<Record<HandedMedia, string>>>>> {
  const kinds = ['mezzanine', 'proxy'] as const;
  const rows = await RenditionRow.findAll({ where: { assetId: [...assetIds], kind: [...kinds] } });
  const made = new Map<number, Partial<Record<HandedMedia, string>>>();
  for (const { assetId, extension, kind } of rows) {
    const form = kinds.find((each) => each === kind);
    if (!form) continue;
    const path = store.path(assetId, form, form === 'proxy' ? proxyExtension('video') : extension);
    made.set(assetId, { ...made.get(assetId), [form]: pathToFileURL(path).href });
  }
  return made;
}

/** A subclip has its media from what it is of. */
const wholeOf = ({ id, parentId }: Asset): number => parentId ?? id;

const mediaIn = (assets: ReadonlyMap<number, Asset>) => (id: number) => {
  const asset = assets.get(id);
  return asset && mediaOf(asset);
};

/** The list with what hangs on its clips: their markings, and the markers of the run. */
async function listOf(db: Sequelize, { stringOut, markers, assets }: Loaded): Promise<CutList> {
  const rules = new MarkingRules(await markings(db), await readFields(db));
  const { list } = cutListOf(stringOut, mediaIn(assets), markers);
  const marked = (event: CutEvent): CutEvent => {
    const asset = assets.get(event.assetId ?? 0);
    const marking = asset && rules.of({ values: fieldValues(asset) })?.name;
    return marking ? { ...event, marking } : event;
  };
  return { ...list, events: list.events.map(marked) };
}

async function otioOf(
  db: Sequelize,
  loaded: Loaded,
  { media: active, store }: { readonly media: HandedMedia; readonly store: RenditionStore },
): Promise<string> {
  const { assets } = loaded;
  const made = await madeOf(store, [...assets.values()].map(wholeOf));
  const wholes = await assetsById(
    db,
    [...assets.values()].flatMap(({ parentId }) => parentId ?? []),
  );
  const files = mediaIn(new Map([...assets, ...wholes.map((whole): [number, Asset] => [whole.id, whole])]));
  const roots = new Map((await StorageRow.findAll()).map((storage) => [storage.id, storage.rootPath]));
  return writeOtio(await listOf(db, loaded), ({ assetId }) => {
    const asset = assets.get(assetId ?? 0);
    const media = asset && files(wholeOf(asset));
    const root = asset && roots.get(asset.storageId);
    return media && root
      ? {
          urls: { original: pathToFileURL(join(root, asset.path)).href, ...made.get(wholeOf(asset)) },
          active,
          available: { start: media.startFrame, end: media.startFrame + media.durationFrames },
        }
      : undefined;
  });
}

async function edlOf(db: Sequelize, loaded: Loaded): Promise<string> {
  const list = await listOf(db, loaded);
  if (list.events.length > MAX_EVENTS)
    throw refused(
      `A CMX 3600 list holds ${MAX_EVENTS} events and this string-out has ${list.events.length}. Export it as OpenTimelineIO, or in parts.`,
    );
  return writeEdl(list);
}

/** The markers of a string-out as captions, counted from its beginning. */
const captionsIn =
  (format: TimedTextFormat) =>
  (_db: Sequelize, { stringOut, markers, assets }: Loaded): Promise<string> => {
    const { counting, startFrame } = stringOut;
    const laidOut = layOutMarkers(layOut(stringOut, mediaIn(assets)), markers, counting);
    const cues = laidOut.map(({ marker, record }) =>
      cueOf(
        {
          ...marker,
          start: record.start - startFrame,
          end: marker.end === null ? null : record.end - startFrame,
        },
        counting,
      ),
    );
    return Promise.resolve(writeTimedText(cues, format));
  };

/** How cut lists are written. */
export const CUT_LISTS: Readonly<
  Record<
    HandedOver,
    {
      readonly type: string;
      readonly write: (
        db: Sequelize,
        loaded: Loaded,
        with_: { readonly media: HandedMedia; readonly store: RenditionStore },
      ) => Promise<string>;
    }
  >
> = {
  edl: { type: 'text/plain; charset=utf-8', write: edlOf },
  otio: { type: 'application/json', write: otioOf },
  vtt: { type: TIMED_TEXT_TYPES.vtt, write: captionsIn('vtt') },
  srt: { type: TIMED_TEXT_TYPES.srt, write: captionsIn('srt') },
};

/** A string-out as a file for other programs. Throws `refused` where the format cannot hold it. */
export async function handOver(
  db: Sequelize,
  id: number,
  { format, media }: { readonly format: HandedOver; readonly media: HandedMedia },
  store: RenditionStore,
): Promise<{ readonly title: string; readonly type: string; readonly text: string }> {
  const loaded = await loadStringOut(db, id);
  const { type, write } = CUT_LISTS[format];
  return { title: loaded.stringOut.title, type, text: await write(db, loaded, { media, store }) };
}
