import { posix } from 'node:path';
import type { Sequelize, Transaction } from 'sequelize';
import type { UnseenClip } from '@larder/core/sequence';
import { pathHash } from '../jobs/catalogue';
import type { Writing } from './change-feed';
import { select, selectByIds } from './database';
import { refused } from './errors';
import { AssetRow } from './models';
import { untouchedAssets } from './usage';

/** So many clips of one reel and name on one storage are told apart by a number. */
const MOST_OF_ONE_NAME = 1000;

/** What a list says, as one step of a path: never one that leads elsewhere. */
const step = (text: string): string =>
  text.replace(/[/\\\p{Cc}]/gu, '-').replace(/^\.+/, (dots) => '-'.repeat(dots.length));

/** Where nothing is catalogued: the reel as the folder, as cards are laid out. */
async function freePath(
  db: Sequelize,
  storageId: number,
  { name, reel }: UnseenClip,
  transaction: Transaction,
): Promise<string> {
  const path = posix.join(step(reel ?? 'no reel'), step(name));
  for (let n = 1; ; n += 1) {
    const wanted = n === 1 ? path : `${path} (${n})`;
    const taken = await select(
      db,
      `SELECT id FROM asset WHERE storage_id = :storageId AND path_hash = :hash
       UNION SELECT id FROM asset_location WHERE storage_id = :storageId AND path_hash = :hash`,
      { storageId, hash: pathHash(wanted) },
      transaction,
    );
    if (taken.length === 0) return wanted;
    if (n === MOST_OF_ONE_NAME)
      throw refused(`${name} of reel ${reel ?? 'none'} is catalogued ${n} times already. Choose another storage.`);
  }
}

/** Catalogues clips that are known from a cut list only, as missing on a storage. Gives their numbers. */
export async function addListedClips(
  db: Sequelize,
  { log, transaction }: Writing,
  clips: readonly UnseenClip[],
  { from, storageId }: { readonly from: string; readonly storageId: number },
): Promise<number[]> {
  const [ids, now] = [[] as number[], Date.now()];
  for (const clip of clips) {
    const { counting, durationFrames, name, reel, startFrame } = clip;
    const path = await freePath(db, storageId, clip, transaction);
    const { den, num } = counting.rate;
    const row = await AssetRow.create(
      {
        ...{ kind: 'video', name, reel, storageId, path, pathHash: pathHash(path), listed: true },
        ...{ rateNum: num, rateDen: den, dropFrame: counting.dropFrame, startFrame, durationFrames },
        durationMs: Math.round((durationFrames * 1000 * den) / num),
        ...{ bytes: 0, modifiedMs: 0, addedMs: now, shelfState: 'missing', stateSinceMs: now },
        reason: `Known from the cut list ${from} only; its file was never seen.`.slice(0, 500),
      },
      { transaction },
    );
    log({ action: 'catalogue', entity: 'asset', entityId: row.id, after: { path } });
    ids.push(row.id);
  }
  return ids;
}

/** Which of some assets are known from a cut list only. */
export async function listedAmong(db: Sequelize, ids: readonly number[]): Promise<ReadonlySet<number>> {
  const rows = await selectByIds<{ id: number }>(db, 'SELECT id FROM asset WHERE id IN (:ids) AND listed', ids);
  return new Set(rows.map(({ id }) => id));
}

/** Takes clips out of the catalogue that were known from a list only, and that nobody has logged or used otherwise. */
export async function removeListedClips(db: Sequelize, writing: Writing, assetIds: readonly number[]): Promise<void> {
  const { log, transaction } = writing;
  const listed = await selectByIds<{ id: number; path: string }>(
    db,
    'SELECT id, path FROM asset WHERE id IN (:ids) AND listed FOR UPDATE',
    [...new Set(assetIds)].toSorted((a, b) => a - b),
    transaction,
  );
  const free = await untouchedAssets(
    db,
    listed.map(({ id }) => id),
    transaction,
  );
  for (const { id, path } of listed.filter(({ id }) => free.has(id))) {
    log({ action: 'remove', entity: 'asset', entityId: id, before: { path } });
    await AssetRow.destroy({ where: { id }, transaction });
  }
}
