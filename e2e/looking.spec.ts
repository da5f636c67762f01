import { begin, type Begun, until, Window } from './kit';

/** One of each kind that a library holds. */
const FILES = [
  'A001C001.mov',
  'VID_0001.mp4',
  'recce_lock.jpg',
  'opening_',
  'S01T01.wav',
  'S02T02.wav',
  'recovered_007.mov',
];

let bench: Begun['bench'];
let browser: Begun['browser'];
let maren: Begun['maren'];
let end: Begun['end'];

beforeAll(async () => {
  ({ bench, browser, maren, end } = await begin(FILES));
  await maren.section('Library');
}, 300_000);
afterAll(() => end(), 60_000);

const look = async (name: string) => {
  await maren.search(`name:"${name}"`);
  await maren.clickText('nl-tile', name);
  await maren.says('nl-details', name);
};
/** The facts of what is selected, by their labels. */
const facts = () =>
  maren.page.$$eval('nl-details dl dt', (labels) =>
    Object.fromEntries(
      labels.map((label) => [label.textContent ?? '', label.nextElementSibling?.textContent?.trim() ?? '']),
    ),
  );
/** What stands in a field that people fill in. */
const said = (field: string) => maren.page.$eval(`#field-${field}`, (element) => (element as HTMLInputElement).value);
/** How many different colours a canvas shows. */
const coloursOf = (selector: string) =>
  maren.page.$eval(selector, (element) => {
    const canvas = element as HTMLCanvasElement;
    const { data } = (canvas.getContext('2d') as CanvasRenderingContext2D).getImageData(
      0,
      0,
      canvas.width,
      canvas.height,
    );
    return new Set(new Uint32Array(data.buffer)).size;
  });

