import { asset } from '../../../test/assets';
import { serverWith } from '../../../test/indexed';
import { Refusal, Screen, until } from '../../../test/screen';

const MARKS = [
  { assetId: 1, start: 50, name: 'Bell rings', colour: 'red' },
  { assetId: 1, start: 10, name: '', note: 'the lower gate, a bell far off' },
  { assetId: 1, start: 70, name: 'Nothing to hear' },
  { assetId: 2, start: 30, name: 'Bell again', end: 40 },
] as const;

const library = () => {
  const said = (id: number) =>
    MARKS.filter(({ assetId }) => assetId === id).map(({ name, ...more }) => name || ('note' in more ? more.note : ''));
  const server = serverWith(
    [1, 2, 3].map((id) =>
      asset(id, { startFrame: 90_000, durationFrames: 100, renditions: ['proxy'], markers: said(id) }),
    ),
  );
  server.on('first', () => null);
  MARKS.forEach((mark, at) =>
    server.markers.push({ ...{ id: at + 1, kind: 'note', end: null, note: '', colour: 'none', by: null }, ...mark }),
  );
  return server;
};
const hits = (screen: Screen) =>
  screen.all('nl-hits-view .hit').map((each) => each.textContent?.replace(/\s+/g, ' ').trim());
const frameShown = (screen: Screen) =>
  Math.floor((screen.all<HTMLVideoElement>('nl-player video')[0]?.currentTime ?? -1) * 25);

const scrolled = jest.fn();

beforeEach(() => {
  // Not there in jsdom.
  Element.prototype.scrollIntoView = scrolled;
  sessionStorage.clear();
  localStorage.setItem('neat-larder.settings', JSON.stringify({ view: 'hits' }));
});

describe('hits in time', () => {
  it('are listed by their assets, with the words marked, and gone to', async () => {
    const screen = await Screen.open('/library?q=bell', library(), 'editor');
    await screen.says('nl-hits-view .said', '3 hits in 2 assets');
    expect(hits(screen)).toEqual([
      '01:00:00:10 … gate, a bell far off',
      '01:00:02:00 Bell rings',
      '01:00:01:05 – 01:00:01:14 Bell again',
    ]);
    expect(screen.all('nl-hits-view mark').map(({ textContent }) => textContent)).toEqual(['bell', 'Bell', 'Bell']);
    expect(screen.all<HTMLElement>('nl-hits-view .hit')[1]?.title).toBe('Note, red: Bell rings');
    await screen.click('nl-hits-view .hit', 'Bell rings');
    await until('the player there', () => frameShown(screen) === 50);
    expect(screen.text('nl-hits-view section.selected h2')).toContain('clip1');
    await screen.press('ArrowDown');
    await until('the next clip', () => screen.text('nl-hits-view section.selected h2').includes('clip2'));
    await until('the player at its hit', () => frameShown(screen) === 30);
    await screen.press('ArrowUp');
    await screen.press('ArrowUp');
    await until('the first', () => screen.text('nl-hits-view .hit.active').includes('far off'));
    await until('the player at that', () => frameShown(screen) === 10);
    await screen.click('nl-hits-view .hit', 'Bell rings');
    await until('the second again', () => frameShown(screen) === 50);
    // Another way to show the same list leaves the player where it is.
    await screen.click('[title^="Contact sheet"]');
    await until('the sheet', () => screen.all('nl-tile.selected').length === 1);
    expect(frameShown(screen)).toBe(50);
    expect(scrolled).toHaveBeenCalled();
  });

  it('are all markers where no words are asked for, and none where nothing says them', async () => {
    const screen = await Screen.open('/library?q=kind:video', library(), 'editor');
    await screen.says('nl-hits-view .said', '4 hits in 2 assets');
    await screen.type('#search-line', 'clip3');
    await screen.says('nl-hits-view .nothing', 'No hits in time');
  });

  it('are read further when that is wanted, and asked for again when they could not be', async () => {
    const server = library();
    const answer = { total: 70, offset: 0, revision: 1 };
    const page = (limit: number) =>
      Array.from({ length: Math.min(limit, 70) }, (_unused, n) => ({
        asset: asset(n + 10),
        said:
          n < 2
            ? [
                {
                  startMs: 2000,
                  endMs: 2300,
                  before: `${'so '.repeat(30)}at low`,
                  hit: 'water',
                  after: 'you hear',
                  certainty: 0.4,
                },
              ]
            : [],
        more: n === 0 ? 7 : 0,
        hits: [
          {
            ...{ id: n, kind: 'note', start: n, end: null, name: `hit ${n}`, note: '' },
            ...{ colour: 'none', by: null },
          },
        ],
      }));
    let broken = true;
    server.on('hits', ({ limit = 0 }) =>
      broken
        ? new Refusal(503, { code: 'refused', reason: 'Not now.' })
        : ({ ...answer, assets: page(limit) } as never),
    );
    const screen = await Screen.open('/library', server, 'editor');
    await screen.says('nl-hits-view [role="alert"]', 'Not now.');
    broken = false;
    await screen.click('nl-hits-view [role="alert"] button', 'Try again');
    await screen.says('nl-hits-view .said', '52 hits in 50 assets of 70 that have any');
    const spoken = screen.all<HTMLElement>('nl-hits-view .hit')[1];
    expect(spoken?.textContent?.replace(/\s+/g, ' ').trim()).toMatch(/^01:00:02:00 … [so ]+at low water you hear$/);
    expect(spoken?.title).toMatch(/^Said, 40% sure: (so ){30}at low water you hear$/);
    // Said at the same moment of another clip, which is another hit.
    if (spoken) spoken.click();
    await until('the hit', () => screen.all('nl-hits-view .hit.active').length === 1);
    await screen.press('ArrowDown');
    await screen.press('ArrowDown');
    await until(
      'the one after',
      () => screen.all('nl-hits-view .hit').findIndex((each) => each.matches('.active')) === 3,
    );
    await screen.press('ArrowDown');
    await until('and on', () => screen.all('nl-hits-view .hit').findIndex((each) => each.matches('.active')) === 4);
    await screen.says('nl-hits-view .found', 'And 7 times more in this clip.');
    await screen.click('nl-hits-view .more', 'Show more');
    await screen.says('nl-hits-view .said', '72 hits in 70 assets.');
    expect(screen.all('nl-hits-view .more')).toHaveLength(0);
  });
});
