import type { FieldId } from '../fields';
import { boxAround, clustersOf, type Position } from '../position';
import { mapFields, type AroundTest, type Query } from '../query';

/** A place that is spread out is at most about that many spots across. */
const COLUMNS = 4;

/** Where a place of that name lies, as searches ask: of one that is spread out, or whose name others have too, each of its parts. */
const spotsOf = (positions: readonly Position[]): Position[] => {
  const box = boxAround(positions);
  return box ? clustersOf(positions, box, COLUMNS).map(({ latitude, longitude }) => ({ latitude, longitude })) : [];
};

/** What is said of a place whose positions are asked for. */
const saying = (place: string): Query => ({
  kind: 'field',
  field: 'place',
  test: { op: 'text', text: place, prefix: false },
});

/**
 * A search with the names of places put as where they lie; itself, if it has none. A place of which nothing is known is near nothing.
 * @param positionsOf the positions of what a search finds
 */
export function withPlaces(tree: Query, positionsOf: (saying: Query) => readonly Position[]): Query {
  const near = (field: FieldId, { place, metres }: AroundTest): Query => ({
    kind: 'any',
    of: spotsOf(positionsOf(saying(place))).map((spot) => ({
      ...{ kind: 'field', field },
      test: { op: 'near', ...spot, metres },
    })),
  });
  return mapFields(tree, (part) => (part.test.op === 'around' ? near(part.field, part.test) : part));
}
