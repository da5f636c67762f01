import { execFileSync } from 'node:child_process';
import { createHash } from 'node:crypto';
import { mkdtempSync, readFileSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { PLACES } from '../src/script';
import {
  makePiece,
  pathOf,
  piecesOf,
  readScript,
  readStrip,
  STRIP_BLOCKS,
  stripBits,
  stripHeight,
  type Piece,
} from '../src';
import { countingById } from '@larder/core/timecode';

const script = readScript(join(__dirname, '../script/slow-water.yaml'));
let root: string;
beforeAll(() => void (root = mkdtempSync(join(tmpdir(), 'larder-demo-'))));
afterAll(() => rmSync(root, { recursive: true }));

const probe = (path: string, entries: string) =>
  execFileSync('ffprobe', ['-v', 'error', '-show_entries', entries, '-of', 'csv=p=0', path], {
    encoding: 'utf8',
  }).trim();

describe('the script', () => {
  it('holds what real libraries hold', () => {
    expect(piecesOf(script).length).toBeGreaterThanOrEqual(60);
    const rates = new Set(script.clips.map((clip) => clip.rate));
    for (const rate of ['23.976', '25', '29.97df', '50', '59.94']) expect(rates).toContain(rate);
    expect(Math.max(...script.sound.map((sound) => sound.channels))).toBe(8);
    expect(script.clips.some((clip) => clip.size[1] > clip.size[0])).toBe(true);
    expect(script.clips.some((clip) => clip.damage)).toBe(true);
    expect(script.storages.some((storage) => storage.offline)).toBe(true);
    expect(script.sequences.some((sequence) => (sequence.missing ?? []).length > 0)).toBe(true);
    expect(script.storages.some((storage) => storage.managed)).toBe(true);
    expect(script.storages.some((storage) => storage.volume)).toBe(true);
    expect(script.sound.some((sound) => sound.bwf)).toBe(true);
    expect(script.afterwards.map((act) => act.do)).toEqual(
      expect.arrayContaining(['move', 'replace', 'lookalike', 'remove']),
    );
  });
  it('speaks only of places, people, rates and storages that it has', () => {
    const paths = piecesOf(script).map((piece) => pathOf('/root', script, piece));
    expect(new Set(paths).size).toBe(paths.length);
    for (const clip of script.clips) {
      expect(countingById(clip.rate)).not.toBeNull();
      expect(PLACES).toContain(clip.place);
      if (clip.who) expect(script.cast[clip.who]).toBeDefined();
    }
    for (const { storage } of [...script.clips, ...script.sound, ...script.stills])
      expect(script.storages.map((each) => each.name)).toContain(storage);
    const files = [...script.clips, ...script.sound].map(({ file }) => file);
    for (const { file } of script.markers) expect(files).toContain(file);
    const cut = [...script.bins, ...script.projects.flatMap(({ stringOuts }) => stringOuts)];
    for (const { clips } of cut) expect(files).toEqual(expect.arrayContaining([...clips]));
    for (const { folder, storage } of script.archive.tapes)
      expect(
        [...script.clips, ...script.sound].some((each) => each.storage === storage && each.folder.startsWith(folder)),
      ).toBe(true);
  });
});

describe('the frame number in the picture', () => {
  it('reads back, and anything else is none', () => {
    for (const frame of [0, 1, 2, 255, 256, 4095, 65_535])
      expect(readStrip(stripBits(frame).map((bit) => bit * 255))).toBe(frame);
    expect(readStrip(stripBits(5).map((bit, index) => (index === 7 ? 1 - bit : bit) * 255))).toBeNull();
    expect(readStrip([255, 0])).toBeNull();
  });
});

describe('made pieces', () => {
  const clip = script.clips.find((each) => each.file === 'HS_5994_002.mov');
  const short: Piece = {
    type: 'clip',
    piece: { ...(clip as NonNullable<typeof clip>), seconds: 0.5, size: [320, 180] },
  };
  const path = () => pathOf(root, script, short);

  it('carry the rate, length and timecode of the script, and every frame its number', async () => {
    await makePiece(root, script, short);
    expect(probe(path(), 'stream=r_frame_rate,nb_frames').split('\n')[0]).toBe('60000/1001,30');
    expect(probe(path(), 'format_tags=timecode:stream_tags=timecode')).toContain('16:31:00;04');
    const height = stripHeight(180);
    const pixels = execFileSync('ffmpeg', [
      ...'-v error -i'.split(' '),
      path(),
      '-vf',
      `crop=320:${height}:0:0,scale=${STRIP_BLOCKS}:1:flags=area,format=gray`,
      ...'-f rawvideo -'.split(' '),
    ]);
    const numbers = Array.from({ length: 30 }, (_unused, frame) =>
      readStrip([...pixels.subarray(frame * STRIP_BLOCKS, (frame + 1) * STRIP_BLOCKS)]),
    );
    expect(numbers).toEqual(Array.from({ length: 30 }, (_unused, frame) => frame));
  });
  it('come out the same, byte for byte, when made again', async () => {
    const print = () => createHash('sha1').update(readFileSync(path())).digest('hex');
    const first = print();
    rmSync(path());
    await makePiece(root, script, short);
    expect(print()).toBe(first);
  });
  it('a camera with several microphones writes a stream for each', async () => {
    const camera = script.clips.find((each) => each.file === 'A001C001.mov');
    const piece: Piece = {
      type: 'clip',
      piece: { ...(camera as NonNullable<typeof camera>), seconds: 0.5, size: [320, 180] },
    };
    await makePiece(root, script, piece);
    expect(
      probe(pathOf(root, script, piece), 'stream=codec_type,channels')
        .split('\n')
        .slice(0, 5),
    ).toEqual(['video', ...Array.from({ length: 4 }, () => 'audio,1')]);
  });
  it('sound carries its bext and keeps its channels', async () => {
    const piece = script.sound.find((sound) => sound.file === 'S02T02.wav');
    const sound: Piece = { type: 'sound', piece: { ...(piece as NonNullable<typeof piece>), seconds: 1 } };
    await makePiece(root, script, sound);
    expect(probe(pathOf(root, script, sound), 'stream=channels,sample_rate')).toBe('48000,8');
    // ffprobe reads the bext chunk by itself (EBU Tech 3285): the time reference is 05:58:00 in samples.
    expect(probe(pathOf(root, script, sound), 'format_tags=time_reference')).toBe(
      String((5 * 3600 + 58 * 60) * 48_000),
    );
  });
});
