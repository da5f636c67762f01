import { mkdirSync, renameSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import type { Browser } from 'puppeteer-core';
import { Bench, opened, until, Window } from './kit';

let bench: Bench;
let browser: Browser;
let close: () => Promise<void>;
let maren: Window;
const at = (...path: string[]) => join(bench.shelf, ...path);

beforeAll(async () => {
  bench = await Bench.start(['A001C003.mov', 'A001C005.mov', 'opening_', 'S01T01.wav']);
  mkdirSync(at('card/A001'), { recursive: true });
  for (const name of ['A001C003.mov', 'A001C005.mov']) renameSync(at('footage', name), at('card/A001', name));
  writeFileSync(at('card/A001/A001C003.xmp'), '<x:xmpmeta/>');
  ({ browser, close } = await opened());
  maren = await Window.open(browser, bench.base, 'maren');
  await maren.post('/api/storages', { name: 'Shelf', rootPath: bench.shelf });
  await maren.section('Storage');
}, 300_000);
afterAll(async () => {
  await close();
  await bench.stop();
}, 60_000);

const rows = () =>
  maren.page.$$eval('.row-line', (lines) => lines.map((line) => line.textContent?.replace(/\s+/g, ' ').trim() ?? ''));
const counts = (folder: string) => maren.text(`[data-folder="${folder}"] .counts`);
const becomes = (folder: string, words: string) =>
  until(`${folder} to say ${words}`, async () => (await counts(folder)) === words);

describe('a storage before and after it comes in', () => {
  it('is looked into folder by folder before anything of it is catalogued', async () => {
    await maren.clickText('[data-storage="Shelf"] h2 a', 'Shelf');
    await becomes('card', '2 new');
    await becomes('footage', '2 new');
    await maren.says('.folders', 'Not scanned');
    await maren.clickText('cdk-tree-node .name', 'footage');
    await until('its files', async () => (await rows()).length === 2);
    expect((await rows())[0]).toMatch(/^New ?S01T01\.wav/);
    expect((await rows())[1]).toMatch(/^New ?opening_\[1001-1048\]\.png ?48 files/);
  });

  it('the tree is walked with the arrows', async () => {
    await maren.page.focus('[data-folder="card"]');
    await maren.press('ArrowRight');
    await until('its folder', async () => (await maren.page.$('[data-folder="card/A001"]')) !== null);
    await maren.press('ArrowDown', 'Enter');
    await until('its files', async () => (await rows()).some((line) => line.includes('A001C003.mov')));
    expect((await rows())[0]).toContain('+ 1 sidecar');
    await until('the path to follow', () =>
      maren.page.$eval('#shelf-path', (field) => (field as HTMLInputElement).value === 'card/A001'),
    );
  });

  it('one folder is scanned, the other stays as it was', async () => {
    await maren.click('[aria-label="Tick card"]');
    await maren.clickText('.bar button', 'Scan 1 ticked folder');
    await becomes('card', '2');
    await until('both to be catalogued', async () => (await rows()).every((line) => line.startsWith('Online')));
    await maren.says('[data-test="folder-scan"]', 'by Maren Oakley');
    expect(await counts('footage')).toBe('2 new');
    await maren.section('Library');
    await maren.says('[data-test="count"]', '2 assets');
    await maren.page.goBack();
  });

  it('a file that was taken away is missing there before any scan, and leads to what the library knows of it', async () => {
    renameSync(at('card/A001/A001C005.mov'), at('footage/A001C005.mov'));
    await maren.clickText('cdk-tree-node .name', 'footage');
    await until('the moved file', async () => (await rows()).some((line) => /^New ?A001C005\.mov/.test(line)));
    await maren.fill('#shelf-path', at('card/A001'));
    await maren.press('Enter');
    await until('the gap', async () => (await rows()).some((line) => /^Missing ?A001C005\.mov/.test(line)));
    await maren.clickText('.btn-group button', '1 missing');
    await until('it alone', async () => (await rows()).length === 1);
    await maren.clickText('.row-line a', 'A001C005.mov');
    await maren.says('[data-test="count"]', '1 asset');
    expect(maren.complaints).toEqual([]);
  });
});
