import {
  passagesWith,
  rankedPassages,
  readSpoken,
  SpokenIndex,
  themesOf,
  type Pronouncer,
} from '@larder/core/dialogue';
import type { SpokenPassagesAsked, ThemePassagesAsked } from '@larder/contract';
import { asset } from '../../../test/assets';
import { LibraryServer } from '../../../test/library';
import { Refusal, Screen, until } from '../../../test/screen';

const SOUND = { codec: 'pcm_s16le', channels: 2, layout: 'stereo', sampleRate: 48_000 };
const nobody: Pronouncer = { ways: () => [], isHeard: () => true };
/** A word each half a second, and a second in which nobody speaks for each `…`. */
const SAID = [
  'The old sluice leaks. … The old sluice was shut, and the bell rang. … The sluice keeper slept.',
  'A bell and a bell rope. … Bell rope is sold by the yard, and the bell rope holds.',
  'The sluice and the bell rope, the sluice and the bell rope.',
];

/** What else there is: files in which people speak of something else. */
const OTHERS = 6;
const OTHER = 'It rained for a week and nobody came out to the fields until it stopped. '.repeat(4).trim();

let server: LibraryServer;
let index: SpokenIndex;

beforeEach(() => {
  // Not there in jsdom.
  Element.prototype.scrollIntoView = jest.fn();
  sessionStorage.clear();
  localStorage.clear();
  index = new SpokenIndex(nobody);
  [...SAID, ...Array.from({ length: OTHERS }, () => OTHER)].forEach((text, at) => {
    let ms = 0;
    const words = text.split(' ').flatMap((word) => {
      ms += word === '…' ? 1000 : 500;
      return word === '…' ? [] : [{ text: word, startMs: ms - 500, endMs: ms, certainty: null }];
    });
    const speakers = at === 0 ? [{ fromMs: 0, name: 'Wren' }] : [];
    index.upsert([{ id: at + 1, wholeId: 0, spoken: { words, speakers } }]);
  });
  const about = {
    renditions: ['proxy' as const],
    startFrame: 0,
    durationFrames: 1000,
    durationMs: 40_000,
    sound: SOUND,
  };
  const assets = SAID.map((_text, at) => asset(at + 1, { name: `talk-${at + 1}.mov`, ...about }));
  server = new LibraryServer(assets);
  const assetsOf = (found: readonly { id: number }[]) =>
    assets.filter(({ id }) => found.some((each) => each.id === id));
  server.on('spoken', () => ({ revision: 1, offset: 0, notches: [], items: [], files: [], searched: SAID.length }));
  server.on('spokenPassages', (asked: Partial<SpokenPassagesAsked>) => {
    const question = { items: readSpoken(asked.said ?? ''), how: asked.how ?? 'all', withinMs: 10_000 };
    const found = index.find(question, asked.notch ?? 0, null);
    const ranked = rankedPassages(index, found, { length: asked.length ?? 'thought', limit: asked.limit ?? 25 });
    return { revision: 1, notches: found.notches, ...ranked, assets: assetsOf(ranked.passages) };
  });
  server.on('themes', () => ({ revision: 1, ...themesOf(index, (id) => id <= SAID.length), assets }));
  server.on('themePassages', ({ assetIds = [], terms = [] }: Partial<ThemePassagesAsked>) => {
    const words = terms.map((term) => term.split(' '));
    const found = passagesWith(index, (id) => assetIds.includes(id), words, { length: 'thought', limit: 100 });
    return { revision: 1, ...found, assets: assetsOf(found.passages) };
  });
  server.on('transcript', () => ({ sources: [], shown: null }));
  server.on('first', () => null);
});

const open = (address: string, who: 'editor' | 'viewer' = 'editor') => Screen.open(address, server, who);
const textOf = (element: Element) => element.textContent?.replace(/\s+/g, ' ').trim() ?? '';
const words = (screen: Screen) => screen.all('nl-passage-list .words').map(textOf);
const active = (screen: Screen) => screen.all('nl-passage-list li.active .words').map(textOf);

