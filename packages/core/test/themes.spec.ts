import { readFileSync } from 'node:fs';
import {
  PASSAGE_LENGTHS,
  passagesOf,
  passagesWith,
  rankedPassages,
  readSpoken,
  saidText,
  sentenceEnds,
  SpokenIndex,
  themesOf,
  type Pronouncer,
  type Spoken,
  type SpokenHow,
} from '../src/dialogue';
import { DISTINCT, distinctness, togetherness } from '../src/dialogue/distinct';
import bm25 from 'okapibm25';
import { numbers } from './numbers';

const nobody: Pronouncer = { ways: () => [], isHeard: () => true };

/** Words of 300 ms, one after the other; each `…` is a second in which nobody speaks, `NAME:` somebody else who does. */
function talk(text: string): Spoken {
  let ms = 0;
  const words: Spoken['words'][number][] = [];
  const speakers: Spoken['speakers'][number][] = [];
  for (const each of text.split(/\s+/)) {
    if (each === '…') ms += 1000;
    else if (each.endsWith(':')) speakers.push({ fromMs: ms, name: each.slice(0, -1) });
    else words.push({ text: each, startMs: ms, endMs: (ms += 300), certainty: null });
  }
  return { words, speakers };
}

function library(talks: Readonly<Record<number, string>>): SpokenIndex {
  const index = new SpokenIndex(nobody);
  index.upsert(Object.entries(talks).map(([id, text]) => ({ id: Number(id), wholeId: 0, spoken: talk(text) })));
  return index;
}

describe('ends of sentences', () => {
  // Unicode Standard Annex #29, the file SentenceBreakTest.txt of the Unicode Character Database, as Debian's `unicode-data` carries it.
  const cases = readFileSync('/usr/share/unicode/auxiliary/SentenceBreakTest.txt', 'utf8')
    .split('\n')
    .map((line) => line.split('#')[0]?.trim() ?? '')
    .filter((line) => line !== '')
    .map((line) => {
      let text = '';
      const ends = new Set<number>();
      for (const part of line.split(' ')) {
        if (part === '÷') ends.add(text.length);
        else if (part !== '×') text += String.fromCodePoint(parseInt(part, 16));
      }
      return { text, ends };
    })
    // Words are told apart by single spaces here, and by nothing else.
    .filter(({ text }) => /^\S+( \S+)+$/.test(text) && !/[\p{Cc}\p{Zl}\p{Zp}]/u.test(text));

  it(`are those of the standard, where words are (${cases.length} cases)`, () => {
    expect(cases.length).toBeGreaterThan(5);
    for (const { ends, text } of cases) {
      const words = text.split(' ').map((each) => ({ text: each }));
      let at = 0;
      const wanted = words.map(({ text: word }, n) => {
        at += word.length + 1;
        return n < words.length - 1 && ends.has(at) ? 1 : 0;
      });
      // The last ends one wherever it may.
      expect([text, [...sentenceEnds(words)].slice(0, -1)]).toEqual([text, wanted.slice(0, -1)]);
    }
  });

  it('of a long text take no longer for being long', () => {
    const words = talk('It was 3.5 metres deep. “Go on!” she said. '.repeat(10_000).trim()).words;
    expect(sentenceEnds(words).reduce((sum, each) => sum + each, 0)).toBe(30_000);
    // Nor what is no word.
    const odd = ['.'.repeat(200_000) + 'a', `${'a.'.repeat(200_000)}`, 'Then'].map((text) => ({ text }));
    expect([...sentenceEnds(odd)]).toEqual([0, 1, 0]);
  });
});

