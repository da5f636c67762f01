import { metresOnSphere } from './geodesic';
import type { Position } from './position';

/** A stretch of the map, in degrees. One that crosses the date line has its west east of its east. */
export interface Box {
  readonly south: number;
  readonly west: number;
  readonly north: number;
  readonly east: number;
}

/** What lies close together at the scale of the map. */
export interface Cluster extends Position {
  readonly count: number;
  /** All of it lies within this of the centre, rounded up; metres. */
  readonly metres: number;
  /** Its places, by their numbers in the list. */
  readonly of: readonly number[];
}

/** As finely as positions are told apart. */
const LEAST_CELL = 1e-6;

const eastOf = (west: number, longitude: number): number =>
  longitude >= west ? longitude - west : longitude - west + 360;
const wrapped = (degrees: number): number => (degrees > 180 ? degrees - 360 : degrees);

/** Places gathered so far: their sums in degrees from the west edge and from the equator, and which they are. */
interface Gathered {
  north: number;
  east: number;
  of: number[];
}

/** Two spots nearer than this part of a cell would lie on top of each other, since the grid runs between what belongs together. */
const NEAR = 0.8;

/**
 * Gathers the places in a box on a grid with that many columns across the box and cells that are square in degrees; spots that come to
 * lie closer than most of a cell are one. Each is at the mean of its places, so that it lies where they are and not where the grid is.
 * In order of the first of each.
 */
export function clustersOf(
  places: readonly (Position | null)[],
  { south, west, north, east }: Box,
  columns: number,
): Cluster[] {
  const width = eastOf(west, east);
  const cell = Math.max(width / columns, LEAST_CELL);
  const cells = new Map<string, Gathered>();
  places.forEach((place, index) => {
    if (!place || place.latitude < south || place.latitude > north) return;
    const fromWest = eastOf(west, place.longitude);
    if (fromWest > width) return;
    const key = `${Math.floor((place.latitude - south) / cell)} ${Math.floor(fromWest / cell)}`;
    let found = cells.get(key);
    if (!found) cells.set(key, (found = { north: 0, east: 0, of: [] }));
    found.north += place.latitude;
    found.east += fromWest;
    found.of.push(index);
  });
  return merged([...cells.values()], cell * NEAR)
    .map(({ of, ...sum }) => {
      const centre = { latitude: sum.north / of.length, longitude: wrapped(west + sum.east / of.length) };
      const far = of.reduce((most, index) => Math.max(most, metresOnSphere(centre, places[index] as Position)), 0);
      // The sphere's distance may be short by less than a hundredth.
      return { ...centre, count: of.length, metres: Math.ceil(far * 1.01), of };
    })
    .sort((a, b) => (a.of[0] as number) - (b.of[0] as number));
}

/** The largest take in what lies nearer to them than that many degrees. */
function merged(all: readonly Gathered[], degrees: number): Gathered[] {
  const kept: Gathered[] = [];
  for (const one of all.toSorted((a, b) => b.of.length - a.of.length)) {
    const near = kept.find(
      (other) =>
        Math.hypot(
          other.north / other.of.length - one.north / one.of.length,
          other.east / other.of.length - one.east / one.of.length,
        ) < degrees,
    );
    if (!near) kept.push({ ...one });
    else {
      near.north += one.north;
      near.east += one.east;
      near.of = [...near.of, ...one.of].sort((a, b) => a - b);
    }
  }
  return kept;
}

/** The smallest box around places; null without any. */
export const boxAround = (places: readonly (Position | null)[]): Box | null =>
  places.reduce<Box | null>(
    (box, place) =>
      !place
        ? box
        : {
            south: Math.min(box?.south ?? 90, place.latitude),
            west: Math.min(box?.west ?? 180, place.longitude),
            north: Math.max(box?.north ?? -90, place.latitude),
            east: Math.max(box?.east ?? -180, place.longitude),
          },
    null,
  );
