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

/**
 * Gathers the places in a box on a grid with that many columns across the box and cells that are square in degrees. Places in a cell
 * are one cluster at their mean, so that it lies where they are and not where the grid is. In order of the first of each.
 */
export function clustersOf(
  places: readonly (Position | null)[],
  { south, west, north, east }: Box,
  columns: number,
): Cluster[] {
  const width = eastOf(west, east);
  const cell = Math.max(width / columns, LEAST_CELL);
  const cells = new Map<string, { north: number; east: number; of: number[] }>();
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
  return [...cells.values()].map(({ of, ...sum }) => {
    const centre = { latitude: sum.north / of.length, longitude: wrapped(west + sum.east / of.length) };
    const far = of.reduce((most, index) => Math.max(most, metresOnSphere(centre, places[index] as Position)), 0);
    // The sphere's distance may be short by less than a hundredth.
    return { ...centre, count: of.length, metres: Math.ceil(far * 1.01), of };
  });
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
