import type { Sequelize } from 'sequelize';
import { rulesIn, type MoveRule } from '@larder/core/relink';
import type { Asset, RelinkMatch, RelinkReport, RelinkRule } from '@larder/contract';
import type { FindMissingResult } from '../jobs/find-missing';
import { jobOf } from '../jobs/queue';
import { assetsById } from './assets';
import { notFound } from './errors';
import { JobRow } from './models';

/** What a search for missing files found, as far as it still stands. */
export async function relinkReport(db: Sequelize, id: number): Promise<RelinkReport> {
  const row = await JobRow.findByPk(id);
  if (!row || row.kind !== 'find-missing') throw notFound('search for missing files');
  const { looked, proposals } = (row.result ?? { looked: 0, proposals: [] }) as unknown as FindMissingResult;
  const assets = new Map(
    (
      await assetsById(
        db,
        proposals.map((proposal) => proposal.assetId),
      )
    ).map((asset) => [asset.id, asset]),
  );
  // What has been mended since, or is gone, is not proposed again.
  const open = proposals.flatMap(({ assetId, matches }) => {
    const asset = assets.get(assetId);
    return asset && asset.state !== 'online' ? [{ asset, matches }] : [];
  });
  return {
    job: jobOf(row),
    looked,
    proposals: open.map(({ asset, matches }) => ({
      ...{ assetId: asset.id, name: asset.name, state: asset.state, matches },
      lastSeen: `${asset.storage}/${asset.path}`,
    })),
    rules: relinkRules(open),
  };
}

/** What the first candidates tell of whole folders, but for those that only look alike. */
function relinkRules(
  open: readonly { readonly asset: Asset; readonly matches: readonly RelinkMatch[] }[],
): RelinkRule[] {
  const storages = new Map<number, string>();
  const moves = open.flatMap(({ asset, matches: [first] }) => {
    if (!first || first.likeness === 'lookalike' || first.blockedBy.length > 0) return [];
    storages.set(asset.storageId, asset.storage);
    storages.set(first.storageId, first.storage);
    return [{ key: asset.id, from: { storageId: asset.storageId, path: asset.path }, to: first }];
  });
  const folder = ({ folder: path, storageId }: MoveRule['from']): string =>
    [storages.get(storageId), ...(path === '' ? [] : [path])].join('/');
  return rulesIn(moves).map(({ keys, rule: { before, behind, extension, from, to } }) => ({
    ...{ from: folder(from), to: folder(to), extension, before, behind },
    assetIds: keys,
  }));
}
