/** The shape of a sound for drawing: for each stretch of time its lowest and highest sample, from -127 to 127. */
export interface Peaks {
  readonly version: 1;
  /** Samples of the input in each pair but the last. */
  readonly samplesPerPair: number;
  readonly sampleRate: number;
  /** Lowest and highest in turn: `[low0, high0, low1, high1, …]`. */
  readonly pairs: readonly number[];
}

/** Takes mono 16-bit samples piece by piece, so that an hour of sound needs no more memory than its peaks. */
export class PeaksBuilder {
  private readonly pairs: number[] = [];
  private low = 0;
  private high = 0;
  private inPair = 0;

  constructor(
    private readonly sampleRate: number,
    private readonly samplesPerPair: number,
  ) {}

  add(samples: Int16Array): void {
    for (const sample of samples) {
      if (this.inPair === 0) [this.low, this.high] = [sample, sample];
      else if (sample < this.low) this.low = sample;
      else if (sample > this.high) this.high = sample;
      this.inPair += 1;
      if (this.inPair === this.samplesPerPair) this.close();
    }
  }

  finish(): Peaks {
    if (this.inPair > 0) this.close();
    return { version: 1, samplesPerPair: this.samplesPerPair, sampleRate: this.sampleRate, pairs: this.pairs };
  }

  private close(): void {
    this.pairs.push(Math.round(this.low / 258), Math.round(this.high / 258));
    this.inPair = 0;
  }
}
