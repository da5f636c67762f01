import type { Browser, Page } from 'puppeteer-core';
import { QueryTypes } from 'sequelize';
import { signInAs, withBrowser } from '@larder/command/browser';
import { ensurePerson } from '@larder/server';
import { bareKey } from './bare-key';
import { median, round, seconds, type Figure } from './kit';
import { csvFigure } from './logging-csv';
import { PASSWORD, served, type Served } from './served';

/** Tagged at once. */
const SELECTED = 10_000;
const LARGE = 100_000;
const PEOPLE = 50;
const EDIT_SECONDS = 60;
const KEY_ROUNDS = 15;
const TAG_ROUNDS = 5;
const COLUMNS = 40;

async function signedIn(browser: Browser, base: string): Promise<Page> {
  const page = await browser.newPage();
  // The bundler names functions by a helper of its own, which what is evaluated in the page does not bring along.
  await page.evaluateOnNewDocument('globalThis.__name = (value) => value');
  await signInAs(page, base, 'maren');
  return page;
}

/** The answer to the next request of an address; what fails meanwhile is told by what failed, not by this. */
const answered = (page: Page, path: string): Promise<unknown> => {
  const answer = page.waitForResponse((response) => response.url().endsWith(path));
  answer.catch(() => undefined);
  return answer;
};

/** Waits until the first such element holds a text, or holds it no more. */
const says = (page: Page, selector: string, text: string, wanted = true) =>
  page.waitForFunction(
    (where, what, should) => (document.querySelector(where)?.textContent ?? '').includes(what) === should,
    {},
    selector,
    text,
    wanted,
  );

/** What a page has to show: a text in an element, or a class on it. */
interface Sign {
  readonly selector: string;
  readonly nth?: number;
  readonly text?: string;
  readonly name?: string;
}

/** Milliseconds from a key to the first frame drawn in which the page says that it was heard. */
const fromKeyToFrame = (page: Page, keys: readonly string[], sign: Sign): Promise<number> =>
  page.evaluate(
    async (all, { selector, nth = 0, text, name }) => {
      const met = (): boolean => {
        const element = document.querySelectorAll(selector)[nth];
        return text === undefined
          ? (element?.classList.contains(name ?? '') ?? false)
          : (element?.textContent ?? '').includes(text);
      };
      const press = (key: string) =>
        (document.activeElement ?? document.body).dispatchEvent(
          new KeyboardEvent('keydown', { key, bubbles: true, cancelable: true }),
        );
      for (const key of all.slice(0, -1)) press(key);
      await new Promise((resolve) => requestAnimationFrame(() => requestAnimationFrame(resolve)));
      const began = performance.now();
      press(all.at(-1) ?? '');
      while (!met()) await new Promise((resolve) => requestAnimationFrame(resolve));
      return performance.now() - began;
    },
    [...keys],
    sign,
  );

async function tagFigures(print: (figure: Figure) => void): Promise<void> {
  await served(SELECTED, async ({ base, db }) =>
    withBrowser(async (browser) => {
      const page = await signedIn(browser, base);
      await page.goto(`${base}/library`, { waitUntil: 'networkidle2' });
      await says(page, '[data-test=count]', '10,000');
      await page.click('nl-tile');
      await page.keyboard.down('Control');
      await page.keyboard.press('a');
      await page.keyboard.up('Control');
      await says(page, '[data-test=count]', '10,000 selected');
      const [shown, stored, undone, bareKeys, bareSql]: number[][] = [[], [], [], [], []];
      for (let n = 0; n < TAG_ROUNDS; n += 1) {
        bareKeys?.push(await bareKey(page));
        bareSql?.push(await bareTagging(db));
        const answer = answered(page, '/api/assets/edit');
        const began = performance.now();
        shown?.push(await fromKeyToFrame(page, ['t', 'd'], { selector: 'nl-tile', text: 'dawn' }));
        await answer;
        stored?.push(seconds(began));
        const back = answered(page, '/api/undo');
        const undoing = performance.now();
        await page.evaluate(() =>
          document.body.dispatchEvent(new KeyboardEvent('keydown', { key: 'z', ctrlKey: true, bubbles: true })),
        );
        await back;
        undone?.push(seconds(undoing));
        await says(page, 'nl-tile', 'dawn', false);
      }
      const [show, key, store, undo, sql] = [shown, bareKeys, stored, undone, bareSql].map((all) => median(all ?? []));
      const [a = 0, b = 0, c = 0, d = 0, e = 0] = [show, key, store, undo, sql];
      print({
        ...{ name: 'logging.tag10k.shown', value: round(a), unit: 'ms' },
        ...{ peer: `a key that turns one class on, in the same page: ${round(b)} ms`, ratio: round(a / b) },
      });
      const peer = `one INSERT … SELECT of as many tags and as many rows of history, by the database alone: ${round(e)} s`;
      print({ name: 'logging.tag10k.stored', value: round(c), unit: 's', peer, ratio: round(c / e) });
      print({ name: 'logging.tag10k.undone', value: round(d), unit: 's', peer, ratio: round(d / e) });
    }),
  );
}

