import { mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import puppeteer, { type Browser, type Page } from 'puppeteer-core';
import { Plain } from './home';

export const SCREEN = { width: 1280, height: 800 } as const;
const FLAGS =
  '--no-sandbox --disable-gpu --disable-quic --no-first-run --disable-background-networking --disable-component-update --disable-sync --autoplay-policy=no-user-gesture-required --mute-audio';

/** Headless Chromium with a profile of its own, thrown away afterwards. */
export async function withBrowser<T>(work: (browser: Browser) => Promise<T>): Promise<T> {
  const profile = mkdtempSync(join(tmpdir(), 'larder-browser-'));
  const browser = await puppeteer
    .launch({
      executablePath: process.env['CHROMIUM'] ?? '/usr/bin/chromium',
      headless: true,
      args: FLAGS.split(' '),
      userDataDir: profile,
      defaultViewport: SCREEN,
    })
    .catch((error: Error) => {
      throw new Plain(`Chromium could not be started (${error.message}). Install it with: apt-get install chromium`);
    });
  try {
    return await work(browser);
  } finally {
    await browser.close();
    rmSync(profile, { recursive: true, force: true, maxRetries: 5 });
  }
}

/** Opens the application as one of the demo's people. */
export async function signInAs(page: Page, base: string, login: string): Promise<void> {
  await page.goto(`${base}/sign-in`, { waitUntil: 'networkidle2' });
  await page.locator(`[data-login="${login}"]`).click();
  await page.waitForSelector('nl-frame');
}