describe('looking at one of each kind', () => {
  it('video: its facts as the file says them', async () => {
    await look('A001C001.mov');
    expect(await facts()).toMatchObject({
      Kind: 'Video',
      Duration: '0:07 (175 frames)',
      Start: '01:00:00:00',
      Rate: '25',
      Raster: '640 × 360',
      Storage: 'Shelf',
      Path: 'footage/A001C001.mov',
      Sound: '4 channels in 4 streams, 48,000 Hz, pcm_s16le',
    });
    expect(await said('reel')).toBe('A001');
  });

  it('the window itself never scrolls, whatever the focus goes to', async () => {
    const choice = await maren.page.waitForSelector('nl-details nl-file-choice input');
    await choice?.focus();
    expect(
      await maren.page.evaluate(() => [window.scrollY, document.documentElement.scrollHeight - innerHeight]),
    ).toEqual([0, 0]);
    const seen = await choice?.evaluate((input) => {
      const { top, bottom } = (input.closest('nl-file-choice') as Element).getBoundingClientRect();
      return top >= 0 && bottom <= innerHeight;
    });
    expect(seen).toBe(true);
  });

  it('the head of a list is whole beside the details, in every view of it', async () => {
    for (const view of ['Ledger', 'Hits in time', 'Map', 'Calendar', 'Contact sheet']) {
      await maren.click(`[aria-label="Show as"] button[title^="${view}"]`);
      await maren.says('[aria-label="Show as"] .active', view);
      const [needed, there] = await maren.page.$eval('nl-library .head .line', (line) => [
        line.scrollWidth,
        line.clientWidth,
      ]);
      expect([view, needed]).toEqual([view, there]);
    }
  });

  it('portrait video stands upright, inside the panel', async () => {
    await look('VID_0001.mp4');
    const size = await until('the picture', () =>
      maren.page.$eval('nl-player video', (element) => {
        const video = element;
        return video.videoHeight > 0 && { width: video.videoWidth, height: video.videoHeight };
      }),
    );
    expect(size.height).toBeGreaterThan(size.width);
    const inside = await maren.page.evaluate(() => {
      const [video, panel] = ['nl-player video', 'aside.details'].map((selector) =>
        (document.querySelector(selector) as Element).getBoundingClientRect(),
      );
      return video !== undefined && panel !== undefined && video.left >= panel.left && video.right <= panel.right;
    });
    expect(inside).toBe(true);
  });

  it('a still is shown whole, without a player', async () => {
    await look('recce_lock.jpg');
    await until('the picture', () => maren.page.$eval('nl-player img', (image) => image.naturalWidth > 0));
    expect(await maren.page.$$('nl-player video, nl-player .controls')).toHaveLength(0);
  });

  it('an image sequence is one asset, and plays frame by frame', async () => {
    await look('opening_[1001-1048].png');
    expect((await facts())['Kind']).toBe('Sequence, 48 files');
    await until('frame 0', async () => (await maren.frameShown()) === 0);
    await maren.press('Shift+ArrowRight', 'Shift+ArrowRight', 'Shift+ArrowRight');
    await until('frame 3', async () => (await maren.frameShown()) === 3);
    await maren.says('nl-player [data-test="frame"]', '3 / 48');
  });

  it('sound draws its wave, plays, and darkens what was played', async () => {
    await look('S01T01.wav');
    await until('the wave', async () => (await coloursOf('nl-player nl-waveform canvas')) > 1);
    const before = await coloursOf('nl-player nl-waveform canvas');
    await maren.press(' ');
    await until('time to pass', async () => (await maren.text('nl-player [data-test="timecode"]')) > '00:00.4');
    await maren.press('k');
    await until('what was played to darken', async () => (await coloursOf('nl-player nl-waveform canvas')) > before);
    expect([await said('scene'), await said('take')]).toEqual(['40', '1']);
  });

  it('eight channels are eight channels, also to the browser', async () => {
    await look('S02T02.wav');
    expect((await facts())['Sound']).toMatch(/^8 channels|^7\.1/);
    await until('the wave', async () => (await coloursOf('nl-player nl-waveform canvas')) > 1);
  });

  it('what cannot be read says why, and is an asset all the same', async () => {
    await look('recovered_007.mov');
    await maren.says('nl-player', 'This file cannot be read.');
    expect((await facts())['Remark']).not.toBe('');
    await maren.press('h');
    await maren.says('nl-tile.selected', 'Hold');
    await maren.press('Control+z');
    await until('no verdict', async () => !(await maren.text('nl-tile.selected')).includes('Hold'));
  });

  it('moving over a thumbnail runs through its filmstrip', async () => {
    await maren.search('name:"A001C001.mov"');
    const box = await (await maren.page.waitForSelector('nl-tile nl-thumb'))?.boundingBox();
    if (!box) throw new Error('no thumbnail');
    let last = -1;
    for (const part of [0.1, 0.5, 0.9]) {
      await maren.page.mouse.move(box.x + box.width * part, box.y + box.height / 2);
      [last] = await until(`a later picture than at ${last}`, async () => {
        const share = await maren.page.$eval('nl-tile .strip', (strip) =>
          parseFloat((strip as HTMLElement).style.backgroundPositionX),
        );
        return share > last && ([share] as const);
      });
    }
    await maren.page.mouse.move(0, 0);
    await until('the strip to go', async () => (await maren.page.$('nl-tile .strip')) === null);
  });
});

