import type { ElementHandle } from 'puppeteer-core';
import { begin, type Begun, until, Window } from './kit';

/** Clips of two places and two days, and a sound of neither. */
const FILES = ['A001C001.mov', 'A001C002.mov', 'B001C001.mp4', 'S01T01.wav'];

let bench: Begun['bench'];
let browser: Begun['browser'];
let maren: Begun['maren'];
let end: Begun['end'];

beforeAll(async () => {
  ({ bench, browser, maren, end } = await begin(FILES));
  await maren.section('Library');
  await maren.says('[data-test="count"]', `${FILES.length} assets`);
}, 300_000);
afterAll(() => end(), 60_000);

const show = (label: string) => maren.page.locator(`button[title^="${label}"]`).click();
const tiles = (window = maren) =>
  window.page.$$eval('nl-tile .name', (all) => all.map((name) => name.textContent?.trim()));
const address = () => decodeURIComponent(new URL(maren.page.url()).search);

describe('a library seen at a glance', () => {
  it('on a map: spots are drawn where clips were recorded, and lead to them', async () => {
    await show('Map');
    const entries = () => maren.page.$$eval('nl-map-view .entry', (all) => all.map((entry) => entry.textContent ?? ''));
    await until('two places', async () => (await entries()).length === 2);
    // The towns are those of the package city-timezones; where they lie to each other is geography.
    expect((await entries()).every((text) => text.includes('Exeter'))).toBe(true);
    // What is on the map is told by the chart's own drawing: a spot with its number.
    const spot = await until(
      'the spot of two',
      async () =>
        (
          await maren.page.evaluateHandle(
            () =>
              [...document.querySelectorAll('nl-map-chart svg text')].find((text) => text.textContent === '2') ?? null,
          )
        ).asElement() as ElementHandle<Element> | null,
    );
    await spot.click();
    await until('its clips', async () => (await maren.page.$$('nl-picked-strip .one')).length === 2);
    await maren.page.locator('button[title="Closer"]').click();
    await until('still there from nearer by', async () => (await entries()).length > 0);
    await maren.clickText('nl-picked-strip button', 'Show 2 assets');
    await maren.says('[data-test="count"]', '2 assets');
    expect(address()).toContain('near:50.812');
    expect((await tiles()).sort()).toEqual(['A001C001.mov', 'A001C002.mov']);
  });

  it('as a calendar: a day leads to what was shot on it', async () => {
    await maren.search('');
    await show('Calendar');
    await until('the days', async () => (await maren.page.$$('nl-days-chart svg path')).length > 300);
    await maren.clickText('nl-calendar-view .entry', '3 May 2026');
    await maren.clickText('nl-picked-strip button', 'Show 2 assets');
    await maren.says('[data-test="count"]', '2 assets');
    expect(address()).toContain('shot:2026-05-03');
  });

  it('in groups, whose headings fold and select', async () => {
    await maren.search('');
    await maren.clickText('nl-arrange-menu button', 'Arrange');
    await maren.choose('#group-by', 'kind');
    await maren.press('Escape');
    await until('two kinds', async () => (await maren.page.$$('nl-group-heading')).length === 2);
    await maren.page.locator('nl-group-heading[aria-label="Video"] [title^="Select all"]').click();
    await maren.says('[data-test="count"]', '3 selected');
    await maren.page.locator('nl-group-heading[aria-label="Video"] [title^="Fold"]').click();
    await until('the videos folded away', async () => (await tiles()).join() === 'S01T01.wav');
    await maren.clickText('nl-arrange-menu button', 'Arrange');
    await maren.choose('#group-by', '');
    await maren.press('Escape');
    await until('one list', async () => (await tiles()).length === 4);
  });

  it('flagged for oneself: a colleague sees none of it', async () => {
    await maren.clickText('nl-tile', 'S01T01.wav');
    await maren.press('Shift+f');
    await maren.says('nl-tile.selected', 'Flag');
    const tobin = await Window.open(browser, bench.base, 'tobin');
    await tobin.section('Library');
    await tobin.says('[data-test="count"]', '4 assets');
    expect(await tobin.page.$$('nl-tile .flag')).toHaveLength(0);
    await tobin.search('flag:mine');
    await tobin.says('[data-test="count"]', '0 assets');
    await maren.search('flag:mine');
    await until('her own', async () => (await tiles()).join() === 'S01T01.wav');
    await tobin.page.browserContext().close();
  });

  it('in a bin by hand: moved into another order, which a colleague sees', async () => {
    await maren.search('');
    await maren.says('[data-test="count"]', '4 assets');
    const { id } = await maren.post('/api/bins', { name: 'Best', parentId: null });
    const { ids } = (await maren.post('/api/search/ids', {})) as { ids: number[] };
    await maren.page.evaluate(
      async (bin, add) => {
        await fetch(`/api/bins/${bin}/assets`, {
          method: 'PUT',
          headers: { 'content-type': 'application/json' },
          body: JSON.stringify({ add }),
        });
      },
      Number(id),
      ids,
    );
    await maren.section('Bins');
    await maren.clickText('a.bin', 'Best');
    await until('by hand, as it was filled', async () => (await tiles())[0] === 'A001C001.mov');
    await maren.clickText('nl-tile', 'S01T01.wav');
    await maren.press('Alt+ArrowUp');
    await until(
      'one earlier',
      async () => (await tiles()).join() === 'A001C001.mov,A001C002.mov,S01T01.wav,B001C001.mp4',
    );
    const tobin = await Window.open(browser, bench.base, 'tobin');
    await tobin.page.goto(`${bench.base}/bins?in=Best`);
    await until(
      'her order',
      async () => (await tiles(tobin)).join() === 'A001C001.mov,A001C002.mov,S01T01.wav,B001C001.mp4',
    );
    await maren.press('Alt+ArrowUp');
    await maren.press('Alt+ArrowUp');
    await until('what she does meanwhile', async () => (await tiles(tobin))[0] === 'S01T01.wav');
    await tobin.page.browserContext().close();
    expect(maren.complaints).toEqual([]);
  });
});
