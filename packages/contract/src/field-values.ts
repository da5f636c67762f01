import type { FieldChanges, FieldValue, FieldValues, SettableFieldId, SetValue } from '@larder/core/fields';
import { countingForRate, labelOfFrames, labelOfSeconds, rational, type Counting } from '@larder/core/timecode';
import type { Asset, Sound } from './model';

/** How an asset's frames are counted; null without moving picture. */
export const countingOf = (asset: Pick<Asset, 'rate'>): Counting | null =>
  asset.rate && countingForRate(rational(asset.rate.num, asset.rate.den), asset.rate.dropFrame);

/** The timecode of its first frame; of a sound, the time of day at which it begins. */
export function startLabel(
  asset: Pick<Asset, 'rate' | 'startFrame' | 'timeReferenceSamples' | 'sound'>,
): number | null {
  const counting = countingOf(asset);
  if (counting && asset.startFrame !== null) return labelOfFrames(asset.startFrame, counting);
  if (asset.timeReferenceSamples === null || !asset.sound?.sampleRate) return null;
  return labelOfSeconds(asset.timeReferenceSamples / asset.sound.sampleRate);
}

/** The channels of each stream of sound that can be decoded. */
const streamsOf = ({ streams, channels }: Sound): number[] => (streams ?? [channels]).filter((each) => each > 0);
const channelsText = (channels: number): string => `${channels} ${channels === 1 ? 'channel' : 'channels'}`;

const said = (value: unknown): boolean => value !== null && value !== undefined && value !== '';

/** What an asset says in every field, in the registry's units; a field that says nothing is not in it. */
export function fieldValues(asset: Asset): FieldValues {
  const values: Partial<Record<keyof FieldValues, FieldValue>> = {};
  // One by one: the index asks this of every asset, and to make it whole and leave out what is empty takes ten times as long.
  const say = (field: keyof FieldValues, value: FieldValue | null | undefined): void => {
    if (value !== null && value !== undefined && value !== '') values[field] = value;
  };
  for (const field in asset.logged) say(field as SettableFieldId, asset.logged[field as SettableFieldId]);
  say('title', asset.title);
  say('description', asset.description);
  say('notes', asset.notes);
  say('tag', asset.tags);
  say('bin', asset.bins);
  say('marker', asset.markers);
  say('verdict', asset.verdict);
  say('name', asset.name);
  say('kind', asset.kind);
  say('part', asset.parentId === null ? 'whole' : 'subclip');
  say('reel', asset.reel);
  say('scene', asset.scene);
  say('take', asset.take);
  say('start', startLabel(asset));
  say('duration', asset.durationMs);
  say('rate', countingOf(asset)?.id);
  say('width', asset.width);
  say('height', asset.height);
  say('codec', asset.codec ?? asset.sound?.codec);
  say('channels', asset.sound?.channels);
  if (asset.sound) say('stream', streamsOf(asset.sound).map(channelsText));
  say('soundcodec', asset.sound?.codec);
  say('shot', asset.shotMs);
  say('place', asset.place);
  say('storage', asset.storage);
  say('path', asset.path);
  say('state', asset.state);
  say('size', asset.bytes);
  say('added', asset.addedMs);
  say('number', asset.id);
  return values;
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
