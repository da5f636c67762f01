import { readPosition } from '../position';
import type { NearTest } from './tree';

/** How far around a place is meant where nobody says. */
const METRES = 1000;
/** Half around the Earth: everything. */
const MOST_METRES = 20_100_000;
const UNITS: Readonly<Record<string, number>> = { m: 1, km: 1000 };

export const EXPECTED_NEAR = 'a place in degrees and how far around it, such as 50.4120,-3.5180,2km';

/** Reads `50.4120,-3.5180,2km`; null if it is no place. */
export function readNear(text: string): NearTest | null {
  const match = /^(.*?)(?:[\s,;]+(\d{1,8}(?:\.\d{1,3})?)\s*(m|km))?$/i.exec(text.trim());
  const place = readPosition(match?.[1] ?? '');
  const metres = match?.[2] ? Math.round(Number(match[2]) * (UNITS[(match[3] ?? '').toLowerCase()] ?? 1)) : METRES;
  if (!place || metres < 1 || metres > MOST_METRES) return null;
  const rounded = (degrees: number) => Number(degrees.toFixed(6));
  return { op: 'near', latitude: rounded(place.latitude), longitude: rounded(place.longitude), metres };
}

/** Writes it so that it is read as the same again. */
export const printNear = ({ latitude, longitude, metres }: NearTest): string =>
  `${degrees(latitude)},${degrees(longitude)},${metres % 1000 === 0 ? `${metres / 1000}km` : `${metres}m`}`;

/** Never in powers of ten, as JavaScript prints what is close to nothing. */
const degrees = (value: number): string =>
  value
    .toFixed(6)
    .replace(/\.?0+$/, '')
    .replace(/^-0$/, '0');
