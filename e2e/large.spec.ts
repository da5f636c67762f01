import { mkdirSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import type { Browser } from 'puppeteer-core';
import { catalogueMany } from '../packages/server/test/many';
import { Bench, opened, until, Window } from './kit';

const ASSETS = 100_000;

let bench: Bench;
let browser: Browser;
let close: () => Promise<void>;
let maren: Window;

beforeAll(async () => {
  bench = await Bench.start([]);
  // Not empty, or it would be taken for a mount point with nothing mounted.
  mkdirSync(bench.shelf, { recursive: true });
  writeFileSync(join(bench.shelf, 'readme.txt'), '');
  ({ browser, close } = await opened());
  maren = await Window.open(browser, bench.base, 'maren');
  const { id } = await maren.post('/api/storages', { name: 'Large', rootPath: bench.shelf });
  await catalogueMany(bench.library, Number(id), ASSETS);
  await maren.section('Library');
  await maren.says('[data-test="count"]', '100,000 assets');
}, 300_000);
afterAll(async () => {
  await close();
  await bench.stop();
}, 60_000);

/** Every tile on the screen with the place in the list that its position means. */
const tilesByPlace = () =>
  maren.page.evaluate(() => {
    const viewport = document.querySelector('cdk-virtual-scroll-viewport') as HTMLElement;
    const top = viewport.getBoundingClientRect().top - viewport.scrollTop;
    const rows = [...viewport.querySelectorAll('.row')];
    const columns = getComputedStyle(rows[0] as Element).gridTemplateColumns.split(' ').length;
    return rows.flatMap((row) => {
      const box = row.getBoundingClientRect();
      const first = Math.round((box.top - top) / box.height) * columns;
      return [...row.children].map((tile, column) => ({ place: first + column, text: tile.textContent ?? '' }));
    });
  });

/** Scrolls the contact sheet to a part of its height, and waits until every place drawn there shows its asset. */
async function sheetRightAt(part: number): Promise<number[]> {
  await maren.page.$eval(
    'cdk-virtual-scroll-viewport',
    (viewport, fraction) => (viewport.scrollTop = (viewport.scrollHeight - viewport.clientHeight) * fraction),
    part,
  );
  return until(`the sheet to be right at ${part}`, async () => {
    const tiles = await tilesByPlace();
    const right = tiles.every(({ place, text }) => new RegExp(`Lock ${place + 1}\\D`).test(`${text} `));
    const there = Math.abs((tiles[0]?.place ?? -1) / ASSETS - part) < 0.01;
    return tiles.length > 0 && right && there && tiles.map(({ place }) => place);
  });
}

const ledgerRows = () =>
  maren.page.$$eval('.ag-pinned-left-cols-container .ag-row', (rows) =>
    rows.map((row) => ({ place: Number(row.getAttribute('row-index')), name: row.textContent?.trim() ?? '' })),
  );

async function ledgerRightAt(part: number, nameAt: (place: number) => string): Promise<void> {
  await maren.page.$eval(
    '.ag-body-viewport',
    (viewport, fraction) => (viewport.scrollTop = (viewport.scrollHeight - viewport.clientHeight) * fraction),
    part,
  );
  await until(`the ledger to be right at ${part}`, async () => {
    const rows = await ledgerRows();
    const there = rows.some(({ place }) => Math.abs(place / ASSETS - part) < 0.01);
    return there && rows.every(({ place, name }) => name === nameAt(place));
  });
}

describe('a library of a hundred thousand', () => {
  it.each([0, 0.5, 0.123, 1, 0.999, 0])('the contact sheet is right at %d of its height', async (part) => {
    const places = await sheetRightAt(part);
    expect(new Set(places).size).toBe(places.length);
    // Only what is near the screen is drawn.
    expect(places.length).toBeLessThan(100);
    if (part === 1) expect(Math.max(...places)).toBe(ASSETS - 1);
  });

  it('a range from the top to the middle is selected, counted, and let go of', async () => {
    await sheetRightAt(0);
    await maren.click('nl-tile');
    await maren.says('[data-test="count"]', '1 selected');
    const places = await sheetRightAt(0.5);
    const tile = await maren.page.$('nl-tile');
    const shown = await tile?.evaluate((element) => Number(/Lock (\d+)/.exec(element.textContent ?? '')?.[1]));
    expect(shown).toBe((places[0] ?? 0) + 1);
    await maren.page.keyboard.down('Shift');
    await tile?.evaluate((element) =>
      element.dispatchEvent(new MouseEvent('click', { bubbles: true, shiftKey: true })),
    );
    await maren.page.keyboard.up('Shift');
    await maren.says('[data-test="count"]', `${(shown ?? 0).toLocaleString('en')} selected`);
    await maren.press('Control+a');
    await maren.says('[data-test="count"]', '100,000 selected');
    await maren.says('nl-details', '100,000 assets selected');
    await maren.press('Escape');
    await until('nothing to be selected', async () => !(await maren.text('[data-test="count"]')).includes('selected'));
  });

  it('the ledger is right at its top, in its middle and at its end, and sorted by another column', async () => {
    await maren.press('v');
    await maren.page.waitForSelector('.ag-row');
    for (const part of [0, 0.5, 0.987, 1]) await ledgerRightAt(part, (place) => `clip_${place + 1}.mov`);
    await maren.clickText('nl-ledger-columns button', 'Columns');
    await maren.page.$eval('[data-column="path"]', (box) => (box as HTMLElement).click());
    await maren.page.$eval('[data-column="title"]', (box) => (box as HTMLElement).click());
    await until('the columns', () =>
      maren.page.$$eval('.ag-header-cell', (cells) => {
        const ids = cells.map((cell) => cell.getAttribute('col-id'));
        return ids.includes('kind') && !ids.includes('title');
      }),
    );
    await maren.clickText('nl-ledger-columns button', 'As at first');
    await maren.page.waitForSelector('.ag-header-cell[col-id="title"]');
    await maren.clickText('nl-ledger-columns button', 'Columns');
    await maren.choose('#sort', 'duration/down');
    for (const part of [0, 0.4, 1]) await ledgerRightAt(part, (place) => `clip_${ASSETS - place}.mov`);
    await maren.choose('#sort', 'name/up');
    await ledgerRightAt(0, (place) => `clip_${place + 1}.mov`);
  });

  it('rows of the ledger that a colleague changes come right where they are, on the screen and beside it', async () => {
    await ledgerRightAt(0.5, (place) => `clip_${place + 1}.mov`);
    const places = (await ledgerRows()).map(({ place }) => place).sort((a, b) => a - b);
    const shown = places[Math.floor(places.length / 2)] ?? 0;
    const beside = shown + 150;
    const ids = await Promise.all(
      [shown, beside].map(async (place) => {
        const { assets } = await maren.post('/api/search', { query: `name:"clip_${place + 1}.mov"`, limit: 1 });
        return (assets as readonly { readonly id: number }[])[0]?.id ?? 0;
      }),
    );
    const edit = { assetIds: ids, seenRevision: Number.MAX_SAFE_INTEGER, set: { title: 'Told' } };
    await maren.post('/api/assets/edit', { ...edit, addTags: [], removeTags: [] });
    const title = (place: number) => `.ag-row[row-index="${place}"] [col-id="title"]`;
    await maren.says(title(shown), 'Told');
    await maren.page.evaluate(
      (row, rows) => {
        const height = document.querySelector(row)?.clientHeight ?? 0;
        (document.querySelector('.ag-body-viewport') as HTMLElement).scrollTop += rows * height;
      },
      '.ag-center-cols-container .ag-row',
      beside - shown,
    );
    await maren.page.waitForSelector(title(beside));
    await maren.says(title(beside), 'Told');
    await maren.press('v');
  });

  it('a search narrows it to the reel, and an emptied line brings all of it back', async () => {
    await maren.search('reel:R54');
    await maren.says('[data-test="count"]', '1,000 assets');
    await until('the first of the reel', async () => (await maren.text('nl-tile')).includes('Lock 54000'));
    await maren.search('');
    await maren.says('[data-test="count"]', '100,000 assets');
    await sheetRightAt(0);
    expect(maren.complaints).toEqual([]);
  });
});