/** The least that storing a tag on all of them takes: the tags, and a row of history for each. */
async function bareTagging(db: Served['db']): Promise<number> {
  await db.query('CREATE TABLE IF NOT EXISTS bare_tag LIKE asset_tag');
  await db.query('CREATE TABLE IF NOT EXISTS bare_feed LIKE change_feed');
  const began = performance.now();
  await db.transaction(async (transaction) => {
    await db.query('INSERT INTO bare_tag SELECT id, 1 FROM asset', { transaction, type: QueryTypes.INSERT });
    await db.query(
      `INSERT INTO bare_feed (revision, change_group, at_ms, action, entity, entity_id, before_values, after_values) SELECT id, 'g', 1, 'edit', 'asset', id, '{"tags":[]}', '{"tags":["dawn"]}' FROM asset`,
      { transaction, type: QueryTypes.INSERT },
    );
  });
  const took = seconds(began);
  await db.query('DROP TABLE bare_tag, bare_feed');
  return took;
}

async function keyFigure(print: (figure: Figure) => void): Promise<void> {
  await served(1000, async ({ base }) =>
    withBrowser(async (browser) => {
      const page = await signedIn(browser, base);
      await page.goto(`${base}/log`, { waitUntil: 'networkidle2' });
      await page.waitForSelector('nl-logging .verdicts button');
      await page.click('[data-test=auto-advance]');
      await page.evaluate(() => (document.activeElement as HTMLElement).blur());
      const [ours, bare]: [number[], number[]] = [[], []];
      for (let n = 0; n < KEY_ROUNDS; n += 1) {
        bare.push(await bareKey(page));
        const [key, index] = n % 2 === 0 ? (['c', 0] as const) : (['h', 1] as const);
        ours.push(
          await fromKeyToFrame(page, [key], { selector: 'nl-logging .verdicts button', nth: index, name: 'active' }),
        );
        await new Promise((resolve) => setTimeout(resolve, 150));
      }
      const [value, peer] = [median(ours), median(bare)];
      print({
        ...{ name: 'logging.key', value: round(value), unit: 'ms' },
        ...{ peer: `a key that turns one class on, in the same page: ${round(peer)} ms`, ratio: round(value / peer) },
      });
    }),
  );
}

/** People who say something of one clip after another, each of clips of their own, as fast as they are answered. */
async function editFigure(print: (figure: Figure) => void): Promise<void> {
  await served(SELECTED, async ({ base, db }) => {
    const cookies = await Promise.all(
      Array.from({ length: PEOPLE }, async (_unused, n) => {
        await ensurePerson(`p${n}`, `Person ${n}`, 'editor', PASSWORD);
        const answer = await fetch(`${base}/api/session`, {
          method: 'POST',
          headers: { 'content-type': 'application/json' },
          body: JSON.stringify({ login: `p${n}`, password: PASSWORD }),
        });
        return answer.headers.get('set-cookie')?.split(';')[0] ?? '';
      }),
    );
    const ids = await db.query<{ id: number }>('SELECT id FROM asset ORDER BY id', { type: QueryTypes.SELECT });
    let sent = 0;
    const until = performance.now() + EDIT_SECONDS * 1000;
    const began = performance.now();
    await Promise.all(
      cookies.map(async (cookie, person) => {
        for (let n = 0; performance.now() < until; n += 1) {
          const { id } = ids[(person + n * PEOPLE) % ids.length] ?? { id: 0 };
          const edit = {
            assetIds: [id],
            seenRevision: 1e9,
            set: { notes: `${person} ${n}` },
            addTags: [],
            removeTags: [],
          };
          const answer = await fetch(`${base}/api/assets/edit`, {
            method: 'POST',
            headers: { 'content-type': 'application/json', cookie },
            body: JSON.stringify(edit),
          });
          if (!answer.ok) throw new Error(`an edit was refused: ${await answer.text()}`);
          await answer.arrayBuffer();
          sent += 1;
        }
      }),
    );
    const rate = sent / seconds(began);
    const [kept] = await db.query<{ n: number }>(`SELECT COUNT(*) AS n FROM change_feed WHERE action = 'edit'`, {
      type: QueryTypes.SELECT,
    });
    if (Number(kept?.n) !== sent) throw new Error(`${sent} edits were answered and ${kept?.n} are in the feed`);
    const bare = await bareEdits(db, ids);
    print({
      ...{ name: 'logging.edits', value: round(rate), unit: 'edits/s' },
      peer: `one UPDATE and one INSERT in a transaction, ${PEOPLE} at once, by the database alone: ${round(bare)}/s`,
      ratio: round(rate / bare),
    });
  });
}

