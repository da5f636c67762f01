import fc from 'fast-check';
import { readTimedText, writeTimedText } from '@larder/core/interchange/timed-text';
import { cueOf, MARKER_COLOURS, MARKER_KINDS, timedNotes, type NewMarker } from '@larder/core/markers';
import { COUNTINGS, countingById, type Counting } from '@larder/core/timecode';

const counted = (id: string): Counting => {
  const counting = countingById(id);
  if (!counting) throw new Error(`${id} is no counting`);
  return counting;
};
const texts = async (source: string) => (await readTimedText(source))?.cues.map(({ text }) => text);

describe('WebVTT', () => {
  // W3C WebVTT, Candidate Recommendation of 4 April 2019, section 1.1: cues that carry voices, with words of our own.
  const FIRST = `WEBVTT

00:11.000 --> 00:13.000
<v Mara Oakley>We are in Ottermouth

00:13.000 --> 00:16.000
<v Mara Oakley>We are actually at the lock, just down the towpath

00:16.000 --> 00:18.000
<v Mara Oakley>from the bell foundry
`;

  it('is read with who speaks', async () => {
    expect(await readTimedText(FIRST)).toEqual({
      format: 'vtt',
      issues: [],
      cues: [
        [11_000, 13_000, 'We are in Ottermouth'],
        [13_000, 16_000, 'We are actually at the lock, just down the towpath'],
        [16_000, 18_000, 'from the bell foundry'],
      ].map(([startMs, endMs, text]) => ({ startMs, endMs, text, id: '', voice: 'Mara Oakley', classes: [] })),
    });
  });

  // The same, its sections on comments, styles, identifiers, settings, times and escapes.
  it('passes over comments, styles and settings; identifiers, hours and escapes are read', async () => {
    const source = `\ufeffWEBVTT - with a title\r
\r
STYLE\r
::cue { color: papayawhip }\r
\r
NOTE\r
two lines of\r
comment\r
\r
crédit de transcription\r
00:04.000 --> 00:05.000 line:0 position:20% align:start\r
Transcrit par &lt;personne&gt; &amp; amis\r
\r
12:00:00.001 --> 12:00:00.500\r
<b>late</b> <i>enough</i>\r
two lines`;
    expect((await readTimedText(source))?.cues).toMatchObject([
      { id: 'crédit de transcription', startMs: 4000, endMs: 5000, text: 'Transcrit par <personne> & amis' },
      { id: '', startMs: 43_200_001, endMs: 43_200_500, text: 'late enough\ntwo lines' },
    ]);
  });

  it('is not what does not begin with its name', async () => {
    for (const source of ['', 'WEBVTTX\n\n00:01.000 --> 00:02.000\na', 'no captions', '\0\0\0']) {
      expect(await readTimedText(source)).toBeNull();
    }
  });

  it('takes identifiers that are all numbers for counters, though some be missing', async () => {
    const cue = (id: string, at: number) => `${id}\n00:0${at}.000 --> 00:0${at}.500\nx\n`;
    const ids = async (...cues: string[]) =>
      (await readTimedText(`WEBVTT\n\n${cues.join('\n')}`))?.cues.map(({ id }) => id);
    expect(await ids(cue('1', 1), cue('3', 3))).toEqual(['', '']);
    expect(await ids(cue('1', 1), cue('bell', 3))).toEqual(['1', 'bell']);
  });

  it('tells which lines of times are none, and keeps the other cues', async () => {
    const read = await readTimedText(
      'WEBVTT\n\n00:01.000 --> 00:02.000\none\n\nbad --> 00:03.000\ntwo\n\n00:09.000 --> 00:04.000\nthree\n\n00:05.000 --> 00:06.000\nfour\n',
    );
    expect(read?.cues.map(({ text }) => text)).toEqual(['one', 'four']);
    expect(read?.issues).toEqual([
      { code: 'time', line: 6 },
      { code: 'backwards', line: 9 },
    ]);
  });
});

describe('SubRip text', () => {
  // Common practice, no source: counters, commas before the thousandths, tags of HTML, places in braces.
  it('is read with its tags taken off', async () => {
    const source =
      '\ufeff1\r\n00:00:01,000 --> 00:00:02,500\r\n<i>Low</i> {\\an8}water\r\n3 < 4 & so\r\n\r\n2\r\n00:00:03,000 --> 00:00:04,000\r\n<font color="#ff0">x</font>\r\n';
    expect(await readTimedText(source)).toEqual({
      format: 'srt',
      issues: [],
      cues: [
        { id: '', startMs: 1000, endMs: 2500, text: 'Low water\n3 < 4 & so', voice: '', classes: [] },
        { id: '', startMs: 3000, endMs: 4000, text: 'x', voice: '', classes: [] },
      ],
    });
  });

  it('is written with counters, and read again', async () => {
    const cues = [
      { id: 'gone', startMs: 3_723_004, endMs: 3_724_000, text: 'a\n\nb --> c', voice: 'Mara', classes: ['note'] },
    ];
    const written = writeTimedText(cues, 'srt');
    expect(written).toBe('1\n01:02:03,004 --> 01:02:04,000\nMara: a\n\u00a0\nb -> c\n');
    expect(await texts(written)).toEqual(['Mara: a\n\nb -> c']);
  });
});

