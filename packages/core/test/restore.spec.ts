import { readArchive, wordArchiveIssue, writeArchive } from '@larder/core/interchange/archive';
import { gathered } from '@larder/core/gather';
import { byReel, timecodesOf, wantedRanges, writeRestoreList, type ToRestore } from '@larder/core/relink';
import { countingById } from '@larder/core/timecode';
import { numbers } from './numbers';

const SAID = `Tape,Path,Bytes,XXH64,Reel,Rate,Start,Frames,Shelf mark
SW01,A001/A001C001.mov,1200,44BC2CF5AD770999,A001,25,10:00:00:00,250,x
SW01,"with, a comma.wav",88,,,,,,
SW02,A001/A001C001.mov,1200,,A001,29.97df,01:00:00;02,,
`;

describe('the catalogue of an archive', () => {
  it('is a table as RFC 4180 has it, with its columns in any order and others beside them', () => {
    const { files, issues } = readArchive(SAID);
    expect(issues).toEqual([]);
    expect(files.map(({ id }) => id)).toEqual([
      'SW01/A001/A001C001.mov',
      'SW01/with, a comma.wav',
      'SW02/A001/A001C001.mov',
    ]);
    expect(files[0]).toMatchObject({
      tape: 'SW01',
      facts: {
        ...{ bytes: 1200, checksum: '44bc2cf5ad770999', reel: 'A001', durationFrames: 250 },
        ...{ startFrame: 10 * 3600 * 25, counting: { id: '25' }, fingerprint: null },
      },
    });
    expect(files[1]?.facts).toMatchObject({ checksum: null, reel: null, counting: null, startFrame: null });
    // SMPTE ST 12-1: an hour of drop-frame has 107,892 frames.
    expect(files[2]?.facts.startFrame).toBe(107_892 + 2);
  });

  it('is read back as it was written', () => {
    const { files } = readArchive(SAID);
    expect(readArchive(writeArchive(files))).toEqual({ files, issues: [], more: 0 });
  });

  it.each<[string, string, string]>([
    ['tape,path\nA,b.mov\n', 'no-column', 'There is no column “bytes”. The columns are: tape, path, bytes'],
    ['tape,path,bytes\n,b.mov,1\n', 'no-tape', 'Row 2 does not say in “tape”'],
    ['tape,path,bytes\n../up,b.mov,1\n', 'no-tape', 'Row 2 does not say in “tape”'],
    ['tape,path,bytes\nA,,1\n', 'no-path', 'Row 2 has no “path”'],
    ['tape,path,bytes\nA,../b.mov,1\n', 'path', '“../b.mov” is no path within a tape'],
    ['tape,path,bytes\nA,/b.mov,1\n', 'path', '“/b.mov” is no path within a tape'],
    ['tape,path,bytes\nA,b.mov,many\n', 'bytes', 'Row 2: “many” in “bytes” is no whole number'],
    ['tape,path,bytes\nA,b.mov,\n', 'bytes', 'Row 2: “” in “bytes” is no whole number'],
    ['tape,path,bytes,frames\nA,b.mov,1,-3\n', 'frames', '“-3” in “frames” is no whole number'],
    ['tape,path,bytes,xxh64\nA,b.mov,1,abc\n', 'hash', '“abc” is no xxHash64'],
    ['tape,path,bytes,rate\nA,b.mov,1,26\n', 'rate', '“26” is no rate that is known'],
    ['tape,path,bytes,rate,start\nA,b.mov,1,25,10:00:00:25\n', 'start', '“10:00:00:25” is no timecode at its rate'],
    ['tape,path,bytes,start\nA,b.mov,1,10:00:00:00\n', 'start', 'is no timecode at its rate'],
    ['tape,path,bytes\nA,b.mov,1\nA,b.mov,2\n', 'twice', 'Row 3: A/b.mov stands in it twice'],
    ['', 'table', 'The file has no heading'],
  ])('says of %j what is wrong with it: %s', (text, code, words) => {
    const { issues } = readArchive(text);
    expect(issues.map((issue) => issue.code)).toContain(code);
    expect(issues.map(wordArchiveIssue).join(' ')).toContain(words);
  });

  it('gives the rows that are well beside those that are not', () => {
    const { files, issues } = readArchive('tape,path,bytes\nA,b.mov,1\nA,c.mov,x\nA,d.mov,2\n');
    expect(files.map(({ facts }) => facts.path)).toEqual(['b.mov', 'd.mov']);
    expect(issues).toEqual([{ code: 'bytes', row: 3, said: 'x' }]);
  });

  it('tells the first of many issues, and how many more there are', () => {
    const rows = Array.from({ length: 25 }, (_unused, n) => `A,${n}.mov,x\n`).join('');
    const { files, issues, more } = readArchive(`tape,path,bytes\n${rows}`);
    expect([files.length, issues.length, more]).toEqual([0, 20, 5]);
  });
});

