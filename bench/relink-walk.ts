import { execFileSync } from 'node:child_process';
import { mkdirSync, mkdtempSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { PASSED_OVER, passesOver } from '@larder/core/relink';
import { walkPlace } from '../packages/server/src/jobs/find-missing';
import { median, round, type Figure } from './kit';

const FOLDERS = 400;
const FILES = 500;
const RUNS = 5;

async function seconds(work: () => Promise<void> | void): Promise<number> {
  const began = performance.now();
  await work();
  return (performance.now() - began) / 1000;
}

/** How long a tree of 200,000 files takes to be walked as a search for lost ones does, and `find` to print the same of each. */
export async function walk(print: (figure: Figure) => void): Promise<void> {
  const folder = mkdtempSync(join(tmpdir(), 'larder-bench-'));
  try {
    for (let n = 0; n < FOLDERS; n += 1) {
      const inner = join(folder, `day ${n % 20}`, `card ${n}`);
      mkdirSync(inner, { recursive: true });
      for (let m = 0; m < FILES; m += 1) writeFileSync(join(inner, `A${n}C${m}.mov`), '');
    }
    const [times, peers]: [number[], number[]] = [[], []];
    let found = 0;
    const isPassed = passesOver(PASSED_OVER);
    const { signal } = new AbortController();
    const through = async (parts: AsyncIterable<readonly { readonly path: string }[]>): Promise<void> => {
      for await (const part of parts) if (!isPassed(part[0]?.path ?? '')) found += part.length;
    };
    for (let run = 0; run < RUNS; run += 1) {
      times.push(
        await seconds(async () => {
          found = 0;
          await walkPlace(
            { kind: 'local', rootPath: folder },
            { deep: true, folder: '' },
            { isPassed, signal, through },
          );
        }),
      );
      peers.push(
        await seconds(
          () => void execFileSync('find', [folder, '-printf', '%y\\0%s\\0%T@\\0%P\\0'], { maxBuffer: 1e9 }),
        ),
      );
    }
    const [time, peer] = [median(times), median(peers)];
    print({
      ...{ name: 'relink.walk', value: round(time), unit: `s for ${found} files` },
      ...{ peer: `find, ${round(peer)} s`, ratio: round(time / peer) },
    });
  } finally {
    rmSync(folder, { recursive: true, force: true });
  }
}