describe('passages of a length', () => {
  const text =
    'Wren: The gate is shut. … It was shut all night. Nobody came to open it and the water rose. … … Osk: Then it opened. And we went through at last.';
  it.each([
    [
      'talk',
      [
        'The gate is shut. It was shut all night. Nobody came to open it and the water rose.',
        'Then it opened. And we went through at last.',
      ],
    ],
    [
      'thought',
      [
        'The gate is shut.',
        'It was shut all night. Nobody came to open it and the water rose.',
        'Then it opened. And we went through at last.',
      ],
    ],
    [
      'sentence',
      [
        'The gate is shut.',
        'It was shut all night.',
        'Nobody came to open it and the water rose.',
        'Then it opened.',
        'And we went through at last.',
      ],
    ],
  ] as const)('%s', (length, wanted) =>
    expect(passagesOf(talk(text), length).map(({ words }) => saidText(words))).toEqual(wanted),
  );

  it('lie within each other, and have all words', () => {
    const below = numbers(3);
    const some = Array.from({ length: 3000 }, () => ['a', 'b.', '…', 'c', 'd', 'Wren:', 'Osk:'][below(7)]).join(' ');
    const each = PASSAGE_LENGTHS.map((length) => passagesOf(talk(some), length));
    each.forEach((passages, n) => {
      expect(passages.flatMap(({ words }) => words)).toEqual(talk(some).words);
      const finer = new Set(each[n + 1]?.map(({ from }) => from) ?? passages.map(({ from }) => from));
      expect(passages.every(({ from }) => finer.has(from))).toBe(true);
      // As the shortest say at which length one begins.
      const begun = each[2]?.filter(({ level }) => level <= n).map(({ from }) => from);
      expect(passages.map(({ from }) => from)).toEqual(begun);
    });
  });
});

describe('passages in which something is said', () => {
  const ranked = (
    index: SpokenIndex,
    said: string,
    how: SpokenHow = 'any',
    length: 'thought' | 'sentence' = 'thought',
  ) => {
    const found = index.find({ items: readSpoken(said), how, withinMs: 0 }, 0, null);
    return rankedPassages(index, found, { length, limit: 100 });
  };

  it('are ranked as by BM25 over all of them', () => {
    // Peer: okapibm25 1.4.
    const below = numbers(8);
    const WORDS = 'gate lock water bell boat rope'.split(' ');
    const index = new SpokenIndex(nobody);
    const passages: { id: number; startMs: number; text: string }[] = [];
    for (let id = 1; id <= 150; id += 1) {
      const said = Array.from({ length: 1 + below(4) }, () =>
        Array.from({ length: 1 + below(20) }, () => WORDS[Math.min(below(6), below(6))]).join(' '),
      );
      const spoken = talk(said.join(' … '));
      index.upsert([{ id, wholeId: 0, spoken }]);
      passages.push(...passagesOf(spoken).map(({ startMs, words }) => ({ id, startMs, text: saidText(words) })));
      if (id % 10 === 0) {
        index.remove([id]);
        passages.splice(0, passages.length, ...passages.filter((each) => each.id !== id));
      }
    }
    // Apart by two spaces, so that a word between spaces is found as often as it is there.
    const texts = passages.map(({ text }) => `  ${text.split(' ').join('  ')}  `);
    for (const asked of [['rope'], ['bell', 'rope'], ['gate', 'boat', 'rope']]) {
      const scores = bm25(
        texts,
        asked.map((word) => ` ${word} `),
        { k1: 1.2, b: 0.75 },
      ) as number[];
      const wanted = passages
        .map((passage, at) => ({ ...passage, score: scores[at] as number }))
        .filter(({ text }) => asked.some((word) => text.split(' ').includes(word)))
        .sort((a, b) => b.score - a.score || a.id - b.id || a.startMs - b.startMs);
      const { count, passages: found } = ranked(index, asked.join(' '));
      expect(count).toBe(wanted.length);
      const scoreOf = new Map(wanted.map(({ id, score, startMs }) => [`${id} ${startMs}`, score]));
      const got = found.map(({ id, startMs }) => scoreOf.get(`${id} ${startMs}`) as number);
      got.forEach((score, at) => expect(score).toBeCloseTo(wanted[at]?.score as number, 6));
    }
  });

  it('say who speaks, what was looked for, and why they end', () => {
    const index = library({
      7: 'Wren: The old gate, by the mill, was never shut. It stood open … Osk: A gate that stands open is no gate.',
    });
    const pieces = (said: string, how: SpokenHow, length: 'thought' | 'sentence') =>
      ranked(index, said, how, length)
        .passages.toSorted((a, b) => a.startMs - b.startMs)
        .map(({ ends, pieces, speaker }) => [
          speaker,
          pieces.map(({ is, text }) => (is === 'between' ? text : `[${text}]`)).join(' '),
          ends,
        ]);
    expect(pieces('gate "stood open"', 'any', 'thought')).toEqual([
      ['Wren', 'The old [gate,] by the mill, was never shut.', 'sentence'],
      ['Wren', 'It [stood open]', 'speaker'],
      ['Osk', 'A [gate] that stands open is no [gate.]', 'all'],
    ]);
    expect(pieces('mill', 'all', 'sentence')).toEqual([
      ['Wren', 'The old gate, by the [mill,] was never shut.', 'sentence'],
    ]);
    expect(ranked(index, 'nobody').passages).toEqual([]);
  });
});