describe('what is wanted of a clip', () => {
  it('is each cut with its handles, joined where they meet, within the clip', () => {
    const cuts = [
      { from: 100, to: 150 },
      { from: 10, to: 20 },
      { from: 170, to: 200 },
    ];
    expect(wantedRanges(cuts, 0, 1000)).toEqual([
      { from: 10, to: 20 },
      { from: 100, to: 150 },
      { from: 170, to: 200 },
    ]);
    expect(wantedRanges(cuts, 12, 1000)).toEqual([
      { from: 0, to: 32 },
      { from: 88, to: 212 },
    ]);
    expect(wantedRanges(cuts, 50, 205)).toEqual([{ from: 0, to: 205 }]);
    expect(wantedRanges([], 50, 205)).toEqual([]);
  });

  it('has every frame that is within the handles of a cut, and no other, in as few ranges as it can', () => {
    for (let seed = 1; seed <= 200; seed += 1) {
      const next = numbers(seed);
      const frames = 1 + next(120);
      const handles = next(15);
      const cuts = Array.from({ length: next(8) }, () => {
        const from = next(frames);
        return { from, to: from + 1 + next(frames - from) };
      });
      const wanted = Array.from({ length: frames }, (_unused, frame) =>
        cuts.some(({ from, to }) => frame >= from - handles && frame < to + handles),
      );
      const ranges = wantedRanges(cuts, handles, frames);
      const got = Array.from({ length: frames }, (_unused, frame) =>
        ranges.some(({ from, to }) => frame >= from && frame < to),
      );
      expect({ seed, got }).toEqual({ seed, got: wanted });
      ranges.slice(1).forEach(({ from }, at) => expect(from).toBeGreaterThan(ranges[at]?.to ?? Infinity));
    }
  });
});

describe('a restore list', () => {
  const one: ToRestore = {
    ...{ reel: 'A002', name: 'A002C001.mov', counting: countingById('25'), startFrame: 90_000, durationFrames: 500 },
    ...{ ranges: [{ from: 0, to: 25 }], lastSeen: 'Cards/A002/A002C001.mov', bytes: 10, checksum: null, tape: null },
    uses: ['One, First cut', 'One, Second cut'],
  };

  it('goes reel by reel as one counts, each from its beginning, with what has no reel at the end', () => {
    const names = [
      { ...one, name: 'd', reel: null },
      { ...one, name: 'c', reel: 'A10' },
      { ...one, name: 'b', reel: 'A2', startFrame: 90_001 },
      { ...one, name: 'a', reel: 'A2' },
    ];
    expect(names.sort(byReel).map(({ name }) => name)).toEqual(['a', 'b', 'c', 'd']);
  });

  it('tells the frame behind the last as the end, and counts what has no timecode from its beginning', () => {
    expect(timecodesOf(one, { from: 0, to: 25 })).toEqual({ start: '01:00:00:00', end: '01:00:01:00', frames: 25 });
    expect(timecodesOf({ ...one, startFrame: null }, null)).toEqual({
      ...{ start: '00:00:00:00', end: '00:00:20:00', frames: 500 },
    });
    expect(timecodesOf({ ...one, counting: null }, null)).toBeNull();
    expect(timecodesOf({ ...one, durationFrames: null }, null)).toBeNull();
  });

  it('is a table with a row for each range', () => {
    const rows = [
      { ...one, ranges: [...one.ranges, { from: 100, to: 110 }] },
      { ...one, reel: null, ranges: [], tape: 'T1' },
    ];
    expect(writeRestoreList(rows).split('\r\n')).toEqual([
      'Reel,Clip,Start,End,Frames,Rate,Part,Timecode,Tape,Last seen,Bytes,xxHash64,Needed by',
      'A002,A002C001.mov,01:00:00:00,01:00:01:00,25,25,range,source,,Cards/A002/A002C001.mov,10,,"One, First cut; One, Second cut"',
      'A002,A002C001.mov,01:00:04:00,01:00:04:10,10,25,range,source,,Cards/A002/A002C001.mov,10,,"One, First cut; One, Second cut"',
      ',A002C001.mov,01:00:00:00,01:00:20:00,500,25,whole,source,T1,Cards/A002/A002C001.mov,10,,"One, First cut; One, Second cut"',
      '',
    ]);
  });
});

it('things are gathered by what they have in common, in the order in which they came', () => {
  const lists = gathered([5, 2, 3, 8, 0], (each) => (each === 0 ? null : each % 2 === 0 ? 'even' : 'odd'));
  expect([...lists]).toEqual([
    ['odd', [5, 3]],
    ['even', [2, 8]],
  ]);
});
