import { execFileSync } from 'node:child_process';
import { mkdirSync, symlinkSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { CODE_POINTS, type CodePointTable } from '@larder/core/colour';
import { insertChunks, writeBext, writeIxml } from '@larder/core/interchange/bwf';
import type { Inspection } from '@larder/contract';
import { allJobsEnded, type Client, makeClip, scanned, TestLibrary } from './kit';
import { wave } from './wave';

let library: TestLibrary;
let manager: Client;
let storageId: number;
let root: string;

beforeAll(async () => {
  library = await TestLibrary.start();
  manager = await library.as('manager');
  root = library.shelf('card');
  storageId = (await manager.call('newStorage', { name: 'Card', rootPath: root })).id;
}, 120_000);
afterAll(() => library.stop(), 60_000);

const ffmpeg = (...args: string[]) => execFileSync('ffmpeg', ['-v', 'error', '-y', ...args], { encoding: 'utf8' });
const inspect = (path: string) => manager.call('inspect', { path }, storageId);
const value = ({ sheets }: Inspection, title: string, label: string) =>
  sheets.find((sheet) => sheet.title === title)?.rows.find((row) => row.label === label)?.value;
/** What the encoder’s option calls these two, which are printed by the other names. */
const OPTION_NAMES: Readonly<Record<string, string>> = {
  'transfer bt470m': 'gamma22',
  'transfer bt470bg': 'gamma28',
};
const shelfFile = (what: string, path: string, more = '') =>
  manager.raw('GET', `/files/shelf/${storageId}/${what}?path=${encodeURIComponent(path)}${more}`);

describe('what a file says of itself', () => {
  // The name is put into a stream by the encoder, which knows the standard's numbers by itself; the numbers are then read back
  // from the stream's own bits. So table and standard are compared by way of a reference implementation of H.264 (ITU-T H.264
  // annex E refers to the tables of H.273).
  const spoken: Readonly<Record<CodePointTable, readonly [option: string, field: string]>> = {
    primaries: ['-color_primaries', 'colour_primaries'],
    transfer: ['-color_trc', 'transfer_characteristics'],
    matrix: ['-colorspace', 'matrix_coefficients'],
  };
  it.each(Object.keys(spoken) as CodePointTable[])(
    'the numbers of the code points for %s are those in the stream',
    (table) => {
      const path = join(library.folder, 'tagged.mp4');
      const [option, field] = spoken[table];
      for (const { id, code } of CODE_POINTS[table]) {
        // x264 refuses the constraints of the identity matrix on YCbCr, and does not know the youngest two.
        if (['gbr', 'smpte2085', 'chroma-derived-nc', 'chroma-derived-c', 'ictcp', 'ebu3213'].includes(id)) continue;
        ffmpeg(
          ...`-f lavfi -i testsrc2=s=64x36:d=0.1 -c:v libx264 -pix_fmt yuv420p ${option} ${OPTION_NAMES[`${table} ${id}`] ?? id}`.split(
            ' ',
          ),
          path,
        );
        const trace = execFileSync(
          'sh',
          [
            '-c',
            `ffmpeg -v trace -i '${path}' -c copy -bsf:v trace_headers -f null - 2>&1 | grep -m1 -E '${field} .*= '`,
          ],
          { encoding: 'utf8' },
        );
        expect([id, Number(/= (\d+)/.exec(trace)?.[1])]).toEqual([id, code]);
      }
    },
  );

  it('picture, colour, sound and slate, in words with their numbers', async () => {
    makeClip(join(root, 'A001C001.mov'), {
      timecode: '10:00:00:00',
      reel: 'A001',
      size: '320x180',
      more: [...'-color_primaries bt2020 -color_trc smpte2084 -colorspace bt2020nc -color_range tv'.split(' ')],
    });
    const said = await inspect('A001C001.mov');
    expect(said).toMatchObject({
      kind: 'video',
      width: 320,
      height: 180,
      durationFrames: 25,
      channels: 1,
      unusual: [],
      reason: null,
    });
    expect(value(said, 'Picture', 'Raster')).toBe('320 × 180');
    expect(value(said, 'Picture', 'Pixel aspect')).toBe('Square');
    expect(value(said, 'Picture', 'Scan')).toBe('Progressive');
    expect(value(said, 'Picture', 'Rate')).toBe('25');
    expect(value(said, 'Picture', 'Bit depth')).toBe('8 bit');
    expect(value(said, 'Picture', 'Chroma')).toBe('4:2:0');
    expect(value(said, 'Picture', 'Alpha')).toBe('No');
    expect(value(said, 'Colour (ITU-T H.273)', 'Primaries')).toBe('9, BT.2020, BT.2100');
    expect(value(said, 'Colour (ITU-T H.273)', 'Transfer')).toBe('16, SMPTE ST 2084 (PQ)');
    expect(value(said, 'Colour (ITU-T H.273)', 'Range')).toBe('Limited (video)');
    expect(value(said, 'Recording', 'Start timecode')).toBe('10:00:00:00');
    expect(value(said, 'Recording', 'Reel')).toBe('A001');
    expect(value(said, 'Sound', 'Channels')).toBe('1');
  });

  it.each([
    ['yuv422p10le', 'ffv1', '10 bit', '4:2:2', 'No'],
    ['yuva444p10le', 'ffv1', '10 bit', '4:4:4', 'Yes'],
    ['rgba', 'png', '8 bit', 'RGB', 'Yes'],
    ['gray16le', 'ffv1', '16 bit', 'None (grey)', 'No'],
  ])('%s', async (format, codec, depth, chroma, alpha) => {
    ffmpeg(
      ...`-f lavfi -i testsrc2=s=64x36:d=0.2 -pix_fmt ${format} -c:v ${codec}`.split(' '),
      join(root, `${format}.mkv`),
    );
    const said = await inspect(`${format}.mkv`);
    expect(['Bit depth', 'Chroma', 'Alpha'].map((label) => value(said, 'Picture', label))).toEqual([
      depth,
      chroma,
      alpha,
    ]);
  });

  it('what is unusual: rate, size, timecode that a catalogued clip of the reel has too', async () => {
    ffmpeg(
      ...'-f lavfi -i testsrc2=s=64x36:r=30:d=2 -vf'.split(' '),
      "select='not(eq(mod(n,7),3))'",
      ...'-fps_mode vfr -c:v libx264 -pix_fmt yuv420p'.split(' '),
      join(root, 'phone.mp4'),
    );
    expect((await inspect('phone.mp4')).unusual.map(({ code }) => code)).toEqual(['variable-rate', 'no-timecode']);
    ffmpeg(...'-f lavfi -i testsrc=s=63x35:d=0.2 -c:v ffv1 -timecode 01:00:00:00'.split(' '), join(root, 'odd.mkv'));
    expect((await inspect('odd.mkv')).unusual).toEqual([{ code: 'odd-size', width: 63, height: 35 }]);
    const shelf = library.shelf('reel');
    makeClip(join(shelf, 'first.mov'), { timecode: '10:00:00:12', reel: 'A001' });
    await scanned(manager, 'Reel', shelf);
    expect((await inspect('A001C001.mov')).unusual).toEqual([
      { code: 'timecode-overlap', reel: 'A001', other: 'first.mov', from: '10:00:00:12', to: '10:00:01:00' },
    ]);
  });

  it('a clip that lies beside it, catalogued or not, is a neighbour too', async () => {
    makeClip(join(root, 'roll/C001C001.mov'), { timecode: '05:00:00:00', reel: 'C001' });
    makeClip(join(root, 'roll/C001C002.mov'), { timecode: '05:00:00:24', reel: 'C001', tone: 300 });
    expect((await inspect('roll/C001C002.mov')).unusual).toEqual([
      { code: 'timecode-overlap', reel: 'C001', other: 'C001C001.mov', from: '05:00:00:24', to: '05:00:01:00' },
    ]);
  });

  it('broadcast extension and iXML of a location recorder', async () => {
    const bext = writeBext({
      description: 'Bell, close',
      originator: 'Recorder',
      originatorReference: '',
      originationDate: '2026-05-03',
      originationTime: '06:00:00',
      timeReferenceSamples: 1_036_800_000,
      version: 1,
      codingHistory: '',
    });
    const ixml = writeIxml({
      project: null,
      scene: '40',
      take: '1',
      tape: 'S01',
      note: 'wind',
      circled: null,
      tracks: new Map([[1, 'Boom']]),
    });
    writeFileSync(
      join(root, 'S01T01.wav'),
      insertChunks(wave(2), [
        { id: 'bext', content: bext },
        { id: 'iXML', content: new TextEncoder().encode(ixml) },
      ]),
    );
    const said = await inspect('S01T01.wav');
    expect(value(said, 'Broadcast extension (EBU Tech 3285)', 'Description')).toBe('Bell, close');
    expect(value(said, 'Broadcast extension (EBU Tech 3285)', 'Time reference')).toBe('1036800000 samples');
    expect(value(said, 'iXML', 'Note')).toBe('wind');
    expect(value(said, 'iXML', 'Scene')).toBe('40');
    expect(value(said, 'iXML', 'Track 1')).toBe('Boom');
  });

  // ExifTool (Debian's libimage-exiftool-perl) writes the file and reads it back; what we read is compared with what it reads.
  it('EXIF and XMP as ExifTool reads them', async () => {
    const path = join(root, 'recce.jpg');
    ffmpeg(...'-f lavfi -i testsrc2=s=64x36 -frames:v 1'.split(' '), path);
    const written = {
      'EXIF:Make': 'Ottermouth Optical',
      'EXIF:Model': 'Pinhole 3',
      'EXIF:ISO': '400',
      'EXIF:FNumber': '5.6',
      'EXIF:FocalLength': '35',
      'EXIF:Artist': 'Wren Halloway',
      'XMP-dc:Description': 'The lower lock & its keeper',
      'XMP-dc:Subject': 'lock',
      'XMP-xmpDM:Scene': '12',
      'XMP-xmp:Rating': '4',
    };
    execFileSync('exiftool', [
      '-q',
      '-overwrite_original',
      ...Object.entries(written).map(([tag, text]) => `-${tag}=${text}`),
      '-XMP-dc:Subject+=dawn',
      path,
    ]);
    const [read] = JSON.parse(execFileSync('exiftool', ['-j', '-G1', '-n', path], { encoding: 'utf8' })) as Record<
      string,
      unknown
    >[];
    const said = await inspect('recce.jpg');
    for (const [label, tag] of [
      ['Make', 'IFD0:Make'],
      ['Model', 'IFD0:Model'],
      ['Artist', 'IFD0:Artist'],
    ] as const)
      expect(value(said, 'EXIF', label)).toBe(String(read?.[tag]));
    expect(value(said, 'EXIF', 'ISOSpeedRatings')).toBe(String(read?.['ExifIFD:ISO']));
    expect(value(said, 'EXIF', 'FNumber')).toBe(`f/${String(read?.['ExifIFD:FNumber'])}`);
    expect(value(said, 'EXIF', 'FocalLength')).toBe(`${String(read?.['ExifIFD:FocalLength'])} mm`);
    expect(value(said, 'XMP', 'dc:description')).toBe(read?.['XMP-dc:Description']);
    expect(value(said, 'XMP', 'dc:subject')).toBe((read?.['XMP-dc:Subject'] as string[]).join(', '));
    expect(value(said, 'XMP', 'xmpDM:scene')).toBe(String(read?.['XMP-xmpDM:Scene']));
    expect(value(said, 'XMP', 'xmp:Rating')).toBe(String(read?.['XMP-xmp:Rating']));
  });

  it('what lies is told, and what cannot be read says why', async () => {
    writeFileSync(join(root, 'lies.mov'), wave(1));
    expect(await inspect('lies.mov')).toMatchObject({ kind: 'audio', channels: 1 });
    writeFileSync(join(root, 'torn.mov'), 'no film');
    expect(await inspect('torn.mov')).toMatchObject({
      kind: 'unreadable',
      reason: expect.stringMatching(/\w/) as string,
    });
    writeFileSync(join(root, 'report.pdf'), '%PDF-1.4');
    expect(await inspect('report.pdf')).toMatchObject({ kind: 'document', bytes: 8 });
  });
});

describe('looking and listening before it comes in', () => {
  beforeAll(() => {
    makeClip(join(root, 'count.mp4'), { seconds: 3, size: '320x180', more: ['-g', '50'] });
    const eight = Array.from({ length: 8 }, (_unused, index) =>
      index === 5 ? `anullsrc=r=44100:cl=mono:d=1[a${index}]` : `sine=f=${200 + index * 100}:d=1[a${index}]`,
    );
    ffmpeg(
      '-filter_complex',
      `${eight.join(';')};${eight.map((_unused, index) => `[a${index}]`).join('')}amerge=inputs=8[a]`,
      ...'-map [a] -c:a pcm_s16le'.split(' '),
      join(root, 'eight.wav'),
    );
  });

  it.each([0, 1, 37, 74])('frame %d is that frame', async (frame) => {
    const response = await shelfFile('frame', 'count.mp4', `&frame=${frame}`);
    expect(response.headers.get('content-type')).toBe('image/jpeg');
    const ours = join(library.folder, 'frame.jpg');
    writeFileSync(ours, Buffer.from(await response.arrayBuffer()));
    // By decoding from the start and counting, which no seek can spoil.
    const theirs = (number: number) => {
      const path = join(library.folder, `theirs-${number}.png`);
      ffmpeg('-i', join(root, 'count.mp4'), '-vf', `select=eq(n\\,${number})`, '-frames:v', '1', path);
      return path;
    };
    const likeness = (path: string) =>
      Number(
        /average:([\d.]+|inf)/.exec(
          execFileSync('sh', ['-c', `ffmpeg -i '${ours}' -i '${path}' -lavfi psnr -f null - 2>&1 | tail -1`], {
            encoding: 'utf8',
          }),
        )?.[1],
      );
    const right = likeness(theirs(frame));
    for (const other of [frame - 1, frame + 1].filter((each) => each >= 0 && each < 75))
      expect(right).toBeGreaterThan(likeness(theirs(other)));
  });

  it('plays on the fly, from any frame on, with all eight channels as they are', async () => {
    const picture = join(library.folder, 'played.mp4');
    writeFileSync(picture, Buffer.from(await (await shelfFile('play', 'count.mp4', '&frame=25')).arrayBuffer()));
    const count = execFileSync(
      'ffprobe',
      [
        ...'-v error -count_frames -select_streams v -show_entries stream=nb_read_frames -of csv=p=0'.split(' '),
        picture,
      ],
      { encoding: 'utf8' },
    );
    expect(Number.parseInt(count, 10)).toBe(50);
    const sound = join(library.folder, 'played-sound.mp4');
    writeFileSync(sound, Buffer.from(await (await shelfFile('play', 'eight.wav')).arrayBuffer()));
    const samples = (path: string) =>
      ffmpeg('-i', path, ...'-f hash -hash md5 -map 0:a -c:a pcm_s16le -'.split(' ')).trim();
    expect(samples(sound)).toBe(samples(join(root, 'eight.wav')));
  });

  it('meters every channel, and tells which are silent', async () => {
    const heard = await manager.call('listen', { path: 'eight.wav' }, storageId);
    expect(heard.peaksDb).toHaveLength(8);
    // A sine of ffmpeg has a peak of an eighth of full scale: −18.06 dB.
    for (const [index, peak] of heard.peaksDb.entries())
      if (index === 5) expect(peak).toBeNull();
      else expect(peak).toBeCloseTo(-18.06, 1);
    expect(heard.unusual).toEqual([{ code: 'silent-channels', channels: [6], of: 8 }]);
  });

  it.each(['../../etc/passwd', '/etc/passwd', 'a/../../x.mov', '', '.hidden.mov'])('“%s” is refused', async (path) => {
    for (const what of ['frame', 'play', 'file']) expect((await shelfFile(what, path)).status).toBe(404);
    expect((await manager.refused('inspect', { path }, storageId)).status).toBeGreaterThanOrEqual(404);
  });

  it('a link that leads out of the storage is not followed', async () => {
    const outside = library.shelf('outside');
    makeClip(join(outside, 'secret.mov'));
    symlinkSync(outside, join(root, 'out'));
    symlinkSync(join(outside, 'secret.mov'), join(root, 'one.mov'));
    mkdirSync(join(root, 'plain'), { recursive: true });
    for (const path of ['out/secret.mov', 'one.mov']) {
      expect((await shelfFile('file', path)).status).toBeGreaterThanOrEqual(404);
      expect((await manager.refused('inspect', { path }, storageId)).status).toBeGreaterThanOrEqual(404);
    }
  });
});

describe('loudness', () => {
  // EBU Tech 3341 (2016), table 1, cases 1 and 2: a stereo sine of 1 kHz at −23 and at −33 dBFS in each channel.
  it.each([
    ['tech3341-1.wav', -23],
    ['tech3341-2.wav', -33],
  ])('%s is %d LUFS', async (name, level) => {
    const shelf = library.shelf('loud');
    const amplitude = 10 ** (level / 20);
    ffmpeg(
      ...'-f lavfi -i'.split(' '),
      `aevalsrc=${amplitude}*sin(2*PI*1000*t)|${amplitude}*sin(2*PI*1000*t):s=48000:d=20`,
      ...'-c:a pcm_s24le'.split(' '),
      join(shelf, name),
    );
    await scanned(manager, 'Loud', shelf);
    await allJobsEnded(manager);
    const { revision } = await manager.call('status', null);
    const { assets } = await manager.call('search', { query: `name:"${name}"`, atLeast: revision });
    expect(Math.abs((assets[0]?.loudness?.integratedLufs ?? 0) - level)).toBeLessThanOrEqual(0.1);
    expect(assets[0]?.loudness?.truePeakDb).toBeCloseTo(level, 0);
  });
});
