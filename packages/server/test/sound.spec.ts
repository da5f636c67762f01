import { execFileSync } from 'node:child_process';
import { writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { FILE_PATHS, SOUND_PIECE_MS } from '@larder/contract';
import { allJobsEnded, foundBy, scanned, TestLibrary, until, type Client } from './kit';

const CHANNELS = 8;
const SECONDS = 10;

let library: TestLibrary;
let editor: Client;
let id: number;
/** A film with four microphones, each in a stream of its own. */
let film: number;

beforeAll(async () => {
  library = await TestLibrary.start(1);
  const manager = await library.as('manager');
  editor = await library.as('editor');
  const shelf = library.shelf('sound');
  // Each channel half as loud as the one before.
  const levels = Array.from({ length: CHANNELS }, (_unused, channel) => `${0.8 * 0.5 ** channel}*sin(2*PI*440*t)`);
  execFileSync('ffmpeg', [
    ...'-v error -y -f lavfi -i'.split(' '),
    `aevalsrc=${levels.join('|')}:s=48000:d=${SECONDS}:c=7.1`,
    join(shelf, 'T0.wav'),
  ]);
  const card = library.shelf('card');
  execFileSync('ffmpeg', [
    ...'-v error -y -f lavfi -i testsrc2=s=320x180:r=25:d=2'.split(' '),
    ...levels.slice(0, 4).flatMap((level) => ['-f', 'lavfi', '-i', `aevalsrc=${level}:s=48000:d=2`]),
    ...'-map 0:v -map 1:a -map 2:a -map 3:a -map 4:a -c:v libx264 -preset ultrafast -c:a pcm_s24le'.split(' '),
    join(card, 'A001.mov'),
  ]);
  await scanned(manager, 'sound', shelf);
  await scanned(manager, 'card', card);
  await allJobsEnded(manager);
  [id = 0] = await until('the index', () => foundBy(manager, 'storage:sound', 1));
  [film = 0] = await until('the index', () => foundBy(manager, 'storage:card', 1));
}, 120_000);
afterAll(() => library.stop(), 60_000);

const piece = async (fromMs: number | string, client = editor, of = id) =>
  client.raw('GET', FILE_PATHS.soundPiece(of, fromMs as number));

/** Samples of a piece, channel by channel, as floating point. */
const samplesOf = async (fromMs: number): Promise<Float32Array[]> => samplesIn(await piece(fromMs), CHANNELS);

async function samplesIn(answer: Response, channels: number): Promise<Float32Array[]> {
  const path = join(library.folder, 'answer');
  writeFileSync(path, Buffer.from(await answer.arrayBuffer()));
  const raw = execFileSync('ffmpeg', ['-v', 'error', '-i', path, '-f', 'f32le', 'pipe:1'], {
    maxBuffer: 64 * 1024 * 1024,
  });
  const all = new Float32Array(raw.buffer, raw.byteOffset, raw.byteLength / 4);
  return Array.from({ length: channels }, (_unused, channel) =>
    Float32Array.from({ length: all.length / channels }, (_none, n) => all[n * channels + channel] ?? 0),
  );
}

const peak = (samples: Float32Array): number => samples.reduce((most, each) => Math.max(most, Math.abs(each)), 0);

/** Of a sine, by its power: AAC keeps that better than the highest sample. */
const amplitude = (samples: Float32Array): number =>
  Math.sqrt((2 * samples.reduce((sum, each) => sum + each * each, 0)) / samples.length);

describe('sound in pieces', () => {
  it('has all of its channels, each by itself, and the pieces follow on each other without a gap', async () => {
    const [first, second] = [await samplesOf(0), await samplesOf(SOUND_PIECE_MS)];
    expect(first).toHaveLength(CHANNELS);
    const perMs = 48;
    expect(first[0]).toHaveLength(SOUND_PIECE_MS * perMs);
    expect(second[0]).toHaveLength((SECONDS * 1000 - SOUND_PIECE_MS) * perMs);
    first.forEach((samples, channel) => expect(peak(samples)).toBeCloseTo(0.8 * 0.5 ** channel, 3));
    // At 440 Hz, two samples side by side differ by no more than this of the loudest.
    const step = 2 * Math.sin((Math.PI * 440) / 48_000) * peak(first[0] as Float32Array) * 1.2;
    expect(Math.abs((first[0]?.at(-1) ?? 9) - (second[0]?.[0] ?? 0))).toBeLessThan(step);
  });
  it('of a film with four microphones, each in a stream of its own, has them all', async () => {
    const [asset] = (await editor.call('search', { query: 'storage:card' })).assets;
    expect(asset?.sound).toMatchObject({ channels: 4, streams: [1, 1, 1, 1] });
    const four = await samplesIn(await piece(0, editor, film), 4);
    four.forEach((samples, channel) => expect(peak(samples)).toBeCloseTo(0.8 * 0.5 ** channel, 3));
    expect(four[0]).toHaveLength(2 * 48_000);
    expect((await (await piece(2000, editor, film)).arrayBuffer()).byteLength).toBe(0);
    // In the proxy odd ones are at the left and even ones at the right.
    const sides = await samplesIn(await editor.raw('GET', `/files/${film}/proxy`), 2);
    const [left = 0, right = 0] = sides.map((samples) => amplitude(samples.subarray(24_000, 72_000)));
    expect([left, right]).toEqual([expect.closeTo((0.8 + 0.2) / 2, 1), expect.closeTo((0.4 + 0.1) / 2, 1)]);
    // The loudest sample of all of them, not of what is heard.
    expect(asset?.loudness?.truePeakDb).toBeCloseTo(20 * Math.log10(0.8), 0);
  });
  it('of a subclip is that of its whole clip', async () => {
    const sub = await editor.call('newSubclip', { name: 'Part', in: 10, out: 20 }, film);
    expect(await samplesIn(await piece(1000, editor, sub.id), 4)).toMatchObject([{ length: 48_000 }, {}, {}, {}]);
  });
  it('is refused where it cannot be, in words', async () => {
    for (const from of ['-1', '0.5', 'x', '']) expect((await piece(from)).status).toBe(422);
    expect((await editor.raw('GET', FILE_PATHS.soundPiece(999_999, 0))).status).toBe(404);
    expect((await piece(0, await library.as('viewer'))).status).toBe(200);
    expect((await fetch(editor.base + FILE_PATHS.soundPiece(id, 0))).status).toBe(401);
  });
  it('of what cannot be decoded is refused in words', async () => {
    writeFileSync(join(library.shelf('sound'), 'T0.wav'), 'no sound at all');
    const answer = await piece(0);
    expect(answer.status).toBe(422);
    expect(await answer.json()).toMatchObject({ error: { reason: 'This sound cannot be decoded.' } });
  });
});
