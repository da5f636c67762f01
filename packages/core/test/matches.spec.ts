import fc from 'fast-check';
import { BUILT_IN, type FieldValues } from '@larder/core/fields';
import { asksForWords, excerpt, matchesIn, parseQuery } from '@larder/core/query';
import { LibraryIndex } from '@larder/core/search';

const tree = (text: string) => parseQuery(text).tree;
/** Each field with what was found in it, the words between brackets. */
const found = (text: string, values: FieldValues) =>
  matchesIn(tree(text), values, BUILT_IN).map(({ field, text: said, spans }) => {
    const marked = spans.reduceRight(
      (line, [from, to]) => `${line.slice(0, from)}[${line.slice(from, to)}]${line.slice(to)}`,
      said,
    );
    return `${field}: ${marked}`;
  });

describe('why a search found something', () => {
  const values: FieldValues = {
    ...{ name: 'A001C001.mov', title: 'Lower lock', tag: ['Early Dawn', 'lock'], verdict: 'circled', duration: 5000 },
    description: 'The lock-keeper’s Écluse opens; the ﬁre burns low, low water.',
    notes: '船が閘門から出てくる、夜明けの川',
  };
  it.each<[string, string[]]>([
    [
      'lock',
      [
        'title: Lower [lock]',
        'description: The [lock]-keeper’s Écluse opens; the ﬁre burns low, low water.',
        'tag: [lock]',
      ],
    ],
    ['"low water"', ['description: The lock-keeper’s Écluse opens; the ﬁre burns low, [low water].']],
    ['ecluse fire', ['description: The lock-keeper’s [Écluse] opens; the [ﬁre] burns low, low water.']],
    ['keep* or burn*', ['description: The lock-[keeper]’s Écluse opens; the ﬁre [burns] low, low water.']],
    ['description:*eep*', ['description: The lock-[keeper]’s Écluse opens; the ﬁre burns low, low water.']],
    ['tag:dawn', ['tag: Early [Dawn]']],
    ['tag="early dawn" -title:lock', ['tag: [Early Dawn]']],
    ['閘門 夜明け', ['notes: 船が[閘門]から出てくる、[夜明け]の川']],
    ['duration>1s -lock has:tag', []],
    ['nothing', []],
  ])('%s', (text, expected) => expect(found(text, values).toSorted()).toEqual(expected.toSorted()));

  it('knows whether a search looks for words, and where', () => {
    const queries = ['lock', 'duration>1s tag=dawn', '-lock', 'has:tag duration>1s', ''];
    expect(queries.map((text) => asksForWords(tree(text), () => true))).toEqual([true, true, false, false, false]);
    const plain = (text: string) => asksForWords(tree(text), (field) => field === null);
    expect(['lock', 'tag:lock', 'tag:lock or lock'].map(plain)).toEqual([true, false, true]);
  });

  const said = fc.stringMatching(/^[a-cé船夜 .-]{1,12}$/u);
  const asked = fc.constantFrom(
    'a',
    'ab',
    '"a b"',
    'a*',
    '*b*',
    '*c',
    'description=ab',
    'description:"é c"',
    '船',
    '夜船',
    'a b',
    'c or ab',
  );
  it('finds something wherever the index does, within the text, and nothing elsewhere', () =>
    fc.assert(
      fc.property(fc.record({ name: said, description: said }, { requiredKeys: ['name'] }), asked, (document, text) => {
        const index = new LibraryIndex();
        index.upsert([{ id: 1, values: document }]);
        const matches = matchesIn(tree(text), document, BUILT_IN);
        // Of several words each is told of where it is, also where another is missing.
        if (index.count(tree(text)) > 0) expect(matches.length).toBeGreaterThan(0);
        else if (!text.includes(' ') || text.includes('"')) expect(matches).toEqual([]);
        for (const { text: line, spans } of matches) {
          expect(
            spans.every(([from, to], n) => from < to && to <= line.length && from >= (spans[n - 1]?.[1] ?? 0)),
          ).toBe(true);
          const pieces = excerpt({ field: 'name', text: line, spans });
          expect(pieces.filter(({ hit }) => hit)).toHaveLength(spans.length);
        }
      }),
      { numRuns: 2000 },
    ));

  it('is told on one line, from somewhat before the first word', () => {
    const text = 'A long way before anything is said of it, the\nlower gate   opens and the water falls.';
    const [match] = matchesIn(tree('gate falls'), { description: text }, BUILT_IN);
    if (!match) throw new Error('nothing was found');
    const pieces = excerpt(match);
    expect(pieces).toEqual([
      { text: '… the lower ', hit: false },
      { text: 'gate', hit: true },
      { text: ' opens and the water ', hit: false },
      { text: 'falls', hit: true },
      { text: '.', hit: false },
    ]);
  });
});
