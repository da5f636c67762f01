import { answersTest, isOfWords, wordedText, type Query, type WholeTest, type WordsTest } from '../query';
import { markerText, type Marker } from './markers';

/** What a search asks of words, and of markers; what it does not want is left out. */
function asked(tree: Query): (WordsTest | WholeTest)[] {
  switch (tree.kind) {
    case 'all':
    case 'any':
      return tree.of.flatMap(asked);
    case 'not':
      return [];
    case 'words':
      return [tree.test];
    case 'field':
      return tree.field === 'marker' && isOfWords(tree.test) ? [tree.test] : [];
    default:
      return tree satisfies never;
  }
}

/** The markers that a search found something in, in their order. */
export function markersHit<M extends Pick<Marker, 'name' | 'note'>>(tree: Query, markers: readonly M[]): M[] {
  const tests = asked(tree);
  return markers.filter((marker) => {
    const said = wordedText([markerText(marker)]);
    return tests.some((test) => answersTest(said, test));
  });
}
