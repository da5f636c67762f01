import { countingById, formatTimecode, parseTimecode, type Counting } from '@larder/core/timecode';
import { STRIP_BLOCKS, stripHeight, readStrip } from '@larder/demo';
import { begin, type Begun, until } from './kit';

/** One clip of each rate, with the rate's name and the timecode of its first frame. */
const CLIPS = [
  ['F010_003.mov', '23.976', '11:06:00:12'],
  ['A001C003.mov', '25', '01:00:12:00'],
  ['B002C004.mp4', '29.97df', '16:59:59;28'],
  ['HS_050_001.mov', '50', ''],
  ['HS_5994_002.mov', '59.94df', '16:31:00;04'],
] as const;
/** On each clip, at other places each time. */
const SEEKS = 60;

let maren: Begun['maren'];
let end: Begun['end'];

beforeAll(async () => {
  ({ maren, end } = await begin([...CLIPS.map(([name]) => name), 'S02T02.wav']));
  await maren.section('Library');
}, 300_000);
afterAll(() => end(), 60_000);

interface Seek {
  /** The frame that was asked for, and the one whose number the player showed. */
  readonly asked: number;
  readonly told: number;
  readonly timecode: string;
  /** How bright the blocks are that spell the frame's number in the picture. */
  readonly blocks: readonly number[];
}

/** Takes the player's slider to frames, one after another, and reads what picture and player show once each has come. */
const seekTo = (frames: readonly number[], total: number): Promise<readonly Seek[]> =>
  maren.page.evaluate(
    async (wanted, count, blocks, height) => {
      const video = document.querySelector('nl-player video') as HTMLVideoElement;
      const slider = document.querySelector('nl-player input[type="range"]') as HTMLInputElement;
      const canvas = document.createElement('canvas');
      [canvas.width, canvas.height] = [video.videoWidth, video.videoHeight];
      const context = canvas.getContext('2d', { willReadFrequently: true }) as CanvasRenderingContext2D;
      const y = Math.max(2, Math.floor((video.videoHeight * height) / 2));
      const seen: Seek[] = [];
      let before = NaN;
      for (const asked of wanted) {
        const come = new Promise<void>((resolve) => {
          if (asked === before) resolve();
          else video.requestVideoFrameCallback(() => resolve());
        });
        slider.value = String(asked / (count - 1));
        slider.dispatchEvent(new Event('input'));
        await come;
        while (video.seeking) await new Promise((resolve) => setTimeout(resolve, 5));
        // What the player says is drawn a moment after the frame has come.
        await new Promise((resolve) => requestAnimationFrame(() => requestAnimationFrame(resolve)));
        context.drawImage(video, 0, 0);
        seen.push({
          asked,
          told: Number(document.querySelector('nl-player [data-frame]')?.getAttribute('data-frame')),
          timecode: document.querySelector('nl-player [data-test="timecode"]')?.textContent?.trim() ?? '',
          blocks: Array.from(
            { length: blocks },
            (_unused, block) =>
              context.getImageData(Math.floor(((block + 0.5) * video.videoWidth) / blocks), y, 1, 1).data[1] ?? 0,
          ),
        });
        before = asked;
      }
      return seen;
    },
    frames,
    total,
    STRIP_BLOCKS,
    stripHeight(450) / 450,
  );

/** The same numbers each time for a seed (a linear congruence, as in Numerical Recipes). */
function randoms(seed: number, count: number, below: number): number[] {
  let state = seed;
  return Array.from({ length: count }, () => {
    state = (Math.imul(state, 1_664_525) + 1_013_904_223) >>> 0;
    return Math.floor((state / 2 ** 32) * below);
  });
}

describe('the frame whose number is shown is the one in the picture', () => {
  it.each(CLIPS)('%s at %s: at its beginning, its middle, its end, and anywhere', async (name, rate, start) => {
    await maren.search(`name:"${name}"`);
    await maren.says('[data-test="count"]', '1 asset');
    await maren.clickText('nl-tile', name);
    await maren.says('nl-details', name);
    await until('the first frame', async () => (await maren.frameShown()) === 0);
    const total = Number((await maren.text('nl-player [data-test="frame"]')).split('/')[1]);
    const counting = countingById(rate) as Counting;
    const begins = start || (await maren.text('nl-player [data-test="timecode"]'));
    const parsed = parseTimecode(begins, counting);
    if (!('frames' in parsed)) throw new Error(`${begins} is no timecode at ${rate}`);
    const seed = Number(process.env['LARDER_SEED'] ?? Date.now() % 2 ** 32);
    const frames = [0, Math.floor(total / 2), total - 1, ...randoms(seed, SEEKS, total)];
    const seen = await seekTo(frames, total);
    const wrong = seen
      .map((one) => ({ ...one, blocks: [], shown: readStrip([...one.blocks]) }))
      .filter(
        ({ asked, told, timecode, shown }) =>
          told !== asked || shown !== asked || timecode !== formatTimecode(parsed.frames + asked, counting),
      );
    expect({ seed, seeks: seen.length, wrong }).toEqual({ seed, seeks: SEEKS + 3, wrong: [] });
  });
});

describe('levels', () => {
  it('each of many channels moves while it plays, and is silenced or heard alone without a stop', async () => {
    await maren.search('name:S02T02');
    await maren.says('[data-test="count"]', '1 asset');
    await maren.clickText('nl-tile', 'S02T02');
    await maren.page.locator('nl-player [aria-label="Levels of the channels"]').click();
    await until('eight', async () => (await maren.page.$$('nl-player .channel')).length === 8);
    await maren.press('l');
    const heights = () =>
      maren.page.$$eval('nl-player .channel .bar', (bars) =>
        bars.map((bar) => parseFloat((bar as HTMLElement).style.height)),
      );
    await until('sound on all of them', async () => {
      const all = await heights();
      return all.length === 8 && all.every((height) => height > 0);
    });
    for (const label of ['Silence channel 2', 'Hear channel 3 alone'])
      await maren.page.$eval(`nl-player [aria-label="${label}"]`, (button) => (button as HTMLElement).click());
    await until('both to be told', () =>
      maren.page.$eval(
        'nl-player .meters',
        (meters) =>
          meters.querySelectorAll('[aria-pressed="true"]').length === 2 && meters.querySelector('.alone') !== null,
      ),
    );
    // Another asset in the same player is heard too: an element's sound is taken only once.
    await maren.search('name:A001C003');
    await maren.says('[data-test="count"]', '1 asset');
    await maren.clickText('nl-tile', 'A001C003');
    await until('its channels', async () => (await maren.page.$$('nl-player .channel')).length > 0);
    expect(maren.complaints).toEqual([]);
  });
});
