import { cpSync, mkdirSync, mkdtempSync, readdirSync, rmSync, writeFileSync } from 'node:fs';
import { availableParallelism, tmpdir } from 'node:os';
import { join } from 'node:path';
import type { BoundingBox, Browser, ElementHandle, Page } from 'puppeteer-core';
import { signInAs, withBrowser } from '@larder/command/browser';
import { DEMO_PASSWORD, DEMO_SCRIPT, demoScript } from '@larder/command/demo';
import { dist } from '@larder/command/home';
import { Library } from '@larder/command/library';
import { prepared, preparedHome } from '@larder/command/prepared';
import { makeDemoMedia, readStrip, STRIP_BLOCKS, stripHeight } from '@larder/demo';
import { ensurePerson, VOLUME_FILE } from '@larder/server';

const PATIENCE_MS = Number(process.env['LARDER_PATIENCE_MS'] ?? 90_000);

/** Waits until something holds; how long that takes decides nothing but when to give up. */
export async function until<T>(what: string, look: () => Promise<T | null | undefined | false>): Promise<T> {
  for (
    const end = Date.now() + PATIENCE_MS;
    Date.now() < end;
    await new Promise((resolve) => setTimeout(resolve, 80))
  ) {
    const found = await look().catch(() => null);
    if (found) return found;
  }
  throw new Error(`never came: ${what}`);
}

/** So often in a row what is about to be dragged must be found at one place. */
const STILL_LOOKS = 6;

/** Where something is, once nothing above it that comes in late moves it any more. */
export async function stillPlace(page: Page, selector: string): Promise<BoundingBox> {
  let [last, looks] = ['', 0];
  return until(`${selector} to stand still`, async () => {
    const box = await (await page.$(selector))?.boundingBox();
    const place = JSON.stringify(box);
    looks = place === last ? looks + 1 : 1;
    last = place;
    return looks >= STILL_LOOKS && box;
  });
}

/** A library with the demo's people and a few of its clips (sequences by their prefix) on a shelf, not yet known to the library. */
export class Bench {
  private constructor(
    readonly folder: string,
    readonly library: Library,
  ) {}

  /**
   * @param card clips on a card that lies in the drawer, uncatalogued, and is plugged in from the settings
   * @param inHome what stands in the library's data folder from the start, given the folder of all of this
   */
  static async start(
    files: readonly string[],
    card: readonly string[] = [],
    inHome: (folder: string) => Readonly<Record<string, string>> = () => ({}),
  ): Promise<Bench> {
    const folder = mkdtempSync(join(tmpdir(), 'larder-e2e-'));
    await shoot(files, join(folder, 'media/shelf'));
    await shoot(card, join(folder, 'drawer/card'));
    const volumes = {
      drawer: join(folder, 'drawer'),
      slots: join(folder, 'slots'),
      slotNames: ['reader 1', 'reader 2'],
    };
    if (card.length > 0) writeFileSync(join(folder, 'drawer/card', VOLUME_FILE), 'card-of-the-test');
    const home = await preparedHome(join(folder, 'home'));
    home.prepare();
    for (const [name, text] of Object.entries(inHome(folder))) writeFileSync(home.at(name), text);
    const library = await Library.open({
      home,
      port: 0,
      demoPassword: DEMO_PASSWORD,
      volumes,
    });
    await library.withModels(async () => {
      for (const { login, name, role } of demoScript().people) await ensurePerson(login, name, role, DEMO_PASSWORD);
    });
    library.startWorkers();
    await library.startServer();
    return new Bench(folder, library);
  }

  get base(): string {
    return `http://127.0.0.1:${this.library.port}`;
  }

  /** The card, as it lies in the drawer. */
  get card(): string {
    return join(this.folder, 'drawer/card');
  }

  slot(name: string): string {
    return join(this.folder, 'slots', name, 'card');
  }

  /** An empty folder beside the shelf. */
  folderFor(name: string): string {
    const path = join(this.folder, 'media', name);
    mkdirSync(path, { recursive: true });
    return path;
  }

  get shelf(): string {
    return join(this.folder, 'media/shelf');
  }

  /** Puts the shelf into the library, as `person` would, and waits until everything that comes of it is made. */
  async shelve(person: Window): Promise<void> {
    await person
      .post('/api/storages', { name: 'Shelf', rootPath: this.shelf })
      .then(({ id }) => person.post(`/api/storages/${String(id)}/scan`, undefined));
    await until('all jobs to end', async () => {
      const { jobs } = await person.page.evaluate(
        async () => (await (await fetch('/api/jobs')).json()) as { jobs: { state: string }[] },
      );
      return jobs.length > 1 && jobs.every(({ state }) => state === 'done');
    });
  }

  async stop(): Promise<void> {
    await this.library.stop();
    rmSync(this.folder, { recursive: true, force: true, maxRetries: 5 });
  }
}

