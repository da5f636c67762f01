import type { Sequelize } from 'sequelize';
import type { ReelNeighbour } from '@larder/core/judge';
import { folderOf, type ShelfItem } from '@larder/core/shelf';
import { countingForRate, rational } from '@larder/core/timecode';
import type { ScanFolder, Twin } from '@larder/contract';
import { documentAt } from '../jobs/ingest-items';
import { listFolder, walk, whereabouts } from '../media/walk';
import { probeItem } from '../media/probe';
import { select } from './database';
import { notFound, refused } from './errors';
import { StorageRow } from './models';
import { findTwin } from './twins';

export interface ItemAt {
  readonly root: string;
  readonly item: ShelfItem;
  /** What else lies in its folder. */
  readonly beside: readonly ShelfItem[];
}

/** A file on a storage as somebody asks for it, with the root that it lies under. Refuses what lies outside, and what is none. */
export async function itemAt(storageId: number, path: string): Promise<ItemAt> {
  const storage = await StorageRow.findByPk(storageId);
  if (!storage) throw notFound('storage');
  const folder = folderOf(path);
  const where = storage.state === 'online' ? await whereabouts(storage.rootPath, folder) : 'nowhere';
  if (where === 'outside') throw refused('That file lies outside the storage: a link leads out of it.');
  if (where === 'nowhere') throw notFound('file');
  const { items } = await listFolder(storage.rootPath, folder).catch(() => ({ items: [] as ShelfItem[] }));
  const item = items.find((each) => each.path === path) ?? (await documentAt(storage.rootPath, path));
  if (!item) throw notFound('file');
  return { root: storage.rootPath, item, beside: items.filter((each) => each !== item) };
}

/** The catalogue's clips of a reel, but for the one that is being looked at itself. */
export const reelNeighbours =
  (db: Sequelize, storageId: number, path: string) =>
  async (reel: string): Promise<ReelNeighbour[]> => {
    const rows = await select<{
      name: string;
      startFrame: number;
      durationFrames: number;
      rateNum: number;
      rateDen: number;
      dropFrame: number;
    }>(
      db,
      `SELECT name, start_frame AS startFrame, duration_frames AS durationFrames, rate_num AS rateNum, rate_den AS rateDen, drop_frame AS dropFrame FROM asset
       WHERE reel = :reel AND start_frame IS NOT NULL AND duration_frames IS NOT NULL AND rate_num IS NOT NULL AND NOT (storage_id = :storageId AND path = :path)
         AND NOT EXISTS (SELECT 1 FROM asset_location l WHERE l.asset_id = asset.id AND l.storage_id = :storageId AND l.path = :path) LIMIT 2000`,
      { reel, storageId, path },
    );
    return rows.map(({ rateNum, rateDen, dropFrame, ...row }) => ({
      ...row,
      counting: countingForRate(rational(rateNum, rateDen), Boolean(dropFrame)),
    }));
  };

/** Of those that lie beside a clip, the nearest by name on either side are looked at; a clock that jumped shows between them. */
const NEAREST = 8;
const KEPT_NEIGHBOURS = 2000;
/** What neighbours said, by path, size and time, so that going through a folder reads each of them once. */
const said = new Map<string, Promise<(ReelNeighbour & { readonly reel: string }) | null>>();

/** Clips of a reel that lie beside a clip and need not be catalogued. */
export async function besideNeighbours({ root, item, beside }: ItemAt, reel: string): Promise<ReelNeighbour[]> {
  const before = beside.filter(({ path }) => path < item.path).slice(-NEAREST);
  const after = beside.filter(({ path }) => path > item.path).slice(0, NEAREST);
  const all = await Promise.all([...before, ...after].map((each) => neighbourOf(root, each)));
  return all.flatMap((each) => (each?.reel === reel ? [each] : []));
}

function neighbourOf(root: string, item: ShelfItem): Promise<(ReelNeighbour & { readonly reel: string }) | null> {
  const key = `${root}/${item.path} ${item.bytes} ${item.modifiedMs}`;
  const had = said.get(key);
  if (had) return had;
  const asked = probeItem(root, item)
    .then(({ facts: { rate, dropFrame, startFrame, durationFrames, reel } }) =>
      rate && startFrame !== null && durationFrames !== null && reel !== null
        ? { name: item.name, reel, startFrame, durationFrames, counting: countingForRate(rate, dropFrame) }
        : null,
    )
    .catch(() => null);
  said.set(key, asked);
  for (const old of [...said.keys()].slice(0, -KEPT_NEIGHBOURS)) said.delete(old);
  return asked;
}

/** Files looked at for twins in one question; somebody is waiting for the answer. */
const MOST_TWINS = 500;
const TWINS_MS = 15_000;

/** What of files and folders the library has already. */
export async function twinsAmong(
  db: Sequelize,
  storageId: number,
  paths: readonly string[],
  folders: readonly ScanFolder[],
): Promise<{ twins: Twin[]; looked: number; total: number }> {
  const storage = await StorageRow.findByPk(storageId);
  if (!storage) throw notFound('storage');
  const items = await wanted(storage.rootPath, paths, folders);
  const end = Date.now() + TWINS_MS;
  const twins: Twin[] = [];
  let looked = 0;
  for (const item of items.slice(0, MOST_TWINS)) {
    if (Date.now() > end) break;
    const probed = await probeItem(storage.rootPath, item).catch(() => null);
    looked += 1;
    if (!probed) continue;
    const { rate, dropFrame, durationFrames, startFrame } = probed.facts;
    const counting = rate && countingForRate(rate, dropFrame);
    const twin = await findTwin(db, { ...item, fingerprint: probed.fingerprint, counting, durationFrames, startFrame });
    if (twin && twin.at !== `${storage.name}/${item.path}`) twins.push({ path: item.path, ...twin });
  }
  return { twins, looked, total: items.length };
}

async function wanted(root: string, paths: readonly string[], folders: readonly ScanFolder[]): Promise<ShelfItem[]> {
  const found: ShelfItem[] = [];
  for (const { path, deep } of folders) {
    if ((await whereabouts(root, path)) !== 'inside') continue;
    for await (const items of walk(root, path, { deep, onUnreadable: () => undefined })) found.push(...items);
  }
  for (const folder of new Set(paths.map(folderOf))) {
    if ((await whereabouts(root, folder)) !== 'inside') continue;
    const { items } = await listFolder(root, folder).catch(() => ({ items: [] as ShelfItem[] }));
    found.push(...items.filter((item) => paths.includes(item.path)));
  }
  return found;
}
