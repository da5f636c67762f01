import { readSpoken, SpokenIndex, spokenTotals, type Pronouncer } from '@larder/core/dialogue';
import { numbers } from './numbers';

const nobody: Pronouncer = { ways: () => [], isHeard: () => true };
const DAY_MS = 86_400_000;
const find = (index: SpokenIndex, said: string) =>
  index.find({ items: readSpoken(said), how: 'any', withinMs: 0 }, 0, null);
/** Words a second apart, in turns of who speaks. */
function spokenOf(turns: readonly (readonly [name: string, text: string])[]) {
  let ms = 0;
  const speakers: { fromMs: number; name: string }[] = [];
  const words = turns.flatMap(([name, text]) => {
    speakers.push({ fromMs: ms, name });
    return text.split(' ').map((word) => {
      ms += 1000;
      return { text: word, startMs: ms - 1000, endMs: ms - 100, certainty: null };
    });
  });
  return { words, speakers };
}

describe('totals of what is said', () => {
  it('are by the day it was shot, by reel, and by whoever says each hit', () => {
    const index = new SpokenIndex(nobody);
    index.upsert([
      {
        id: 1,
        wholeId: 0,
        spoken: spokenOf([
          ['Wren', 'a bell here'],
          ['Osk', 'the bell and a bell'],
        ]),
      },
      { id: 2, wholeId: 0, spoken: spokenOf([['', 'no bell']]) },
      {
        id: 3,
        wholeId: 0,
        spoken: spokenOf([
          ['Osk', 'bell'],
          ['Wren', 'nothing'],
        ]),
      },
      { id: 4, wholeId: 0, spoken: spokenOf([['Wren', 'a gate']]) },
    ]);
    const about = (id: number) => ({
      shotMs: { 1: 5 * DAY_MS + 1, 3: 5 * DAY_MS + DAY_MS - 1 }[id] ?? null,
      reel: id === 2 ? '' : 'A001',
    });
    expect(spokenTotals(index, find(index, 'bell'), about)).toEqual({
      days: [
        { dayMs: 5 * DAY_MS, hits: 4, files: 2 },
        { dayMs: null, hits: 1, files: 1 },
      ],
      reels: [
        { name: 'A001', hits: 4, files: 2 },
        { name: '', hits: 1, files: 1 },
      ],
      speakers: [
        { name: 'Osk', hits: 3, files: 2 },
        { name: '', hits: 1, files: 1 },
        { name: 'Wren', hits: 1, files: 1 },
      ],
      more: { reels: 0, speakers: 0 },
    });
  });

  it('are as many as there are hits, however many files, days, reels and people', () => {
    const below = numbers(7);
    const index = new SpokenIndex(nobody);
    const reels = new Map<number, string>();
    let said = 0;
    for (let id = 1; id <= 400; id += 1) {
      const turns = Array.from({ length: 4 }, (): [string, string] => {
        const bells = below(3);
        said += bells;
        return [`P${below(60)}`, ['well', ...Array.from({ length: bells }, () => 'bell')].join(' ')];
      });
      reels.set(id, `R${id % 50}`);
      index.upsert([{ id, wholeId: 0, spoken: spokenOf(turns) }]);
    }
    const found = find(index, 'bell');
    const totals = spokenTotals(index, found, (id) => ({ shotMs: id * DAY_MS, reel: reels.get(id) ?? '' }));
    const sum = (all: readonly { hits: number }[]) => all.reduce((before, { hits }) => before + hits, 0);
    expect([sum(totals.days), found.notches[0]?.hits]).toEqual([said, said]);
    expect(totals.days.map(({ dayMs }) => dayMs)).toEqual(
      found.files.map(({ id }) => id * DAY_MS).sort((a, b) => a - b),
    );
    expect([totals.reels.length, totals.more.reels]).toEqual([40, 10]);
    expect([totals.speakers.length, totals.more.speakers]).toEqual([40, 20]);
    expect(totals.reels.map(({ hits }) => hits)).toEqual(totals.reels.map(({ hits }) => hits).sort((a, b) => b - a));
  });
});
