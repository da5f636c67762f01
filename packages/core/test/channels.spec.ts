import { speakerAt, wovenChannels } from '@larder/core/dialogue';

const word = (text: string, startMs: number, endMs = startMs + 200) => ({ text, startMs, endMs, certainty: 0.5 });

describe('channels that are recorded together', () => {
  it('are one transcript, word after word, each by whoever has the channel', () => {
    const { speakers, words } = wovenChannels([
      { name: 'Wren', words: [word('low', 0), word('water', 300), word('yes', 2000)] },
      { name: 'Osk', words: [word('which', 1000), word('gate', 1300)] },
      { name: 'Nobody', words: [] },
    ]);
    expect(words.map(({ text }) => text)).toEqual(['low', 'water', 'which', 'gate', 'yes']);
    expect(speakers).toEqual([
      { fromMs: 0, name: 'Wren' },
      { fromMs: 1000, name: 'Osk' },
      { fromMs: 2000, name: 'Wren' },
    ]);
  });

  it('are told apart where two speak at once, to the millisecond', () => {
    const { speakers, words } = wovenChannels([
      { name: 'Wren', words: [word('low', 0), word('water', 300, 301), word('now', 600)] },
      { name: 'Osk', words: [word('which', 0), word('gate', 300, 900), word('here', 600)] },
    ]);
    const said = words.map(({ startMs, text }) => `${speakerAt(speakers, startMs)} ${text}`);
    expect(said.toSorted()).toEqual(['Osk gate', 'Osk here', 'Osk which', 'Wren low', 'Wren now', 'Wren water']);
    words.forEach(({ endMs, startMs }, at) => {
      expect(startMs).toBeGreaterThanOrEqual(words[at - 1]?.startMs ?? 0);
      expect(endMs).toBeGreaterThan(startMs);
    });
    expect(speakers.every(({ fromMs }, at) => fromMs > (speakers[at - 1]?.fromMs ?? -1))).toBe(true);
    expect(wovenChannels([])).toEqual({ words: [], speakers: [] });
  });
});
