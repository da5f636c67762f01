import fc from 'fast-check';
import {
  insertChunks,
  readBext,
  readBwf,
  readIxml,
  writeBext,
  writeIxml,
  type Bext,
  type ByteSource,
} from '@larder/core/interchange/bwf';
import { readEdl, wordEdlIssue, writeEdl } from '@larder/core/interchange/edl';
import { readIso6709, writeIso6709 } from '@larder/core/interchange/iso6709';
import { readOtio, wordOtioIssue, writeOtio, type MediaForm } from '@larder/core/interchange/otio';
import type { CutEvent, CutList } from '@larder/core/sequence';
import { countingById, formatTimecode, rescaleFrames, type Counting } from '@larder/core/timecode';

const at = (id: string): Counting => countingById(id) as Counting;

const name = fc.stringMatching(/^[A-Za-z0-9][A-Za-z0-9 _.é&-]{0,20}[A-Za-z0-9]$/);
/** Any cut list whose record times add up from 01:00:00:00. */
const cutLists: fc.Arbitrary<CutList> = fc
  .tuple(
    fc.constantFrom('25', '29.97df', '23.976', '59.94', '50').map(at),
    fc.array(
      fc.tuple(
        fc.constantFrom('25', '29.97df', '29.97', '23.976', '50', '59.94df').map(at),
        fc.integer({ min: 0, max: 1_000_000 }),
        fc.integer({ min: 1, max: 2000 }),
        name,
        fc.option(name),
        fc.boolean(),
      ),
      { minLength: 1, maxLength: 8 },
    ),
    name,
  )
  .map(([counting, rows, title]) => {
    let start = 3600 * counting.nominal;
    const events = rows.map(([sourceCounting, from, frames, clipName, reel, hasSound], index): CutEvent => {
      const record = { start, end: start + Math.max(1, rescaleFrames(frames, sourceCounting.rate, counting.rate)) };
      start = record.end;
      return {
        number: index + 1,
        reel,
        clipName,
        sourceFile: `shelf/${clipName}`,
        assetId: index + 5,
        hasPicture: true,
        hasSound,
        source: { start: from, end: from + frames },
        sourceCounting,
        record,
      };
    });
    return { title, counting, events };
  });

