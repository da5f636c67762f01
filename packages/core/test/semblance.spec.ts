import fc from 'fast-check';
import {
  areNear,
  distanceOf,
  isSame,
  pictureDistance,
  pictureHash,
  PICTURE_BYTES,
  soundDistance,
  spreadWords,
  type Pixels,
  type Semblance,
} from '@larder/core/semblance';

/** A picture whose brightness is a function of where a point lies, 0 to 1 across and down. */
function drawn(width: number, height: number, light: (x: number, y: number) => number): Pixels {
  const data = new Uint8Array(4 * width * height).fill(255);
  for (let y = 0; y < height; y += 1)
    for (let x = 0; x < width; x += 1)
      data.fill(
        Math.max(0, Math.min(255, Math.round(light((x + 0.5) / width, (y + 0.5) / height)))),
        ...([0, 3].map((n) => 4 * (y * width + x) + n) as [number, number]),
      );
  return { data, width, height };
}

/** Smooth pictures, each its own. */
const waves = (seed: number) => {
  const [a = 1, b = 1, c = 0, d = 0] = fc.sample(fc.double({ min: 1, max: 6, noNaN: true }), { numRuns: 4, seed });
  return (x: number, y: number): number => 128 + 60 * Math.sin(a * 3 * x + c) + 50 * Math.cos(b * 3 * y + d * x * 4);
};
const bits = (hash: Uint8Array): number[] =>
  [...hash].flatMap((byte) => [7, 6, 5, 4, 3, 2, 1, 0].map((n) => (byte >> n) & 1));
const share = (a: Uint8Array, b: Uint8Array): number => {
  const [one, other] = [bits(a), bits(b)];
  return one.filter((bit, at) => bit !== other[at]).length / one.length;
};

describe('the hash of a picture', () => {
  it('is what is published: the mean of each block against the median of its band', () => {
    // B. Yang, F. Gu, X. Niu, 2006, method 1, with a median for each of four bands as the library has it; worked out here by itself.
    const picture = drawn(160, 96, waves(3));
    const means = Array.from({ length: 256 }, (_block, at) => {
      const [left, top] = [(at % 16) * 10, Math.floor(at / 16) * 6];
      let sum = 0;
      for (let y = top; y < top + 6; y += 1)
        for (let x = left; x < left + 10; x += 1) sum += picture.data[4 * (y * 160 + x)] as number;
      return sum / 60;
    });
    const expected = [0, 1, 2, 3].flatMap((band) => {
      const some = means.slice(64 * band, 64 * (band + 1));
      const sorted = some.toSorted((a, b) => a - b);
      const median = ((sorted[31] as number) + (sorted[32] as number)) / 2;
      return some.map((mean) => Number(mean > median));
    });
    expect(bits(pictureHash(picture))).toEqual(expected);
  });

  it('hardly changes with size, brightness and contrast, as the paper says, and is another one for another picture', () => {
    for (let seed = 1; seed <= 20; seed += 1) {
      const hash = pictureHash(drawn(288, 162, waves(seed)));
      for (const other of [
        drawn(144, 82, waves(seed)),
        drawn(200, 150, waves(seed)),
        drawn(288, 162, (x, y) => 0.7 * waves(seed)(x, y) + 20),
        drawn(288, 162, (x, y) => waves(seed)(x, y) + 12 * Math.sin(997 * x * y)),
      ])
        expect([seed, isSame('picture', share(hash, pictureHash(other)))]).toEqual([seed, true]);
      expect([seed, isSame('picture', share(hash, pictureHash(drawn(288, 162, waves(seed + 50)))))]).toEqual([
        seed,
        false,
      ]);
    }
  });

  it('says nothing of what is black, or of one colour', () => {
    for (const light of [0, 128, 255]) {
      const hash = pictureHash(drawn(64, 36, (x) => light + (x > 0.5 ? 1 : 0)));
      expect(hash).toEqual(new Uint8Array(PICTURE_BYTES));
    }
  });
});

const SILENT = 627964279;
const hashes = (...seeds: number[]): Uint8Array =>
  Uint8Array.from(
    seeds.flatMap((seed) =>
      seed === 0 ? new Array<number>(PICTURE_BYTES).fill(0) : [...pictureHash(drawn(64, 36, waves(seed)))],
    ),
  );
const clip = (changes: Partial<Semblance> = {}): Semblance => ({
  ...{ lengthMs: 10_000, everyMs: 1000, picture: hashes(1, 2, 3, 4), sound: null },
  ...changes,
});

