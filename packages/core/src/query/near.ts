import { readPosition } from '../position';
import { words } from '../fields';
import { mapFields, type AroundTest, type NearTest, type Query } from './tree';

/** How far around a place is meant where nobody says. */
const METRES = 1000;
/** Half around the Earth: everything. */
const MOST_METRES = 20_100_000;
const UNITS: Readonly<Record<string, number>> = { m: 1, km: 1000 };

export const EXPECTED_NEAR = 'a place and how far around it, such as Ottermouth,20km or 50.4120,-3.5180,2km';

/** Reads `50.4120,-3.5180,2km`, or the name of a place, `Ottermouth,20km`; null if it is no place. */
export function readNear(text: string): NearTest | AroundTest | null {
  const match = /^(.*?)(?:[\s,;]+<?(\d{1,8}(?:\.\d{1,3})?)\s*(m|km))?$/i.exec(text.trim());
  const [, said = ''] = match ?? [];
  const place = readPosition(said);
  const metres = match?.[2] ? Math.round(Number(match[2]) * (UNITS[(match[3] ?? '').toLowerCase()] ?? 1)) : METRES;
  if (metres < 1 || metres > MOST_METRES) return null;
  const name = /^\p{L}/u.test(said) ? words(said).join(' ') : '';
  if (!place) return name === '' ? null : { op: 'around', place: name, metres };
  const rounded = (degrees: number) => Number(degrees.toFixed(6));
  return { op: 'near', latitude: rounded(place.latitude), longitude: rounded(place.longitude), metres };
}

/** Whether a place says itself how far around it is meant. */
export const saysHowFar = (text: string): boolean => /[\s,;]<?\d[\d.]*\s*(m|km)$/i.test(text.trim());

/** What follows the name of a place with a gap: `near:"low quay" <20km`. */
export const isRadius = (text: string): boolean => /^<\d[\d.]*(m|km)$/i.test(text);

/** Places that a search means by their names. */
export function placesNamed(tree: Query): string[] {
  const names: string[] = [];
  mapFields(tree, (part) => {
    if (part.test.op === 'around') names.push(part.test.place);
    return part;
  });
  return names;
}

/** Writes it so that it is read as the same again. */
export function printNear(test: NearTest | AroundTest): string {
  const place = test.op === 'near' ? `${degrees(test.latitude)},${degrees(test.longitude)}` : test.place;
  return `${place},${test.metres % 1000 === 0 ? `${test.metres / 1000}km` : `${test.metres}m`}`;
}

/** Never in powers of ten, as JavaScript prints what is close to nothing. */
const degrees = (value: number): string =>
  value
    .toFixed(6)
    .replace(/\.?0+$/, '')
    .replace(/^-0$/, '0');
