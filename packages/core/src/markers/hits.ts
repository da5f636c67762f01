import { words } from '../fields';
import type { FieldTest, Query, WholeTest, WordsTest } from '../query';
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

const isOfWords = (test: FieldTest): test is WordsTest | WholeTest =>
  test.op === 'text' || test.op === 'part' || test.op === 'whole';

/** The markers that a search found something in, in their order. */
export function markersHit<M extends Pick<Marker, 'name' | 'note'>>(tree: Query, markers: readonly M[]): M[] {
  const tests = asked(tree);
  return markers.filter((marker) => {
    const text = ` ${words(markerText(marker)).join(' ')} `;
    return tests.some((test) => {
      if (test.op === 'whole') return text === ` ${test.text} `;
      if (test.op === 'part') return text.includes(test.ends ? `${test.text} ` : test.text);
      return text.includes(test.prefix ? ` ${test.text}` : ` ${test.text} `);
    });
  });
}
