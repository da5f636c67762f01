import { answersTest, wordedText, wordsAsked, type Query } from '../query';
import { markerText, type Marker } from './markers';

/** The markers that a search found something in, in their order. */
export function markersHit<M extends Pick<Marker, 'name' | 'note'>>(tree: Query, markers: readonly M[]): M[] {
  const tests = wordsAsked(tree).filter(({ field }) => field === null || field === 'marker');
  return markers.filter((marker) => {
    const said = wordedText([markerText(marker)]);
    return tests.some(({ test }) => answersTest(said, test));
  });
}
