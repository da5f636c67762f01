import { execFile } from 'node:child_process';
import { mkdtempSync, rmSync } from 'node:fs';
import { availableParallelism, tmpdir } from 'node:os';
import { join } from 'node:path';
import { promisify } from 'node:util';
import { Home } from '@larder/command/home';
import { Library } from '@larder/command/library';
import { addStorage, AssetRow, JobRow, PROBE_ARGS, queueScan } from '@larder/server';

export interface Figure {
  readonly name: string;
  readonly value: number;
  readonly unit: string;
  readonly peer: string | null;
  readonly ratio: number | null;
}

export const run = promisify(execFile);
export const seconds = (since: number): number => (performance.now() - since) / 1000;
/** Four digits: more would claim what no run here can tell. */
export const round = (value: number): number => Number(value.toPrecision(4));
export const median = (values: readonly number[]): number => values.toSorted((a, b) => a - b)[values.length >> 1] ?? 0;

/** The peer: ffprobe by itself over the same files, as many at once as the scan uses. */
export async function bareProbe(files: readonly string[]): Promise<number> {
  const queue = [...files];
  const began = performance.now();
  const prober = async () => {
    for (let file = queue.shift(); file; file = queue.shift())
      await run('ffprobe', [...PROBE_ARGS, '-i', file], { maxBuffer: 16e6 }).catch(() => null);
  };
  await Promise.all(Array.from({ length: Math.max(2, availableParallelism()) }, prober));
  return seconds(began);
}

/** A library of its own with one worker and nothing else to do, thrown away afterwards. */
export async function withLibrary<T>(work: (bench: BenchLibrary) => Promise<T>): Promise<T> {
  const folder = mkdtempSync(join(tmpdir(), 'larder-bench-'));
  const library = await Library.open({ home: new Home(folder), port: 0, demoPassword: null, workers: 1 });
  try {
    library.startWorkers();
    // The worker has to be up before anything is timed.
    await new Promise((resolve) => setTimeout(resolve, 1500));
    return await library.withModels((db) => work(new BenchLibrary(library, db)));
  } finally {
    await library.stop();
    rmSync(folder, { recursive: true, force: true, maxRetries: 5 });
  }
}

export class BenchLibrary {
  constructor(
    readonly library: Library,
    readonly db: Parameters<Parameters<Library['withModels']>[0]>[0],
  ) {}

  async add(rootPath: string): Promise<number> {
    return (await addStorage(this.db, null, { name: rootPath, rootPath })).id;
  }

  /** Seconds from asking for a scan to its end, and the assets there are then. */
  async scan(storageId: number): Promise<{ seconds: number; files: number }> {
    const began = performance.now();
    const { id } = await queueScan(storageId, null);
    let job = await JobRow.findByPk(id);
    for (; job?.state === 'queued' || job?.state === 'running'; job = await JobRow.findByPk(id))
      await new Promise((resolve) => setTimeout(resolve, 20));
    if (job?.state !== 'done') throw new Error(`the scan ended ${job?.state ?? 'nowhere'}: ${job?.message ?? ''}`);
    return { seconds: seconds(began), files: await AssetRow.count() };
  }
}
