import { readCtm, wordCtmIssue, writeCtm, type SpokenWord } from '@larder/core/dialogue';

describe('words with times as NIST’s scoring programs have them', () => {
  it('are read at their place in the whole, without remarks and without other choices', () => {
    const text = `;; made by nobody
talk A 0.10 0.30 the 0.97
talk A 0.40 0.20 low
talk A 0.60 * <ALT_BEGIN>
talk A 0.60 0.40 water 1.7
talk A * * <ALT>
talk A 0.60 0.40 quarter 0.2
talk A * * <ALT_END>
talk A 0.05 0.05 at -1

`;
    expect(readCtm(text, 5000)).toEqual({
      words: [
        { text: 'at', startMs: 5050, endMs: 5100, certainty: 0 },
        { text: 'the', startMs: 5100, endMs: 5400, certainty: 0.97 },
        { text: 'low', startMs: 5400, endMs: 5600, certainty: 0.5 },
        { text: 'water', startMs: 5600, endMs: 6000, certainty: 1 },
      ],
      issues: [],
    });
  });

  it('are told of where they are none', () => {
    const { issues, words } = readCtm(
      'hello\na 1 x 0.1 word\na 1 0.1 -2 word\na 1 Infinity 1 word\na 1 0.1 0.1 good sure\n',
      0,
    );
    expect(issues.map(wordCtmIssue)).toEqual(
      [1, 2, 3, 4].map((line) => `Line ${line} is not “sound channel start duration word”.`),
    );
    expect(words).toEqual([{ text: 'good', startMs: 100, endMs: 200, certainty: 0.5 }]);
    const many = readCtm('a 1 0 1 word\n'.repeat(20_002), 0);
    expect([many.words.length, many.issues]).toEqual([20_000, [{ code: 'too-many', line: 20_001 }]]);
  });

  it('are written so that they are read as the same', () => {
    const words: SpokenWord[] = [
      { text: 'low', startMs: 5100, endMs: 5400, certainty: 0.25 },
      { text: 'water', startMs: 5400, endMs: 6001, certainty: 1 },
    ];
    expect(readCtm(writeCtm('talk', words, 5000), 5000)).toEqual({ words, issues: [] });
  });
});
