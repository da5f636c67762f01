import { execFile } from 'node:child_process';
import { readFile, rm } from 'node:fs/promises';
import { promisify } from 'node:util';
import { normalise, SAMPLE_RATE, type Samples } from './synth';

const run = promisify(execFile);
const LEAD_SECONDS = 0.6;
const TAIL_SECONDS = 0.9;

/** Speaks a line with the speech synthesiser, with a little silence before and after. `temporary` is a path that may be written. */
export async function speak(line: string, voice: string, temporary: string): Promise<Samples> {
  await run('flite', ['-voice', voice, '-t', line, '-o', temporary]);
  const raw = `${temporary}.raw`;
  await run('ffmpeg', [
    '-v',
    'error',
    '-y',
    '-i',
    temporary,
    '-ac',
    '1',
    '-ar',
    String(SAMPLE_RATE),
    '-f',
    'f32le',
    raw,
  ]);
  const bytes = await readFile(raw);
  await Promise.all([rm(raw), rm(temporary)]);
  const spoken = new Float32Array(bytes.buffer.slice(bytes.byteOffset, bytes.byteOffset + bytes.byteLength));
  const out = new Float32Array(Math.round((LEAD_SECONDS + TAIL_SECONDS) * SAMPLE_RATE) + spoken.length);
  out.set(normalise(spoken, 0.6), Math.round(LEAD_SECONDS * SAMPLE_RATE));
  return out;
}

/** How open a mouth is while those samples sound: the loudness of the twentieth of a second around a moment. */
export function mouthOf(samples: Samples): (seconds: number) => number {
  const window = Math.round(SAMPLE_RATE / 20);
  return (seconds) => {
    const start = Math.max(0, Math.round(seconds * SAMPLE_RATE) - window / 2);
    let sum = 0;
    for (let i = start; i < start + window; i += 1) sum += (samples[i] ?? 0) ** 2;
    return Math.min(1, Math.sqrt(sum / window) * 6);
  };
}
