import { join } from 'node:path';
import { mkdirSync, writeFileSync } from 'node:fs';
import type { Page } from 'puppeteer-core';
import { QueryTypes } from 'sequelize';
import { signInAs, withBrowser } from '@larder/command/browser';
import { fold } from '@larder/core/fields';
import { parseQuery } from '@larder/core/query';
import { LibraryIndex } from '@larder/core/search';
import { addStorage } from '@larder/server';
import { bareKey } from './bare-key';
import { median, round, type Figure } from './kit';
import { document, queries, TAGS, word } from './search-corpus';
import { PASSWORD, served, type Place } from './served';

const BATCH = 1000;
const STORAGES = 12;
const PEOPLE = 20;
const ASKED = 15;
/** What a list asks for: its first page, and what stands beside it. */
const PAGE = 100;
const FACETS = ['kind', 'verdict', 'storage', 'tag', 'reel', 'shot'] as const;
const FACET_LIMIT = 8;
const BY_NAME = { field: 'name', descending: false } as const;
const WORDS_TYPED = 25;
/** Between two keys of somebody who types without haste; common practice, no source. */
const KEY_MS = 180;

const RATES: Readonly<Record<string, readonly [number, number, boolean]>> = {
  '25': [25, 1, false],
  '29.97df': [30_000, 1001, true],
  '50': [50, 1, false],
};

/** Puts the assets of the bench into the database, without files. */
async function fill({ db, shelf }: Place, n: number): Promise<void> {
  const storages: number[] = [];
  for (let k = 0; k < STORAGES; k += 1) {
    const rootPath = join(shelf, `shelf ${k}`);
    mkdirSync(rootPath);
    writeFileSync(join(rootPath, 'readme.txt'), '');
    storages.push((await addStorage(db, null, { name: `shelf ${k}`, rootPath })).id);
  }
  const tags = Array.from({ length: TAGS }, (_unused, rank) => word(rank));
  await db.query('INSERT INTO tag (id, name, folded) VALUES ?', {
    replacements: [tags.map((name, at) => [at + 1, name, fold(name)])],
    type: QueryTypes.INSERT,
  });
  const idOf = new Map(tags.map((name, at) => [name, at + 1]));
  for (let id = 1; id <= n; id += BATCH) {
    const rows: unknown[] = [];
    const tagged: unknown[] = [];
    for (let each = id; each < id + BATCH && each <= n; each += 1) {
      const { values: said } = document(each);
      const [num, den, drop] = RATES[String(said.rate)] ?? [null, null, false];
      const { rating, people } = said;
      const logged = JSON.stringify({ ...(rating ? { rating } : {}), ...(people ? { people } : {}) });
      rows.push([
        ...[each, said.kind, said.name, said.title, said.description, said.notes ?? null, said.verdict ?? null],
        ...[said.reel, said.scene, said.take, said.place ?? null, said.shot, said.added, num, den, drop],
        ...[said.duration ?? null, said.width ?? null, said.height ?? null, said.codec ?? null],
        ...[storages[Number(String(said.storage).split(' ')[1])], said.path, String(each).padStart(40, '0')],
        ...[said.size, 1, 'online', 1, logged],
      ]);
      for (const tag of (said.tag as readonly string[] | undefined) ?? []) tagged.push([each, idOf.get(tag)]);
    }
    await db.query(
      `INSERT INTO asset (id, kind, name, title, description, notes, verdict, reel, scene, take, place, shot_ms, added_ms, rate_num, rate_den, drop_frame,
         duration_ms, width, height, codec, storage_id, path, path_hash, bytes, modified_ms, shelf_state, state_since_ms, logged) VALUES ?`,
      { replacements: [rows], type: QueryTypes.INSERT },
    );
    await db.query('INSERT INTO asset_tag VALUES ?', { replacements: [tagged], type: QueryTypes.INSERT });
  }
}

/** The third of a shuffled hundred, and so on. */
const quantile = (values: readonly number[], part: number): number =>
  values.toSorted((a, b) => a - b)[Math.min(values.length - 1, Math.ceil(values.length * part) - 1)] ?? 0;

/** The engine by itself, one search after the other. */
function engineTimes(n: number, texts: readonly string[]): number[] {
  const index = new LibraryIndex();
  const filling = index.fill();
  for (let id = 1; id <= n; id += BATCH)
    filling.add(Array.from({ length: Math.min(BATCH, n + 1 - id) }, (_unused, at) => document(id + at)));
  filling.done();
  const ask = (text: string): void => {
    const { tree } = parseQuery(text);
    index.search({ tree, sort: BY_NAME, offset: 0, limit: PAGE });
    index.facets({ tree, fields: FACETS, limit: FACET_LIMIT });
  };
  queries(300, n, 5).forEach(({ text }) => ask(text));
  return texts.map((text) => {
    const began = performance.now();
    ask(text);
    return performance.now() - began;
  });
}

