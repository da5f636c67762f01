import { readTimedText, writeTimedText, type Cue } from '../src/interchange/timed-text';

const document = (body: string, root = '', head = '') => `<?xml version="1.0" encoding="UTF-8"?>
<!-- made by hand -->
<tt xmlns="http://www.w3.org/ns/ttml" xmlns:ttp="http://www.w3.org/ns/ttml#parameter" xmlns:ttm="http://www.w3.org/ns/ttml#metadata" xml:lang="en" ${root}>
<head>${head}</head>
<body>${body}</body>
</tt>`;
const cuesIn = async (source: string) =>
  (await readTimedText(source))?.cues.map(({ startMs, endMs, text }) => [startMs, endMs, text]);

describe('TTML', () => {
  it.each([
    ['clock times with fractions', '', '00:00:01.5', '01:00:00.25', 1500, 3_600_250],
    ['clock times with frames', 'ttp:frameRate="25"', '00:00:01:05', '00:00:02:00', 1200, 2000],
    ['the frames of a rate of NTSC', 'ttp:frameRate="30" ttp:frameRateMultiplier="1000 1001"', '0s', '30f', 0, 1001],
    ['frames where no rate is said, which are thirty', '', '15f', '60f', 500, 2000],
    ['parts of frames', 'ttp:frameRate="25" ttp:subFrameRate="2"', '00:00:00:01.1', '1s', 60, 1000],
    ['ticks', 'ttp:tickRate="10000000"', '15000000t', '25000000t', 1500, 2500],
    ['ticks where no rate is said, which are seconds', '', '1t', '2t', 1000, 2000],
    ['offsets of each kind', '', '0.5m', '1h', 30_000, 3_600_000],
    ['thousandths', '', '20ms', '0.5s', 20, 500],
  ])('has %s', async (_what, root, begin, end, startMs, endMs) => {
    expect(await cuesIn(document(`<div><p begin="${begin}" end="${end}">x</p></div>`, root))).toEqual([
      [startMs, endMs, 'x'],
    ]);
  });

  it('counts times from the beginning of what a paragraph is in, one after the other where it says so', async () => {
    expect(
      await cuesIn(
        document(
          `<div begin="10s" end="20s"><p begin="1s" dur="2s">a</p><p begin="4s">b</p></div>
           <div begin="30s" timeContainer="seq"><p dur="1s">c</p><p begin="1s" dur="1s">d</p></div>`,
        ),
      ),
    ).toEqual([
      [11_000, 13_000, 'a'],
      [14_000, 20_000, 'b'],
      [30_000, 31_000, 'c'],
      [32_000, 33_000, 'd'],
    ]);
  });

  it('has breaks, entities, spans with times of their own, and who speaks', async () => {
    const head =
      '<metadata><ttm:agent xml:id="w" type="person"><ttm:name type="full">Wren H.</ttm:name></ttm:agent></metadata>';
    const read = await readTimedText(
      document(
        `<div><p xml:id="p1" begin="0s" end="2s" ttm:agent="w">At <span>low</span>
           water<br/>&lt;hush&gt; &#233;cluse</p>
         <p begin="3s" end="9s"><span begin="0s" end="1s">one </span><span begin="1s" end="2s" ttm:agent="nobody">two</span></p></div>`,
        '',
        head,
      ),
    );
    expect(read?.cues).toEqual([
      {
        ...{ startMs: 0, endMs: 2000, id: '', classes: [], voice: 'Wren H.' },
        text: 'At low water\n<hush> écluse',
      },
      { startMs: 3000, endMs: 4000, id: '', classes: [], voice: '', text: 'one' },
      { startMs: 4000, endMs: 5000, id: '', classes: [], voice: 'nobody', text: 'two' },
    ]);
    expect(read?.issues).toEqual([]);
  });

  it('tells what cannot be read, by its line, and takes all else', async () => {
    const read = await readTimedText(
      document(
        `<div>
<p begin="later" end="2s">a</p>
<p begin="2s" end="1s">b</p>
<p>c</p>
<p begin="1s" end="2s">   </p>
<p begin="3s" end="4s">d</p></div>`,
      ),
    );
    expect(read?.cues.map(({ text }) => text)).toEqual(['d']);
    expect(read?.issues).toEqual([
      { code: 'time', line: 6 },
      { code: 'backwards', line: 7 },
      { code: 'time', line: 8 },
    ]);
  });

  it.each([
    ['another XML document', '<?xml version="1.0"?><rss/>'],
    ['a document type', '<!DOCTYPE tt [<!ENTITY a "b">]><tt xmlns="http://www.w3.org/ns/ttml"/>'],
    ['a document type after its beginning', '<?xml version="1.0"?><tt><!DOCTYPE x></tt>'],
  ])('is not %s', async (_what, source) => expect(await readTimedText(source)).toBeNull());

  it('is read however it is broken, without a fault', async () => {
    const whole = document('<div><p begin="0s" end="1s">a<br/>b</p><p begin="1s" end="2s">c</p></div>');
    for (let length = 0; length < whole.length; length += 3)
      await expect(readTimedText(whole.slice(0, length))).resolves.not.toBeUndefined();
    const deep = document(`<div><p begin="0s" end="1s">${'<span>'.repeat(900)}x${'</span>'.repeat(900)}</p></div>`);
    await expect(readTimedText(deep)).resolves.not.toBeUndefined();
    // Would not come back in a lifetime if each comment could end at any of the ends that follow.
    expect(await readTimedText(`${'<!-- -->'.repeat(200)}x`)).toBeNull();
    const nested = `<metadata><ttm:agent xml:id="a">${'<i>'.repeat(50_000)}${'</i>'.repeat(50_000)}</ttm:agent></metadata>`;
    expect(await readTimedText(document('<div><p begin="0s" end="1s">x</p></div>', '', nested))).toBeNull();
  });

  it('comes back as it left: times, words, breaks, signs and who speaks', async () => {
    const cues: Cue[] = [
      { startMs: 500, endMs: 2000, id: '', text: 'She & “he” <said>\nnothing --> at all', voice: 'Osk', classes: [] },
      { startMs: 2000, endMs: 360_000_001, id: '', text: 'écluse', voice: 'Wren "of" <Ottermouth>', classes: [] },
      { startMs: 4000, endMs: 4001, id: '', text: 'x', voice: '', classes: [] },
      { startMs: 5000, endMs: 6000, id: '', text: 'again', voice: 'Osk', classes: [] },
    ];
    expect(await readTimedText(writeTimedText(cues, 'ttml'))).toEqual({ format: 'ttml', cues, issues: [] });
    expect((await readTimedText(writeTimedText([], 'ttml')))?.cues).toEqual([]);
    // XML has no sign for a bell.
    const [first] = cues;
    const belled = writeTimedText(first ? [{ ...first, text: 'a\u0007b' }] : [], 'ttml');
    expect((await readTimedText(belled))?.cues[0]?.text).toBe('ab');
  });
});
