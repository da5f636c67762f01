import type { IngestSettings } from '@larder/core/ingest';
import { countingById, countingForRate, parseTimecode, rational, rescaleFrames } from '@larder/core/timecode';
import type { MediaFacts } from '../media/facts';

/** The facts of a file as somebody has said that they are to be read. What does not apply to it is left as it is. */
export function corrected(
  facts: MediaFacts,
  { sequenceRate, colour, startTimecode, offsetFrames }: IngestSettings['corrections'],
): MediaFacts {
  const counting = sequenceRate && facts.kind === 'sequence' ? countingById(sequenceRate) : undefined;
  const rate = counting?.rate ?? facts.rate;
  const dropFrame = counting ? counting.dropFrame : facts.dropFrame || (startTimecode?.includes(';') ?? false);
  const timed = rate ? countingForRate(rational(rate.num, rate.den), dropFrame) : null;
  const typed = startTimecode && timed ? parseTimecode(startTimecode, timed) : null;
  const start = typed && 'frames' in typed ? typed.frames : facts.startFrame;
  const frames = facts.durationFrames;
  return {
    ...facts,
    rate,
    dropFrame: timed?.dropFrame ?? facts.dropFrame,
    durationMs:
      counting && rate && frames !== null ? rescaleFrames(frames, rate, { num: 1000, den: 1 }) : facts.durationMs,
    startFrame: start === null ? (offsetFrames !== 0 && rate ? offsetFrames : null) : start + offsetFrames,
    colour: facts.colour && {
      primaries: colour.primaries ?? facts.colour.primaries,
      transfer: colour.transfer ?? facts.colour.transfer,
      matrix: colour.matrix ?? facts.colour.matrix,
      range: facts.colour.range,
    },
  };
}
