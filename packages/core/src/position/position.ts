import { readIso6709 } from '../interchange/iso6709';

/** A place on Earth in degrees of WGS 84; north and east are positive. */
export interface Position {
  readonly latitude: number;
  readonly longitude: number;
}

/** Degrees to this many places are told apart: a tenth of a metre. */
const PLACES = 6;
/** Fewer are never written, so that places stand in line. */
const LEAST_PLACES = 4;

const checked = (latitude: number, longitude: number): Position | null =>
  Math.abs(latitude) <= 90 && Math.abs(longitude) <= 180 ? { latitude, longitude } : null;

/** `50.4120, -3.5180`, with a comma, a semicolon or a gap between. */
function decimals(text: string): Position | null {
  const match = /^([+-]?\d{1,3}(?:\.\d+)?)(?:\s*[,;]\s*|\s+)([+-]?\d{1,3}(?:\.\d+)?)$/.exec(text);
  return match && checked(Number(match[1]), Number(match[2]));
}

const PART = String.raw`(\d{1,3}(?:\.\d+)?)\s*[°d]?\s*(?:(\d{1,2}(?:\.\d+)?)\s*['′m]\s*)?(?:(\d{1,2}(?:\.\d+)?)\s*(?:["″s]|'')\s*)?`;
const SEXAGESIMAL = new RegExp(`^${PART}([NS])[\\s,;]*${PART}([EW])$`, 'i');

/** `50°24′43.2″N 3°31′04.8″W`: degrees, and minutes and seconds where there are any. */
function sexagesimal(text: string): Position | null {
  const match = SEXAGESIMAL.exec(text);
  if (!match) return null;
  const [minutes, seconds] = [
    [match[2], match[6]],
    [match[3], match[7]],
  ];
  if ([...(minutes ?? []), ...(seconds ?? [])].some((part) => Number(part ?? 0) >= 60)) return null;
  const degrees = (at: 0 | 4) =>
    Number(match[at + 1]) + Number(match[at + 2] ?? 0) / 60 + Number(match[at + 3] ?? 0) / 3600;
  const signed = (value: number, side: string | undefined) => (/[SW]/i.test(side ?? '') ? -value : value);
  return checked(signed(degrees(0), match[4]), signed(degrees(4), match[8]));
}

/** Reads a position as people and files write it: decimal degrees, degrees with minutes and seconds, or ISO 6709; null if it is none. */
export function readPosition(text: string): Position | null {
  const clean = text.trim();
  const found = decimals(clean) ?? sexagesimal(clean) ?? readIso6709(clean);
  return found && { latitude: found.latitude, longitude: found.longitude };
}

function degreesText(value: number): string {
  const long = value.toFixed(PLACES);
  const kept = long.replace(new RegExp(`0{0,${PLACES - LEAST_PLACES}}$`), '');
  return Number(kept) === 0 ? kept.replace('-', '') : kept;
}

/** How a position is kept and shown: decimal degrees with four to six places, such as `50.4120, -3.5180`. */
export const writePosition = ({ latitude, longitude }: Position): string =>
  `${degreesText(latitude)}, ${degreesText(longitude)}`;