describe('CMX 3600 edit decision list', () => {
  // Column rules as published for the CMX 3600 (event 1-3, reel from 6, channels from 15, transition 22, times from 30); values from memory.
  const example: CutList = {
    title: 'Slow Water',
    counting: at('25'),
    events: [
      {
        number: 1,
        reel: 'A001',
        clipName: 'lock.mov',
        sourceFile: null,
        assetId: null,
        hasPicture: true,
        hasSound: false,
        source: { start: 900_000, end: 900_125 },
        sourceCounting: at('25'),
        record: { start: 90_000, end: 90_125 },
      },
    ],
  };
  it('puts every part in its column', () => {
    const line = writeEdl(example).split('\r\n')[2] as string;
    expect(line).toBe('001  A001     V      C       10:00:00:00 10:00:05:00 01:00:00:00 01:00:05:00');
    expect([
      line.slice(0, 3),
      line.slice(5, 13).trim(),
      line.slice(14, 20).trim(),
      line[21],
      line.slice(29, 40),
      line.slice(41, 52),
      line.slice(53, 64),
      line.slice(65, 76),
    ]).toEqual(['001', 'A001', 'V', 'C', '10:00:00:00', '10:00:05:00', '01:00:00:00', '01:00:05:00']);
    expect(line).toHaveLength(76);
  });
  it('reads a list typed by hand, with tabs, lower gaps and a dissolve', () => {
    const text =
      'TITLE: BY HAND\nFCM: DROP FRAME\n\n1 REEL1 V C 01:00:59;28 01:01:00;02 01:00:00;00 01:00:00;02\n* a remark\n002\tREEL2\tV\tD\t024\t00:00:00;00 00:00:01;00 01:00:00;02 01:00:01;02\n';
    const { list, issues } = readEdl(text, at('29.97'));
    expect(list.counting.id).toBe('29.97df');
    // 01:00:59;28 to 01:01:00;02 is two frames, for ;00 and ;01 of that minute do not exist (SMPTE ST 12-1).
    expect(list.events.map(({ source }) => source.end - source.start)).toEqual([2, 30]);
    expect(issues).toEqual([{ code: 'transition-ignored', line: 6, transition: 'D' }]);
  });
  it('names every line that is wrong and reads the rest', () => {
    const text =
      'TITLE: T\r\nnonsense\r\n001  A V C 99:00:00:00 00:00:01:00 00:00:00:00 00:00:01:00\r\n002  A V C 00:00:02:00 00:00:01:00 00:00:00:00 00:00:01:00\r\n003  A V C 00:00:00:00 00:00:01:00 00:00:00:00 00:00:01:00\r\n';
    const { list, issues } = readEdl(text, at('25'));
    expect(issues.map(({ code, line }) => `${code}@${line}`)).toEqual([
      'not-an-event@2',
      'bad-timecode@3',
      'out-before-in@4',
    ]);
    expect(list.events.map(({ number }) => number)).toEqual([3]);
    for (const issue of [...issues, { code: 'no-events', line: 1 } as const])
      expect(wordEdlIssue(issue)).toMatch(/\.$/);
  });
  it('long reels are cut to eight, stay apart, and come back whole', () => {
    const events = ['CARD_2026_A', 'CARD_2026_B'].map((reel, index) => ({
      ...(example.events[0] as CutEvent),
      number: index + 1,
      reel,
    }));
    const text = writeEdl({ ...example, events });
    expect(text).toContain('CARD_202');
    expect(text).toContain('CARD_202'.slice(0, 7) + '2');
    expect(readEdl(text, at('25')).list.events.map(({ reel }) => reel)).toEqual(['CARD_2026_A', 'CARD_2026_B']);
  });
  it('a reel called AX is not taken for none', () => {
    const events = ['AX', null].map((reel, index) => ({ ...(example.events[0] as CutEvent), number: index + 1, reel }));
    expect(readEdl(writeEdl({ ...example, events }), at('25')).list.events.map(({ reel }) => reel)).toEqual([
      'AX',
      null,
    ]);
  });
  it('refuses what the format cannot number', () =>
    expect(() =>
      writeEdl({ ...example, events: Array.from({ length: 1000 }, () => example.events[0] as CutEvent) }),
    ).toThrow(RangeError));
  it('any list, written and read, is the same list', () => {
    fc.assert(
      fc.property(cutLists, (list) => {
        const { list: back, issues } = readEdl(writeEdl(list), list.counting.dropFrame ? at('29.97') : list.counting);
        expect(issues).toEqual([]);
        expect(back).toEqual(list);
      }),
    );
  });
  it('never throws on whatever is brought in', () => {
    fc.assert(fc.property(fc.string(), (text) => void readEdl(text, at('25'))));
  });
});

