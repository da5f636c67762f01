import { existsSync, mkdirSync, renameSync } from 'node:fs';
import { join } from 'node:path';
import { isDeepStrictEqual } from 'node:util';
import type { Browser } from 'puppeteer-core';
import { countingById, formatTimecode, type Counting } from '@larder/core/timecode';
import { Bench, opened, until, Window } from './kit';

const FILES = [
  'A001C003.mov',
  'A001C005.mov',
  'B002C004.mp4',
  'HS_5994_002.mov',
  'F010_003.mov',
  'S01T01.wav',
  'recce_lock.jpg',
  'recovered_007.mov',
];

let bench: Bench;
let browser: Browser;
let maren: Window;
let close: () => Promise<void>;

beforeAll(async () => {
  bench = await Bench.start(FILES);
  ({ browser, close } = await opened());
}, 300_000);
afterAll(async () => {
  await close();
  await bench.stop();
}, 60_000);

/** One walk, in the order of a day: each step stands on the one before. */
/** Takes the player to a part of the clip, as its slider does. */
const scrubTo = (part: number) =>
  maren.page.$eval(
    'nl-player input[type="range"]',
    (element, value) => {
      element.value = value;
      element.dispatchEvent(new Event('input'));
    },
    String(part),
  );

describe('from a folder of footage to a cut list that conforms', () => {
  it('a media manager signs in and finds an empty larder', async () => {
    maren = await Window.open(browser, bench.base, 'maren');
    await maren.says('main', 'The larder is empty');
    expect(await maren.text('[data-test="person"]')).toBe('Maren Oakley');
  });

  it('adds a storage, and its files come in while she looks', async () => {
    await maren.section('Storage');
    await maren.clickText('button', 'Add a storage');
    await maren.fill('#storage-root', 'footage');
    await maren.clickText('button', 'Add and scan');
    await maren.says('form [role="alert"]', 'absolute path');
    await maren.fill('#storage-name', 'Shelf');
    await maren.fill('#storage-root', bench.shelf);
    await maren.clickText('button', 'Add and scan');
    await maren.says('[data-storage="Shelf"] [data-test="scan"]', `${FILES.length} files`);
    await maren.section('Library');
    await maren.says('[data-test="count"]', `${FILES.length} assets`);
    await until('the damaged one to say so', async () =>
      (await maren.tile('recovered_007.mov')).evaluate((tile) => tile.textContent?.includes('Unreadable')),
    );
    await maren.section('Jobs');
    await until('all jobs to end', () =>
      maren.page.$eval(
        'nl-jobs',
        (element) =>
          !/Running \d*[1-9]|Waiting \d*[1-9]/.test(
            (element.querySelector('.btn-group')?.textContent ?? 'Running 1').replace(/\s+/g, ' '),
          ),
      ),
    );
    const failed = await maren.page.evaluate(async () => {
      const { jobs } = (await (await fetch('/api/jobs')).json()) as {
        jobs: { state: string; subject: string; kind: string; message: string }[];
      };
      return jobs.filter((job) => job.state === 'failed');
    });
    expect(failed).toEqual([]);
    await maren.says('nl-jobs .btn-group', /Failed ?0/);
  });

  it.each([
    ['A001C003.mov', '25', '01:00:12:00'],
    ['B002C004.mp4', '29.97df', '16:59:59;28'],
    ['HS_5994_002.mov', '59.94df', '16:31:00;04'],
    ['F010_003.mov', '23.976', '11:06:00:12'],
  ])('steps %s frame by frame: picture, counter and timecode agree', async (name, rate, start) => {
    await maren.section('Library');
    await maren.search(`name:"${name}"`);
    await maren.says('[data-test="count"]', '1 asset');
    await maren.clickText('nl-tile', name);
    await maren.says('nl-player [data-test="timecode"]', start);
    const counting = countingById(rate) as Counting;
    const shows = (frame: number) =>
      until(`the picture of frame ${frame}`, async () => (await maren.frameShown()) === frame);
    await shows(0);
    for (let frame = 1; frame <= 5; frame += 1) {
      await maren.press('Shift+ArrowRight');
      await shows(frame);
      await maren.says('nl-player [data-test="frame"]', `${frame} / `);
    }
    // Over the minute's end, where drop-frame leaves labels out.
    const total = Number((await maren.text('nl-player [data-test="frame"]')).split('/')[1]);
    await scrubTo(1);
    await shows(total - 1);
    for (const frame of [total - 2, total - 3]) {
      await maren.press('Shift+ArrowLeft');
      await shows(frame);
      const timecode = formatTimecode(framesOf(start, counting) + frame, counting);
      await maren.says('nl-player [data-test="timecode"]', timecode);
    }
  });

  it('plays forwards with L and stops with K', async () => {
    await scrubTo(0);
    await until('the first frame', async () => (await maren.frameShown()) === 0);
    await maren.press('l');
    // Slowed down, so that a busy machine does not come to the clip's end before the next key.
    await maren.page.$eval('nl-player video', (video) => (video.playbackRate = 0.2));
    await until('frames to pass', async () => ((await maren.frameShown()) ?? 0) > 5 || undefined);
    await maren.press('k');
    const stopped = await until('the picture to stand still', async () => {
      const shown = await maren.frameShown();
      await new Promise((resolve) => setTimeout(resolve, 300));
      return shown !== null && (await maren.frameShown()) === shown && shown;
    });
    // By the key, not by the clip's end.
    expect(stopped).toBeLessThan(
      Number((await maren.text('nl-player [data-test="frame"]')).split('/')[1]?.split(' ')[1]) - 1,
    );
  });

  it('logs with keys, sees it at once, and takes it back', async () => {
    await maren.search('A001');
    await maren.says('[data-test="count"]', '2 assets');
    await maren.clickText('nl-tile', 'A001C003');
    await maren.press('c', 't', '/');
    await maren.page.keyboard.type('dawn');
    await maren.press('Enter', 'Escape', 'e');
    await maren.page.keyboard.type('Hands on the beam');
    await maren.press('Enter');
    await maren.says('nl-tile.selected', 'Hands on the beam');
    await maren.says('nl-tile.selected', 'Circled');
    await maren.says('nl-tile.selected', 'dawn');
    await maren.press('Control+z');
    await maren.says('nl-tile.selected', 'A001C003.mov');
    await maren.press('Control+a');
    await maren.says('[data-test="count"]', '2 selected');
    await maren.press('h');
    await until(
      'both to be on hold',
      async () =>
        (await maren.page.$$eval(
          'nl-tile',
          (tiles) => tiles.filter((tile) => tile.textContent?.includes('Hold')).length,
        )) === 2,
    );
    await maren.press('Control+z');
    await until(
      'one to be circled again',
      async () =>
        (await maren.page.$$eval(
          'nl-tile',
          (tiles) => tiles.filter((tile) => tile.textContent?.includes('Circled')).length,
        )) === 1,
    );
  });

  it('refuses a title that is none, keeps what was typed, and says why', async () => {
    await maren.clickText('nl-tile', 'A001C003');
    await maren.press('e');
    await maren.page.$eval('#field-title', (element) => ((element as HTMLInputElement).value = 'x'.repeat(201)));
    await maren.press('Enter');
    await maren.says('nl-details [role="alert"]', 'at most 200 characters');
    await maren.press('e', 'Escape');
  });

  it('two people on one clip never overwrite each other silently', async () => {
    const tobin = await Window.open(browser, bench.base, 'tobin');
    await tobin.section('Library');
    await tobin.clickText('nl-tile', 'A001C005');
    await tobin.press('e');
    await maren.clickText('nl-tile', 'A001C005');
    await maren.press('e');
    await maren.page.keyboard.type('Seen by Maren');
    await maren.press('Enter');
    await tobin.says('nl-tile.selected', 'Seen by Maren');
    await tobin.fill('#field-title', 'Seen by Tobin');
    await tobin.press('Enter');
    await tobin.says('.modal-content', 'Somebody else changed this too');
    await tobin.says('.modal-content', 'Seen by Maren');
    await tobin.clickText('.modal-content button', 'Keep theirs');
    await maren.says('nl-tile.selected', 'Seen by Maren');
    await tobin.page.close();
  });

  it('searches while typing, points at mistakes, and keeps a search as a live bin that stays current', async () => {
    await maren.search('duration>4s kind:video');
    await maren.says('[data-test="count"]', /[34] assets/);
    await maren.search('tga:dawn');
    await maren.says('#search-issue', 'Did you mean “tag:”?');
    await maren.search('tag:dawn');
    await maren.says('[data-test="count"]', '1 asset');
    await maren.clickText('button', 'Keep as live bin');
    await maren.fill('#live-bin-name', 'Dawn');
    await maren.press('Enter');
    await maren.says('[data-bin="Dawn"]', '1');
    const tobin = await Window.open(browser, bench.base, 'tobin');
    await tobin.section('Library');
    await tobin.clickText('nl-tile', 'Seen by Maren');
    await tobin.press('t', '/');
    await tobin.page.keyboard.type('DAWN');
    await tobin.press('Enter');
    await maren.says('[data-bin="Dawn"]', '2');
    await maren.says('[data-test="count"]', '2 assets');
    await tobin.page.close();
  });

  it('a file that was moved and renamed is missing, and its link is mended without a second asset', async () => {
    mkdirSync(join(bench.shelf, 'tidied'));
    renameSync(join(bench.shelf, 'footage/A001C005.mov'), join(bench.shelf, 'tidied/boat passes.mov'));
    await maren.section('Storage');
    await maren.clickText('[data-storage="Shelf"] button', 'Scan again');
    await maren.says('[data-storage="Shelf"]', '1 missing');
    await maren.section('Library');
    await maren.search('');
    await maren.says('[data-test="count"]', `${FILES.length} assets`);
    await maren.says('nl-library', 'Missing');
    await maren.section('Upkeep');
    await maren.click('form.look button[type="submit"]:not([disabled])');
    await maren.says('nl-relink-item', 'tidied/boat passes.mov');
    await maren.says('nl-relink-item', 'Exact');
    await maren.clickText('nl-relink-item button', 'Evidence');
    await maren.says('nl-relink-item table', 'Fingerprint');
    await maren.clickText('button', 'Mend 1 link');
    await maren.says('[data-test="missing"]', 'No originals are missing');
    await maren.section('Library');
    await maren.search('');
    await maren.says('[data-test="count"]', `${FILES.length} assets`);
    expect(existsSync(join(bench.shelf, 'tidied/boat passes.mov'))).toBe(true);
  });

  it('pulls clips into a project and cuts them', async () => {
    for (const name of ['A001C003.mov', 'boat passes', 'B002C004']) {
      await maren.search(`name:"${name}"`);
      await maren.says('[data-test="count"]', '1 asset');
      await maren.click('nl-tile');
      await maren.press('p');
    }
    await maren.says('[data-test="pull-count"]', '3 assets');
    await maren.clickText('nl-tray button', 'Make a string-out');
    await maren.fill('#pull-new', 'Episode one');
    await maren.fill('#pull-name', 'First cut');
    await maren.clickText('.modal-content button', 'Make it');
    await maren.says('[data-test="total"]', 'frames');
    await maren.page.waitForSelector('li.clip');
    const names = () => maren.page.$$eval('li.clip .name', (clips) => clips.map((clip) => clip.textContent?.trim()));
    await until('the clips in the order they were pulled', async () =>
      isDeepStrictEqual(await names(), ['A001C003.mov', 'Seen by Maren', 'B002C004.mp4']),
    );

    // In and out by typing timecode, and by marking in the player.
    const [first] = await maren.page.$$eval('li.clip', (clips) => clips.map((each) => each.getAttribute('data-item')));
    await maren.fill(`[id="in-${first}"]`, '01:00:13:00');
    await maren.press('Enter');
    await maren.says('[data-test="total"]', `${125 + 125 + 100} frames`);
    await maren.fill(`[id="out-${first}"]`, '01:00:13:10');
    await maren.press('Enter');
    await maren.says('[data-test="total"]', `${10 + 125 + 100} frames`);
    await maren.clickText('li.clip .pick', 'Seen by Maren');
    await maren.says('nl-player [data-test="frame"]', '0 / ');
    await maren.press(
      'Shift+ArrowRight',
      'Shift+ArrowRight',
      'i',
      'Shift+ArrowRight',
      'Shift+ArrowRight',
      'Shift+ArrowRight',
      'o',
    );
    await until('the trimmed length', () =>
      maren.page.$$eval('li.clip', (clips) => (clips[1]?.textContent ?? '').includes('0:00') as true),
    );
    await maren.says('[data-test="total"]', `${10 + 4 + 100} frames`);

    // By key, and by dragging.
    await maren.press('Alt+ArrowUp');
    await until('the order by key', async () => (await names())[0] === 'Seen by Maren');
    const grips = await maren.page.$$('li.clip .grip');
    const [from, to] = [await grips[2]?.boundingBox(), await grips[0]?.boundingBox()];
    if (!from || !to) throw new Error('nothing to drag');
    await maren.page.mouse.move(from.x + 8, from.y + 15);
    await maren.page.mouse.down();
    for (let step = 1; step <= 10; step += 1)
      await maren.page.mouse.move(from.x + 8, from.y + 15 + ((to.y - 10 - from.y) * step) / 10);
    await maren.page.mouse.up();
    await until('the order by dragging', async () =>
      isDeepStrictEqual(await names(), ['B002C004.mp4', 'Seen by Maren', 'A001C003.mov']),
    );
  });

  it('plays it through, cutting on the frame', async () => {
    await maren.clickText('.tabs button', 'Play through');
    await maren.page.waitForSelector('nl-run-player video');
    // Every frame that is presented, read from the picture itself as it goes by.
    await maren.page.evaluate(() => {
      const seen: { side: number; time: number }[] = [];
      (window as unknown as { seen: typeof seen }).seen = seen;
      document.querySelectorAll('nl-run-player video').forEach((element, side) => {
        const video = element as HTMLVideoElement;
        const note = (_now: number, { mediaTime }: VideoFrameCallbackMetadata) => {
          if (video.classList.contains('shown') && !video.paused) seen.push({ side, time: mediaTime });
          video.requestVideoFrameCallback(note);
        };
        video.requestVideoFrameCallback(note);
      });
    });
    await maren.clickText('nl-run-player button', 'Play through');
    await until('the third clip', async () => (await maren.text('nl-run-player .controls')).includes('A001C003'));
    await until('the end', async () => (await maren.text('nl-run-player button')).includes('Play through'));
    const seen = await maren.page.evaluate(
      () => (window as unknown as { seen: { side: number; time: number }[] }).seen,
    );
    const runs = seen.reduce<{ side: number; times: number[] }[]>((all, { side, time }) => {
      const last = all.at(-1);
      if (last?.side === side) last.times.push(time);
      else all.push({ side, times: [time] });
      return all;
    }, []);
    // Three clips take turns on two players; none shows a frame before its in. A busy machine passes frames over, so that the one
    // by which the end is noticed may lie beyond it; none comes after that.
    expect(runs.map((run) => run.side)).toEqual([0, 1, 0]);
    const framesOf = (run: number) => (runs[run]?.times ?? []).map((time) => Math.round(time * 25));
    for (const [run, first, out] of [
      [1, 2, 6],
      [2, 25, 35],
    ] as const) {
      expect(Math.min(...framesOf(run))).toBeGreaterThanOrEqual(first);
      expect(framesOf(run).filter((frame) => frame >= out).length).toBeLessThanOrEqual(1);
    }
  });

  it('hands over a cut list that conforms, and reads both formats back', async () => {
    await maren.clickText('button', 'Conform check');
    await maren.says('[data-test="conform"]', 'Conforms: 3 events at 25');
    for (const [format, words] of [
      ['EDL', 'EDL'],
      ['OTIO', 'In proxies'],
    ] as const) {
      if (format === 'OTIO') await maren.clickText('button', 'OTIO');
      const href = await (await maren.withText('a', words)).evaluate((link) => (link as HTMLAnchorElement).href);
      if (format === 'OTIO') await maren.clickText('button', 'OTIO');
      const text = await maren.page.evaluate(async (url) => (await fetch(url)).text(), href);
      expect(text).toContain(format === 'EDL' ? 'FROM CLIP NAME: boat passes.mov' : '"OTIO_SCHEMA": "Timeline.1"');
      const report = await maren.page.evaluate(
        async (list) =>
          (
            await fetch('/api/conform', {
              method: 'POST',
              headers: { 'content-type': 'application/json' },
              body: JSON.stringify({ fileName: 'back', text: list, counting: '25' }),
            })
          ).json() as Promise<{ clean: boolean; events: { used: { start: number; end: number } }[] }>,
        text,
      );
      expect(report.clean).toBe(true);
      expect(report.events.map(({ used }) => [used.start, used.end])).toEqual([
        [0, 120],
        [2, 6],
        [25, 35],
      ]);
    }
  });

  it('prints its keys, changes its theme, and asked nobody but its own server', async () => {
    await maren.press('?');
    await maren.says('.modal-content', 'Verdict: circled');
    await maren.press('Escape');
    await until('the sheet to close', async () => (await maren.page.$('.modal-content')) === null);
    await maren.click('[aria-label="Change the theme"]');
    await until('the dark theme', () =>
      maren.page.$eval('html', (root) => root.getAttribute('data-bs-theme') === 'dark'),
    );
    expect(maren.strays).toEqual([]);
    expect(maren.complaints).toEqual([]);
  });

  it('a viewer may look and not touch', async () => {
    const pell = await Window.open(browser, bench.base, 'pell');
    await pell.section('Library');
    await pell.clickText('nl-tile', 'Seen by Maren');
    await pell.page.waitForSelector('#field-title:disabled');
    await pell.section('Storage');
    await pell.says('[data-storage="Shelf"]', 'online');
    expect(await pell.page.$$('[data-storage="Shelf"] footer')).toHaveLength(0);
    await pell.page.close();
  });
});

function framesOf(text: string, counting: Counting): number {
  // By counting labels up from the last whole minute, independently of the parser.
  const [, hours = 0, minutes = 0, seconds = 0, frames = 0] = (/(\d\d):(\d\d):(\d\d)[:;](\d\d)/.exec(text) ?? []).map(
    Number,
  );
  const totalMinutes = hours * 60 + minutes;
  const dropped = counting.dropFrame ? (counting.nominal / 15) * (totalMinutes - Math.floor(totalMinutes / 10)) : 0;
  return (totalMinutes * 60 + seconds) * counting.nominal + frames - dropped;
}