describe('what sets a text apart', () => {
  /**
   * Manning and Schütze, Foundations of Statistical Natural Language Processing (1999), table 5.12: bigrams of “powerful” in four months
   * of a newspaper, of 14,307,668 words, by Dunning's ratio: how often each word is said, how often both, and the ratio. From memory,
   * and the book's own counts and ratios agree with each other to one in a hundred.
   */
  it.each([
    [12593, 932, 150, 1291.42],
    [379, 932, 10, 99.31],
    [932, 934, 10, 82.96],
    [932, 3424, 13, 80.39],
    [932, 291, 6, 57.27],
    [932, 40, 4, 51.66],
  ])('is told as in the handbook: %d and %d, together %d: %d', (one, other, both, ratio) =>
    expect(distinctness(both, one, other - both, 14_307_668 - one) / ratio).toBeCloseTo(1, 1.5),
  );

  it('is that of the table of what was counted and what chance would have', () => {
    const below = numbers(21);
    for (let round = 0; round < 200; round += 1) {
      const [total, otherTotal] = [1 + below(500), 1 + below(5000)];
      const [count, otherCount] = [below(total + 1), below(otherTotal + 1)];
      const all = total + otherTotal;
      const said = count + otherCount;
      const ratio = [
        [count, total, said],
        [total - count, total, all - said],
        [otherCount, otherTotal, said],
        [otherTotal - otherCount, otherTotal, all - said],
      ].reduce((sum, [cell, row, column]) => {
        const expected = ((row as number) * (column as number)) / all;
        return sum + (cell === 0 ? 0 : 2 * (cell as number) * Math.log((cell as number) / expected));
      }, 0);
      expect(Math.abs(distinctness(count, total, otherCount, otherTotal))).toBeCloseTo(ratio, 6);
    }
  });

  it('is nothing where it is said alike, and below nothing where it is said less', () => {
    expect(distinctness(10, 100, 100, 1000)).toBeCloseTo(0, 9);
    expect(distinctness(0, 100, 100, 1000)).toBeLessThan(-DISTINCT);
    expect(distinctness(100, 100, 0, 1000)).toBeGreaterThan(DISTINCT);
    expect(distinctness(0, 100, 0, 1000)).toBe(0);
  });

  it('goes together from never to always', () => {
    expect(togetherness(0, 5, 5, 100)).toBe(-1);
    expect(togetherness(10, 20, 50, 100)).toBeCloseTo(0, 9);
    expect(togetherness(10, 10, 10, 100)).toBeCloseTo(1, 9);
    expect(togetherness(100, 100, 100, 100)).toBe(1);
  });
});

