import {
  HeardAnswers,
  heardIn,
  heardPlaces,
  heardQuery,
  HOWS,
  readSpoken,
  SpokenIndex,
  type Pronouncer,
} from '@larder/core/dialogue';
import { havingHits, hitsIn } from '@larder/core/markers';
import { BUILT_IN } from '@larder/core/fields';
import { criteriaOf, HEARD_AS, parseQuery, printQuery, treeOfCriteria, type HeardTest } from '@larder/core/query';
import { LibraryIndex } from '@larder/core/search';

const WAYS: Readonly<Record<string, readonly number[]>> = { hole: [15, 24, 20], whole: [15, 24, 20] };
const pronouncer: Pronouncer = {
  ways: (word) => (WAYS[word] ? [Uint8Array.from(WAYS[word])] : []),
  isHeard: () => true,
};

/** By asset; a word each second. The third is a part of the first. */
const SAID: Readonly<Record<number, string>> = {
  1: 'the bell and the hole in the gate',
  2: 'a whole bell and a bell',
  3: 'the hole in the gate',
};
const spokenOf = (text: string) => ({
  words: text.split(' ').map((word, n) => ({ text: word, startMs: n * 1000, endMs: n * 1000 + 800, certainty: null })),
  speakers: [],
});

function library(said = SAID) {
  const spoken = new SpokenIndex(pronouncer);
  const index = new LibraryIndex();
  const answers = new HeardAnswers(() => spoken);
  index.hears = (test) => answers.ids(test);
  const say = (id: number, text: string) => {
    index.upsert([{ id, values: { name: `S${id}`, kind: 'audio' } }]);
    spoken.upsert([{ id, wholeId: id === 3 ? 1 : 0, spoken: spokenOf(text) }]);
  };
  for (const [id, text] of Object.entries(said)) say(Number(id), text);
  const find = (query: string) => {
    const { issues, tree } = parseQuery(query);
    expect(issues).toEqual([]);
    const sort = { field: 'number', descending: false } as const;
    return index.search({ tree, sort, offset: 0, limit: 100 }).ids;
  };
  return { answers, find, index, say, spoken };
}

describe('what is heard, asked in the search line', () => {
  it('finds by sound as surely as is wanted, in wholes and in their parts, and goes with all else', () => {
    const { find } = library();
    expect(find('heard:"hole,spelled"')).toEqual([1, 3]);
    expect(find('heard:"hole,sounds"')).toEqual([1, 2, 3]);
    expect(find('heard:"hole,sounds" name:S2')).toEqual([2]);
    expect(find('-heard:"hole,spelled"')).toEqual([2]);
    expect(find('heard:"bell + gate,3s,spelled"')).toEqual([]);
    expect(find('heard:"bell + gate,6s,spelled"')).toEqual([1]);
    expect(find('heard:(gate or whole) kind:audio')).toEqual([1, 2, 3]);
    expect(find('heard:"gat*,spelled"')).toEqual([1, 3]);
    expect(find('has:heard')).toEqual(find('has:said'));
  });

  it('follows what is said anew, in lists and in counts that are kept', () => {
    const { find, index, say, spoken } = library();
    const { tree } = parseQuery('heard:"bell,spelled"');
    expect(index.counts([tree])).toEqual([2]);
    say(3, 'a bell after all');
    expect([find('heard:"bell,spelled"'), index.counts([tree])]).toEqual([[1, 2, 3], [3]]);
    say(1, 'nothing of the kind');
    expect([find('heard:"bell,spelled"'), index.counts([tree])]).toEqual([[2, 3], [2]]);
    // What nobody speaks in changes nothing of what is said: most edits are of such, or of something else.
    const { changes } = spoken;
    spoken.remove([99]);
    spoken.upsert([{ id: 98, wholeId: 0, spoken: { words: [], speakers: [] } }]);
    expect(spoken.changes).toBe(changes);
    spoken.remove([2]);
    expect(spoken.changes).toBeGreaterThan(changes);
    index.upsert([{ id: 2, values: { name: 'S2', kind: 'audio' } }]);
    expect([find('heard:"bell,spelled"'), index.counts([tree])]).toEqual([[3], [1]]);
  });

  it('is found in a large library as in a small one', () => {
    const words = ['bell', 'gate', 'hole', 'whole', 'lock', 'stone'];
    const said = Object.fromEntries(
      Array.from({ length: 300 }, (_unused, n) => [
        n + 10,
        [words[n % 6], 'and', words[(n * 7) % 5], 'then', words[(n * 3) % 4]].join(' '),
      ]),
    );
    const { find, index } = library(said);
    const expected = Object.keys(said)
      .map(Number)
      .filter((id) => said[id]?.includes('stone') && said[id].includes('bell'));
    expect(expected.length).toBeGreaterThan(9);
    expect(find('heard:"stone,spelled" heard:"bell,spelled"')).toEqual(expected);
    // What is gone is not found, though it is still known what was said in it.
    index.remove(expected.slice(0, 3));
    expect(find('heard:"stone,spelled" heard:"bell,spelled"')).toEqual(expected.slice(3));
  });

  it('says where in each it was heard', () => {
    const { spoken } = library();
    const test: HeardTest = { op: 'heard', items: ['hole'], withinMs: null, as: 'sounds' };
    const places = heardPlaces(spoken, test, [1, 2, 3, 99]);
    expect(
      [...places].map(([id, hits]) => [id, hits.map(({ heard, startMs }) => `${heard} ${startMs}`)]).sort(),
    ).toEqual([
      [1, ['hole 4000']],
      [2, ['whole 1000']],
      [3, ['hole 1000']],
    ]);
    const { tree } = parseQuery('heard:hole -heard:gate tag:dawn');
    expect(printQuery(havingHits(tree, BUILT_IN))).toBe('heard:hole');
    expect(hitsIn(tree, [{ name: 'A bell', note: '' }], BUILT_IN)).toEqual([]);
  });

  it('tells which words it looks for, so that it can be asked how they are said', () => {
    const trees = ['heard:"low water + gat*,2s"', 'tag:dawn', '-heard:ottermouth'].map((text) => parseQuery(text).tree);
    expect(heardIn(trees)).toEqual(['low', 'water', 'gat', 'ottermouth']);
  });
});

