import { readFileSync } from 'node:fs';
import { BUILT_IN } from '@larder/core/fields';
import {
  answersQuery,
  beginningOf,
  IRREGULAR,
  irregularOf,
  LONGEST_ENDING,
  matchesIn,
  parseQuery,
  stemOf,
  stemsOf,
} from '@larder/core/query';

/** The test vocabulary of the Snowball project's English stemmer with what it makes of each word (Debian: snowball-data). */
const listed = (name: string): string[] =>
  readFileSync(`/usr/share/snowball/data/english/${name}`, 'utf8').trimEnd().split('\n');

describe('forms of words', () => {
  // Signs stand between words here, and words of one or two letters are their own stems there too.
  const pairs = listed('voc.txt')
    .map((word, at) => [word, at] as const)
    .filter(([word]) => /^[a-z]+$/.test(word));
  const stems = listed('output.txt');

  it('are those of the published vocabulary', () => {
    expect(pairs.length).toBeGreaterThan(29_000);
    expect(
      pairs.flatMap(([word, at]) => (stemOf(word) === stems[at] ? [] : [[word, stemOf(word), stems[at]]])),
    ).toEqual([]);
  });
  it('begin as their stem does, but for those that are listed', () => {
    const others = pairs.filter(([word]) => !word.startsWith(beginningOf(stemOf(word)))).map(([word]) => word);
    expect(others).toEqual(IRREGULAR);
  });
  it('are not much longer than it', () => {
    const longest = Math.max(...pairs.map(([word]) => word.length - stemOf(word).length));
    expect(longest).toBe(10);
    expect(longest).toBeLessThan(LONGEST_ENDING);
    for (const word of IRREGULAR) expect(irregularOf(stemOf(word))).toBe(word);
  });
  it('go both ways where a plural is not made by its end', () => {
    for (const [one, several] of [
      ['woman', 'women'],
      ['child', 'children'],
      ['mouse', 'mice'],
      ['knife', 'knives'],
      ['lens', 'lenses'],
    ] as const) {
      expect(stemsOf(one)).toContain(stemOf(several));
      expect(stemsOf(several)).toContain(stemOf(one));
    }
  });
  it('are none of what is no word of letters', () => {
    for (const word of ['a1s', 'as', '10s', 'ой', '夜']) expect(stemsOf(word)).toEqual([word]);
  });
});

describe('searching by forms', () => {
  const said = { values: { name: 'Two women dying by the locks', tag: ['bells'] } };
  const answers = (text: string) => answersQuery(parseQuery(text).tree, said, BUILT_IN, 0);

  it.each(['woman', 'women', 'lock', 'lying-by or dies', 'tag:bell', 'dying-by-the-lock', 'tag:(boat or bell)'])(
    'finds %s',
    (text) => expect(answers(text)).toBe(true),
  );
  it.each(['"woman"', '"lock"', 'tag:"bell"', 'tag=bell', '"dying by the lock"', 'by-dying', 'lock-the'])(
    'does not find %s',
    (text) => expect(answers(text)).toBe(false),
  );
  it('shows where they are', () => {
    const found = matchesIn(parseQuery('woman locked name:die tag:bell').tree, said.values, BUILT_IN);
    expect(found.map(({ field, text, spans }) => [field, ...spans.map(([from, to]) => text.slice(from, to))])).toEqual([
      ['tag', 'bells'],
      ['name', 'women', 'dying', 'locks'],
    ]);
  });
});