/** Whether something can be clicked, and is where it was two frames before; in the page. */
const isStill = async (element: Element): Promise<boolean> => {
  const before = element.getBoundingClientRect();
  await new Promise((resolve) => requestAnimationFrame(() => requestAnimationFrame(resolve)));
  const after = element.getBoundingClientRect();
  return element.isConnected && !element.matches(':disabled') && before.x === after.x && before.y === after.y;
};

const FOLDER = 'footage';
const half = (pixels: number): number => 2 * Math.round(pixels / 4);

/** In one folder, and pictures half as wide and high: drawing them whole took a third of the walks' time. */
const small = <T extends { readonly folder: string; readonly size?: readonly [number, number] }>(piece: T): T => ({
  ...piece,
  ...(piece.size && { size: [half(piece.size[0]), half(piece.size[1])] }),
  folder: FOLDER,
});

/** Makes some of the demo's files, by processes of their own as the demo does: within Jest it takes three times as long. */
async function shoot(names: readonly string[], into: string): Promise<void> {
  const waiting = [...names];
  const each = async () => {
    for (let name = waiting.shift(); name !== undefined; name = waiting.shift()) await shootOne(name, into);
  };
  await Promise.all(Array.from({ length: availableParallelism() }, each));
}

const shootOne = (name: string, into: string): Promise<void> =>
  prepared(`small ${name}`, into, async (folder) => {
    const root = mkdtempSync(join(tmpdir(), 'larder-e2e-shoot-'));
    const script = demoScript();
    const is = ({ file }: { readonly file: string }) => file === name;
    const [clips, sound, stills] = [script.clips.filter(is), script.sound.filter(is), script.stills.filter(is)];
    const sequences = script.sequences.filter(({ prefix }) => prefix === name);
    const only = {
      ...{ ...script, clips: clips.map(small), sound: sound.map(small) },
      ...{ stills: stills.map(small), sequences: sequences.map(small) },
    };
    const makerScript = dist('demo-maker.mjs');
    await makeDemoMedia({ scriptPath: DEMO_SCRIPT, script: only, root, makerScript, onProgress: () => undefined });
    for (const made of readdirSync(root))
      cpSync(join(root, made, FOLDER), join(folder, FOLDER), {
        ...{ recursive: true, preserveTimestamps: true },
      });
    rmSync(root, { recursive: true });
  });

/** Opens a window of one's own, signed in; requests to anywhere but the library's server are kept in `strays`, complaints in `complaints`. */
export class Window {
  readonly strays: string[] = [];
  readonly complaints: string[] = [];

  private constructor(
    readonly page: Page,
    readonly base: string,
  ) {
    page.on('request', (request) => {
      const url = request.url();
      if (!url.startsWith(`${base}/`) && !/^(data|blob):/.test(url)) this.strays.push(url);
    });
    page.on('pageerror', (error) => void this.complaints.push(String(error)));
    page.on(
      'console',
      (message) =>
        void (
          message.type() === 'error' &&
          !/409|422|404/.test(message.text()) &&
          this.complaints.push(message.text())
        ),
    );
  }

  static async open(browser: Browser, base: string, login: string): Promise<Window> {
    const context = await browser.createBrowserContext();
    const window = new Window(await context.newPage(), base);
    await signInAs(window.page, base, login);
    return window;
  }

  /** Goes to a section by its link in the rail, as a person would. */
  async section(label: string): Promise<void> {
    await this.clickText('nav.rail a', label);
  }

  /** Clicks what has those words, as a person would: once it can be clicked, and no longer moves. */
  clickText(selector: string, text: string): Promise<true> {
    return this.clickFound(`${selector} “${text}”`, () => this.found(selector, text));
  }

  click(selector: string): Promise<true> {
    return this.clickFound(selector, () => this.page.$(selector));
  }

  private clickFound(what: string, find: () => Promise<ElementHandle<Element> | null>): Promise<true> {
    return until(`${what} to be clicked`, async () => {
      const handle = await find();
      if (!handle || !(await handle.evaluate(isStill))) return false;
      await handle.click();
      return true;
    });
  }

  withText(selector: string, text: string): Promise<ElementHandle<Element>> {
    return until(`${selector} “${text}”`, () => this.found(selector, text));
  }

  private async found(selector: string, text: string): Promise<ElementHandle<Element> | null> {
    const handle = await this.page.evaluateHandle(
      (wanted, words) =>
        [...document.querySelectorAll(wanted)].find(
          (element) => element.textContent?.includes(words) && (element as HTMLElement).offsetParent !== null,
        ) ?? null,
      selector,
      text,
    );
    return handle.asElement() as ElementHandle<Element> | null;
  }

  text(selector: string): Promise<string> {
    return this.page.$eval(selector, (element) => element.textContent?.replace(/\s+/g, ' ').trim() ?? '');
  }