describe('OpenTimelineIO', () => {
  it('any list, written and read, is the same list', () => {
    fc.assert(
      fc.property(cutLists, (list) => {
        const text = writeOtio(list, (event) => ({
          ...{ urls: { original: `file:///${event.sourceFile}` }, available: event.source, active: 'original' },
        }));
        expect(readOtio(text)).toEqual({ list, issues: [] });
      }),
    );
  });
  it('carries markers on their clips and the name of a marking; an EDL has them as comments', () => {
    const example = fc.sample(cutLists, { numRuns: 1, seed: 7 })[0] as CutList;
    const [first, ...rest] = example.events as [CutEvent, ...CutEvent[]];
    const source = { start: first.source.start + 5, end: first.source.start + 5 };
    const record = { start: first.record.start + 5, end: first.record.start + 6 };
    const marked = {
      ...first,
      marking: 'Archive',
      markers: [
        { kind: 'note', name: 'She laughs', note: 'twice\nor more', colour: 'violet', source, record } as const,
      ],
    };
    const list = { ...example, events: [marked, ...rest] };
    const { tracks } = JSON.parse(writeOtio(list, () => undefined)) as {
      tracks: { children: { children: { metadata: object; markers: object[] }[] }[] };
    };
    const [clip] = tracks.children[0]?.children ?? [];
    expect(clip?.metadata).toMatchObject({ neat_larder: { marking: 'Archive' } });
    expect(clip?.markers).toMatchObject([
      {
        ...{ OTIO_SCHEMA: 'Marker.2', name: 'She laughs', comment: 'twice\nor more', color: 'PURPLE' },
        marked_range: { start_time: { value: source.start }, duration: { value: 0 } },
        metadata: { neat_larder: { kind: 'note', colour: 'violet' } },
      },
    ]);
    const lines = writeEdl(list).split('\r\n');
    expect(lines).toContain('* MARKED AS: Archive');
    expect(lines).toContain(
      `* MARKER: ${formatTimecode(record.start, example.counting)} violet She laughs: twice or more`,
    );
  });
  it('names each form of a clip that there is, and which is worked with; where that is not there, the original', () => {
    const list = fc.sample(cutLists, { numRuns: 1, seed: 7 })[0] as CutList;
    const urls = { original: 'file:///o.mov', proxy: 'file:///p.mp4' };
    const clipOf = (active: MediaForm, at: Partial<typeof urls>) => {
      const text = writeOtio(list, ({ source }) => ({ urls: at, available: source, active }));
      expect(readOtio(text)).toEqual({ list, issues: [] });
      const root = JSON.parse(text) as {
        tracks: { children: { children: Record<string, unknown>[] }[] };
      };
      return root.tracks.children[0]?.children[0];
    };
    expect(clipOf('proxy', urls)).toMatchObject({
      media_references: {
        DEFAULT_MEDIA: { OTIO_SCHEMA: 'ExternalReference.1', target_url: 'file:///o.mov' },
        proxy: { OTIO_SCHEMA: 'ExternalReference.1', target_url: 'file:///p.mp4' },
      },
      active_media_reference_key: 'proxy',
    });
    expect(clipOf('mezzanine', urls)).toMatchObject({ active_media_reference_key: 'DEFAULT_MEDIA' });
    // What has no original has none under that key, and is still a clip that can be read.
    expect(clipOf('proxy', { proxy: urls.proxy })).toMatchObject({
      media_references: { DEFAULT_MEDIA: { OTIO_SCHEMA: 'MissingReference.1' } },
      active_media_reference_key: 'proxy',
    });
  });
  it('writes the published shape', () => {
    const list = fc.sample(cutLists, { numRuns: 1, seed: 7 })[0] as CutList;
    const root = JSON.parse(writeOtio(list, () => undefined)) as {
      OTIO_SCHEMA: string;
      tracks: {
        OTIO_SCHEMA: string;
        children: {
          OTIO_SCHEMA: string;
          kind: string;
          children: {
            OTIO_SCHEMA: string;
            source_range: unknown;
            media_references: Record<string, { OTIO_SCHEMA: string }>;
          }[];
        }[];
      };
    };
    const track = root.tracks.children[0];
    expect([root.OTIO_SCHEMA, root.tracks.OTIO_SCHEMA, track?.OTIO_SCHEMA, track?.kind]).toEqual([
      'Timeline.1',
      'Stack.1',
      'Track.1',
      'Video',
    ]);
    expect(track?.children[0]).toMatchObject({
      OTIO_SCHEMA: 'Clip.2',
      media_references: { DEFAULT_MEDIA: { OTIO_SCHEMA: 'MissingReference.1' } },
      source_range: { OTIO_SCHEMA: 'TimeRange.1', start_time: { OTIO_SCHEMA: 'RationalTime.1' } },
    });
  });
  it('reads the older clip with one media reference, and gaps as time', () => {
    // The shape of Clip.1 and Gap.1 in the published OpenTimelineIO file format; values from memory.
    const range = (start: number, frames: number) => ({
      OTIO_SCHEMA: 'TimeRange.1',
      start_time: { OTIO_SCHEMA: 'RationalTime.1', rate: 24, value: start },
      duration: { OTIO_SCHEMA: 'RationalTime.1', rate: 24, value: frames },
    });
    const clip = {
      OTIO_SCHEMA: 'Clip.1',
      name: 'one',
      source_range: range(10, 5),
      media_reference: { OTIO_SCHEMA: 'ExternalReference.1', target_url: 'one.mov' },
    };
    const tracks = {
      OTIO_SCHEMA: 'Stack.1',
      children: [
        {
          OTIO_SCHEMA: 'Track.1',
          kind: 'Video',
          children: [{ OTIO_SCHEMA: 'Gap.1', source_range: range(0, 12) }, clip, { OTIO_SCHEMA: 'Transition.1' }],
        },
      ],
    };
    const { list, issues } = readOtio(JSON.stringify({ OTIO_SCHEMA: 'Timeline.1', name: 't', tracks }));
    expect(list?.events).toMatchObject([
      { clipName: 'one', sourceFile: 'one.mov', source: { start: 10, end: 15 }, record: { start: 12, end: 17 } },
    ]);
    expect(issues).toEqual([{ code: 'unknown-child', at: 'child 3', schema: 'Transition.1' }]);
  });
  it('says what is wrong with what is brought in, and never throws', () => {
    for (const text of ['{', '[]', '{"OTIO_SCHEMA":"Clip.2"}', '{"OTIO_SCHEMA":"Timeline.1"}']) {
      const { list, issues } = readOtio(text);
      expect(list).toBeNull();
      for (const issue of issues) expect(wordOtioIssue(issue)).not.toBe('');
      expect(issues).toHaveLength(1);
    }
    fc.assert(
      fc.property(
        fc.jsonValue(),
        (value) =>
          void readOtio(
            JSON.stringify({
              OTIO_SCHEMA: 'Timeline.1',
              tracks: {
                children: [
                  {
                    OTIO_SCHEMA: 'Track.1',
                    kind: 'Video',
                    children: [value, { OTIO_SCHEMA: 'Clip.2', source_range: value }],
                  },
                ],
              },
            }),
          ),
      ),
    );
  });
});

