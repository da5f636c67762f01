/** A place on Earth in degrees; north and east are positive. Altitude in metres, null if not said. */
export interface Coordinates {
  readonly latitude: number;
  readonly longitude: number;
  readonly altitude: number | null;
}

/** Degrees, minutes and seconds run together, as ISO 6709 Annex H writes them: `±DD.D`, `±DDMM.M` or `±DDMMSS.S`. */
function degrees(text: string, degreeDigits: 2 | 3, limit: number): number | null {
  const match = /^([+-])(\d+)(\.\d+)?$/.exec(text);
  if (!match) return null;
  const [sign, whole, fraction] = [match[1] === '-' ? -1 : 1, match[2] as string, match[3] ?? ''];
  const extra = whole.length - degreeDigits;
  if (![0, 2, 4].includes(extra)) return null;
  const deg = Number(whole.slice(0, degreeDigits) + (extra === 0 ? fraction : ''));
  const min = extra === 0 ? 0 : Number(whole.slice(degreeDigits, degreeDigits + 2) + (extra === 2 ? fraction : ''));
  const sec = extra === 4 ? Number(whole.slice(degreeDigits + 2) + fraction) : 0;
  const value = deg + min / 60 + sec / 3600;
  return min < 60 && sec < 60 && value <= limit ? sign * value : null;
}

/** Reads an ISO 6709 string such as `+51.5012-000.1246/` or `+27.5916+086.5640+8850CRSWGS_84/`; null if it is none. */
export function readIso6709(text: string): Coordinates | null {
  const match = /^([+-][\d.]+)([+-][\d.]+)([+-][\d.]+)?(?:CRS[^/]*)?\/?$/.exec(text.trim());
  if (!match) return null;
  const [latitude, longitude] = [degrees(match[1] as string, 2, 90), degrees(match[2] as string, 3, 180)];
  if (latitude === null || longitude === null) return null;
  return { latitude, longitude, altitude: match[3] === undefined ? null : Number(match[3]) };
}

/** Writes decimal degrees to four places (about eleven metres), with the closing solidus. */
export function writeIso6709({ latitude, longitude, altitude }: Coordinates): string {
  const part = (value: number, digits: number) =>
    `${value < 0 ? '-' : '+'}${Math.abs(value)
      .toFixed(4)
      .padStart(digits + 5, '0')}`;
  const height = altitude === null ? '' : `${altitude < 0 ? '-' : '+'}${Math.abs(altitude)}`;
  return `${part(latitude, 2)}${part(longitude, 3)}${height}/`;
}
