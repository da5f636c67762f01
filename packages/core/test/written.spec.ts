import {
  aligned,
  cuesOfTurns,
  isWrittenTable,
  partnersOf,
  passageRows,
  placeOfMs,
  readTime,
  readWrittenTable,
  readWrittenText,
  spokenOfCues,
  wordWrittenIssue,
  writeText,
  type SpokenWord,
  type WrittenTurn,
} from '@larder/core/dialogue';
import { writeRows } from '@larder/core/interchange/table';
import { countingById, formatTimecode, type Counting } from '@larder/core/timecode';
import { numbers } from './numbers';

const PAL = countingById('25') as Counting;
const at10 = { counting: PAL, startFrame: 10 * 3600 * 25 };
const bare = { counting: null, startFrame: 0 };
const turn = (text: string, startMs: number | null = null, speaker = '', endMs: number | null = null): WrittenTurn => ({
  ...{ startMs, endMs, speaker, text },
});
const heardOf = (text: string, stepMs = 500): SpokenWord[] =>
  text.split(' ').map((word, n) => ({ text: word, startMs: n * stepMs, endMs: n * stepMs + 400, certainty: 0.8 }));

describe('a time as people write it', () => {
  it.each([
    ['10:00:01:05', at10, 1200],
    ['00:00:01:05', at10, 1200],
    ['10:00:02', at10, 2000],
    ['1:02', at10, 62_000],
    ['75:30', bare, 4_530_000],
    ['0:01:02.5', bare, 62_500],
    ['00:01:02,250', bare, 62_250],
    ['10:00:01:25', at10, null],
    ['10:00:01:05', bare, null],
    ['1:62', bare, null],
    ['1:75:00', bare, null],
    ['soon', bare, null],
  ])('%s', (text, times, ms) => {
    expect(readTime(text, times)).toBe(ms);
  });
});

describe('a transcript that somebody typed', () => {
  it('is read with its times and who speaks, a paragraph at a time', () => {
    const text = `[10:00:01:00] Wren Osk: She kept the lower lock
for thirty years.

10:00:05:00 - And the gates?
Osk: Iron. Note this: oak is better.

It is 10:04 by the church clock: late.`;
    expect(readWrittenText(text, at10)).toEqual({
      turns: [
        turn('She kept the lower lock for thirty years.', 1000, 'Wren Osk'),
        turn('And the gates?', 5000),
        turn('Iron. Note this: oak is better.', null, 'Osk'),
        turn('It is 10:04 by the church clock: late.', null, ''),
      ],
      issues: [],
    });
    expect(readWrittenText('10:04 was the train.\n\n(0:04) On time.', bare).turns).toEqual([
      turn('10:04 was the train.'),
      turn('On time.', 4000),
    ]);
    expect(readWrittenText(' \r\n\r\n', at10).turns).toEqual([]);
  });

  it('is read as it was written by us, as text and as a table', () => {
    const spoken = spokenOfCues(
      [
        { startMs: 1000, endMs: 3000, id: '', text: 'She kept the lock.', voice: 'Wren', classes: [] },
        { startMs: 6000, endMs: 7000, id: '', text: 'And the gates?', voice: '', classes: [] },
      ],
      60_000,
    );
    const placeOf = (ms: number) => formatTimecode(at10.startFrame + placeOfMs(ms, PAL.rate), PAL);
    const texts = (turns: readonly WrittenTurn[]) =>
      turns.map(({ speaker, startMs, text }) => [startMs, speaker, text]);
    const expected = [
      [1000, 'Wren', 'She kept the lock.'],
      [6000, '', 'And the gates?'],
    ];
    expect(texts(readWrittenText(writeText(spoken, placeOf), at10).turns)).toEqual(expected);
    const table = writeRows(passageRows(spoken, placeOf), ',');
    expect([table, 'Who,Said\n', writeText(spoken, placeOf), 'Said, and done\n'].map(isWrittenTable)).toEqual([
      ...[true, true, false, false],
    ]);
    expect(texts(readWrittenTable(table, at10).turns)).toEqual(expected);
    expect(readWrittenTable(table, at10).turns.map(({ endMs }) => endMs)).toEqual([3000, 7000]);
  });

  it('says which column is missing, and which times are none', () => {
    const [issue] = readWrittenTable('Start;Notes\n0:01;hello\n', bare).issues;
    expect(issue).toEqual({ code: 'no-text-column', heading: ['Start', 'Notes'] });
    expect(wordWrittenIssue(issue as never)).toContain('“Start”, “Notes”');
    const read = readWrittenTable('TC In\tWho\tText\n0:01\tWren\thello\nlater\t\tthere\n\t\t\n', bare);
    expect(read).toEqual({
      turns: [turn('hello', 1000, 'Wren'), turn('there')],
      issues: [{ code: 'row-time', row: 3, value: 'later' }],
    });
    expect(wordWrittenIssue(read.issues[0] as never)).toContain('Row 3: “later”');
  });

  it('goes on until the next begins, or as long as it takes to say; without any time it has none', () => {
    const cues = cuesOfTurns([
      turn('one', 1000),
      turn('two three four five', 1200),
      turn('six'),
      turn('seven', 90_000, '', 91_000),
    ]);
    expect(cues?.map(({ startMs, endMs }) => [startMs, endMs])).toEqual([
      [1000, 1200],
      [1200, 2530],
      [2530, 3030],
      [90_000, 91_000],
    ]);
    expect(cuesOfTurns([turn('one'), turn('two')])).toBeNull();
  });
});

