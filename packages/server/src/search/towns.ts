import { cityMapping, type CityData } from 'city-timezones';
import { around } from 'geokdbush';
import KDBush from 'kdbush';
import { metresBetween, type Box, type Position } from '@larder/core/position';
import type { NearestTown, Town } from '@larder/contract';

/** Towns of the world with their people, as the package city-timezones ships them; in order of size, so that the first are named first. */
const TOWNS: readonly CityData[] = cityMapping.toSorted((a, b) => b.pop - a.pop);
const index = new KDBush(TOWNS.length);
for (const { lng, lat } of TOWNS) index.add(lng, lat);
index.finish();

const SIDES = ['north', 'north-east', 'east', 'south-east', 'south', 'south-west', 'west', 'north-west'] as const;

/** Which side of one place another lies on, of eight. */
function sideOf(from: Position, to: Position): string {
  const [north, east] = [
    to.latitude - from.latitude,
    (to.longitude - from.longitude) * Math.cos((from.latitude * Math.PI) / 180),
  ];
  const eighths = Math.round((Math.atan2(east, north) / Math.PI) * 4);
  return SIDES[(eighths + 8) % 8] as string;
}

/** The town that lies nearest to a place, how far, and on which side of it the place lies. */
export function nearestTown({ latitude, longitude }: Position): NearestTown | null {
  const [found] = around(index, longitude, latitude, 1);
  const town = found === undefined ? undefined : TOWNS[found];
  if (!town) return null;
  const at = { latitude: town.lat, longitude: town.lng };
  const here = { latitude, longitude };
  return {
    name: town.city,
    country: town.country,
    metres: Math.round(metresBetween(at, here)),
    side: sideOf(at, here),
  };
}

/** The largest towns in a stretch of the map. */
export function townsIn({ south, west, north, east }: Box, most: number): Town[] {
  const spans =
    west <= east
      ? [[west, east]]
      : [
          [west, 180],
          [-180, east],
        ];
  return spans
    .flatMap(([from = 0, to = 0]) => index.range(from, south, to, north))
    .sort((a, b) => a - b)
    .slice(0, most)
    .map((at) => TOWNS[at] as CityData)
    .map(({ city, lat, lng }) => ({ name: city, latitude: lat, longitude: lng }));
}
