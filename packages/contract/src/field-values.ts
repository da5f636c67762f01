import type { FieldChanges, FieldValue, FieldValues, SettableFieldId, SetValue } from '@larder/core/fields';
import { countingForRate, rational, type Counting } from '@larder/core/timecode';
import type { Asset } from './model';

/** How an asset's frames are counted; null without moving picture. */
export const countingOf = (asset: Pick<Asset, 'rate'>): Counting | null =>
  asset.rate && countingForRate(rational(asset.rate.num, asset.rate.den), asset.rate.dropFrame);

const said = (value: unknown): boolean => value !== null && value !== undefined && value !== '';

/** What an asset says in every field, in the registry's units; a field that says nothing is not in it. */
export function fieldValues(asset: Asset): FieldValues {
  const values: Partial<Record<keyof FieldValues, FieldValue | null>> = {
    ...asset.logged,
    title: asset.title,
    description: asset.description,
    notes: asset.notes,
    tag: asset.tags,
    bin: asset.bins,
    marker: asset.markers,
    verdict: asset.verdict,
    name: asset.name,
    kind: asset.kind,
    part: asset.parentId === null ? 'whole' : 'subclip',
    reel: asset.reel,
    scene: asset.scene,
    take: asset.take,
    duration: asset.durationMs,
    rate: countingOf(asset)?.id ?? null,
    width: asset.width,
    height: asset.height,
    codec: asset.codec ?? asset.sound?.codec ?? null,
    channels: asset.sound?.channels ?? null,
    shot: asset.shotMs,
    place: asset.place,
    storage: asset.storage,
    path: asset.path,
    state: asset.state,
    size: asset.bytes,
    added: asset.addedMs,
  };
  return Object.fromEntries(Object.entries(values).filter(([, value]) => said(value))) as FieldValues;
}

/** A clip counts as logged once somebody has said of it what it is: a verdict, a tag, or words. As a search: */
export const LOGGED_QUERY = 'has:verdict or has:tag or has:description or has:notes or has:marker';
export const isLogged = ({
  verdict,
  tags,
  description,
  notes,
  markers,
}: Pick<Asset, 'verdict' | 'tags' | 'description' | 'notes' | 'markers'>): boolean =>
  [verdict, description, notes].some(said) || tags.length > 0 || markers.some(Boolean);

/** Fields that an asset has a place of its own for; all others are in `logged`. */
export const OWN_FIELDS = [
  'title',
  'description',
  'notes',
  'verdict',
  'reel',
  'scene',
  'take',
  'place',
] as const satisfies readonly (SettableFieldId & keyof Asset)[];
export type OwnFieldId = (typeof OWN_FIELDS)[number];
export const isOwnField = (field: SettableFieldId): field is OwnFieldId =>
  (OWN_FIELDS as readonly SettableFieldId[]).includes(field);

/** What is said in fields parted by where it is kept. */
export function partChanges(set: FieldChanges): { own: Partial<Record<OwnFieldId, SetValue>>; logged: FieldChanges } {
  const entries = Object.entries(set) as [SettableFieldId, SetValue][];
  return {
    own: Object.fromEntries(entries.filter(([field]) => isOwnField(field))),
    logged: Object.fromEntries(entries.filter(([field]) => !isOwnField(field))),
  };
}
