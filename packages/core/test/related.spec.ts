import {
  readSpoken,
  readsAsQuestion,
  reducedText,
  reduceQuestion,
  relatedSaid,
  rowsOf,
  runsOf,
  SpokenIndex,
  type RelatedAsked,
  type WordsKnown,
} from '@larder/core/dialogue';

/** By asset. The fourth is a part of the first. */
const SAID: Readonly<Record<number, string>> = {
  1: 'they repaired the lock gates by hand and the boats waited',
  2: 'a narrow boat is a boat and a barge is no narrow boat',
  3: 'the gate broke in the flood and nobody mended it',
  4: 'the boats waited',
};

function library(): SpokenIndex {
  const index = new SpokenIndex({ ways: () => [], isHeard: () => true });
  index.upsert(
    Object.entries(SAID).map(([id, text]) => ({
      id: Number(id),
      wholeId: id === '4' ? 1 : 0,
      spoken: {
        words: text
          .split(' ')
          .map((word, n) => ({ text: word, startMs: n * 500, endMs: n * 500 + 400, certainty: null })),
        speakers: [],
      },
    })),
  );
  return index;
}

const boat: RelatedAsked = {
  text: 'boat',
  irregular: [],
  groups: [
    { relation: 'same', meaning: 'a vessel', words: ['ship', 'the', 'it'] },
    { relation: 'narrower', meaning: 'a vessel', words: ['narrow boat', 'barge', 'narrow barge', 'boats', 'punt'] },
    { relation: 'akin', meaning: 'another', words: ['barge', 'flood'] },
  ],
};

describe('what goes with what is looked for', () => {
  it('is offered as far as it is said, once, with how often', () => {
    expect(relatedSaid(library(), [boat], null)).toEqual([
      {
        text: 'boat',
        groups: [
          { relation: 'form', meaning: '', words: [{ text: 'boats', files: 1, hits: 1 }] },
          {
            relation: 'narrower',
            meaning: 'a vessel',
            words: [
              { text: 'narrow boat', files: 1, hits: 2 },
              { text: 'barge', files: 1, hits: 1 },
            ],
          },
          { relation: 'akin', meaning: 'another', words: [{ text: 'flood', files: 1, hits: 1 }] },
        ],
      },
    ]);
  });

  it('is offered in the forms in which it is said', () => {
    const groups = [{ relation: 'same', meaning: '', words: ['repair', 'mend', 'lock gate', 'wait for'] }] as const;
    const [term] = relatedSaid(library(), [{ text: 'fix', irregular: [], groups }], null);
    expect(term?.groups.map(({ words }) => words.map(({ text }) => text))).toEqual([
      ['repaired', 'mended', 'lock gates'],
    ]);
  });

  it('counts in what the search line finds', () => {
    const [term] = relatedSaid(library(), [boat], (id) => id === 3);
    expect(term?.groups.flatMap(({ words }) => words.map(({ text }) => text))).toEqual(['flood']);
    expect(relatedSaid(library(), [boat], () => false)).toEqual([{ text: 'boat', groups: [] }]);
  });

  it('is other forms of the last word of several, and forms that no ending makes', () => {
    const formsOf = (text: string, ...irregular: string[]) =>
      relatedSaid(library(), [{ text, irregular, groups: [] }], null).flatMap(({ groups }) =>
        groups.flatMap(({ words }) => words.map((word) => word.text)),
      );
    expect(formsOf('lock gate')).toEqual(['lock gates']);
    expect(formsOf('break')).toEqual([]);
    expect(formsOf('break', 'broke', 'broken')).toEqual(['broke']);
    expect(formsOf('nothing like it')).toEqual([]);
  });

  it('is at most so much of each word', () => {
    const index = library();
    const words = Array.from({ length: 100 }, (_unused, n) => `zz${n}`);
    index.upsert([
      {
        ...{ id: 9, wholeId: 0 },
        spoken: {
          words: words.map((text, n) => ({ text, startMs: n, endMs: n + 1, certainty: null })),
          speakers: [],
        },
      },
    ]);
    const asked = { text: 'x', irregular: [], groups: [{ relation: 'same', meaning: '', words }] } as const;
    expect(relatedSaid(index, [asked], null)[0]?.groups[0]?.words).toHaveLength(40);
  });
});

