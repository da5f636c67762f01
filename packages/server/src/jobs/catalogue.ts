import { createHash } from 'node:crypto';
import type { NewJob } from './queue';
import type { MediaFacts } from '../media/facts';
import type { Probed } from '../media/probe';
import type { ShelfItem } from '@larder/core/shelf';
import type { AssetRow, StorageRow } from '../store/models';

export const pathHash = (path: string): string => createHash('sha1').update(path).digest('hex');

const POSTER_PRIORITY = 20;
const RENDITIONS_PRIORITY = 10;
export const MEZZANINE_PRIORITY = 5;
/** A shorter clip has its poster soon enough from the run that makes everything else. */
const POSTER_FIRST_MS = 20_000;

/** The columns that a file's facts fill. */
const factColumns = ({ rate, says: _says, ...facts }: MediaFacts) => ({
  ...facts,
  rateNum: rate?.num ?? null,
  rateDen: rate?.den ?? null,
});

/** What a file says in the fields that people fill in, as a new entry has it. */
export const saidColumns = ({ says: { description, notes, verdict, ...logged } }: MediaFacts) => ({
  description: description ?? null,
  notes: notes ?? null,
  verdict: verdict ?? null,
  logged,
});

/** A catalogue entry for something found on a storage, or for something that could not be read, with the reason. */
export function assetColumns(
  storageId: number,
  item: ShelfItem,
  probed: Probed | { readonly reason: string },
  now: number,
) {
  const file = {
    storageId,
    path: item.path,
    pathHash: pathHash(item.path),
    files: item.files,
    gaps: item.sequence && item.sequence.gaps.length > 0 ? item.sequence.gaps : null,
    bytes: item.bytes,
    modifiedMs: item.modifiedMs,
  };
  const entry = { name: item.name, addedMs: now, shelfState: 'online' as const, stateSinceMs: now };
  if ('reason' in probed)
    return { ...file, ...entry, kind: 'unreadable' as const, reason: probed.reason.slice(0, 500) };
  return { ...file, ...entry, ...factColumns(probed.facts), fingerprint: probed.fingerprint };
}

/** Has what is said in an asset written down. Looking at clips and bringing others in goes first. */
export const recognitionJob = (
  { id, name, storageId }: Pick<AssetRow, 'id' | 'name' | 'storageId'>,
  apart = false,
): NewJob => ({
  ...{
    kind: 'recognise',
    subject: name,
    payload: { assetId: id, ...(apart ? { apart } : {}) },
    unit: 'seconds of speech',
  },
  ...{ assetId: id, storageId, priority: RECOGNITION_PRIORITY },
});
const RECOGNITION_PRIORITY = -1;

/** As `recognitionJob`, of what is new on a storage of which all is recognised. */
export const recognitionsOn = (
  storage: Pick<StorageRow, 'recognises'> | null,
  assets: readonly AssetRow[],
): NewJob[] =>
  storage?.recognises ? assets.filter(({ sound }) => sound !== null).map((asset) => recognitionJob(asset)) : [];

/** What is made of a new asset: a picture to find a long clip by first, the rest when there is time. */
export function renditionJobs(asset: Pick<AssetRow, 'id' | 'kind' | 'name' | 'durationMs'>): NewJob[] {
  if (asset.kind === 'unreadable' || asset.kind === 'document') return [];
  const unit = asset.kind === 'video' || asset.kind === 'sequence' ? 'frames' : '';
  const about = { subject: asset.name, payload: { assetId: asset.id }, assetId: asset.id };
  const poster = asset.kind === 'video' && (asset.durationMs ?? 0) > POSTER_FIRST_MS;
  return [
    ...(poster ? [{ kind: 'poster' as const, priority: POSTER_PRIORITY, unit: '', ...about }] : []),
    { kind: 'renditions', priority: RENDITIONS_PRIORITY, unit, ...about },
  ];
}