describe('timed notes', () => {
  const word = fc
    .string({ unit: 'grapheme', maxLength: 20 })
    .map((text) => text.replace(/[\r\n\0\u2028\u2029\u0085]|-->|\u00a0/g, ''));
  const name = word.map((text) => text.trim().replace(/\s+/g, ' '));
  // A line of nothing but spaces comes back empty.
  const note = fc
    .array(word, { maxLength: 4 })
    .map((lines) => lines.map((line) => (line.trim() === '' ? '' : line)).join('\n'));
  const markers = fc.array(
    fc.record({
      kind: fc.constantFrom(...MARKER_KINDS),
      colour: fc.constantFrom(...MARKER_COLOURS),
      start: fc.integer({ min: 0, max: 999_000 }),
      span: fc.option(fc.integer({ min: 2, max: 900 }), { nil: null }),
      ...{ name, note },
    }),
    { minLength: 1, maxLength: 8 },
  );

  it.each([...COUNTINGS.map(({ id }) => id), null])('are the same markers after WebVTT, counted in %s', async (id) => {
    const counting = id === null ? null : counted(id);
    await fc.assert(
      fc.asyncProperty(markers, async (drawn) => {
        const made = drawn.map(({ span, ...rest }): NewMarker => ({
          ...rest,
          end: span === null ? null : rest.start + span,
        }));
        const text = writeTimedText(
          made.map((marker) => cueOf(marker, counting)),
          'vtt',
        );
        const { cues = [] } = (await readTimedText(text)) ?? {};
        const read = timedNotes(cues, { counting, length: 1_000_000, startFrame: 0 });
        // Names that are but counters are taken for counters.
        const named = made.some(({ name: each }) => !/^\d*$/.test(each)) || made.every(({ name: each }) => each === '');
        if (named) expect(read.markers).toEqual(made);
        else
          expect(read.markers.map(({ start, end, kind }) => [start, end, kind])).toEqual(
            made.map(({ start, end, kind }) => [start, end, kind]),
          );
      }),
      { numRuns: 60 },
    );
  });

  const cue = (startMs: number, endMs: number, text = 'x') => ({
    id: '',
    startMs,
    endMs,
    text,
    voice: '',
    classes: [],
  });

  it('beyond the end are counted as timecode if that brings them in, in real time from where it begins', () => {
    const hour = 3_600_000;
    const timeline = { counting: counted('23.976'), length: 24 * 600, startFrame: 24 * 3600 };
    // 100 s after the first frame are 2,397.6 frames of 23.976.
    const read = timedNotes(
      [cue(hour, hour + 1000), cue(hour + 100_000, hour + 101_000), cue(2 * hour, 2 * hour + 1)],
      timeline,
    );
    expect(read).toMatchObject({ countedFrom: 'timecode', outside: 1 });
    expect(read.markers.map(({ start, end }) => [start, end])).toEqual([
      [0, 24],
      [2398, 2422],
    ]);
  });

  it('that run over the end stop there; those after it are counted', () => {
    const read = timedNotes([cue(1000, 9000), cue(4000, 5000)], {
      counting: counted('25'),
      length: 100,
      startFrame: 0,
    });
    expect(read).toMatchObject({ countedFrom: 'start', outside: 1, markers: [{ start: 25, end: 100 }] });
  });

  it('of others keep who speaks, and are names if they are one short line', () => {
    const timeline = { counting: null, length: 10_000, startFrame: 0 };
    const said = (more: object) => timedNotes([{ ...cue(0, 1000), ...more }], timeline).markers[0];
    expect(said({ text: 'Low water', voice: 'Mara' })).toMatchObject({ name: 'Mara: Low water', note: '' });
    expect(said({ text: 'Low\nwater' })).toMatchObject({ name: '', note: 'Low\nwater', kind: 'note' });
    expect(said({ text: 'Low water', id: 'bell' })).toMatchObject({ name: 'bell', note: 'Low water' });
    expect(said({ text: 'x'.repeat(6000) })?.note).toHaveLength(5000);
  });
});