describe('passages in which something is said', () => {
  const address = '/dialogue?view=passages&said=sluice';

  it('are whole thoughts, with who speaks, what was looked for, and why they end', async () => {
    const screen = await open(address);
    await screen.says('nl-spoken-passages .said', '4 passages');
    expect(words(screen)).toContain('The old sluice was shut, and the bell rang.');
    expect(words(screen)).toContain('The sluice and the bell rope, the sluice and the bell rope.');
    const first = screen.all('nl-passage-list li').find((each) => textOf(each).includes('leaks')) as Element;
    expect(textOf(first)).toContain('Wren');
    expect(textOf(first)).toContain('Ends with a pause of 1.0 s. 100% likely.');
    expect([...first.querySelectorAll('mark')].map(textOf)).toEqual(['sluice']);
  });

  it('are longer and shorter, by keys too, and as many as one likes', async () => {
    const screen = await open('/dialogue?view=passages&said=old');
    await screen.says('nl-spoken-passages .said', '2 passages');
    await screen.press('}');
    await until('longer', () => server.bodies('spokenPassages').at(-1)?.length === 'talk');
    await screen.says('nl-spoken-passages .said', '1 passage,');
    // There is nothing longer.
    await screen.press('}');
    await screen.press('{');
    await screen.press('{');
    await until('the shortest', () => server.bodies('spokenPassages').at(-1)?.length === 'sentence');
    await screen.choose('#passage-limit', '50');
    await until('more', () => server.bodies('spokenPassages').at(-1)?.limit === 50);
    expect(screen.all<HTMLSelectElement>('#passage-length')[0]?.value).toBe('sentence');
  });

  it('are gone through with the sound running, and kept', async () => {
    const screen = await open(address);
    await screen.says('nl-spoken-passages .said', '4 passages');
    const listed = words(screen);
    await screen.press(']');
    await until('the first', () => active(screen)[0] === listed[0]);
    await screen.press(']');
    await until('the second', () => active(screen)[0] === listed[1]);
    await screen.press('[');
    await until('the first again', () => active(screen)[0] === listed[0]);
    await screen.press('Shift+k');
    await screen.says('nl-toasts', 'Kept as a marker');
    const [kept] = server.bodies('newMarker');
    expect(kept).toMatchObject({ kind: 'hit', name: 'sluice', note: expect.stringContaining('100% likely') as string });
  });

  it('become a string-out: those that are chosen, or all that are listed', async () => {
    const screen = await open(address);
    await screen.says('nl-spoken-passages .said', 'String-out of all listed');
    const boxes = screen.all<HTMLInputElement>('nl-passage-list input');
    boxes[0]?.click();
    boxes[1]?.click();
    boxes[1]?.click();
    await screen.says('nl-spoken-passages .said', 'String-out of 1 passage');
    await screen.click('nl-spoken-passages .said button', 'String-out');
    await screen.says('.modal-content', 'Make a string-out of 1 passage');
    expect(screen.all<HTMLInputElement>('#pull-name')[0]?.value).toBe('Said: sluice');
    await until('nothing around them', () => screen.all<HTMLInputElement>('#pull-handles')[0]?.value === '0');
  });

  it('may be none, and of nothing there are none; a viewer keeps and cuts nothing', async () => {
    const screen = await open('/dialogue?view=passages&said=nowhere', 'viewer');
    await screen.says('nl-spoken-passages', 'Nobody says it');
    await screen.type('nl-dialogue [aria-label="What was said"]', 'sluice');
    await screen.says('nl-spoken-passages .said', '4 passages');
    expect(textOf(screen.all('nl-spoken-passages')[0] as Element)).not.toMatch(/String-out|keeps/);
    await screen.type('nl-dialogue [aria-label="What was said"]', '');
    await screen.says('nl-dialogue', '3 files have a transcript');
    server.on('spokenPassages', () => new Refusal(503, { code: 'refused', reason: 'Not now.' }));
    await screen.type('nl-dialogue [aria-label="What was said"]', 'bell');
    await screen.says('nl-spoken-passages [role=alert]', 'Not now.');
  });
});

