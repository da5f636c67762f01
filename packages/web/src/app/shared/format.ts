import { countingOf, type Asset } from '@larder/contract';
import type { CalendarUnit } from '@larder/core/query';
import { formatClock, formatDuration, formatTimecode } from '@larder/core/timecode';

/** The one place where numbers become words. */

const BYTE_UNITS = ['B', 'kB', 'MB', 'GB', 'TB'] as const;

export function formatBytes(bytes: number): string {
  let [value, unit] = [bytes, 0];
  while (value >= 999.5 && unit < BYTE_UNITS.length - 1) [value, unit] = [value / 1000, unit + 1];
  return `${unit === 0 || value >= 99.95 ? Math.round(value) : value.toFixed(1)} ${BYTE_UNITS[unit]}`;
}

const numbers = new Intl.NumberFormat('en-GB');
export const formatCount = (value: number): string => numbers.format(value);

/** A count with its word: `1 asset`, `69 assets`. */
export const counted = (value: number, one: string, many = `${one}s`): string =>
  `${formatCount(value)} ${value === 1 ? one : many}`;

/** A distance for reading: `70 m`, `2.4 km`, `310 km`. */
export const formatMetres = (metres: number): string =>
  metres < 1000
    ? `${Math.round(metres)} m`
    : `${metres < 9950 ? (metres / 1000).toFixed(1).replace(/\.0$/, '') : formatCount(Math.round(metres / 1000))} km`;

/** How long something will take, for reading: `12 s`, `4 min`, `2 h 10 min`. */
export function formatWait(seconds: number): string {
  if (seconds < 90) return `${Math.max(1, Math.round(seconds))} s`;
  const minutes = Math.round(seconds / 60);
  return minutes < 90 ? `${minutes} min` : `${Math.floor(minutes / 60)} h ${minutes % 60} min`;
}

const dayFormat = new Intl.DateTimeFormat('en-GB', {
  day: 'numeric',
  month: 'short',
  year: 'numeric',
  timeZone: 'UTC',
});
const momentFormat = new Intl.DateTimeFormat('en-GB', {
  day: 'numeric',
  month: 'short',
  year: 'numeric',
  hour: '2-digit',
  minute: '2-digit',
});

/** The day on which something was shot, as its file says; without a zone, since files carry none that can be trusted. */
export const formatDay = (ms: number): string => dayFormat.format(ms);
export const formatMoment = (ms: number): string => momentFormat.format(ms);

/** A length as players count it: `0:30`, `1:02:00`. */
export const formatLength = (ms: number): string => formatDuration(ms, { num: 1000, den: 1 });

const monthFormat = new Intl.DateTimeFormat('en-GB', { month: 'short', year: 'numeric', timeZone: 'UTC' });
/** A part of the calendar by its beginning. */
export function formatStretch(ms: number, unit: CalendarUnit): string {
  switch (unit) {
    case 'day':
      return formatDay(ms);
    case 'week':
      return `week of ${formatDay(ms)}`;
    case 'month':
      return monthFormat.format(ms);
    case 'year':
      return String(new Date(ms).getUTCFullYear());
    default:
      return unit satisfies never;
  }
}

export function durationOf(asset: Pick<Asset, 'rate' | 'durationFrames' | 'durationMs'>): string {
  if (asset.rate && asset.durationFrames !== null) return formatDuration(asset.durationFrames, asset.rate);
  return asset.durationMs === null ? '' : formatLength(asset.durationMs);
}

export function startOf(asset: Pick<Asset, 'rate' | 'startFrame' | 'timeReferenceSamples' | 'sound'>): string {
  const counting = countingOf(asset);
  if (counting && asset.startFrame !== null) return formatTimecode(asset.startFrame, counting);
  if (asset.timeReferenceSamples === null || !asset.sound?.sampleRate) return '';
  return formatClock(Math.floor(asset.timeReferenceSamples / asset.sound.sampleRate));
}

/** A place in an asset as its player counts it: timecode, or minutes and seconds of a sound. `place` is in frames, or in milliseconds. */
export function placeText(asset: Pick<Asset, 'rate' | 'startFrame'>, place: number): string {
  const counting = countingOf(asset);
  if (counting) return formatTimecode((asset.startFrame ?? 0) + place, counting);
  const tenths = Math.floor(place / 100);
  const two = (value: number) => String(value).padStart(2, '0');
  return `${two(Math.floor(tenths / 600))}:${two(Math.floor(tenths / 10) % 60)}.${tenths % 10}`;
}

/** What people call a clip: its title if it has one, else its file name. */
export const callOf = (asset: Pick<Asset, 'title' | 'name'>): string => asset.title ?? asset.name;
