import { random } from '../random';

export const SAMPLE_RATE = 48_000;

/** Samples of one channel, from -1 to 1. */
export type Samples = Float32Array;

const silence = (seconds: number): Samples => new Float32Array(Math.round(seconds * SAMPLE_RATE));

/** Noise smoothed by a one-pole low pass whose corner wanders: water, rain, fire. */
function noise(seconds: number, seed: number, corner: number, sway: (seconds: number) => number): Samples {
  const next = random(seed);
  const out = silence(seconds);
  let held = 0;
  for (let i = 0; i < out.length; i += 1) {
    held += (next() * 2 - 1 - held) * corner;
    out[i] = held * sway(i / SAMPLE_RATE);
  }
  return normalise(out, 0.4);
}

export const water = (seconds: number, seed: number): Samples =>
  noise(seconds, seed, 0.06, (t) => 0.7 + 0.3 * Math.sin(t * 1.7 + seed) * Math.sin(t * 0.6));
export const rain = (seconds: number, seed: number): Samples =>
  noise(seconds, seed, 0.5, (t) => 0.85 + 0.15 * Math.sin(t * 0.9 + seed));
export const fire = (seconds: number, seed: number): Samples =>
  noise(seconds, seed, 0.02, (t) => 0.8 + 0.2 * Math.sin(t * 7 + seed));

/** Partials of a tuned bell, relative to its strike note, with how long each rings: hum, prime, tierce, quint, nominal. */
const BELL_PARTIALS = [
  [0.5, 1, 5],
  [1, 0.8, 3.4],
  [1.2, 0.7, 2.8],
  [1.5, 0.4, 2],
  [2, 0.6, 1.6],
  [2.66, 0.25, 0.9],
] as const;

export function bell(seconds: number, hertz: number): Samples {
  const out = silence(seconds);
  for (let i = 0; i < out.length; i += 1) {
    const t = i / SAMPLE_RATE;
    out[i] = BELL_PARTIALS.reduce(
      (sum, [part, level, ring]) => sum + level * Math.exp(-t / ring) * Math.sin(2 * Math.PI * hertz * part * t),
      0,
    );
  }
  return normalise(out, 0.7);
}

export function hammer(seconds: number, seed: number): Samples {
  const next = random(seed);
  const out = silence(seconds);
  for (let strike = 0.3; strike < seconds - 0.2; strike += 0.7)
    for (let i = 0; i < SAMPLE_RATE * 0.15; i += 1) {
      const t = i / SAMPLE_RATE;
      const at = Math.round(strike * SAMPLE_RATE) + i;
      out[at] =
        (out[at] ?? 0) +
        Math.exp(-t * 40) * (0.6 * Math.sin(2 * Math.PI * 310 * t) + 0.5 * (next() * 2 - 1) * Math.exp(-t * 90));
    }
  return normalise(out, 0.7);
}

const CHORDS = [
  [0, 3, 7, 10],
  [-4, 0, 3, 8],
  [3, 7, 10, 14],
  [-2, 2, 5, 10],
] as const;

/** Plucked chords at exactly that many beats a minute, one note a half beat, the first of each bar louder. */
export function music(seconds: number, beatsPerMinute: number, detune = 1): Samples {
  const out = silence(seconds);
  const step = 30 / beatsPerMinute;
  for (let n = 0; n * step < seconds; n += 1) {
    const chord = CHORDS[Math.floor(n / 8) % CHORDS.length] ?? CHORDS[0];
    const hertz = 196 * 2 ** ((chord[n % 4] ?? 0) / 12) * detune;
    const level = n % 8 === 0 ? 1 : n % 2 === 0 ? 0.6 : 0.4;
    const start = Math.round(n * step * SAMPLE_RATE);
    for (let i = 0; i < SAMPLE_RATE * 1.2 && start + i < out.length; i += 1) {
      const t = i / SAMPLE_RATE;
      out[start + i] =
        (out[start + i] ?? 0) +
        level * Math.exp(-t * 3.2) * (Math.sin(2 * Math.PI * hertz * t) + 0.4 * Math.sin(4 * Math.PI * hertz * t));
    }
  }
  return normalise(out, 0.6);
}

export function normalise(samples: Samples, peak: number): Samples {
  const highest = samples.reduce((most, value) => Math.max(most, Math.abs(value)), 0) || 1;
  return samples.map((value) => (value / highest) * peak);
}

/** A RIFF WAVE file of 16-bit samples, channels interleaved; all channels have the first one's length. */
export function wave(channels: readonly Samples[]): Uint8Array {
  const frames = channels[0]?.length ?? 0;
  const bytes = new Uint8Array(44 + frames * channels.length * 2);
  const view = new DataView(bytes.buffer);
  const text = (offset: number, value: string) => bytes.set(new TextEncoder().encode(value), offset);
  text(0, 'RIFF');
  view.setUint32(4, bytes.length - 8, true);
  text(8, 'WAVEfmt ');
  view.setUint32(16, 16, true);
  view.setUint16(20, 1, true);
  view.setUint16(22, channels.length, true);
  view.setUint32(24, SAMPLE_RATE, true);
  view.setUint32(28, SAMPLE_RATE * channels.length * 2, true);
  view.setUint16(32, channels.length * 2, true);
  view.setUint16(34, 16, true);
  text(36, 'data');
  view.setUint32(40, bytes.length - 44, true);
  for (let i = 0; i < frames; i += 1)
    for (const [c, channel] of channels.entries())
      view.setInt16(
        44 + (i * channels.length + c) * 2,
        Math.round(Math.max(-1, Math.min(1, channel[i] ?? 0)) * 32_767),
        true,
      );
  return bytes;
}