describe('what files are about', () => {
  const rows = (screen: Screen) => screen.all('nl-themes tbody tr').map(textOf);
  const theme = (screen: Screen, term: string) => rows(screen).find((row) => row.includes(term)) ?? '';

  it('is shown by files: what several have in common, and what only one has', async () => {
    const screen = await open('/dialogue?view=themes');
    await screen.says('nl-themes', 'What is said in 3 files more often than in the 6 other files with a transcript');
    expect(screen.all('nl-themes thead th').map(textOf)).toEqual(['talk-1.mov', 'talk-2.mov', 'talk-3.mov', 'Files']);
    const groups = screen.all('nl-themes .group').map(textOf);
    expect(groups.every((group) => ['In all of them', 'In several', 'In one only'].includes(group))).toBe(true);
    expect(theme(screen, 'bell rope')).toMatch(/ 2 1 2$/);
    // There is nothing to look for.
    expect(screen.all('nl-dialogue [aria-label="What was said"]')).toEqual([]);
  });

  it('opens the passages, of one file or of all, which are heard and chosen', async () => {
    const screen = await open('/dialogue?view=themes');
    await screen.says('nl-themes tbody', 'bell rope');
    await screen.click('nl-themes .cell', '2');
    await screen.says('nl-themes section h2', '“bell rope” in “talk-2.mov”');
    await until('its passages', () => words(screen).length === 2);
    await screen.click('nl-themes tbody th button', 'bell rope');
    await screen.says('nl-themes section h2', 'in all files');
    await until('those of all', () => words(screen).length === 3);
    await screen.click('nl-passage-list .from', 'talk-3.mov');
    await until('it heard', () => active(screen).length === 1);
    await screen.click('nl-themes section h2 button', 'Choose all of them');
    await screen.says('nl-themes .chosen', '3 passages of 1 theme chosen.');
    screen.all<HTMLInputElement>('nl-passage-list input')[0]?.click();
    await screen.says('nl-themes .chosen', '2 passages');
    await screen.click('nl-themes .chosen button', 'String-out by theme');
    await screen.says('.modal-content', 'Make a string-out of 2 passages');
    expect(screen.all<HTMLInputElement>('#pull-name')[0]?.value).toBe('Themes: bell rope');
    await screen.click('.modal-content button', 'Cancel');
    await screen.click('nl-themes .chosen button', 'Choose none');
    await until('none', () => screen.all('nl-themes .chosen').length === 0);
    await screen.click('nl-themes tbody th button', 'bell rope');
    await until('closed', () => screen.all('nl-themes section').length === 0);
  });

  it('is told of what is selected in the library', async () => {
    const screen = await open('/library');
    await screen.says('nl-library', 'talk-1.mov');
    await screen.press('Ctrl+a');
    await screen.click('nl-details a', 'Themes of what is said');
    await screen.says('nl-themes tbody', 'bell rope');
    expect(server.bodies('themes').at(-1)).toMatchObject({ query: 'number:1 or number:2 or number:3' });
  });

  it('is of the files that the search line finds, and may be nothing', async () => {
    server.on('themes', () => ({
      ...{ revision: 1, files: [], left: 0, against: 'rest' as const, rest: 3, themes: [], assets: [] },
    }));
    const screen = await open('/dialogue?view=themes&q=tag:dawn');
    await screen.says('nl-themes', 'Nothing is said in them');
    expect(server.bodies('themes').at(-1)).toMatchObject({ query: 'tag:dawn' });
    server.on('themes', () => new Refusal(503, { code: 'refused', reason: 'Not now.' }));
    await screen.click('nl-dialogue button', 'In all files');
    await screen.says('nl-themes [role=alert]', 'Not now.');
    server.on('themes', () => ({ revision: 1, ...themesOf(index, (id) => id > SAID.length + 1), assets: [] }));
    await screen.click('nl-themes [role=alert] button', 'Try again');
    await screen.says('nl-themes', 'Nothing sets them apart');
  });
});

