import type { Box } from '@larder/core/position';

/** Beyond this latitude Mercator's map has no end: the usual cut of maps on screens, where the world is a square. */
const MOST_LATITUDE = 85.0511;
const RADIANS = Math.PI / 180;

/** Longitude and latitude in degrees as a place on Mercator's map, and back; y grows downwards, as on a screen. */
export const toMercator = ([longitude, latitude]: number[]): number[] => {
  const cut = Math.min(MOST_LATITUDE, Math.max(-MOST_LATITUDE, latitude ?? 0));
  return [longitude ?? 0, -Math.log(Math.tan(Math.PI / 4 + (cut * RADIANS) / 2)) / RADIANS];
};
export const fromMercator = ([x, y]: number[]): number[] => [
  x ?? 0,
  (2 * Math.atan(Math.exp(-(y ?? 0) * RADIANS)) - Math.PI / 2) / RADIANS,
];

/** About three kilometres: closer a map without streets shows nothing but its spots. */
const LEAST_DEGREES = 0.03;
const PADDING = 0.35;

/** Somewhat more than a box, so that nothing lies on the edge of the map, and never less than a few kilometres. */
export function paddedBox({ south, west, north, east }: Box): Box {
  const [up, across] = [
    Math.max(LEAST_DEGREES, (north - south) * PADDING),
    Math.max(LEAST_DEGREES * 2, (east - west) * PADDING),
  ];
  return {
    south: Math.max(-MOST_LATITUDE, south - up),
    north: Math.min(MOST_LATITUDE, north + up),
    west: Math.max(-180, west - across),
    east: Math.min(180, east + across),
  };
}

/** Up to the next round number of metres, so that a search by it can be read. */
export function roundMetres(metres: number): number {
  const step = 10 ** Math.max(1, Math.floor(Math.log10(Math.max(1, metres))));
  return Math.ceil(metres / step) * step;
}

/** A place for reading: `50.4120° N, 3.5180° W`. */
export const placeInWords = (latitude: number, longitude: number): string =>
  `${Math.abs(latitude).toFixed(4)}° ${latitude < 0 ? 'S' : 'N'}, ${Math.abs(longitude).toFixed(4)}° ${longitude < 0 ? 'W' : 'E'}`;
