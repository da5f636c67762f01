import fc from 'fast-check';
import { PeaksBuilder } from '@larder/core/audio';

const peaks = (pieces: readonly Int16Array[], samplesPerPair: number) => {
  const builder = new PeaksBuilder(8000, samplesPerPair);
  pieces.forEach((piece) => builder.add(piece));
  return builder.finish();
};

describe('peaks', () => {
  it('full scale is 127, silence is 0', () => {
    expect(peaks([Int16Array.of(32767, -32768, 0, 0)], 2).pairs).toEqual([-127, 127, 0, 0]);
  });
  it('does not depend on how the sound was cut into pieces, and gives the extremes of each stretch', () => {
    fc.assert(
      fc.property(
        fc.int16Array({ minLength: 1, maxLength: 300 }),
        fc.integer({ min: 1, max: 40 }),
        fc.integer({ min: 1, max: 50 }),
        (samples, cut, per) => {
          const pieces = Array.from({ length: Math.ceil(samples.length / cut) }, (_unused, index) =>
            samples.subarray(index * cut, (index + 1) * cut),
          );
          const expected = Array.from({ length: Math.ceil(samples.length / per) }, (_unused, index) => {
            const part = [...samples.subarray(index * per, (index + 1) * per)];
            return [Math.round(Math.min(...part) / 258), Math.round(Math.max(...part) / 258)];
          });
          expect(peaks(pieces, per).pairs).toEqual(expected.flat());
        },
      ),
    );
  });
});