describe('what was said, added up', () => {
  const DAY_MS = 86_400_000;
  const day = (at: number, hits: number) => ({ dayMs: Date.UTC(2026, 4, 12) + at * DAY_MS, hits, files: 1 });
  const totals = (days: readonly { dayMs: number | null; hits: number; files: number }[]) => ({
    ...{
      revision: 1,
      days,
      notches: [{ hits: 5, files: 3 }, ...Array.from({ length: 4 }, () => ({ hits: 6, files: 4 }))],
    },
    reels: [
      { name: 'A001', hits: 3, files: 2 },
      { name: '', hits: 2, files: 1 },
    ],
    speakers: [
      { name: 'Wren', hits: 4, files: 3 },
      { name: '', hits: 1, files: 1 },
    ],
    more: { reels: 0, speakers: 3 },
  });
  const bars = (screen: Screen, at: number) =>
    Array.from(
      screen.all('nl-spoken-totals nl-totals-chart')[at]?.querySelectorAll('button') ?? [],
      ({ textContent }) => textContent?.trim(),
    ).join(', ');

  it('is shown by time, speaker and reel, each of which leads to what was found there', async () => {
    server.on('spokenTotals', () => totals([day(0, 3), day(3, 1), { dayMs: null, hits: 1, files: 1 }]));
    const screen = await Screen.open('/dialogue?said=bell&view=totals&q=tag:dawn%20reel=B002', server, 'editor');
    await screen.says('nl-spoken-totals', '5 hits in 3 files');
    expect([0, 1, 2].map((at) => bars(screen, at))).toEqual([
      '12 May 2026: 3, 15 May 2026: 1',
      'Wren: 4, Not named: 1',
      'A001: 3, No reel: 2',
    ]);
    await screen.says('nl-spoken-totals', '1 file without a date.');
    await screen.says('nl-spoken-totals', 'And 3 more speakers.');
    await screen.click('nl-spoken-totals button', 'A001');
    await until('the list', () => screen.address === '/dialogue?said=bell&q=tag:dawn%20reel%3Da001');
    await screen.click('nl-dialogue header button', 'Totals');
    await screen.click('nl-spoken-totals button', 'No reel');
    await until('those without', () => screen.address === '/dialogue?said=bell&q=tag:dawn%20no:reel');
    await screen.click('nl-dialogue header button', 'Totals');
    await screen.click('nl-spoken-totals button', '15 May');
    await until('the day', () => screen.address === '/dialogue?said=bell&q=tag:dawn%20no:reel%20shot:2026-05-15');
  });

  it('is by month where there are many days, and empty or out of reach it says so', async () => {
    server.on('spokenTotals', () => totals(Array.from({ length: 80 }, (_unused, at) => day(at, 1))));
    const screen = await Screen.open('/dialogue?said=bell&view=totals', server, 'editor');
    await until('months', () => bars(screen, 0) === 'May 2026: 20, Jun 2026: 30, Jul 2026: 30');
    await screen.click('nl-spoken-totals button', 'Jun 2026');
    await until('the month', () => screen.address === '/dialogue?said=bell&q=shot:2026-06-01..2026-06-30');
    server.on('spokenTotals', () => ({
      ...totals([]),
      notches: Array.from({ length: 5 }, () => ({ hits: 0, files: 0 })),
    }));
    await screen.click('nl-dialogue header button', 'Totals');
    await screen.says('nl-spoken-totals', 'Nobody says it');
    server.on('spokenTotals', () => new Refusal(503, { code: 'refused', reason: 'Not now.' }));
    await screen.type('nl-dialogue [aria-label="What was said"]', 'bells');
    await screen.says('nl-spoken-totals [role="alert"]', 'Not now.');
  });
});