describe('a question', () => {
  it.each([
    ['Who repaired the lock gates?', true],
    ['where do they talk about the flood', true],
    ['how the gates broke', true],
    ['the gate?', true],
    ['where do they say "low water"?', true],
    ['low water', false],
    ['the gate', false],
    ['what the', false],
    ['gate? bell?', false],
    ['is it here|there at last', false],
    ['where is the gat* now', false],
    ['where is the gate -flood', false],
    ['', false],
    ['?', false],
  ])('“%s”: %s', (text, is) => expect(readsAsQuestion(text)).toBe(is));

  const known: WordsKnown = { terms: new Set(['narrow boats']), irregular: new Map([['break', ['broke', 'broken']]]) };
  const reduce = (text: string, kept: readonly string[] = [], among: ((id: number) => boolean) | null = null) =>
    reduceQuestion(text, new Set(kept), known, library(), among);

  it('is reduced step by step: words left out, words that stay together, forms that are said', () => {
    const reduced = reduce('How did the lock gate break, and who was repairing it by hand?');
    expect(reduced.left).toEqual(['how', 'did', 'the', 'and', 'who', 'was', 'it', 'by']);
    expect(
      reduced.terms.map(({ forms, said, text, why }) => [text, why, said?.hits ?? 0, forms.map((f) => f.text)]),
    ).toEqual([
      ['lock gate', 'said', 0, ['lock gates']],
      ['break', 'word', 0, ['broke']],
      ['repairing', 'word', 0, ['repaired']],
      ['hand', 'word', 1, []],
    ]);
    expect(reducedText(reduced, new Set())).toBe('"lock gate"|"lock gates" break|broke repairing|repaired hand');
    expect(reducedText(reduced, new Set(['break', 'lock gate', 'hand']))).toBe('"lock gates" broke repairing|repaired');
    expect(readSpoken(reducedText(reduced, new Set()))).toHaveLength(4);
  });

  it('keeps what is wanted all the same, known terms, and what is between quotes', () => {
    expect(reduce('who mended it').terms.map(({ text }) => text)).toEqual(['mended']);
    const kept = reduce('who mended it', ['it', 'who']);
    expect([kept.left, kept.kept, kept.terms.map(({ text }) => text)]).toEqual([
      [],
      ['it', 'who'],
      ['who', 'mended it'],
    ]);
    expect(reduce('what about narrow boats?').terms).toMatchObject([{ text: 'narrow boats', why: 'known' }]);
    expect(reduce('do they say "no such thing" or “narrow boat”?').terms).toMatchObject([
      { text: 'no such thing', why: 'quoted', said: null },
      { text: 'narrow boat', why: 'quoted', said: { hits: 2 } },
    ]);
    expect(reduce('why the flood of 1953?').terms.map(({ text }) => text)).toEqual(['flood', '1953']);
  });

  it('is about what is said in the files that are wanted', () => {
    expect(reduce('who was repairing the lock gates?', [], (id) => id === 3).terms).toMatchObject([
      { text: 'repairing', said: null, forms: [] },
      { text: 'lock', said: null, forms: [] },
      { text: 'gates', said: null, forms: [{ text: 'gate', hits: 1, files: 1 }] },
    ]);
  });

  it('may have nothing in it, or too much', () => {
    expect(reduce('what is it that they do?')).toMatchObject({ terms: [] });
    expect(reducedText(reduce('what is it?'), new Set())).toBe('');
    expect(reduce(`${'gate flood '.repeat(5000)}?`).terms).toHaveLength(2);
    expect(reduce('"'.repeat(100_000)).terms).toEqual([]);
    expect(rowsOf({ words: 'a b c'.split(' '), quoted: false })).toEqual(['a b c', 'a b', 'b c']);
    expect(runsOf('who? '.repeat(100_000), new Set()).left).toEqual(['who']);
  });
});
