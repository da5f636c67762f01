import { basename, dirname } from 'node:path';
import type { Sequelize, Transaction } from 'sequelize';
import { score } from '@larder/core/relink';
import type { Mend, Written } from '@larder/contract';
import { assetColumns, pathHash, renditionJobs } from '../jobs/catalogue';
import { candidateFacts } from '../jobs/find-missing';
import { enqueue } from '../jobs/queue';
import { probeItem, type Probed } from '../media/probe';
import { walkFolder } from '../media/walk';
import type { ShelfItem } from '@larder/core/shelf';
import { factsOf } from './assets';
import { write } from './change-feed';
import { notFound, refused } from './errors';
import { AssetRow, RenditionRow, StorageRow } from './models';
import { neededFrames, untouchedAssets } from './usage';

interface Link {
  readonly assetId: number;
  readonly storageId: number;
  readonly item: ShelfItem;
  readonly probed: Probed;
  readonly exact: boolean;
}

/** Looks at the file anew, since it may have changed after it was proposed, and refuses what the evidence rules out. */
async function inspect(
  db: Sequelize,
  { assetId, storageId, path }: Mend['links'][number],
  needed: number,
): Promise<Link> {
  const storage = await StorageRow.findByPk(storageId);
  const lost = (await factsOf(db, [assetId])).get(assetId);
  if (!storage || !lost) throw notFound(storage ? 'asset' : 'storage');
  if (path.split('/').some((part) => part === '..' || part === ''))
    throw refused(`“${path}” is no path within ${storage.name}.`);
  const folder = dirname(path) === '.' ? '' : dirname(path);
  const item = (await walkFolder(storage.rootPath, folder).catch(() => [])).find((each) => each.path === path);
  if (!item) throw refused(`${basename(path)} is not in ${storage.name} any more. Look for missing files again.`);
  const probed = await probeItem(storage.rootPath, item);
  const { likeness, blockedBy } = score(lost, candidateFacts(item, probed), needed);
  if (blockedBy.length > 0)
    throw refused(
      `${basename(path)} cannot stand in for ${basename(lost.path)}: its ${blockedBy.join(' and ')} ${blockedBy.length > 1 ? 'rule' : 'rules'} it out.`,
    );
  return { assetId, storageId, item, probed, exact: likeness === 'exact' };
}

/** An asset that the scan made of the very file that another, missing asset is being pointed at. It goes, if nobody has made use of it. */
async function fold(
  db: Sequelize,
  { assetId, storageId, item }: Link,
  transaction: Transaction,
): Promise<AssetRow | null> {
  const other = await AssetRow.findOne({ where: { storageId, pathHash: pathHash(item.path) }, transaction });
  if (!other || other.id === assetId) return null;
  if (!(await untouchedAssets(db, [other.id])).has(other.id))
    throw refused(
      `${item.name} is already asset #${other.id}, which somebody has logged or used. Relinking would make two assets of one file.`,
    );
  await other.destroy({ transaction });
  return other;
}

/** Points missing assets at their files, all of them or none. Never makes an asset; may take away one that the scan made of the same file. */
export async function mendLinks(
  db: Sequelize,
  personId: number,
  { links }: Mend,
): Promise<Written & { folded: number[] }> {
  const needed = await neededFrames(db);
  const inspected: Link[] = [];
  for (const link of links) inspected.push(await inspect(db, link, needed.get(link.assetId) ?? 0));
  const {
    value: folded,
    revision,
    group,
    changed,
  } = await write(db, personId, async ({ transaction, log }) => {
    const gone: number[] = [];
    for (const link of inspected) {
      const asset = await AssetRow.findByPk(link.assetId, { transaction, lock: true });
      if (!asset) throw notFound('asset');
      const twin = await fold(db, link, transaction);
      if (twin) {
        gone.push(twin.id);
        log({
          action: 'fold',
          entity: 'asset',
          entityId: twin.id,
          before: { path: twin.path },
          after: { into: asset.id },
        });
      }
      const before = { storageId: asset.storageId, path: asset.path };
      const { addedMs: _added, ...columns } = assetColumns(link.storageId, link.item, link.probed, Date.now());
      // What the slate said stays known when the new file does not say it.
      const kept = {
        reel: asset.reel,
        scene: asset.scene,
        take: asset.take,
        shotMs: asset.shotMs,
        startFrame: asset.startFrame,
      };
      const keptOver = Object.fromEntries(
        Object.entries(kept).filter(
          ([key, value]) => value !== null && (columns as Record<string, unknown>)[key] == null,
        ),
      );
      await asset.update({ ...columns, ...keptOver, reason: null }, { transaction });
      if (!link.exact) {
        await RenditionRow.destroy({ where: { assetId: asset.id }, transaction });
        await enqueue(renditionJobs(asset), transaction);
      }
      log({
        action: 'relink',
        entity: 'asset',
        entityId: asset.id,
        before,
        after: { storageId: link.storageId, path: link.item.path, state: 'online' },
      });
    }
    return gone;
  });
  return { folded, revision, group, changed };
}
