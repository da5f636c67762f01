/** Samples a second that speech is listened to with. */
export const SPEECH_RATE = 16_000;
/** A frame is so long, and speech is told from all else by how frames follow each other. */
export const FRAME_MS = 20;
const FRAME = (SPEECH_RATE * FRAME_MS) / 1000;
/** Pitch is looked for in every fourth sample, over two frames: from 70 to 400 Hz, as people speak. */
const DECIMATED = 4;
const WINDOW = (2 * FRAME) / DECIMATED;
const SHORTEST_LAG = Math.floor(SPEECH_RATE / DECIMATED / 400);
const LONGEST_LAG = Math.ceil(SPEECH_RATE / DECIMATED / 70);

/** There is room for so much at first; it doubles as more comes. */
const SECONDS_AT_FIRST = 60;

/** What a sound is like, frame by frame. */
export interface SoundFrames {
  /** Root mean square, in dB of full scale; −100 for none. */
  readonly levels: Float32Array;
  /** How often the samples change sign, of one. */
  readonly crossings: Float32Array;
  /** How alike the sound is to itself one period later, from 0 to 1. */
  readonly pitched: Float32Array;
}

/** Takes mono samples of `SPEECH_RATE` piece by piece, so that hours of sound need no more memory than their frames. */
export class FrameBuilder {
  private levels = new Float32Array(SECONDS_AT_FIRST * (1000 / FRAME_MS));
  private crossings = new Float32Array(this.levels.length);
  private pitched = new Float32Array(this.levels.length);
  private count = 0;
  private readonly frame = new Float32Array(FRAME);
  private readonly window = new Float32Array(WINDOW);
  private filled = 0;

  add(samples: Int16Array): void {
    for (let i = 0; i < samples.length; i += 1) {
      this.frame[this.filled] = (samples[i] as number) / 32_768;
      this.filled += 1;
      if (this.filled === FRAME) this.close();
    }
  }

  /** What is left of less than a frame is passed over. */
  finish(): SoundFrames {
    const { count, levels, crossings, pitched } = this;
    return {
      levels: levels.subarray(0, count),
      crossings: crossings.subarray(0, count),
      pitched: pitched.subarray(0, count),
    };
  }

  private close(): void {
    const { frame, window } = this;
    let [power, changes] = [0, 0];
    for (let i = 0; i < FRAME; i += 1) {
      const sample = frame[i] as number;
      power += sample * sample;
      if (i > 0 && sample >= 0 !== (frame[i - 1] as number) >= 0) changes += 1;
    }
    window.copyWithin(0, WINDOW / 2);
    for (let i = 0; i < WINDOW / 2; i += 1) {
      let sum = 0;
      for (let k = 0; k < DECIMATED; k += 1) sum += frame[i * DECIMATED + k] as number;
      window[WINDOW / 2 + i] = sum / DECIMATED;
    }
    if (this.count === this.levels.length) this.grow();
    this.levels[this.count] = power === 0 ? -100 : Math.max(-100, 10 * Math.log10(power / FRAME));
    this.crossings[this.count] = changes / FRAME;
    this.pitched[this.count] = likenessIn(window);
    this.count += 1;
    this.filled = 0;
  }

  private grow(): void {
    for (const part of ['levels', 'crossings', 'pitched'] as const) {
      const more = new Float32Array(this[part].length * 2);
      more.set(this[part]);
      this[part] = more;
    }
  }
}

/** How alike a window is to itself after the period after which it is most so: its normalised autocorrelation at its highest. */
function likenessIn(window: Float32Array): number {
  let likeness = 0;
  for (let each = SHORTEST_LAG; each <= LONGEST_LAG; each += 1) {
    let [product, early, late] = [0, 1e-9, 1e-9];
    for (let i = each; i < window.length; i += 1) {
      const [a, b] = [window[i - each] as number, window[i] as number];
      product += a * b;
      early += a * a;
      late += b * b;
    }
    likeness = Math.max(likeness, product / Math.sqrt(early * late));
  }
  return likeness;
}