async function cookieOf(base: string): Promise<string> {
  const answer = await fetch(`${base}/api/session`, {
    method: 'POST',
    headers: { 'content-type': 'application/json' },
    body: JSON.stringify({ login: 'maren', password: PASSWORD }),
  });
  return answer.headers.get('set-cookie')?.split(';')[0] ?? '';
}

/** People who each ask, read for about a second, and ask something else. */
async function httpTimes(base: string, texts: readonly string[]): Promise<number[]> {
  const cookie = await cookieOf(base);
  const call = async (path: string, body: object): Promise<unknown> => {
    const answer = await fetch(`${base}${path}`, {
      method: 'POST',
      headers: { 'content-type': 'application/json', cookie },
      body: JSON.stringify(body),
    });
    if (!answer.ok) throw new Error(`${path} was refused: ${await answer.text()}`);
    return answer.json();
  };
  while (((await call('/api/search', { limit: 0 })) as { readonly total: number }).total === 0)
    await new Promise((resolve) => setTimeout(resolve, 500));
  const ask = (query: string) =>
    Promise.all([
      call('/api/search', { query, sort: BY_NAME, limit: PAGE }),
      call('/api/search/facets', { query, fields: FACETS, limit: FACET_LIMIT }),
    ]);
  for (const { text } of queries(100, 1000, 5)) await ask(text);
  const times: number[] = [];
  await Promise.all(
    Array.from({ length: PEOPLE }, async (_unused, person) => {
      for (let k = 0; k < ASKED; k += 1) {
        await new Promise((resolve) => setTimeout(resolve, 500 + ((person * 7 + k * 13) % 20) * 50));
        const began = performance.now();
        await ask(texts[person * ASKED + k] ?? '');
        times.push(performance.now() - began);
      }
    }),
  );
  return times;
}

/** Milliseconds from each key in the search line to the frame in which its answer is drawn. */
const keyTimes = (page: Page, text: string): Promise<number[]> =>
  page.evaluate(
    async (typed, pause) => {
      const line = globalThis.document.querySelector('#search-line') as HTMLInputElement;
      const frame = () => new Promise((resolve) => requestAnimationFrame(resolve));
      const times: number[] = [];
      line.focus();
      for (let end = 1; end <= typed.length; end += 1) {
        const began = performance.now();
        line.value = typed.slice(0, end);
        line.dispatchEvent(new Event('input', { bubbles: true }));
        const isThere = () =>
          globalThis.document.querySelector('nl-library .body')?.getAttribute('data-answered') === typed.slice(0, end);
        while (!isThere() && performance.now() - began < 20_000) await frame();
        // What was drawn in that frame is on the screen with the next.
        await frame();
        times.push(performance.now() - began);
        await new Promise((resolve) => setTimeout(resolve, pause));
      }
      return times;
    },
    text,
    KEY_MS,
  );

async function paintTimes(base: string, n: number): Promise<{ readonly times: number[]; readonly bare: number }> {
  const times: number[] = [];
  let bare = 0;
  await withBrowser(async (browser) => {
    const page = await browser.newPage();
    await page.evaluateOnNewDocument('globalThis.__name = (value) => value');
    await signInAs(page, base, 'maren');
    await page.goto(`${base}/library`, { waitUntil: 'networkidle2' });
    await page.waitForSelector('nl-tile');
    const typed = queries(400, n, 31)
      .filter(({ form, text }) => form === 'word' && text.length > 2)
      .slice(0, WORDS_TYPED);
    for (const { text } of typed) times.push(...(await keyTimes(page, text)));
    bare = median(await Promise.all(Array.from({ length: 5 }, () => bareKey(page))));
  });
  return { times, bare };
}

/** Searching as people do: over HTTP, and with the keyboard in a browser. */
export const searchServed =
  (n: number) =>
  async (print: (figure: Figure & { readonly n: number }) => void): Promise<void> => {
    const texts = queries(PEOPLE * ASKED, n, 17).map(({ text }) => text);
    await served(
      (place) => fill(place, n),
      async ({ base }) => {
        const http = quantile(await httpTimes(base, texts), 0.95);
        const { times, bare } = await paintTimes(base, n);
        const engine = quantile(engineTimes(n, texts), 0.95);
        print({
          ...{ name: 'search.http.p95', n, value: round(http), unit: 'ms' },
          ...{ peer: `the engine's own, one after the other: ${round(engine)} ms`, ratio: round(http / engine) },
        });
        const paint = quantile(times, 0.95);
        print({
          ...{ name: 'search.paint.p95', n, value: round(paint), unit: 'ms' },
          peer: `a key that turns one class on, in the same page: ${round(bare)} ms; median here ${round(quantile(times, 0.5))} ms of ${times.length} keys`,
          ratio: round(paint / bare),
        });
      },
    );
  };
