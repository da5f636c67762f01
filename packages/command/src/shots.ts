import { join } from 'node:path';
import type { Page } from 'puppeteer-core';
import { signInAs, withBrowser } from './browser';
import { startDemo } from './demo';
import { Home, ROOT, runningOn } from './home';
import { HOST } from './library';

interface Shot {
  readonly name: string;
  readonly path: string;
  readonly theme?: 'dark';
  /** What is done before the picture is taken. */
  readonly before?: (page: Page) => Promise<void>;
}

const press = (key: '?') => (page: Page) => page.keyboard.press(key);
const clickTile = async (page: Page) => {
  await page.waitForSelector('nl-tile');
  await page.click('nl-tile');
};

const narrowed = async (page: Page) => {
  await clickTile(page);
  await page.keyboard.press('w');
  await page.waitForSelector('[data-facet="tag"] .chosen');
};
const asCriteria = async (page: Page) => {
  await page.keyboard.press('v');
  await page.keyboard.down('Shift');
  await page.keyboard.press('w');
  await page.keyboard.up('Shift');
  await page.waitForSelector('nl-criteria [data-test="criterion"]');
};

/** One picture of each main view; both themes are seen among them. */
const SHOTS: readonly Shot[] = [
  { name: 'front-page', path: '/' },
  { name: 'library', path: '/library?q=tag%3D(boathouse%20or%20lock)', before: narrowed },
  {
    name: 'map',
    path: '/library',
    theme: 'dark',
    before: async (page) => {
      await page.click('button[title^="Map"]');
      await page.waitForSelector('nl-map-view .entry');
      await page.click('nl-map-view .entry');
      await page.waitForSelector('nl-picked-strip .one');
    },
  },
  { name: 'ledger', path: '/library?q=(place%3Alock%20or%20tag%3Dboat)%20duration%3E5s', before: asCriteria },
  {
    name: 'logging',
    path: '/log?q=kind%3Avideo',
    before: async (page) => {
      await page.waitForSelector('nl-logging nl-player video');
      await page.keyboard.press('t');
    },
  },
  {
    name: 'dialogue',
    path: '/dialogue?said=bell%20grandmother%20gate&how=any&notch=4',
    before: async (page) => {
      await page.waitForSelector('nl-dialogue .hit');
      await page.keyboard.press(']');
      await page.waitForSelector('nl-dialogue .hit.active');
      await page.waitForSelector('nl-transcript ol');
    },
  },
  { name: 'words', path: '/words', theme: 'dark' },
  { name: 'bins', path: '/bins/1' },
  { name: 'projects', path: '/projects' },
  { name: 'string-out', path: '/string-outs/1' },
  { name: 'storage', path: '/storage' },
  { name: 'shelf', path: '/storage/1?path=boatyard%2Ftidied&flat=yes' },
  {
    name: 'judge',
    path: '/storage/6?path=B007&look=B007%2FB007C003.mov',
    before: async (page) => {
      // The card lies in the drawer until somebody plugs it in.
      await page.evaluate(() =>
        fetch('/api/volumes', {
          method: 'POST',
          headers: { 'content-type': 'application/json' },
          body: JSON.stringify({ name: 'card-b007', slot: 'reader 1' }),
        }),
      );
      await page.waitForSelector('nl-shelf-player img', { timeout: 20_000 });
    },
  },
  {
    name: 'ingest',
    path: '/storage/6?path=plates',
    theme: 'dark',
    before: async (page) => {
      await page.waitForSelector('.bar .btn-primary:not([disabled])');
      await page.click('.bar .btn-primary');
      await page.waitForSelector('.modal-content label.option');
      await page.click('.modal-content label.option:nth-of-type(2) input');
    },
  },
  { name: 'upload', path: '/upload' },
  {
    name: 'upkeep',
    path: '/upkeep',
    before: async (page) => {
      await page.waitForSelector('form.look button[type="submit"]:not([disabled])');
      await page.click('form.look button[type="submit"]');
      // Not only what the catalogue says at once.
      await page.waitForFunction(() => document.querySelector('nl-relink-plan')?.textContent?.includes('looked at in'));
      // By itself, since what lies above it may still grow.
      await page.$eval('nl-relink-item .btn[aria-expanded]', (button) => (button as HTMLElement).click());
    },
  },
  { name: 'jobs', path: '/jobs', theme: 'dark' },
  { name: 'settings', path: '/settings' },
  { name: 'keys', path: '/library', before: press('?') },
];

const SETTLE_MS = 900;

/** Takes every picture anew from the demo library: the one that runs, or one started for it. */
export async function shots(): Promise<void> {
  const home = new Home();
  const running = runningOn(home);
  const library = running ? null : await startDemo(home, 0);
  const base = `http://${HOST}:${running?.port ?? library?.port ?? 0}`;
  try {
    await withBrowser(async (browser) => {
      const signIn = await browser.newPage();
      await signInAs(signIn, base, 'maren');
      await signIn.close();
      for (const { name, path, theme, before } of SHOTS) {
        // Each picture in a window that starts as a new person's would.
        const page = await browser.newPage();
        await page.evaluateOnNewDocument(
          (settings) => localStorage.setItem('neat-larder.settings', settings),
          JSON.stringify({ theme: theme ?? 'light' }),
        );
        await page.goto(base + path, { waitUntil: 'networkidle2' });
        await before?.(page);
        await new Promise((resolve) => setTimeout(resolve, SETTLE_MS));
        await page.screenshot({ path: join(ROOT, `docs/screenshots/${name}.png`) });
        await page.close();
        console.log(`  docs/screenshots/${name}.png`);
      }
    });
  } finally {
    await library?.stop();
  }
}