describe('broadcast WAVE', () => {
  const bext: Bext = {
    description: 'sSCENE=12',
    originator: 'Recorder',
    originatorReference: 'REF1',
    originationDate: '2026-05-03',
    originationTime: '09:41:07',
    timeReferenceSamples: 1_673_136_000,
    version: 1,
    codingHistory: 'A=PCM,F=48000,W=24,M=mono\r\n',
  };
  const memory = (bytes: Uint8Array): ByteSource => ({
    bytes: bytes.length,
    read: async (offset, length) => bytes.slice(offset, offset + length),
  });
  const wave = (() => {
    const bytes = new Uint8Array(44 + 8);
    new TextEncoder().encodeInto('RIFF', bytes);
    bytes.set(new TextEncoder().encode('WAVEfmt '), 8);
    new DataView(bytes.buffer).setUint32(16, 16, true);
    bytes.set(new TextEncoder().encode('data'), 36);
    new DataView(bytes.buffer).setUint32(40, 8, true);
    return bytes;
  })();
  it('keeps every field where EBU Tech 3285 puts it', () => {
    const chunk = writeBext(bext);
    const text = (start: number, length: number) =>
      new TextDecoder().decode(chunk.subarray(start, start + length)).replace(/\0+$/, '');
    // EBU Tech 3285 v2, section 2.3: 256 description, 32 originator, 32 reference, 10 date, 8 time, 8 time reference, 2 version, history at 602.
    expect([text(0, 256), text(256, 32), text(288, 32), text(320, 10), text(330, 8), text(602, 80)]).toEqual([
      'sSCENE=12',
      'Recorder',
      'REF1',
      '2026-05-03',
      '09:41:07',
      bext.codingHistory,
    ]);
    expect(new DataView(chunk.buffer).getUint32(338, true)).toBe(1_673_136_000);
    expect(new DataView(chunk.buffer).getUint16(346, true)).toBe(1);
    expect(readBext(chunk)).toEqual({ ...bext, codingHistory: bext.codingHistory.trimEnd() });
    expect(readBext(chunk.subarray(0, 601))).toBeNull();
  });
  it('finds bext and iXML among the chunks of a file, odd lengths padded', async () => {
    const ixml = {
      project: 'Slow Water',
      scene: '12',
      take: '3',
      tape: 'S01',
      note: 'wind & rain',
      circled: true,
      tracks: new Map([
        [1, 'Boom'],
        [2, 'Lav'],
      ]),
    };
    const file = insertChunks(wave, [
      { id: 'bext', content: writeBext({ ...bext, codingHistory: 'odd' }) },
      { id: 'iXML', content: new TextEncoder().encode(writeIxml(ixml)) },
    ]);
    const read = await readBwf(memory(file));
    expect(read.bext?.timeReferenceSamples).toBe(bext.timeReferenceSamples);
    expect(read.ixml).toEqual(ixml);
    expect(new DataView(file.buffer).getUint32(4, true)).toBe(file.length - 8);
  });
  it('reads whatever it is given without throwing', async () => {
    expect(await readBwf(memory(new Uint8Array(5)))).toEqual({ bext: null, ixml: null });
    await fc.assert(
      fc.asyncProperty(
        fc.uint8Array({ maxLength: 200 }),
        async (tail) => void (await readBwf(memory(Uint8Array.from([...wave, ...tail])))),
      ),
    );
    expect(readIxml('<!DOCTYPE a [<!ENTITY b "c">]><BWFXML><SCENE>&b;</SCENE></BWFXML>')).toBeNull();
    expect(readIxml('not xml')).toBeNull();
  });
});