describe('a search of speech as a search line', () => {
  const asQuery = (text: string, how: (typeof HOWS)[number], notch: number) =>
    heardQuery({ items: readSpoken(text), how, withinMs: 10_000 }, notch);

  it.each([
    ['bell', 'all', 0, 'said:"bell"'],
    ["don't stop", 'all', 0, 'said:"don t" said:"stop"'],
    ['"low water" gat*', 'all', 0, 'said:"low water" said:gat*'],
    ['bell gate', 'near', 0, 'heard:"bell + gate,spelled"'],
    ['bell', 'near', 1, 'heard:"bell,sure"'],
    ['bell gate -rain', 'any', 2, '(heard:bell or heard:gate) -said:"rain"'],
    ['bell "low water"', 'all', 4, 'heard:"bell,sounds" heard:"low water,sounds"'],
    ['-rain', 'all', 4, ''],
    ['boat|"narrow boat" bell', 'near', 3, 'heard:"boat|narrow boat + bell,maybe"'],
    ['boat|"narrow boat" bell', 'all', 0, 'said:("boat" or "narrow boat") said:"bell"'],
    ['boat|ship*', 'all', 1, 'heard:"boat|ship*,sure"'],
    ['', 'all', 0, ''],
  ] as const)('%s, %s, at %i is %s', (text, how, notch, expected) => {
    expect(printQuery(asQuery(text, how, notch))).toBe(expected);
  });

  it('reads as the same search again, and finds the same', () => {
    const { find, spoken } = library();
    for (const how of HOWS)
      for (const notch of HEARD_AS.keys())
        for (const text of [
          'hole',
          'bell gate',
          '"the gate" hole',
          'bell -hole',
          'whole b*',
          'hole|bell',
          'bell|"the gate" hole|whole -rain|boat',
        ]) {
          const tree = asQuery(text, how, notch);
          const written = printQuery(tree);
          expect(parseQuery(written)).toEqual({ tree, issues: [] });
          expect(treeOfCriteria(criteriaOf(tree, BUILT_IN), BUILT_IN)).toEqual(tree);
          // By the spelling the library's own index is asked, which knows nothing of what is said here.
          if (written.includes('said:')) continue;
          const question = { items: readSpoken(text), how, withinMs: 10_000 };
          const found = spoken.find(question, notch, null, { subclips: true }).files.map(({ id }) => id);
          expect({ written, ids: find(written) }).toEqual({ written, ids: found.sort((a, b) => a - b) });
        }
  });
});