describe('themes', () => {
  const BELL = 'The bell foundry cast a great bell from the old bronze. … We poured the bronze and the bell rang.';
  const LOCK = 'They opened the lock gates at low water. … At low water the lock gates leak and the keeper waits.';
  const BREAD = 'My mother baked bread for the boats. … The bread was warm, and the mother of my wife baked as well.';
  const OTHER = 'It rained for a week, and nobody went out to the fields or came back to the house until it stopped.';
  const others = Object.fromEntries(Array.from({ length: 12 }, (_unused, at) => [5 + at, OTHER]));
  const index = library({ 1: BELL, 2: `${BELL} … ${LOCK}`, 3: LOCK, 4: BREAD, ...others });
  const among =
    (...ids: readonly number[]) =>
    (id: number) =>
      ids.includes(id);
  it('are what some files say and the others do not, in groups, and where', () => {
    // The first that is asked of it, when nothing of it was looked for yet.
    const { against, files, rest, themes } = themesOf(index, among(1, 2, 3));
    expect([against, rest, files.map(({ id, passages }) => [id, passages])]).toEqual([
      'rest',
      13,
      [
        [1, 2],
        [2, 4],
        [3, 2],
      ],
    ]);
    const all = themes.map(({ passages, terms }) => ({ terms: terms.map(({ text }) => text), passages }));
    const bell = all.find(({ terms }) => terms.includes('bell'));
    const lock = all.find(({ terms }) => terms.includes('lock gates'));
    expect(bell?.passages).toEqual([2, 2, 0]);
    expect(lock?.passages).toEqual([0, 2, 2]);
    expect(bell?.terms).toContain('bronze');
    expect(lock?.terms).toContain('low water');
    // What is said only as part of a phrase is told once, and what says nothing never.
    const terms = all.flatMap((theme) => theme.terms);
    expect(terms.filter((term) => ['gates', 'low', 'the', 'and', 'the bell'].includes(term))).toEqual([]);
  });

  it('of what is all there is are what sets its files apart from each other', () => {
    const { against, themes: found } = themesOf(index, null);
    expect(against).toBe('each-other');
    expect(found.some(({ terms }) => terms.some(({ text }) => text === 'bread'))).toBe(true);
    expect(themesOf(library({ 1: BELL }), null).themes).toEqual([]);
    expect(themesOf(library({}), null)).toMatchObject({ files: [], left: 0, themes: [] });
  });

  it('are counted as by going through all words', () => {
    const { themes: found } = themesOf(index, among(1, 2, 3));
    const said = (ids: readonly number[]) =>
      ids
        .map((id) => ({ 1: BELL, 2: `${BELL} ${LOCK}`, 3: LOCK })[id] ?? '')
        .join(' ')
        .toLowerCase();
    for (const { count, text } of found.flatMap(({ terms }) => terms))
      expect([text, said([1, 2, 3]).split(new RegExp(`\\b${text}`)).length - 1]).toEqual([text, count]);
  });

  it('open the passages in which they are said, whatever the form', () => {
    const { count, passages } = passagesWith(index, among(2, 4), [['baking'], ['lock', 'gate']], {
      length: 'thought',
      limit: 3,
    });
    expect(count).toBe(4);
    expect(
      passages.map(({ id, pieces }) => [id, pieces.filter(({ is }) => is === 'spelled').map(({ text }) => text)]),
    ).toEqual([
      [2, ['lock gates']],
      [2, ['lock gates']],
      [4, ['baked']],
    ]);
    expect(passagesWith(index, among(2), [['nowhere'], []], { length: 'thought', limit: 3 }).count).toBe(0);
  });

  it('are of as much as may be looked at, the newest', () => {
    const many = new SpokenIndex(nobody);
    const spoken = talk(BELL);
    many.upsert(Array.from({ length: 250 }, (_unused, at) => ({ id: at + 1, wholeId: 0, spoken })));
    const { files, left } = themesOf(many, null);
    expect([files.length, files.at(-1)?.id, left]).toEqual([200, 250, 50]);
  });
});