describe('ISO 6709', () => {
  // The forms of ISO 6709:2008 Annex H, with its worked examples as commonly reprinted (Eiffel tower, Mount Everest); from memory.
  it.each([
    ['+40.6894-074.0447/', 40.6894, -74.0447, null],
    ['+27.5916+086.5640+8850CRSWGS_84/', 27.5916, 86.564, 8850],
    ['+2735.4960+08633.8400/', 27.5916, 86.564, null],
    ['+273529.76+0863350.4/', 27.5916, 86.564, null],
    ['-90+000+2800CRSWGS_84/', -90, 0, 2800],
  ])('%s', (text, latitude, longitude, altitude) => {
    const read = readIso6709(text);
    expect(read?.latitude).toBeCloseTo(latitude, 4);
    expect(read?.longitude).toBeCloseTo(longitude, 4);
    expect(read?.altitude).toBe(altitude);
  });
  it.each(['', '40.7,-74.0', '+91+000/', '+40.6894', '+406+074/', '+4099-07400/'])('refuses %s', (text) =>
    expect(readIso6709(text)).toBeNull(),
  );
  it('written and read is the same place to four decimals', () => {
    fc.assert(
      fc.property(
        fc.integer({ min: -900_000, max: 900_000 }),
        fc.integer({ min: -1_800_000, max: 1_800_000 }),
        (latitude, longitude) => {
          const back = readIso6709(
            writeIso6709({ latitude: latitude / 10_000, longitude: longitude / 10_000, altitude: null }),
          );
          expect([Math.round((back?.latitude ?? 0) * 10_000), Math.round((back?.longitude ?? 0) * 10_000)]).toEqual([
            latitude,
            longitude,
          ]);
        },
      ),
    );
  });
});
