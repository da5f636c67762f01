import type { FieldRegistry } from '../fields';
import { answersTest, combine, wordedText, wordsAsked, type Query } from '../query';
import { markerText, type Marker } from './markers';

const MARKER = 'marker';

/** What a search asks of words that markers may say. */
const askedOfMarkers = (tree: Query, fields: FieldRegistry) =>
  wordsAsked(tree).filter(({ field }) => field === MARKER || (field === null && fields.plain.includes(MARKER)));

/** The markers that a search found something in, in their order. */
export function markersHit<M extends Pick<Marker, 'name' | 'note'>>(
  tree: Query,
  markers: readonly M[],
  fields: FieldRegistry,
): M[] {
  const asked = askedOfMarkers(tree, fields);
  return markers.filter((marker) => {
    const said = wordedText([markerText(marker)]);
    return asked.some(({ test }) => answersTest(said, test));
  });
}

/** The hits of a search in time: the markers that it found something in, or all where it asks for no words that markers may say. */
export const hitsIn = <M extends Pick<Marker, 'name' | 'note'>>(
  tree: Query,
  markers: readonly M[],
  fields: FieldRegistry,
): readonly M[] => (askedOfMarkers(tree, fields).length === 0 ? markers : markersHit(tree, markers, fields));

/** What of a search has hits in time. */
export function havingHits(tree: Query, fields: FieldRegistry): Query {
  const said = askedOfMarkers(tree, fields).map(({ test }): Query => ({ kind: 'field', field: MARKER, test }));
  return said.length > 0
    ? combine('any', said)
    : { kind: 'field', field: MARKER, test: { op: 'presence', present: true } };
}
