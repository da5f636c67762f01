import fc from 'fast-check';
import { readLoudness } from '@larder/core/audio';
import { filesOf, placeItem } from '@larder/core/ingest';
import { findXmp, readXmp } from '@larder/core/interchange/xmp';
import { itemsOf, type ShelfItem } from '@larder/core/shelf';

const itemsIn = (folder: string, ...names: string[]): readonly ShelfItem[] =>
  itemsOf(
    names.map((name) => ({ name, bytes: 1, modifiedMs: 1 })),
    folder,
  ).items;
const placed = (item: ShelfItem | undefined, stem: string | null, taken = new Set<string>(), into = 'in') =>
  placeItem(item as ShelfItem, into, stem, taken);

describe('where copies go', () => {
  it('into the folder of their own name, with what goes with them', () => {
    const [clip] = itemsIn('card/A001', 'C1.mov', 'C1.xmp', 'C1.mov.md5');
    expect(placed(clip, null)).toEqual({
      to: 'in/card/A001/C1.mov',
      files: [
        { from: 'card/A001/C1.mov', to: 'in/card/A001/C1.mov' },
        { from: 'card/A001/C1.mov.md5', to: 'in/card/A001/C1.mov.md5' },
        { from: 'card/A001/C1.xmp', to: 'in/card/A001/C1.xmp' },
      ],
    });
    expect(placed(clip, null, new Set(), '').to).toBe('card/A001/C1.mov');
  });
  it('under a new name, which what goes with them takes over', () => {
    const [clip] = itemsIn('', 'C1.MOV', 'c1.xmp', 'C1.mov.md5');
    expect(placed(clip, 'Lock at dawn').files.map(({ to }) => to)).toEqual([
      'in/Lock at dawn.MOV',
      'in/Lock at dawn.mov.md5',
      'in/Lock at dawn.xmp',
    ]);
  });
  it('a sequence keeps its numbers, and its gaps are no files', () => {
    const [shot] = itemsIn('vfx', 's_0001.exr', 's_0002.exr', 's_0004.exr', 's_0005.exr');
    expect(filesOf(shot as ShelfItem)).toEqual([1, 2, 4, 5].map((n) => `vfx/s_000${n}.exr`));
    expect(placed(shot, 'bell').files.map(({ to }) => to)).toEqual([1, 2, 4, 5].map((n) => `in/vfx/bell.000${n}.exr`));
  });
  it('two that would be called the same are told apart, and what is with them goes along', () => {
    const [a, b] = itemsIn('', 'A.mov', 'A.srt', 'B.mov', 'B.srt');
    const taken = new Set<string>();
    expect(placed(a, 'X', taken).files.map(({ to }) => to)).toEqual(['in/X.mov', 'in/X.srt']);
    expect(placed(b, 'X', taken).files.map(({ to }) => to)).toEqual(['in/X-2.mov', 'in/X-2.srt']);
  });
  it('whatever a folder holds, no file goes to where another of it goes, and none is left behind', () =>
    fc.assert(
      fc.property(
        fc.uniqueArray(
          fc
            .tuple(
              fc.constantFrom('a', 'b', 'A', 'shot_001', 'shot_002', 'shot_003'),
              fc.constantFrom('mov', 'wav', 'png', 'xmp', 'srt'),
            )
            .map((parts) => parts.join('.')),
          { maxLength: 20, selector: (name) => name.toLowerCase() },
        ),
        fc.constantFrom(null, 'X', 'a'),
        (names, stem) => {
          const taken = new Set<string>();
          const items = itemsIn('f', ...names);
          const files = items.flatMap((item) => placeItem(item, 'to', stem, taken).files);
          expect(files.map(({ from }) => from).sort()).toEqual(items.flatMap(filesOf).sort());
          expect(new Set(files.map(({ to }) => to.toLowerCase())).size).toBe(files.length);
          for (const { to } of files) expect(to.startsWith('to/f/')).toBe(true);
        },
      ),
    ));
});

// The shapes of values as ISO 16684-1 lists them: simple, as an attribute or an element; alternative; bag; structure.
const PACKET = `<x:xmpmeta xmlns:x="adobe:ns:meta/"><rdf:RDF xmlns:rdf="http://www.w3.org/1999/02/22-rdf-syntax-ns#">
  <rdf:Description rdf:about="" xmp:Rating="4" xmlns:xmp="http://ns.adobe.com/xap/1.0/">
    <dc:title><rdf:Alt><rdf:li xml:lang="x-default">Lower lock</rdf:li></rdf:Alt></dc:title>
    <dc:subject><rdf:Bag><rdf:li>lock</rdf:li><rdf:li>dawn &amp; mist</rdf:li></rdf:Bag></dc:subject>
    <xmpDM:scene>12</xmpDM:scene>
    <xmpDM:startTimecode><rdf:Description><xmpDM:timeValue>10:00:00:00</xmpDM:timeValue></rdf:Description></xmpDM:startTimecode>
  </rdf:Description></rdf:RDF></x:xmpmeta>`;

describe('XMP', () => {
  it('is found in the middle of any bytes, and read in each of its shapes', () => {
    const bytes = Buffer.concat([Buffer.alloc(500, 0xff), Buffer.from(PACKET), Buffer.alloc(300)]);
    expect(readXmp(findXmp(bytes) ?? '')).toEqual([
      { name: 'dc:title', value: 'Lower lock' },
      { name: 'dc:subject', value: 'lock, dawn & mist' },
      { name: 'xmpDM:scene', value: '12' },
      { name: 'xmpDM:startTimecode/xmpDM:timeValue', value: '10:00:00:00' },
      { name: 'xmp:Rating', value: '4' },
    ]);
  });
  it.each([
    '',
    'no packet',
    '<x:xmpmeta>cut off',
    '<!DOCTYPE x [<!ENTITY a "b">]><x:xmpmeta></x:xmpmeta>',
    '<x:xmpmeta><rdf:RDF/></x:xmpmeta>',
  ])('nothing comes of “%s”', (text) => expect(readXmp(findXmp(Buffer.from(text)) ?? text)).toEqual([]));
  it('never throws, whatever it is given', () =>
    fc.assert(
      fc.property(fc.string({ maxLength: 200 }), (text) => {
        expect(Array.isArray(readXmp(`<x:xmpmeta>${text}</x:xmpmeta>`))).toBe(true);
      }),
    ));
});

describe('loudness as ffmpeg sums it up', () => {
  const summary = (integrated: string, range: string, peak: string) => [
    '  Integrated loudness:',
    `    I:         ${integrated} LUFS`,
    '    Threshold: -33.1 LUFS',
    '  Loudness range:',
    `    LRA:       ${range} LU`,
    '    LRA low:   -40.0 LUFS',
    '  True peak:',
    `    Peak:       ${peak} dBFS`,
  ];
  it.each([
    [summary('-23.0', '5.2', '-1.4'), { integratedLufs: -23, rangeLu: 5.2, truePeakDb: -1.4 }],
    [summary('-70.0', '0.0', '-inf'), { integratedLufs: null, rangeLu: null, truePeakDb: null }],
    [
      [...summary('-10.0', '1.0', '0.5'), ...summary('-23.0', '2.0', '-3.0')],
      { integratedLufs: -23, rangeLu: 2, truePeakDb: -3 },
    ],
    [['nothing of the kind'], null],
  ])('%#', (lines, wanted) => expect(readLoudness(lines)).toEqual(wanted));
});