async function bareEdits(db: Served['db'], ids: readonly { readonly id: number }[]): Promise<number> {
  await db.query('CREATE TABLE bare_feed (id BIGINT PRIMARY KEY AUTO_INCREMENT, asset_id BIGINT, after_values JSON)');
  let done = 0;
  const until = performance.now() + 10_000;
  const began = performance.now();
  await Promise.all(
    Array.from({ length: PEOPLE }, async (_unused, person) => {
      for (let n = 0; performance.now() < until; n += 1) {
        const id = ids[(person + n * PEOPLE) % ids.length]?.id ?? 0;
        await db.transaction(async (transaction) => {
          const replacements = { id, notes: `${person} ${n}` };
          await db.query('UPDATE asset SET notes = :notes WHERE id = :id', { replacements, transaction });
          await db.query(`INSERT INTO bare_feed (asset_id, after_values) VALUES (:id, '{"notes":"x"}')`, {
            replacements,
            transaction,
          });
        });
        done += 1;
      }
    }),
  );
  const rate = done / seconds(began);
  await db.query('DROP TABLE bare_feed');
  return rate;
}

/** The longest a frame took while the ledger is scrolled by its wheel, all its columns shown. */
async function scrollFigure(print: (figure: Figure) => void): Promise<void> {
  await served(LARGE, async ({ base }) =>
    withBrowser(async (browser) => {
      const page = await signedIn(browser, base);
      await page.evaluate(() => {
        localStorage.setItem('neat-larder.settings', JSON.stringify({ view: 'ledger', details: false }));
      });
      await page.goto(`${base}/library`, { waitUntil: 'networkidle2' });
      await page.waitForSelector('.ag-row');
      await page.click('nl-ledger-columns button');
      let columns = await page.$$eval(
        '[data-column]',
        (boxes) => boxes.filter((box) => (box as HTMLInputElement).checked).length,
      );
      for (const box of await page.$$('[data-column]')) {
        if (columns >= COLUMNS) break;
        if (await box.evaluate((element) => !(element as HTMLInputElement).checked)) {
          await box.evaluate((element) => (element as HTMLElement).click());
          columns += 1;
        }
      }
      await page.keyboard.press('Escape');
      const scroll = (selector: string) =>
        page.evaluate(async (target) => {
          const box = document.querySelector(target) as HTMLElement;
          const frames: number[] = [];
          let [last, blank] = [performance.now(), 0];
          for (let n = 0; n < 240; n += 1) {
            box.scrollTop += 60;
            await new Promise((resolve) => requestAnimationFrame(resolve));
            const now = performance.now();
            frames.push(now - last);
            last = now;
            const { top, bottom } = box.getBoundingClientRect();
            const cells = [...document.querySelectorAll('.ag-row [col-id="name"]')].filter((cell) => {
              const at = cell.getBoundingClientRect();
              return at.bottom > top && at.top < bottom;
            });
            // A row that is there but says nothing is as blank as none.
            if (target.includes('ag-') && (cells.length === 0 || cells.some((cell) => cell.textContent === '')))
              blank += 1;
          }
          return { longest: Math.max(...frames.slice(2)), blank };
        }, selector);
      const ours = await scroll('.ag-body-viewport');
      if (ours.blank > 0) throw new Error(`${ours.blank} frames with a blank row`);
      await page.evaluate(() => {
        const plain = document.createElement('div');
        plain.id = 'bare';
        plain.style.cssText = 'position:fixed;inset:0;overflow:auto;background:#fff;z-index:9';
        plain.innerHTML = `<table>${Array.from({ length: 2000 }, (_unused, n) => `<tr><td>clip_${n}.mov</td></tr>`).join('')}</table>`;
        document.body.append(plain);
      });
      const bare = await scroll('#bare');
      print({
        ...{ name: 'logging.scroll', value: round(ours.longest), unit: 'ms' },
        peer: `longest frame of a plain table of one column, ${columns} columns here: ${round(bare.longest)} ms`,
        ratio: round(ours.longest / bare.longest),
      });
    }),
  );
}

/** Saying what clips are: many at once, one after another, by many people, and looking over a hundred thousand. */
export const logging = { tag: tagFigures, key: keyFigure, edits: editFigure, scroll: scrollFigure, csv: csvFigure };