  async says(selector: string, words: string | RegExp): Promise<true> {
    let text = 'nothing';
    const says = async () => {
      text = await this.text(selector);
      return typeof words === 'string' ? text.includes(words) : words.test(text);
    };
    return until(`${selector} to say ${String(words)}`, says).catch((error: Error) => {
      throw new Error(`${error.message}; it says: ${text}`);
    });
  }

  /** Sends what this person's window could send. */
  send(method: string, path: string, body?: unknown): Promise<Record<string, unknown>> {
    return this.page.evaluate(
      async (way, to, text) => {
        const answer = await fetch(to, {
          method: way,
          headers: { 'content-type': 'application/json' },
          ...(text === undefined ? {} : { body: text }),
        });
        return (await answer.json()) as Record<string, unknown>;
      },
      method,
      path,
      body === undefined ? undefined : JSON.stringify(body),
    );
  }

  post(path: string, body: unknown): Promise<Record<string, unknown>> {
    return this.send('POST', path, body);
  }

  /** Writes a search, and waits until the list is the answer to it. */
  async search(query: string): Promise<void> {
    // From wherever the focus is: the key works outside fields only.
    await this.page.evaluate(() => (document.activeElement as HTMLElement | null)?.blur());
    // A sheet that is still being answered has the keys.
    await until('no sheet to be open', async () => (await this.page.$('.modal-content')) === null);
    await this.page.keyboard.press('/');
    await this.page.keyboard.press('Backspace');
    if (query) await this.page.keyboard.type(query);
    // Done, whether anything is proposed by now or not.
    await this.page.keyboard.press('Enter');
    await until(`the answer to ${query}`, () =>
      this.page.$eval('nl-library .body', (body, asked) => body.getAttribute('data-answered') === asked, query),
    );
  }

  async press(...keys: string[]): Promise<void> {
    for (const key of keys) {
      const parts = key === '+' ? [key] : key.split('+');
      const modifiers = parts.slice(0, -1);
      for (const modifier of modifiers) await this.page.keyboard.down(modifier as 'Shift');
      await this.page.keyboard.press(parts.at(-1) as 'a');
      for (const modifier of modifiers) await this.page.keyboard.up(modifier as 'Shift');
    }
  }

  async fill(selector: string, text: string): Promise<void> {
    await until(`${selector} to be written in`, async () => {
      const box = await this.page.$(selector);
      if (!box || !(await box.evaluate(isStill))) return false;
      await box.click({ count: 3 });
      // A sheet that has just opened takes the focus for itself.
      return box.evaluate((element) => element === document.activeElement);
    });
    await this.page.keyboard.press('Backspace');
    await this.page.keyboard.type(text);
  }

  /** Takes one of a list, once the list is there and has it. */
  async choose(selector: string, value: string): Promise<void> {
    await this.page.waitForSelector(`${selector}:enabled option[value="${value}"]`);
    await this.page.select(selector, value);
  }

  tile(name: string): Promise<ElementHandle<Element>> {
    return this.withText('nl-tile', name);
  }

  /** The frame number that the picture of a player spells at its upper edge, or null. */
  async frameShown(selector = 'nl-player video'): Promise<number | null> {
    const brightness = await this.page.$eval(
      selector,
      (element, blocks, height45) => {
        const video = element as HTMLVideoElement;
        const canvas = document.createElement('canvas');
        [canvas.width, canvas.height] = [video.videoWidth, video.videoHeight];
        const context = canvas.getContext('2d') as CanvasRenderingContext2D;
        context.drawImage(video, 0, 0);
        const y = Math.max(2, Math.floor((video.videoHeight * height45) / 2));
        return Array.from(
          { length: blocks },
          (_unused, block) =>
            context.getImageData(Math.floor(((block + 0.5) * video.videoWidth) / blocks), y, 1, 1).data[1] ?? 0,
        );
      },
      STRIP_BLOCKS,
      stripHeight(450) / 450,
    );
    return readStrip(brightness);
  }
}

/** A browser that stays open until it is closed by the function given with it. */
export function opened(): Promise<{ browser: Browser; close: () => Promise<void> }> {
  return new Promise((resolve, reject) => {
    const closed = withBrowser(
      (browser) =>
        new Promise<void>((end) =>
          resolve({
            browser,
            close: () => {
              end();
              return closed;
            },
          }),
        ),
    );
    closed.catch(reject);
  });
}

/** A library with some clips on its shelf, everything made of them, and a window of Maren's in it. */
export interface Begun {
  readonly bench: Bench;
  readonly browser: Browser;
  readonly maren: Window;
  end(): Promise<void>;
}

/** What most walks begin with. `end` is for when they are over. */
export async function begin(files: readonly string[]): Promise<Begun> {
  const bench = await Bench.start(files);
  const { browser, close } = await opened();
  const end = async () => {
    await close();
    await bench.stop();
  };
  const maren = await Window.open(browser, bench.base, 'maren');
  await bench.shelve(maren);
  return { bench, browser, maren, end };
}
