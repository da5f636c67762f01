import { join } from 'node:path';
import { readBwf } from '@larder/core/interchange/bwf';
import { framesOf, type ShelfItem } from '@larder/core/shelf';
import { rational } from '@larder/core/timecode';
import { mediaFacts, sequenceFacts, type MediaFacts, type ProbeOutput } from './facts';
import { fingerprint, withFile } from './file-source';
import { run } from './run';

/** Only local files: a crafted playlist must not make ffprobe fetch anything. */
export const PROBE_ARGS = [
  '-v',
  'error',
  '-protocol_whitelist',
  'file',
  '-print_format',
  'json',
  '-show_format',
  '-show_streams',
] as const;
const PROBE_TIMEOUT_MS = 30_000;
/** The rate at which an image sequence is played until somebody says otherwise. */
export const SEQUENCE_RATE = rational(25);

/** A file's facts and its fingerprint. */
export interface Probed {
  readonly facts: MediaFacts;
  readonly fingerprint: string;
}

/** Reads what lies on a storage: a file, or the first picture of a sequence. Throws ToolError or a file system error. */
export const probeItem = (root: string, { path, sequence }: ShelfItem, signal?: AbortSignal): Promise<Probed> =>
  sequence ? probeSequence(join(root, path), framesOf(sequence), signal) : probeFile(join(root, path), signal);

/** Everything that ffprobe says of a file. */
export async function probeRaw(path: string, signal?: AbortSignal): Promise<ProbeOutput> {
  const output = await run('ffprobe', [...PROBE_ARGS, '-i', path], {
    timeoutMs: PROBE_TIMEOUT_MS,
    maxOutputBytes: 4 * 1024 * 1024,
    ...(signal ? { signal } : {}),
  });
  return JSON.parse(output.toString('utf8')) as ProbeOutput;
}

/** Reads what a file says of itself. Throws ToolError or a file system error. */
export async function probeFile(path: string, signal?: AbortSignal): Promise<Probed> {
  const name = path.split('/').at(-1) ?? path;
  const { print, bwf } = await withFile(path, async (source) => ({
    print: await fingerprint(source),
    bwf: /\.wav$/i.test(name) ? await readBwf(source) : undefined,
  }));
  return { facts: mediaFacts(await probeRaw(path, signal), name, bwf), fingerprint: print };
}

/** @param frames pictures from the first to the last, with those that are missing between */
export async function probeSequence(firstPath: string, frames: number, signal?: AbortSignal): Promise<Probed> {
  const first = await probeFile(firstPath, signal);
  return { ...first, facts: sequenceFacts(first.facts, frames, SEQUENCE_RATE) };
}
