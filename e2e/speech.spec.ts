import { existsSync, readFileSync } from 'node:fs';
import { join } from 'node:path';
import { begin, until, Window, type Begun } from './kit';

/** Two in which somebody speaks, one with a stream running, one that is only music. */
const FILES = ['INT_DILYS_01.mov', 'INT_WREN_01.mov', 'A001C001.mov', 'slow_water_theme_72bpm.wav'];

let browser: Begun['browser'];
let bench: Begun['bench'];
let maren: Begun['maren'];
let end: Begun['end'];

beforeAll(async () => {
  ({ bench, browser, maren, end } = await begin(FILES));
  await maren.section('Library');
}, 300_000);
afterAll(() => end(), 60_000);

const view = 'nl-details nl-transcript';
const look = async (name: string) => {
  await maren.search(`name:"${name}"`);
  await maren.clickText('nl-tile', name);
  await maren.says('nl-details', name);
};
/** Writes into the search line, from wherever the focus is. */
const narrow = async (query: string) => {
  await maren.page.evaluate(() => (document.activeElement as HTMLElement | null)?.blur());
  await maren.press('/', 'Backspace');
  await maren.page.keyboard.type(query);
  await maren.press('Enter');
};
/** Brings a transcript in for what is looked at. */
const bringIn = async (written: string, file = 'said.vtt') => {
  const input = await maren.page.waitForSelector(`${view} nl-file-choice input`);
  await input?.evaluate(
    (element, text, name) => {
      const files = new DataTransfer();
      files.items.add(new File([text], name));
      element.files = files.files;
      element.dispatchEvent(new Event('change', { bubbles: true }));
    },
    file.endsWith('.vtt') ? `WEBVTT\n\n${written}` : written,
    file,
  );
  await maren.says(view, 'Brought in');
};
const tiles = (window: Window) =>
  window.page.$$eval('nl-tile', (all) => all.map((tile) => tile.textContent?.match(/\w+_\w+_\d+/)?.[0] ?? ''));

