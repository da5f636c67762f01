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
  await scanned(manager, 'sound', shelf);
  await allJobsEnded(manager);
  [id = 0] = await until('the index', () => foundBy(manager, 'storage:sound', 1));
}, 120_000);
afterAll(() => library.stop(), 60_000);

const piece = async (fromMs: number | string, client = editor) =>
  client.raw('GET', FILE_PATHS.soundPiece(id, fromMs as number));

/** Samples of a piece, channel by channel, as floating point. */
async function samplesOf(fromMs: number): Promise<Float32Array[]> {
  const path = join(library.folder, `piece-${fromMs}.flac`);
  writeFileSync(path, Buffer.from(await (await piece(fromMs)).arrayBuffer()));
  const raw = execFileSync('ffmpeg', ['-v', 'error', '-i', path, '-f', 'f32le', 'pipe:1'], {
    maxBuffer: 64 * 1024 * 1024,
  });
  const all = new Float32Array(raw.buffer, raw.byteOffset, raw.byteLength / 4);
  return Array.from({ length: CHANNELS }, (_unused, channel) =>
    Float32Array.from({ length: all.length / CHANNELS }, (_none, n) => all[n * CHANNELS + channel] ?? 0),
  );
}

const peak = (samples: Float32Array): number => samples.reduce((most, each) => Math.max(most, Math.abs(each)), 0);

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
