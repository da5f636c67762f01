import type { FieldRegistry } from '../fields';
import { answersTest, combine, heardAsked, wordedText, wordsAsked, type Query } from '../query';
import { markerText, type Marker } from './markers';

const MARKER = 'marker';
/** Fields that say something at a place in time. */
const IN_TIME = [MARKER, 'said'] as const;

/** What a search asks of words that are said in a field. */
const askedOf = (tree: Query, id: (typeof IN_TIME)[number], fields: FieldRegistry) =>
  wordsAsked(tree).filter(({ field }) => field === id || (field === null && fields.plain.includes(id)));

/** Whether it asks for words that are said at a place in time. */
const asksInTime = (tree: Query, fields: FieldRegistry): boolean =>
  heardAsked(tree).length > 0 || IN_TIME.some((id) => askedOf(tree, id, fields).length > 0);

/** The markers that a search found something in, in their order. */
export function markersHit<M extends Pick<Marker, 'name' | 'note'>>(
  tree: Query,
  markers: readonly M[],
  fields: FieldRegistry,
): M[] {
  const asked = askedOf(tree, MARKER, fields);
  return markers.filter((marker) => {
    const said = wordedText([markerText(marker)]);
    return asked.some(({ test }) => answersTest(said, test));
  });
}

/** The markers among the hits of a search: those that it found something in, or all where it asks for no words with a place in time. */
export const hitsIn = <M extends Pick<Marker, 'name' | 'note'>>(
  tree: Query,
  markers: readonly M[],
  fields: FieldRegistry,
): readonly M[] => (asksInTime(tree, fields) ? markersHit(tree, markers, fields) : markers);

/** What of a search has hits in time. */
export function havingHits(tree: Query, fields: FieldRegistry): Query {
  const said = IN_TIME.flatMap((field) =>
    askedOf(tree, field, fields).map(({ test }): Query => ({ kind: 'field', field, test })),
  );
  const heard = heardAsked(tree).map((test): Query => ({ kind: 'field', field: 'heard', test }));
  return said.length + heard.length > 0
    ? combine('any', [...said, ...heard])
    : { kind: 'field', field: MARKER, test: { op: 'presence', present: true } };
}
