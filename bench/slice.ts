import { mkdtempSync, readdirSync, rmSync, statSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import type { Page } from 'puppeteer-core';
import { signInAs, withBrowser } from '@larder/command/browser';
import { Database } from '@larder/command/database';
import { startDemo } from '@larder/command/demo';
import { Home } from '@larder/command/home';
import { bareProbe, median, round, seconds, withLibrary, type Figure } from './kit';

function filesBelow(folder: string): string[] {
  return readdirSync(folder).flatMap((name) => {
    const path = join(folder, name);
    return statSync(path).isDirectory() ? filesBelow(path) : [path];
  });
}

/** Scans the demo's shelf from asking for it to its end. */
const scanOnce = (shelves: string): Promise<{ seconds: number; files: number }> =>
  withLibrary(async (bench) => bench.scan(await bench.add(shelves)));

async function scanFigure(shelves: string): Promise<Figure> {
  // The same things are probed by both: of an image sequence the first picture.
  const all = filesBelow(shelves);
  const files = all.filter((path) => !/opening_\d+\.png$/.test(path) || path.endsWith('opening_1001.png'));
  await bareProbe(files);
  const rates: { ours: number; peer: number }[] = [];
  for (let round = 0; round < 3; round += 1) {
    const peer = files.length / (await bareProbe(files));
    const scan = await scanOnce(shelves);
    rates.push({ ours: scan.files / scan.seconds, peer });
  }
  const middle = rates.sort((a, b) => a.ours / a.peer - b.ours / b.peer)[1] as { ours: number; peer: number };
  return {
    name: 'slice.scan',
    value: round(middle.ours),
    unit: 'files/s',
    peer: `bare ffprobe over the same files: ${round(middle.peer)} files/s`,
    ratio: round(middle.ours / middle.peer),
  };
}

/** From the address to a front page with its pictures, in a fresh browser; and what came over the wire for it. */
async function pageFigures(base: string): Promise<Figure[]> {
  return withBrowser(async (browser) => {
    const page = await browser.newPage();
    await signInAs(page, base, 'maren');
    await page.close();
    const [paints, bare]: [number[], number[]] = [[], []];
    let kilobytes = 0;
    for (let round = 0; round < 5; round += 1) {
      const fresh = await browser.newPage();
      await fresh.setCacheEnabled(false);
      const session = await fresh.createCDPSession();
      await session.send('Network.enable');
      let bytes = 0;
      const scripts = new Set<string>();
      session.on(
        'Network.responseReceived',
        ({ requestId, type }) =>
          void (['Script', 'Stylesheet', 'Document', 'Font'].includes(type) && scripts.add(requestId)),
      );
      session.on(
        'Network.loadingFinished',
        ({ requestId, encodedDataLength }) => void (scripts.has(requestId) && (bytes += encodedDataLength)),
      );
      bare.push(await bareDocument(fresh, base));
      scripts.clear();
      bytes = 0;
      const began = performance.now();
      await fresh.goto(`${base}/`, { waitUntil: 'domcontentloaded' });
      await fresh.waitForSelector('.matters li, .nothing');
      paints.push(performance.now() - began);
      await fresh.waitForNetworkIdle({ idleTime: 300, concurrency: 1 });
      kilobytes = bytes / 1000;
      await fresh.close();
    }
    return [
      {
        name: 'slice.paint',
        value: round(median(paints)),
        unit: 'ms',
        peer: `a picture by itself from the same server: ${round(median(bare))} ms`,
        ratio: round(median(paints) / median(bare)),
      },
      { name: 'slice.bundle', value: round(kilobytes), unit: 'kB', peer: null, ratio: null },
    ];
  });
}

/** The peer of a warm start: the database alone on the same data, up to its first answer. */
async function bareDatabase(home: Home): Promise<number> {
  const began = performance.now();
  const database = await Database.start(home);
  const took = seconds(began);
  await database.stop();
  return took;
}

/** The peer of a first paint: a document without script, style or data from the same server, opened the same way. */
async function bareDocument(page: Page, base: string): Promise<number> {
  const began = performance.now();
  await page.goto(`${base}/mark.svg`, { waitUntil: 'domcontentloaded' });
  await page.waitForSelector('svg');
  return performance.now() - began;
}

/** Starts, pages and a first scan, on one demo library. */
async function chain(print: (figure: Figure) => void): Promise<void> {
  const folder = mkdtempSync(join(tmpdir(), 'larder-bench-demo-'));
  try {
    const home = new Home(folder);
    let began = performance.now();
    // Cold: nothing made yet. What Debian, npm and the build take comes on top and depends on the network.
    const cold = await startDemo(home, 0);
    print({ name: 'slice.start.cold', value: round(seconds(began)), unit: 's', peer: null, ratio: null });
    await cold.stop();
    began = performance.now();
    const warm = await startDemo(home, 0);
    const took = seconds(began);
    for (const figure of await pageFigures(`http://127.0.0.1:${warm.port}`)) print(figure);
    await warm.stop();
    const peer = await bareDatabase(home);
    print({
      name: 'slice.start.warm',
      value: round(took),
      unit: 's',
      peer: `the database alone on the same data: ${round(peer)} s`,
      ratio: round(took / peer),
    });
    print(await scanFigure(join(folder, 'demo/media')));
  } finally {
    rmSync(folder, { recursive: true, force: true, maxRetries: 5 });
  }
}

/** The thin chain's figures. */
export const slice = { chain };
