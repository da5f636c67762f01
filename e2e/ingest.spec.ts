import { execFileSync } from 'node:child_process';
import { mkdirSync, readdirSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import type { Browser } from 'puppeteer-core';
import { wave } from '../packages/server/test/wave';
import { Bench, opened, until, Window } from './kit';

const SOUNDS = 60;

let bench: Bench;
let browser: Browser;
let close: () => Promise<void>;
let maren: Window;
let store: string;

beforeAll(async () => {
  bench = await Bench.start([], ['A001C003.mov', 'A001C005.mov', 'bell_plate_']);
  mkdirSync(join(bench.card, 'sound'));
  for (let n = 0; n < SOUNDS; n += 1)
    writeFileSync(join(bench.card, 'sound', `T${String(n).padStart(3, '0')}.wav`), wave(n, 40_000));
  mkdirSync(join(bench.card, 'long'));
  // Long enough to be worked on before its proxy is made.
  execFileSync('ffmpeg', [
    ...'-v error -f lavfi -i testsrc2=s=1280x720:r=25:d=25 -c:v libx264 -preset ultrafast -g 25 -pix_fmt yuv420p'.split(
      ' ',
    ),
    ...'-timecode 10:00:00:00 -metadata:s:v:0 reel_name=D001'.split(' '),
    join(bench.card, 'long/D001C001.mov'),
  ]);
  store = bench.folderFor('store');
  ({ browser, close } = await opened());
  maren = await Window.open(browser, bench.base, 'maren');
  await maren.post('/api/storages', { name: 'Store', rootPath: store, managed: true });
}, 300_000);
afterAll(async () => {
  await close();
  await bench.stop();
}, 60_000);

const rows = () =>
  maren.page.$$eval('.row-line', (lines) => lines.map((line) => line.textContent?.replace(/\s+/g, ' ').trim() ?? ''));
const plug = async (slot: string) => {
  await maren.section('Settings');
  await maren.clickText('[data-volume="card"] button', `Plug into ${slot}`);
  await maren.says('[data-volume="card"]', `in ${slot}`);
};
const openFolder = async (name: string) => {
  await maren.section('Storage');
  await maren.clickText('[data-storage="Card"] h2 a', 'Card');
  await maren.clickText('cdk-tree-node .name', name);
};
const check = (selector: string) => maren.page.$eval(selector, (box) => (box as HTMLElement).click());
const jobs = () =>
  maren.page.evaluate(
    async () =>
      (
        (await (await fetch('/api/jobs')).json()) as {
          jobs: { id: number; kind: string; state: string; message: string | null }[];
        }
      ).jobs,
  );

/** One walk, in the order of a card's day: each step stands on the one before. */
describe('a card comes in', () => {
  it('it is plugged in, added, and looked into before anything of it is catalogued', async () => {
    await plug('reader 1');
    await maren.section('Storage');
    await maren.clickText('button', 'Add a storage');
    await maren.fill('#storage-name', 'Card');
    await maren.fill('#storage-root', bench.slot('reader 1'));
    // Added only; what comes in is decided afterwards.
    await maren.post('/api/storages', { name: 'Card', rootPath: bench.slot('reader 1'), kind: 'removable' });
    await maren.says('[data-storage="Card"]', 'recognised by its identity');
    await openFolder('footage');
    await until('its things', async () => (await rows()).length === 3);
    expect((await rows()).every((line) => line.startsWith('New'))).toBe(true);
  });

  it('a clip is judged: its picture frame by frame, its sound channel by channel, and what it says', async () => {
    await maren.clickText('.row-line .look', 'A001C003.mov');
    await maren.says('nl-judge', 'Start timecode');
    await maren.says('nl-judge', '01:00:12:00');
    await maren.says('nl-judge', /Nothing unusual; \d channels? heard/);
    const shown = () =>
      maren.page.$eval(
        'nl-shelf-player img',
        (image) => image.complete && image.naturalWidth > 0 && image.dataset['frame'],
      );
    await until('the first frame', async () => (await shown()) === '0');
    await maren.press('Shift+ArrowRight', 'Shift+ArrowRight', 'Shift+ArrowRight');
    await maren.says('[data-test="shelf-timecode"]', '01:00:12:03');
    await until('the fourth', async () => (await shown()) === '3');
    await maren.press(' ');
    await until(
      'the stream to run',
      async () => Number((await maren.text('[data-test="shelf-frame"]')).split(' ')[0]) > 20,
    );
    await until('the meters to move', () =>
      maren.page.$$eval('nl-channel-meters .bar', (bars) =>
        bars.some((bar) => parseFloat((bar as HTMLElement).style.height) > 5),
      ),
    );
    await maren.click('[aria-label="Hear channel 1 alone"]');
    await maren.page.waitForSelector('[aria-label="Hear channel 1 alone"][aria-pressed="true"]');
    await maren.page.evaluate(() => (document.activeElement as HTMLElement | null)?.blur());
    await maren.press('k');
    await until('the picture to stand', async () => (await maren.page.$('nl-shelf-player video')) === null);
  });

  it('an image sequence with a gap is brought in at the rate that it was rendered for', async () => {
    await maren.clickText('.row-line .look', 'bell_plate_[1001-1024].png');
    await maren.says('nl-judge', 'Pictures are missing: 1013 to 1014.');
    await check('[aria-label="Choose bell_plate_[1001-1024].png"]');
    await maren.clickText('.bar button', 'Bring in 1 thing');
    await maren.says('.modal-content', 'Nothing of it is in the library yet.');
    await maren.clickText('legend button', 'How it is to be read');
    await maren.page.waitForSelector('#ingest-rate');
    await maren.choose('#ingest-rate', '24');
    await maren.clickText('.modal-footer button', 'Bring in');
    await until('it to be catalogued', async () => (await rows()).some((line) => /^Online.*bell_plate/.test(line)));
    await maren.section('Library');
    await maren.search('kind:sequence');
    await maren.clickText('nl-tile', 'bell_plate_');
    await maren.says('nl-details dl', '0:01 (24 frames)');
    await maren.says('nl-details dl', '1013–1014');
  });

  it('a clip is copied with a mezzanine, worked on at once, and the player changes to the proxy by itself', async () => {
    await openFolder('long');
    await until('the clip', async () => (await rows()).length === 1);
    await maren.clickText('.bar button', 'Bring in this folder');
    await check('.modal-content label.option:nth-of-type(2) input');
    await maren.page.waitForSelector('#ingest-folder');
    await maren.choose('#ingest-mezzanine', 'vc3');
    await maren.clickText('.modal-footer button', 'Bring in');
    await maren.section('Library');
    await maren.search('reel:D001');
    await maren.says('[data-test="count"]', '1 asset');
    await maren.clickText('nl-tile', 'D001C001.mov');
    const source = () => maren.page.$eval('nl-player video', (video) => new URL(video.src).pathname.split('/').at(-1));
    expect(await until('something to play', source)).toBe('original');
    await maren.press('c');
    await maren.says('nl-tile.selected', 'Circled');
    await until('the proxy', async () => (await source()) === 'proxy');
    await maren.says('nl-places', 'Edit-ready copy');
    await maren.says('nl-places', 'Card/long/D001C001.mov');
    expect(await maren.text('nl-tile.selected')).toContain('Circled');
    expect(readdirSync(join(store, 'long'))).toEqual(['D001C001.mov']);
    expect(readdirSync(join(store, 'ascmhl')).filter((name) => name.endsWith('.mhl'))).toHaveLength(1);
  });

  it('the card is pulled halfway through a copy, comes back in another reader, and nothing is lost or double', async () => {
    await openFolder('sound');
    await until('the sounds', async () => (await rows()).length > 10);
    await maren.clickText('.bar button', 'Bring in this folder');
    await check('.modal-content label.option:nth-of-type(2) input');
    await maren.page.waitForSelector('#ingest-folder');
    await maren.fill('#ingest-new-bin', 'Wild sound');
    await maren.clickText('.modal-footer button', 'Bring in');
    const ingest = await until('the ingest', async () =>
      (await jobs()).find(({ kind, state }) => kind === 'ingest' && state === 'running'),
    );
    const counts = async () =>
      (await maren.page.evaluate(
        async (id) => (await (await fetch(`/api/jobs/${id}/items`)).json()) as unknown,
        ingest.id,
      )) as {
        counts: { done: number; waiting: number; failed: number; skipped: number };
      };
    await until('some of it to be in', async () => (await counts()).counts.done > 8);
    await maren.post('/api/volumes', { name: 'card', slot: null });
    const stopped = await until('it to stop', async () =>
      (await jobs()).find(({ id, state }) => id === ingest.id && state === 'failed'),
    );
    expect(stopped.message).toContain('Card went away.');
    const halfway = (await counts()).counts;
    expect(halfway.failed).toBe(0);
    expect(halfway.waiting).toBeGreaterThan(0);
    await plug('reader 2');
    await maren.section('Jobs');
    await maren.clickText(`[data-job="${ingest.id}"] button`, 'Resume');
    await until('the rest', async () => (await jobs()).find(({ id, state }) => id === ingest.id && state === 'done'));
    expect((await counts()).counts).toMatchObject({ done: SOUNDS, failed: 0, waiting: 0, skipped: 0 });
    expect(readdirSync(join(store, 'sound')).filter((name) => name.endsWith('.wav'))).toHaveLength(SOUNDS);
    expect(readdirSync(join(store, 'sound')).filter((name) => name.startsWith('.larder'))).toEqual([]);
    await maren.section('Bins');
    await maren.says('[data-bin="Wild sound"]', String(SOUNDS));
    await maren.clickText('a.bin', 'Wild sound');
    await maren.says('[data-test="count"]', `${SOUNDS} assets`);
    expect(maren.complaints).toEqual([]);
    expect(maren.strays).toEqual([]);
  });
});

describe('files come from this computer', () => {
  it('they are sent, described meanwhile, and brought in', async () => {
    await maren.section('Storage');
    await maren.clickText('a', 'Upload');
    const field = await maren.page.waitForSelector('[data-test="files"]');
    const path = join(bench.folderFor('away'), 'postcard.txt');
    writeFileSync(path, 'The bell is cast on Thursday.');
    await (field as unknown as { uploadFile(...paths: string[]): Promise<void> }).uploadFile(
      path,
      join(store, 'sound/T000.wav'),
    );
    await maren.says('[data-upload="postcard.txt"]', 'Sent');
    await maren.says('[data-upload="T000.wav"]', 'Sent');
    await maren.page.waitForSelector('.say #ingest-mezzanine');
    await maren.fill('#ingest-folder', 'from Maren');
    await maren.press('Tab');
    await maren.clickText('.say button', 'Bring in');
    await maren.says('.report', '1 in');
    await maren.says('.report', 'The library has it');
    await maren.section('Library');
    await maren.search('kind:document');
    await maren.says('nl-library', 'postcard.txt');
  });
});
