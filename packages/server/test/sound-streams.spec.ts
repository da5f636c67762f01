import { execFileSync, spawnSync } from 'node:child_process';
import { mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { readLoudness } from '@larder/core/audio';
import type { Sound } from '@larder/contract';
import { heard, merged, mergedForEars, weighed } from '../src/media/sound-streams';

const SECONDS = 1;
/** Of each channel, over all the streams: none as loud as another. */
const level = (channel: number): number => 0.8 * 0.85 ** channel;

let folder: string;
beforeAll(() => (folder = mkdtempSync(join(tmpdir(), 'larder-streams-'))));
afterAll(() => rmSync(folder, { recursive: true }));

/** A film without pictures whose streams have so many channels. Each channel is a level that does not change, or what `wave` says. */
function made(
  streams: readonly number[],
  { wave = (level: number) => String(level), seconds = streams.map(() => SECONDS) } = {},
): string {
  const path = join(folder, `${streams.join('-')}.mov`);
  let from = 0;
  const inputs = streams.flatMap((channels, index) => {
    const values = Array.from({ length: channels }, () => wave(level(from++)));
    return ['-f', 'lavfi', '-i', `aevalsrc=${values.join('|')}:s=48000:d=${seconds[index]}`];
  });
  const maps = streams.flatMap((_channels, index) => ['-map', `${index}:a`]);
  execFileSync('ffmpeg', ['-v', 'error', '-y', ...inputs, ...maps, '-c:a', 'pcm_f32le', path]);
  return path;
}

/** The samples that a graph gives, channel by channel. */
function through(path: string, graph: string): Float32Array[] {
  const to = join(folder, 'out.wav');
  execFileSync(
    'ffmpeg',
    ['-v', 'error', '-y', '-i', path, '-filter_complex', `${graph}[out]`].concat([
      '-map',
      '[out]',
      '-c:a',
      'pcm_f32le',
      to,
    ]),
  );
  const channels = Number(
    execFileSync('ffprobe', [...'-v error -show_entries stream=channels -of csv=p=0'.split(' '), to], {
      encoding: 'utf8',
    }),
  );
  const raw = execFileSync('ffmpeg', ['-v', 'error', '-i', to, '-f', 'f32le', 'pipe:1'], { maxBuffer: 64 << 20 });
  const all = new Float32Array(raw.buffer.slice(raw.byteOffset, raw.byteOffset + raw.byteLength));
  return Array.from({ length: channels }, (_unused, channel) => all.filter((_each, n) => n % channels === channel));
}
const levelsOf = (samples: readonly Float32Array[], at = 1000): number[] =>
  samples.map((channel) => Math.round((channel[at] ?? NaN) * 1000) / 1000);
const levels = (...channels: number[]): number[] => channels.map((each) => Math.round(level(each) * 1000) / 1000);
const mean = (...channels: number[]): number =>
  Math.round((channels.reduce((sum, each) => sum + level(each), 0) / channels.length) * 1000) / 1000;
const upTo = (count: number): number[] => Array.from({ length: count }, (_unused, index) => index);

const sound = (streams: readonly number[], layout: string | null = null): Sound => ({
  codec: 'pcm_f32le',
  channels: streams.reduce((sum, each) => sum + each, 0),
  ...(streams.length > 1 ? { streams } : {}),
  layout,
  sampleRate: 48_000,
});

describe('the streams of a file as one', () => {
  it.each([
    [[1]],
    [[2]],
    [[8]],
    [[1, 1]],
    [[1, 1, 1, 1]],
    [[1, 2]],
    [[2, 1, 1]],
    [[2, 2, 2, 2]],
    [[6, 2]],
    [[1, 1, 1, 1, 1, 1, 1, 1]],
  ])('%j: each channel in its place', (streams) => {
    const all = through(made(streams), merged(streams, SECONDS));
    expect(levelsOf(all)).toEqual(levels(...upTo(all.length)));
    expect(all).toHaveLength(streams.reduce((sum, each) => sum + each, 0));
  });
  it('a stream that is shorter is silent from there on, and cuts nothing off', () => {
    const path = made([1, 1, 1], { seconds: [SECONDS, SECONDS / 4, SECONDS] });
    const all = through(path, merged([1, 1, 1], SECONDS));
    expect(all.map(({ length }) => length)).toEqual([48_000, 48_000, 48_000]);
    expect(levelsOf(all, 40_000)).toEqual([levels(0)[0], 0, levels(2)[0]]);
  });
  it('a stream that cannot be decoded is left out', () => {
    expect(levelsOf(through(made([1, 1, 1]), merged([1, 0, 1], SECONDS)))).toEqual(levels(0, 2));
    expect(levelsOf(through(made([1, 2]), merged([0, 2], SECONDS)))).toEqual(levels(1, 2));
  });
  it.each([[[8, 4]], [[12]], [[16]]])('%j: eight are heard one by one', (streams) =>
    expect(levelsOf(through(made(streams), mergedForEars(streams, SECONDS)))).toEqual(levels(...upTo(8))),
  );
  it('more than ffmpeg can make one are as many as it can', () => {
    const streams = Array.from({ length: 70 }, () => 1);
    expect(merged(streams, SECONDS)).toContain('amerge=inputs=64');
  });
});

describe('what is heard of them', () => {
  const mix = (of: Sound, streams: readonly number[]) =>
    levelsOf(through(made(streams), `${merged(streams, SECONDS)},${heard(of)}`));

  it.each([
    [[1], null, levels(0)],
    [[2], 'stereo', levels(0, 1)],
    [[1, 1], null, levels(0, 1)],
    // Nothing is taken for a channel of low frequencies, which a mix would leave out.
    [[1, 1, 1, 1], null, [mean(0, 2), mean(1, 3)]],
    [[8], null, [mean(0, 2, 4, 6), mean(1, 3, 5, 7)]],
    [[1, 1, 1], 'mono', [mean(0, 2), mean(1)]],
    // Other mixes of the same are not added to the first.
    [[2, 2], 'stereo', levels(0, 1)],
    [[6, 2], '5.1', levels(0, 1, 2, 3, 4, 5)],
    // A mix of two channels behind two microphones is left out.
    [[1, 1, 2], 'mono', levels(0, 1)],
  ] as const)('%j %s', (streams, layout, wanted) => expect(mix(sound(streams, layout), streams)).toEqual(wanted));
  it('of places of loudspeakers all, as ffmpeg mixes them', () => expect(heard(sound([6], '5.1(side)'))).toBe('anull'));
});

describe('how loud they are', () => {
  const loudness = (streams: readonly number[], layout: string | null = null): number => {
    const path = made(streams, { wave: () => '0.125*sin(2*PI*997*t)', seconds: streams.map(() => 4) });
    const of = sound(streams, layout);
    const graph = `${merged(streams, 4)},${weighed(of)},ebur128=framelog=verbose[out]`;
    const { stderr } = spawnSync(
      'ffmpeg',
      [...'-hide_banner -nostats -i'.split(' '), path, '-filter_complex', graph].concat(
        '-map [out] -f null -'.split(' '),
      ),
      { encoding: 'utf8' },
    );
    return readLoudness(stderr.split('\n'))?.integratedLufs ?? NaN;
  };
  it('each channel counts alike (ITU-R BS.1770-4: loudness is the sum of the channels’ powers)', () => {
    const one = loudness([1]);
    expect(loudness([1, 1]) - one).toBeCloseTo(10 * Math.log10(2), 0);
    for (const streams of [[1, 1, 1, 1], [1, 1, 1, 1, 1, 1, 1, 1], [8], [10]])
      expect(loudness(streams) - one).toBeCloseTo(10 * Math.log10(streams.reduce((sum, each) => sum + each, 0)), 0);
  });
});