describe('what two assets look like', () => {
  it('is compared moment by moment, but for those of which neither shows anything', () => {
    expect(pictureDistance(clip(), clip())).toBe(0);
    expect(pictureDistance(clip({ picture: hashes(1, 0, 3, 4) }), clip({ picture: hashes(1, 0, 3, 4) }))).toBe(0);
    expect(pictureDistance(clip(), clip({ picture: hashes(1, 2, 3, 0) }))).toBeCloseTo(0.5 / 4, 1);
    expect(pictureDistance(clip({ picture: hashes(1, 2, 0, 0) }), clip({ picture: hashes(1, 2, 0, 0) }))).toBeNull();
    expect(pictureDistance(clip({ picture: hashes(7) }), clip({ picture: hashes(7) }))).toBe(0);
    expect(pictureDistance(clip({ picture: null }), clip())).toBeNull();
  });

  it('is compared at moments that are the same, or nearly, whatever the number of each', () => {
    // The fourth is 105 ms off.
    expect(pictureDistance(clip(), clip({ everyMs: 1035, picture: hashes(1, 2, 3, 9) }))).toBe(0);
    // 0, 2000 and 4000 ms are in both.
    const [often, seldom] = [hashes(1, 8, 2, 8, 3), hashes(1, 2, 3)];
    expect(pictureDistance(clip({ picture: often }), clip({ everyMs: 2000, picture: seldom }))).toBe(0);
    expect(pictureDistance(clip({ everyMs: 2000, picture: seldom }), clip({ picture: often }))).toBe(0);
    expect(pictureDistance(clip(), clip({ everyMs: 1300 }))).toBeNull();
    // A part of what is from each to the next, where that is long.
    const long = { lengthMs: 100_000, everyMs: 10_000 };
    expect(pictureDistance(clip(long), clip({ ...long, everyMs: 10_150 }))).toBe(0);
  });
});

describe('what two assets sound like', () => {
  const words = Uint32Array.from({ length: 32 }, (_word, at) => Math.imul(at + 1, 0x9e3779b1) >>> 0);
  const sound = (of: (word: number, at: number) => number): Semblance =>
    clip({ picture: null, sound: words.map((word, at) => of(word, at) >>> 0) });

  it('is the share of bits that differ, where not both are silent', () => {
    const same = sound((word) => word);
    expect(soundDistance(same, same)).toBe(0);
    expect(
      soundDistance(
        same,
        sound((word) => word ^ 0b101),
      ),
    ).toBe(2 / 32);
    expect(
      soundDistance(
        same,
        sound((word) => ~word),
      ),
    ).toBe(1);
    const mostly = (at: number) => at > 4;
    expect(
      soundDistance(
        sound((word, at) => (mostly(at) ? SILENT : word)),
        sound((word, at) => (mostly(at) ? SILENT : word)),
      ),
    ).toBeNull();
    expect(soundDistance(same, clip())).toBeNull();
  });

  it('is told by words spread evenly over it, of whatever length', () => {
    fc.assert(
      fc.property(fc.integer({ min: 6, max: 5000 }), (length) => {
        const all = Uint32Array.from({ length }, (_word, at) => at);
        const spread = spreadWords(all);
        expect(spread).toHaveLength(32);
        spread?.forEach((word, at) => expect(Math.abs(word - ((at + 0.5) * length) / 32)).toBeLessThanOrEqual(1));
      }),
      { seed: 11 },
    );
    expect(spreadWords(new Uint32Array(5))).toBeNull();
  });
});

describe('what is near', () => {
  const words = (seed: number) =>
    Uint32Array.from(fc.sample(fc.uint32Array({ minLength: 32, maxLength: 32 }), { numRuns: 1, seed })[0] ?? []);

  it('has the same pictures, whatever it sounds like; of sound alone, the same sound', () => {
    const both = clip({ sound: words(1) });
    expect(areNear(both, clip({ sound: words(1) }))).toBe(true);
    expect(areNear(both, clip({ sound: words(2) }))).toBe(true);
    expect(areNear(both, clip({ picture: hashes(5, 6, 7, 8), sound: words(1) }))).toBe(false);
    expect(areNear(clip({ picture: null, sound: words(1) }), clip({ picture: null, sound: words(1) }))).toBe(true);
    expect(areNear(clip({ picture: null, sound: words(1) }), clip({ picture: null, sound: words(2) }))).toBe(false);
    expect(areNear(clip({ picture: null }), clip({ picture: null }))).toBe(false);
  });

  it('is as long, but for what encoders fill up', () => {
    expect(areNear(clip(), clip({ lengthMs: 10_250 }))).toBe(true);
    expect(areNear(clip(), clip({ lengthMs: 10_251 }))).toBe(false);
  });

  it('says nothing of what is neither the same nor clearly another', () => {
    expect([0.08, 0.081, 0.199, 0.2].map((distance) => isSame('picture', distance))).toEqual([true, null, null, false]);
    expect([0.13, 0.15, 0.18].map((distance) => isSame('sound', distance))).toEqual([true, null, false]);
    expect(isSame('sound', null)).toBeNull();
    expect(distanceOf(clip(), clip())).toEqual({ picture: 0, sound: null });
  });
});
