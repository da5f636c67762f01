import { mkdirSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { readTable, writeRows } from '@larder/core/interchange/table';
import { catalogueMany } from '../packages/server/test/many';
import { begin, type Begun, until, Window } from './kit';

/** Clips that are logged one after another, and edited all at once. */
const MANY = 500;
const LOGGED = 30;
const FILES = ['A001C001.mov', 'A001C002.mov'];

let bench: Begun['bench'];
let browser: Begun['browser'];
let maren: Begun['maren'];
let end: Begun['end'];

beforeAll(async () => {
  ({ bench, browser, maren, end } = await begin(FILES));
  const folder = join(bench.folder, 'media/many');
  mkdirSync(folder, { recursive: true });
  // Not empty, or it would be taken for a mount point with nothing mounted.
  writeFileSync(join(folder, 'readme.txt'), '');
  const { id } = await maren.post('/api/storages', { name: 'Many', rootPath: folder });
  await catalogueMany(bench.library, Number(id), MANY);
  const plain = { description: '', letter: '' };
  for (const [name, tags] of [
    ['Light', ['dawn', 'overcast', 'dusk']],
    ['Place', ['lock', 'boathouse']],
  ] as const) {
    const set = await maren.post('/api/tag-sets', { ...plain, name, pattern: 'dots' });
    for (const tag of tags) await maren.post('/api/tags', { ...plain, name: tag, setId: set['id'], synonyms: [] });
  }
}, 300_000);
afterAll(() => end(), 60_000);

interface Row {
  readonly id: number;
  readonly name: string;
  readonly title: string | null;
  readonly description: string | null;
  readonly tags: readonly string[];
  readonly verdict: string | null;
}

/** What the server has, whatever a window shows. */
const rows = (query: string, limit = 100) =>
  maren
    .post('/api/search', { query, limit, sort: { field: 'name', descending: false } })
    .then(({ total, assets }) => ({ total: Number(total), assets: assets as readonly Row[] }));

describe('logging', () => {
  it('thirty clips by the keyboard alone: tag, verdict and on to the next in four keys each', async () => {
    await maren.search('path:f');
    await maren.says('[data-test="count"]', `${MANY} assets`);
    // From the list: the first clip, and into logging by the button that has the focus.
    await maren.page.goto(`${bench.base}/log?q=path%3Af`);
    await maren.says('nl-logging [data-test="progress"]', `0 of ${MANY} logged`);
    const light = ['d', 'o', 'u'];
    const verdicts = ['c', 'h', 'n'];
    for (let n = 0; n < LOGGED; n += 1) {
      await maren.says('nl-logging [data-test="progress"]', `clip ${n + 1}`);
      await maren.press('t', 'l', light[n % 3] ?? 'd', verdicts[n % 3] ?? 'c');
    }
    await maren.says('nl-logging [data-test="progress"]', `${LOGGED} of ${MANY} logged`);
    const { assets } = await until('all of it to be kept', async () => {
      const answer = await rows('path:f has:verdict');
      return answer.total === LOGGED && answer;
    });
    const tags = ['dawn', 'overcast', 'dusk'];
    const words = ['circled', 'hold', 'ng'];
    expect(assets.map(({ tags: has, verdict }) => [has, verdict])).toEqual(
      assets.map((_asset, n) => [[tags[n % 3]], words[n % 3]]),
    );
    // What was seen last is where one goes on, also after the window was closed.
    await maren.press('ArrowUp', 'ArrowUp');
    await maren.says('nl-logging [data-test="progress"]', `clip ${LOGGED - 1}`);
    await until('the place to be kept', () =>
      maren.page.evaluate(async () => {
        const { places } = (await (await fetch('/api/logging-places')).json()) as { places: { done: number }[] };
        return places[0]?.done === 30;
      }),
    );
    await maren.section('Front page');
    await maren.clickText('nl-front-page a', 'Go on logging path:f: 30 of 500');
    await maren.says('nl-logging [data-test="progress"]', `clip ${LOGGED - 1}`);
  }, 120_000);

  it('five hundred at once, tagged by keys and numbered, and each taken back by one undo', async () => {
    await maren.search('path:f');
    await maren.says('[data-test="count"]', `${MANY} assets`);
    await maren.clickText('nl-tile', 'Lock 1');
    await maren.press('Control+a');
    await maren.says('[data-test="count"]', `${MANY} selected`);
    await maren.press('t', 'p', 'b');
    await maren.says('nl-toasts', `Tag “boathouse” added on ${MANY} assets.`);
    await until('all tagged', async () => (await rows('tag:boathouse')).total === MANY);
    await maren.clickText('nl-details button', 'Find, replace or number');
    await maren.choose('#op-kind', await optionOf('#op-kind', 'Put text before'));
    await maren.fill('#op-text', 'Reel two, ');
    await maren.says('[data-test="preview"]', `${MANY} assets would change.`);
    await maren.clickText('.modal-footer button', 'Change them');
    await until('all renamed', async () => (await rows('title:"reel two"')).total === MANY);
    await maren.press('Control+z');
    await until('the titles back', async () => (await rows('title:"reel two"')).total === 0);
    await maren.press('Control+z');
    await until('the tag gone', async () => (await rows('tag:boathouse')).total === 0);
    expect((await rows('path:f has:verdict')).total).toBe(LOGGED);
    expect((await rows('title:Lock path:f')).total).toBe(MANY);
  }, 120_000);

  it('two people at the same clips: what one logs the other sees, fields merge, and nothing is lost', async () => {
    const tobin = await Window.open(browser, bench.base, 'tobin');
    for (const window of [maren, tobin]) {
      await window.page.goto(`${bench.base}/log?q=name%3AA001*`);
      await window.says('nl-logging [data-test="progress"]', 'clip 1');
      await window.says('nl-logging .right', 'A001C001.mov');
    }
    await maren.press('t', 'p', 'l');
    await tobin.press('t', 'l', 'd');
    for (const window of [maren, tobin])
      for (const tag of ['lock', 'dawn']) await window.says('nl-logging .slips', tag);
    await maren.fill('#field-title', 'Gate opens');
    await tobin.fill('#field-notes', 'a little soft');
    await maren.page.keyboard.press('Tab');
    await tobin.page.keyboard.press('Tab');
    await until('both', async () => {
      const answer = await rows('name:A001C001 "gate opens" soft tag:lock tag:dawn');
      return answer.total === 1;
    });
    await tobin.says('nl-logging .right h2', 'Gate opens');
    // A marker of one is on the other's screen, and opens the clip where a search finds it.
    await tobin.page.evaluate(() => (document.activeElement as HTMLElement).blur());
    await tobin.press('ArrowRight', 'ArrowRight', 'ArrowRight');
    await tobin.press('Shift+m');
    await tobin.page.waitForSelector('[aria-label="Name of the marker"]');
    await tobin.page.keyboard.type('heron lands');
    await tobin.page.keyboard.press('Enter');
    await maren.says('nl-logging nl-marker-list', 'heron lands');
    await until('the marker to be found', async () => (await rows('heron')).total === 1);
    await maren.section('Library');
    await maren.search('heron');
    await maren.clickText('nl-tile', 'Gate opens');
    await maren.says('nl-player [data-test="frame"]', '3 / ');
    await until('the frame that the picture shows', async () => (await maren.frameShown()) === 3);
    await tobin.page.close();
  }, 120_000);

  it('a stretch becomes a subclip that is played from its own first frame', async () => {
    await maren.search('name:A001C001');
    await maren.clickText('nl-tile', 'Gate opens');
    await maren.says('nl-player [data-test="frame"]', '0 / ');
    await maren.page.keyboard.press('g');
    await maren.page.waitForSelector('[data-test="go"]');
    await maren.page.keyboard.type('+20');
    await maren.page.keyboard.press('Enter');
    await maren.says('nl-player [data-test="frame"]', '20 / ');
    await maren.press('i');
    await maren.page.keyboard.press('g');
    await maren.page.waitForSelector('[data-test="go"]');
    await maren.page.keyboard.type('+9');
    await maren.page.keyboard.press('Enter');
    await maren.says('nl-player [data-test="frame"]', '29 / ');
    await maren.press('o', 's');
    await maren.clickText('nl-toasts button', 'Go to it');
    await maren.says('nl-player [data-test="frame"]', '0 / 10');
    await until('the frame that the picture shows', async () => (await maren.frameShown()) === 20);
    for (let n = 0; n < 12; n += 1) await maren.press('Shift+ArrowRight');
    await maren.says('nl-player [data-test="frame"]', '9 / 10');
    await until('its last frame', async () => (await maren.frameShown()) === 29);
    expect((await rows('part:subclip')).total).toBe(1);
  }, 60_000);
});

describe('the ledger as a sheet', () => {
  // The grid draws its rows anew when what is selected changes; a locator takes the one that is there.
  const cell = (row: number, column: string) => `.ag-row[row-index="${row}"] [col-id="${column}"]`;
  const titles = (count: number) => rows('path:f', count).then(({ assets }) => assets.map(({ title }) => title));

  it('cells are edited in place, filled down, and pasted from a spreadsheet; each is one undo', async () => {
    await maren.page.goto(`${bench.base}/library?q=path%3Af`);
    await maren.says('[data-test="count"]', `${MANY} assets`);
    await maren.press('v');
    await maren.page.waitForSelector(cell(0, 'title'));
    await maren.says(cell(0, 'title'), 'Lock 1');
    const before = await titles(4);
    const judged = (await rows('path:f has:verdict')).total;
    await maren.page.locator(cell(0, 'title')).click();
    await maren.page.keyboard.press('Enter');
    await maren.page.waitForSelector(`${cell(0, 'title')} input`);
    // A letter that is a key elsewhere is a letter here.
    await maren.fill(`${cell(0, 'title')} input`, 'china clay');
    await maren.page.keyboard.press('Enter');
    await until('it to be kept', async () => (await titles(1))[0] === 'china clay');
    await maren.says(cell(0, 'title'), 'china clay');
    expect((await rows('path:f has:verdict')).total).toBe(judged);

    await maren.page.locator(cell(0, 'title')).click();
    await maren.page.keyboard.down('Shift');
    await maren.page.locator(cell(3, 'title')).click();
    await maren.page.keyboard.up('Shift');
    await maren.says('[data-test="count"]', '4 selected');
    await maren.press('Control+d');
    await until('all four', async () => (await titles(4)).every((title) => title === 'china clay'));

    await maren.page.locator(cell(1, 'title')).click();
    await maren.page.evaluate(() => {
      const clipboardData = new DataTransfer();
      clipboardData.setData('text/plain', 'North\tx\nSouth\ty\n');
      document.activeElement?.dispatchEvent(new ClipboardEvent('paste', { clipboardData, bubbles: true }));
    });
    await until('both pasted', async () => (await titles(4)).join() === 'china clay,North,South,china clay');
    await maren.says(cell(2, 'title'), 'South');

    // A long text is typed in a box of its own, and keeps its breaks.
    await maren.clickText('nl-ledger-columns button', 'Columns');
    await maren.page.locator('[data-column="description"]').click();
    await maren.press('Escape');
    await maren.page.$eval('.ag-center-cols-viewport', (box) => (box.scrollLeft = box.scrollWidth));
    await maren.page.locator(cell(0, 'description')).click();
    await maren.page.keyboard.press('Enter');
    await maren.page.waitForSelector('.ag-popup textarea');
    await maren.page.keyboard.type('one');
    await maren.press('Shift+Enter');
    await maren.page.keyboard.type('two');
    await maren.page.keyboard.press('Enter');
    await until('both lines', async () => (await rows('path:f', 1)).assets[0]?.description === 'one\ntwo');
    for (let n = 0; n < 4; n += 1) await maren.press('Control+z');
    await maren.page.$eval('.ag-center-cols-viewport', (box) => (box.scrollLeft = 0));
    await until('all of it back', async () => (await titles(4)).join() === before.join());
    await maren.says(cell(0, 'title'), 'Lock 1');
  }, 120_000);
});

describe('lists as tables', () => {
  it('a list is taken along, changed in a spreadsheet and read back; after a reload it is undone and done again', async () => {
    const before = (await rows('path:f', 3)).assets.map(({ title }) => title);
    await maren.page.goto(`${bench.base}/library?q=path%3Af`);
    await maren.says('[data-test="count"]', `${MANY} assets`);
    await maren.page.locator('nl-table-menu button').click();
    await maren.page.waitForSelector('nl-table-menu a[download]');
    const text = await maren.page.$eval('nl-table-menu a[download]', async (link) => (await fetch(link.href)).text());
    const { table } = readTable(text);
    expect(table.rows).toHaveLength(MANY);
    const title = table.heading.indexOf('Title');
    const edited = table.rows.map((cells, row) =>
      cells.map((cell, at) => (at === title ? `Sheet ${row}, "new"` : cell)),
    );
    const sheet = join(bench.folder, 'sheet.csv');
    writeFileSync(sheet, writeRows([table.heading, ...edited, ['99999999', 'nowhere']], ','));

    await maren.clickText('nl-table-menu a', 'Read a table in');
    const box = await maren.page.waitForSelector('nl-table input[type=file]');
    await box?.uploadFile(sheet);
    await maren.says('nl-table h2', 'sheet.csv');
    expect(await maren.page.$eval('[data-column="0"]', (select) => (select as HTMLSelectElement).value)).toBe(
      'match asset',
    );
    await maren.page.locator('[data-test=try]').click();
    await maren.says('[data-test=outcome]', 'only tried, nothing is changed yet');
    await maren.says('[data-test=outcome]', `${MANY} would be changed`);
    await maren.says('.problems', '1 row matches no asset');
    expect((await rows('title:sheet')).total).toBe(0);
    await maren.page.locator('[data-test=keep]').click();
    await maren.says('[data-test=outcome]', `${MANY} were changed`);
    await until('all of it to be found', async () => (await rows('title:sheet')).total === MANY);

    await maren.page.reload();
    await maren.says('[data-test=outcome]', `${MANY} were changed`);
    await maren.press('Control+z');
    await maren.says('nl-toasts', `Undone: Title of ${MANY} assets`);
    await until('the titles back', async () =>
      (await rows('path:f', 3)).assets.every((asset, row) => asset.title === before[row]),
    );
    await maren.press('Control+Shift+z');
    await maren.says('nl-toasts', `Done again: Title of ${MANY} assets`);
    await until('the new ones again', async () => (await rows('title:sheet')).total === MANY);
    await maren.press('Control+z');
    await until('the titles back for good', async () => (await rows('title:sheet')).total === 0);
  }, 120_000);
});

it('a window that goes from address to address is answered each time', async () => {
  // A browser opens six connections to a server, and keeps pages that were left.
  for (let n = 0; n < 8; n += 1) {
    await maren.page.goto(`${bench.base}/library?q=name%3AA001*`);
    await maren.says('nl-library', 'A001C002');
    await maren.page.goto(`${bench.base}/words`);
    await maren.says('nl-tag-sets', 'Light');
  }
}, 120_000);

describe('seen at a glance', () => {
  it('a marking is made, comes by its rule and by hand, and the poster is the frame where the clip stands', async () => {
    await maren.page.goto(`${bench.base}/words`);
    await maren.clickText('nl-marking-list button', 'Add a marking');
    // A locator waits until the sheet has come to rest.
    await maren.page.locator('#marking-name').fill('Second camera');
    await maren.choose('#marking-colour', await optionOf('#marking-colour', 'blue'));
    await maren.page.locator('#marking-rule').fill('name:A001C002');
    await maren.clickText('.modal-footer button', 'Keep it so');
    await maren.says('nl-marking-list', 'name:A001C002');
    await maren.search('name:A001*');
    await maren.says('.ag-center-cols-container, .ag-pinned-left-cols-container', 'A001C002');
    await maren.press('v');
    await maren.page.waitForSelector('nl-tile nl-marked .mark');
    await maren.says('nl-tile nl-marked .mark', 'Second camera');
    const first = await maren.tile('Gate opens');
    await first.click();
    await maren.page.waitForSelector('#field-marking');
    await maren.choose('#field-marking', await optionOf('#field-marking', 'Second camera'));
    await until('both marked', () => maren.page.$$eval('nl-tile nl-marked .mark', (marks) => marks.length >= 2));
    const poster = () => maren.page.$eval('nl-tile nl-thumb .poster', (image) => (image as HTMLImageElement).src);
    const before = await poster();
    await maren.says('nl-player [data-test="frame"]', '0 / ');
    await maren.press('Shift+ArrowRight', 'Shift+ArrowRight', 'Shift+p');
    await maren.says('nl-toasts', 'Poster frame: this one.');
    await until('another picture', async () => (await poster()) !== before);
  }, 60_000);
});

const optionOf = (selector: string, label: string): Promise<string> =>
  maren.page.$$eval(
    `${selector} option`,
    (options, wanted) => (options.find((option) => option.textContent.includes(wanted)) as HTMLOptionElement).value,
    label,
  );
