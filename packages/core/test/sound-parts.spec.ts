import { channelPieces, FrameBuilder, soundParts, speechPieces, SPEECH_RATE, type SoundFrames } from '../src/audio';

/** Seconds of what a function says of a moment, from -1 to 1. */
function framesOf(seconds: number, at: (second: number) => number): SoundFrames {
  const builder = new FrameBuilder();
  const samples = Int16Array.from({ length: seconds * SPEECH_RATE }, (_unused, n) =>
    Math.round(32_000 * at(n / SPEECH_RATE)),
  );
  // In pieces as a pipe has them, which are no whole frames.
  for (let from = 0; from < samples.length; from += 1001) builder.add(samples.subarray(from, from + 1001));
  return builder.finish();
}

let seed = 1;
const hiss = (): number => {
  seed = (seed * 1_103_515_245 + 12_345) % 2_147_483_648;
  return seed / 1_073_741_824 - 1;
};
const tone = (hertz: number) => (second: number) => Math.sin(2 * Math.PI * hertz * second);
/** Two syllables a second, each a hiss and then a vowel: 120 Hz with overtones, swelling and dying away. */
const babble = (second: number): number => {
  const within = (second * 2) % 1;
  if (within < 0.2) return 0.1 * hiss();
  if (within > 0.8) return 0;
  const swell = Math.sin(((within - 0.2) / 0.6) * Math.PI);
  return 0.25 * swell * (tone(120)(second) + 0.6 * tone(240)(second) + 0.4 * tone(360)(second));
};
const kinds = (frames: SoundFrames) => soundParts(frames).map(({ kind }) => kind);

describe('parts of a sound', () => {
  it.each<[string, (second: number) => number, string]>([
    ['silence', () => 0, 'silence'],
    ['a tone', (second) => 0.3 * tone(440)(second), 'music'],
    ['noise', () => 0.1 * hiss(), 'noise'],
    ['hum too soft to be heard', (second) => 0.001 * tone(50)(second), 'silence'],
    ['babble', babble, 'speech'],
  ])('of %s are one', (_what, sound, kind) => {
    expect(new Set(kinds(framesOf(6, sound)).filter((each) => each !== 'silence' || kind === 'silence'))).toEqual(
      new Set([kind]),
    );
  });

  it('are told apart where they follow each other, cover all of it, and speech is not cut off', () => {
    const frames = framesOf(12, (second) =>
      second < 3
        ? 0.3 * tone(440)(second)
        : second < 4
          ? 0
          : second < 8
            ? babble(second)
            : second < 9
              ? 0
              : 0.1 * hiss(),
    );
    const parts = soundParts(frames);
    expect([parts[0]?.startMs, parts.at(-1)?.endMs]).toEqual([0, 12_000]);
    parts.slice(1).forEach((part, at) => expect(part.startMs).toBe(parts[at]?.endMs));
    const [speech, ...others] = parts.filter(({ kind }) => kind === 'speech');
    expect(others).toEqual([]);
    expect(speech?.startMs).toBeLessThanOrEqual(4000);
    expect(speech?.endMs).toBeGreaterThanOrEqual(7800);
    expect((speech?.endMs ?? 0) - (speech?.startMs ?? 0)).toBeLessThan(5000);
    expect(kinds(frames)).toEqual(expect.arrayContaining(['music', 'silence', 'speech', 'noise']));
  });

  it('that are long are cut into pieces, one after the other, where it is quiet', () => {
    const frames = framesOf(50, babble);
    const pieces = speechPieces(frames);
    expect(pieces.length).toBeGreaterThan(2);
    pieces.forEach(({ startMs, endMs }, at) => {
      expect(endMs - startMs).toBeLessThanOrEqual(20_000);
      if (at === 0) return;
      expect(startMs).toBe(pieces[at - 1]?.endMs);
      // Between two syllables.
      expect(babble(startMs / 1000)).toBe(0);
    });
    expect(speechPieces(framesOf(0, () => 0))).toEqual([]);
  });
});

describe('channels that are recorded together', () => {
  const within = (from: number, to: number) => (second: number) => (second >= from && second < to ? babble(second) : 0);
  const room = (): number => 0.0005 * hiss();

  it('have each voice where it is nearest, though others hear it too', () => {
    const [first, second] = [within(1, 5), within(7, 11)];
    const sounds = [
      (at: number) => first(at) + 0.1 * second(at) + room(),
      (at: number) => 0.1 * first(at) + second(at) + room(),
      (at: number) => 0.05 * (first(at) + second(at)) + room(),
    ];
    const pieces = channelPieces(sounds.map((sound) => framesOf(12, sound)));
    expect(pieces.map(({ channel }) => channel)).toEqual([0, 1]);
    expect(Math.abs((pieces[0]?.startMs ?? 0) - 1000)).toBeLessThan(500);
    expect(Math.abs((pieces[1]?.startMs ?? 0) - 7000)).toBeLessThan(500);
  });

  it('have both voices where two speak at once, and one voice twice where it is as near to both', () => {
    const both = channelPieces([framesOf(6, within(1, 5)), framesOf(6, (at) => 0.8 * within(1, 5)(at))]);
    expect(new Set(both.map(({ channel }) => channel))).toEqual(new Set([0, 1]));
    expect(channelPieces([])).toEqual([]);
    expect(channelPieces([framesOf(3, () => 0), framesOf(2, () => 0)])).toEqual([]);
  });
});