describe('what is said', () => {
  it('is recognised when it is asked for, and appears by itself', async () => {
    await look('INT_DILYS_01.mov');
    await maren.says(view, 'Nothing is written down of what is said in it.');
    await maren.clickText(`${view} button`, 'Recognise');
    await maren.says(view, 'Recognised');
    await maren.says(`${view} ol`, 'sound of the metal changes');
  });

  it('is nothing where there is only music or water', async () => {
    for (const name of ['A001C001.mov', 'slow_water_theme_72bpm.wav']) {
      await look(name);
      await maren.clickText(`${view} button`, 'Recognise');
      await maren.says(view, 'Nobody speaks in it.');
    }
  });

  it('is found by the search line, as hits that are gone to', async () => {
    await maren.search('said:"metal changes"');
    expect(await tiles(maren)).toEqual(['INT_DILYS_01']);
    await maren.click('button[title^="Hits"]');
    await maren.says('nl-hits-view .said', '1 hit in 1 asset');
    expect(await maren.page.$$eval('nl-hits-view mark', (all) => all.map(({ textContent }) => textContent))).toEqual([
      'metal changes',
    ]);
    const place = await maren.text('nl-hits-view .place');
    await maren.click('nl-hits-view .hit');
    await until('the player there', async () => (await maren.text('nl-player .tc')).includes(place));
    await maren.says(`${view} .now`, 'metal');
    await maren.click('button[title^="Contact sheet"]');
  });

  it('is found in the dialogue section, loosened, narrowed, heard hit by hit, and kept', async () => {
    await maren.section('Dialogue');
    await maren.fill('nl-dialogue [aria-label="What was said"]', 'metal');
    await maren.says('nl-dialogue .said', '1 hit in 1 file');
    await maren.says('nl-dialogue mark', 'metal');
    // A name that no recogniser knows, as what it was heard as.
    await maren.fill('nl-dialogue [aria-label="What was said"]', '"sound of the medal"');
    await maren.says('nl-dialogue', 'Nobody says it as it is spelled');
    await maren.clickText('nl-dialogue nl-strictness button', 'Sounds like');
    await maren.says('nl-dialogue mark.alike', 'sound of the metal');
    await maren.fill('nl-dialogue [aria-label="What was said"]', 'metal');
    await maren.says('nl-dialogue .said', 'in 1 file');
    await narrow('kind:audio');
    await maren.says('nl-dialogue', 'Only in what the search line finds');
    await maren.says('nl-dialogue .said', '0 hits');
    await narrow('kind:video');
    await maren.says('nl-dialogue .said', '1 hit in 1 file');
    await maren.page.$eval('nl-search-line input', (input) => input.blur());
    await maren.press(']');
    await maren.says('nl-dialogue .hit.active', 'metal');
    await until('it playing', () =>
      maren.page.$eval('nl-player video', (video) => !video.paused && video.currentTime > 0),
    );
    await maren.says(`${view} .now`, 'metal');
    await maren.press('Shift+k');
    await maren.says('nl-toasts', 'Kept as a marker');
    await maren.says('nl-details', 'as spelled');
    await maren.press('Control+z');
    await maren.section('Library');
  });

  it('is corrected by one, and the other’s search follows', async () => {
    const tobin = await Window.open(browser, bench.base, 'tobin');
    await tobin.section('Library');
    await tobin.search('said:furnace');
    await tobin.says('nl-library', 'Nothing fits this search');
    await look('INT_DILYS_01.mov');
    await maren.click(`${view} .correct`);
    await maren.fill(`${view} textarea`, 'The bell tells you in the furnace.');
    await maren.fill(`${view} [aria-label="Who speaks"]`, 'Dilys');
    await maren.clickText(`${view} button`, 'Done');
    await maren.says(view, 'Corrected');
    await until('the other’s list', async () => (await tiles(tobin)).join() === 'INT_DILYS_01');
    await maren.press('Control+z');
    await until('the undo there', async () => (await tiles(tobin)).join() === '');
    expect([tobin.complaints, tobin.strays]).toEqual([[], []]);
  });

  it('is brought in from captions, and leaves as a text', async () => {
    await look('INT_WREN_01.mov');
    await bringIn('00:00.700 --> 00:02.000\n<v Wren>My grandmother kept the weir.\n');
    await maren.says(`${view} .when`, 'Wren');
    const text = await maren.page.$eval(`${view} a[href$="said.txt"]`, async (link) => (await fetch(link.href)).text());
    expect(text).toBe('[13:00:00:17] Wren: My grandmother kept the weir.\n');
  });

  it('is told by its themes, read in whole thoughts, and cut from them', async () => {
    await look('A001C001.mov');
    const cue = (at: number, text: string) => `00:00:0${at}.000 --> 00:00:0${at}.900\n${text}\n`;
    const cues = ['Eels went up the weir, many eels.', 'We caught eels, big eels.', 'No eels come now, no eels.'];
    await bringIn(cues.map((text, at) => cue(at, text)).join('\n'));
    await maren.section('Dialogue');
    await maren.clickText('nl-dialogue header button', 'Themes');
    await maren.says('nl-themes tbody', 'eels');
    await maren.click('nl-themes .cell');
    await maren.says('nl-themes nl-passage-list', 'caught');
    await maren.clickText('nl-themes section button', 'Choose');
    await maren.says('nl-themes .chosen', 'of 1 theme chosen');
    await maren.clickText('nl-themes .chosen button', 'String-out by theme');
    await maren.fill('#pull-new', 'Eels');
    await maren.clickText('.modal-content button', 'Make it');
    await maren.says('nl-string-out', 'Themes: eels');
    await maren.section('Dialogue');
    await maren.clickText('nl-dialogue header button', 'Passages');
    await maren.fill('nl-dialogue [aria-label="What was said"]', 'eels');
    await maren.says('nl-spoken-passages .said', 'the most telling first');
    await maren.page.$eval('nl-dialogue [aria-label="What was said"]', (input) => (input as HTMLElement).blur());
    await maren.press('{');
    await maren.says('nl-spoken-passages .said', '3 passages');
    await maren.press(']');
    await maren.says('nl-passage-list li.active', 'eels');
    await until('it playing', () =>
      maren.page.$eval('nl-player video', (video) => !video.paused && video.currentTime > 0),
    );
  });

  it('may have names that nobody knows, once somebody says them', async () => {
    await maren.clickText('nl-dialogue header button', 'Names');
    await maren.fill('nl-custom-words textarea', 'Wren Ottermouth');
    await maren.clickText('nl-custom-words form button', 'Add');
    await maren.says('nl-custom-words', '1 word added. The recogniser knows: Wren.');
    await until('how it is said', () =>
      maren.page.$eval('nl-custom-words tbody input', (input) => input.value.startsWith('AA T ER')),
    );
    await maren.clickText('nl-custom-words tbody button', 'Hear');
    await until('it said', () => maren.page.$eval('nl-custom-words audio', (voice) => voice.duration > 0.2));
    expect([maren.complaints, maren.strays]).toEqual([[], []]);
  });

  it('is added up, and kept as a live bin of what sounds so', async () => {
    await maren.clickText('nl-dialogue header button', 'Totals');
    await maren.fill('nl-dialogue [aria-label="What was said"]', 'eels');
    await maren.says('nl-spoken-totals', '6 hits in 1 file');
    await maren.says('nl-spoken-totals', 'Who says it');
    await until('bars', async () => (await maren.page.$$('nl-totals-chart svg path')).length > 2);
    await maren.clickText('nl-dialogue header button', 'Files');
    await maren.clickText('nl-dialogue nl-strictness button', 'Sounds like');
    await maren.clickText('nl-dialogue .said button', 'Keep');
    await maren.clickText('nl-dialogue .said button', 'as a live bin');
    await maren.fill('#live-bin-name', 'Eels');
    await maren.clickText('.modal-content button', 'Save');
    await maren.says('nl-toasts', 'Kept as the live bin “Eels”.');
    await maren.section('Bins');
    await maren.says('[data-bin="Eels"]', '1');
    expect([maren.complaints, maren.strays]).toEqual([[], []]);
  });

  it('is found by related words and by a question, and taken along as a cut list', async () => {
    await maren.section('Dialogue');
    await maren.clickText('nl-dialogue header button', 'Files');
    await maren.fill('nl-dialogue [aria-label="What was said"]', 'dam');
    await maren.says('nl-dialogue .said', '0 hits');
    await maren.clickText('nl-dialogue header button', 'Related words');
    await maren.says('nl-related-words', 'kinds of it');
    await maren.clickText('nl-related-words nl-word-chip button', 'weir');
    await maren.says('nl-dialogue .said', '2 hits in 2 files');
    const downloads = join(bench.folder, 'downloads');
    const session = await maren.page.createCDPSession();
    await session.send('Page.setDownloadBehavior', { behavior: 'allow', downloadPath: downloads });
    await maren.clickText('nl-dialogue .said button', 'Take along');
    await maren.clickText('nl-dialogue .said button', '(EDL)');
    const edl = join(downloads, 'Said_ dam_weir.edl');
    await until('the file', () => Promise.resolve(existsSync(edl)));
    expect(readFileSync(edl, 'utf8').match(/FROM CLIP NAME: (?:INT_WREN_01|A001C001)\.mov/g)).toHaveLength(2);

    await maren.fill('nl-dialogue [aria-label="What was said"]', 'who caught the eels?');
    await maren.says('nl-related-words', 'Left out, as it says nothing by itself');
    await maren.says('nl-related-words .reduced', 'caught eels');
    await maren.clickText('nl-related-words button', 'Look for this in passages');
    await maren.says('nl-spoken-passages', 'caught');
    await maren.clickText('nl-dialogue header button', 'Related words');
    expect([maren.complaints, maren.strays]).toEqual([[], []]);
  });

  it('of a text without times is where it was heard', async () => {
    await maren.section('Library');
    await look('INT_DILYS_01.mov');
    await maren.says(view, 'Recognised');
    const metal = () =>
      maren.page.$$eval(`${view} [data-word]`, (words) =>
        words.filter((word) => word.textContent?.includes('metal')).map((word) => word.textContent?.trim()),
      );
    expect(await metal()).toEqual(['metal']);
    await bringIn('Dilys: Listen, the sound of the “metal” changes.', 'dilys.txt');
    // What was corrected of it stays the best there is.
    await maren.choose(`${view} select`, 'brought-in');
    await until('as it is written', async () => (await metal()).join() === '“metal”');
    await maren.says(`${view} .when`, 'Dilys');
    await maren.clickText(`${view} [data-word]`, '“metal”');
    await maren.says(`${view} .now`, 'metal');
    expect([maren.complaints, maren.strays]).toEqual([[], []]);
  });
});
