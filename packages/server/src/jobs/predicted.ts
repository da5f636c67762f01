import { placeBy, ruleOf, type MoveRule } from '@larder/core/relink';
import { folderOf } from '@larder/core/shelf';
import type { RelinkPoint } from '@larder/contract';
import { refused } from '../store/errors';
import type { StorageRow } from '../store/models';
import type { JobContext } from './context';
import { footageIn, storageThere, type FoundFile, type LostOriginal } from './relink-files';

export interface Predicted {
  readonly files: readonly FoundFile[];
  /** What the one tells of the others; null where it tells nothing. */
  readonly rule: MoveRule | null;
  /** Whether one of the files is where an asset's must be. */
  isAbout(assetId: number): boolean;
}

/** Of a clip that is known from a list only: the other clips of lists may be in the folder of the file that a person points at. */
async function inItsFolder(storage: StorageRow, lost: readonly LostOriginal[], at: RelinkPoint): Promise<Predicted> {
  const items = await footageIn(storage, folderOf(at.path));
  if (!items.some(({ path }) => path === at.path)) throw noFootage(storage, at);
  const listed = new Set(lost.filter(({ facts }) => facts.isListed).map(({ assetId }) => assetId));
  return { files: items.map((item) => ({ storage, item })), rule: null, isAbout: (assetId) => listed.has(assetId) };
}

const noFootage = ({ name }: StorageRow, { path }: RelinkPoint): Error =>
  refused(`There is no footage or sound at ${name}/${path}.`);

/**
 * The file that a person points at, and those that lie where the others must be if the same became of them. Only the folders that the
 * rule names are looked into.
 */
export async function predicted(
  { signal }: JobContext,
  lost: readonly LostOriginal[],
  { at, lost: one }: { readonly lost: LostOriginal; readonly at: RelinkPoint },
): Promise<Predicted> {
  const storage = await storageThere(at.storageId);
  if (one.facts.isListed) return inItsFolder(storage, lost, at);
  const rule = ruleOf(one.place, at);
  const wanted = new Map([[at.path, one.assetId]]);
  for (const { assetId, place } of rule ? lost : []) {
    const there = rule && placeBy(rule, place);
    if (there && !wanted.has(there.path)) wanted.set(there.path, assetId);
  }
  const files: FoundFile[] = [];
  for (const folder of new Set([...wanted.keys()].map(folderOf))) {
    signal.throwIfAborted();
    const items = await footageIn(storage, folder);
    files.push(...items.filter(({ path }) => wanted.has(path)).map((item) => ({ storage, item })));
  }
  if (!files.some(({ item }) => item.path === at.path)) throw noFootage(storage, at);
  const about = new Set(files.map(({ item }) => wanted.get(item.path)));
  return { files, rule, isAbout: (assetId) => about.has(assetId) };
}