describe('with the keyboard alone', () => {
  it('a clip is found, looked at, logged and pulled', async () => {
    await maren.search('kind:video');
    await maren.says('[data-test="count"]', '2 assets');
    await maren.press('ArrowRight');
    await maren.says('nl-tile.selected', 'A001C001.mov');
    await maren.press('ArrowRight');
    await maren.says('nl-tile.selected', 'VID_0001.mp4');
    await maren.press('ArrowLeft', 'c', 't', '/');
    await maren.page.keyboard.type('lock');
    await maren.press('Enter', 'Escape', 'p');
    await maren.says('nl-tile.selected', 'lock');
    await maren.says('[data-test="pull-count"]', '1 asset');
  });

  it('a search is written with what is proposed', async () => {
    const proposed = (words: string) => maren.says('ngb-typeahead-window', words);
    await maren.search('');
    await maren.press('/');
    await maren.page.keyboard.type('kind:video verd');
    await proposed('verdict:');
    await maren.press('ArrowDown', 'Enter');
    await proposed('circled');
    await maren.press('ArrowDown', 'Enter');
    expect(await maren.page.$eval('#search-line', (line) => (line as HTMLInputElement).value)).toBe(
      'kind:video verdict:circled ',
    );
    await maren.page.keyboard.type('tag:lo');
    // Not one of those for less than was written by then.
    await until('nothing but that', async () => {
      const all = await maren.page.$$eval('ngb-typeahead-window button', (each) => each.map((one) => one.textContent));
      return all.length === 1 && all[0]?.includes('lock');
    });
    await maren.press('ArrowDown', 'Enter', 'Enter');
    await maren.says('[data-test="count"]', '1 asset');
    await maren.says('nl-tile', 'A001C001.mov');
    expect(await maren.page.$('ngb-typeahead-window')).toBeNull();
    await maren.press('ArrowRight');
    await maren.says('nl-tile.selected', 'A001C001.mov');
  });

  it('the focus can be seen wherever Tab leads, and comes past everything', async () => {
    const seen: string[] = [];
    // From the first thing on the page, wherever the focus was before.
    await maren.page.focus('nav.rail a');
    for (let stop = 0; stop < 90 && !seen.some((name) => name.includes('Make a string-out')); stop += 1) {
      await maren.press('Tab');
      const focus = await maren.page.evaluate(() => {
        const element = document.activeElement as HTMLElement;
        const { outlineStyle, boxShadow } = getComputedStyle(element);
        const around = element.closest('.box')
          ? getComputedStyle(element.closest('.box') as Element).boxShadow
          : 'none';
        return {
          name:
            (element.getAttribute('aria-label') ?? element.textContent ?? element.tagName).trim() || element.tagName,
          visible: outlineStyle !== 'none' || boxShadow !== 'none' || around !== 'none',
        };
      });
      expect(focus).toEqual({ name: focus.name, visible: true });
      seen.push(focus.name);
    }
    for (const name of ['Library', 'Search the library', 'Change the theme', 'Assets', 'Circled', 'Make a string-out'])
      expect(seen.join('\n')).toContain(name);
  });

  it('a string-out is made and cut', async () => {
    await maren.press('Enter');
    await maren.page.waitForSelector('#pull-name');
    await maren.page.focus('#pull-new');
    await maren.page.keyboard.type('By hand');
    await maren.press('Tab', 'Tab');
    await maren.page.keyboard.type('Keys');
    await maren.press('Enter');
    await maren.says('[data-test="total"]', '175 frames');
    await until('the first frame', async () => (await maren.frameShown()) === 0);
    await maren.press('ArrowRight', 'ArrowRight', 'i');
    await maren.says('[data-test="total"]', '173 frames');
    await maren.press('Delete');
    await maren.says('main', 'Nothing cut yet');
    await maren.press('Control+z');
    await maren.says('[data-test="total"]', '173 frames');
  });
});

describe('when the server goes down in the middle of the work', () => {
  it('the window says so, loses nothing that is on it, and is current again by itself', async () => {
    await maren.section('Library');
    await maren.search('A001C001');
    const before = bench.library.serverPid;
    process.kill(before ?? 0, 'SIGKILL');
    await maren.says('.bar', 'No connection; trying again');
    await until('another server', () => Promise.resolve(bench.library.serverPid !== before && bench.library.serverPid));
    const tobin = await Window.open(browser, bench.base, 'tobin');
    await tobin.section('Library');
    await tobin.clickText('nl-tile', 'A001C001.mov');
    await tobin.press('e');
    await tobin.page.keyboard.type('Logged after the crash');
    await tobin.press('Enter');
    await maren.says('nl-tile', 'Logged after the crash');
    await until('the connection', async () => !(await maren.text('.bar')).includes('No connection'));
    // Still signed in, and able to go on.
    await maren.clickText('nl-tile', 'Logged after the crash');
    await maren.press('h');
    await tobin.says('nl-tile', 'Hold');
    await tobin.page.close();
  });
});