describe('a text without times', () => {
  it('has the times of the words that were heard, and shares the time where something else was', () => {
    const heard = heardOf('she kept the slower lock for thirty ears and the gates');
    const { same, speakers, words } = aligned(
      [turn('She kept the lower lock', null, 'Wren'), turn('for thirty-odd years. And then the gates?', null, 'Osk')],
      heard,
    );
    expect(words.map(({ text, startMs, endMs }) => `${text} ${startMs}-${endMs}`)).toEqual([
      'She 0-400',
      'kept 500-900',
      'the 1000-1400',
      'lower 1500-1900',
      'lock 2000-2400',
      'for 2500-2900',
      'thirty-odd 3000-3400',
      'years. 3500-3900',
      'And 4000-4400',
      // Nobody was heard to say it: it lies in what time there is between its neighbours.
      'then 4400-4500',
      'the 4500-4900',
      'gates? 5000-5400',
    ]);
    expect(same).toBe(8);
    expect(speakers).toEqual([
      { fromMs: 0, name: 'Wren' },
      { fromMs: 2500, name: 'Osk' },
    ]);
  });

  it('is found where it is spoken in a long recording, however badly that was heard', () => {
    const below = numbers(11);
    const vocabulary = Array.from({ length: 800 }, (_unused, n) => `w${n.toString(36)}${'aeiou'[n % 5]}${n % 7}`);
    const text = Array.from({ length: 6000 }, () => vocabulary[below(800)] as string);
    const heard: SpokenWord[] = [];
    const truth = new Map<number, number>();
    text.forEach((word, n) => {
      const luck = below(100);
      // Left out, heard as another, or something heard that was not said.
      if (luck < 8) return;
      if (luck >= 20) truth.set(n, heard.length);
      heard.push({
        text: luck < 20 ? (vocabulary[below(800)] as string) : word,
        startMs: n * 300,
        endMs: n * 300 + 250,
        certainty: 0.5,
      });
      if (luck > 94)
        heard.push({
          text: vocabulary[below(800)] as string,
          startMs: n * 300 + 250,
          endMs: n * 300 + 299,
          certainty: 0.2,
        });
    });
    const partner = partnersOf(
      text,
      heard.map((word) => word.text),
    );
    const right = [...truth].filter(([n, at]) => partner[n] === at).length;
    expect(right / truth.size).toBeGreaterThan(0.985);
    const { words } = aligned([turn(text.join(' '))], heard);
    expect(words.map((word) => word.text)).toEqual(text);
    words.forEach(({ endMs, startMs }, n) => {
      expect(endMs).toBeGreaterThanOrEqual(startMs);
      expect(startMs).toBeGreaterThanOrEqual(words[n - 1]?.startMs ?? 0);
    });
    const late = words.filter(({ startMs }, n) => Math.abs(startMs - n * 300) > 1500).length;
    expect(late / words.length).toBeLessThan(0.01);
  });

  it('of another recording, or of nothing, fits nowhere, and takes no longer for it', () => {
    expect(aligned([turn('a b c')], []).same).toBe(0);
    expect(aligned([], heardOf('a b c'))).toEqual({ words: [], speakers: [], same: 0 });
    const many = (letter: string) => Array.from({ length: 50_000 }, (_unused, n) => `${letter}${n}`);
    expect(partnersOf(many('a'), many('b')).every((each) => each === -1)).toBe(true);
    const again = Array.from({ length: 50_000 }, () => 'the');
    expect(partnersOf(again, again)).toHaveLength(50_000);
  });
});
