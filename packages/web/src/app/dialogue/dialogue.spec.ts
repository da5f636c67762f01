import { readSpoken, SpokenIndex, spokenWindow, wayText, type Pronouncer } from '@larder/core/dialogue';
import type { SpokenAsked, SpokenAnswer } from '@larder/contract';
import { asset, liveBin } from '../../../test/assets';
import { LibraryServer } from '../../../test/library';
import { Refusal, Screen, until } from '../../../test/screen';

const SOUND = { codec: 'pcm_s16le', channels: 2, layout: 'stereo', sampleRate: 48_000 };
const WAYS: Readonly<Record<string, readonly number[]>> = { hole: [15, 24, 20], whole: [15, 24, 20] };
const pronouncer: Pronouncer = {
  ways: (word) => (WAYS[word] ? [Uint8Array.from(WAYS[word])] : []),
  isHeard: () => true,
};
/** A word each second. */
const SAID = ['the bell and the hole in the gate', 'a whole bell and a bell'];

let server: LibraryServer;
let index: SpokenIndex;
const scrolled = jest.fn();

function answer(asked: Partial<SpokenAsked>): SpokenAnswer {
  const question = {
    items: readSpoken(asked.said ?? ''),
    how: asked.how ?? 'all',
    withinMs: (asked.withinS ?? 10) * 1000,
  };
  const found = index.find(question, asked.notch ?? 0, null);
  return {
    ...{ revision: 1, offset: 0, notches: found.notches, searched: index.size },
    items: question.items.flatMap(({ ways, without }) =>
      ways.map((way) => ({ text: wayText(way), without, sounds: '' })),
    ),
    files: spokenWindow(index, found, { sort: asked.sort ?? 'best', offset: 0, limit: asked.limit ?? 20 }).map(
      ({ id, hits, ...file }) => ({
        ...{ asset: server.assets.get(id) ?? asset(id), ...file },
        hits: hits.map((hit) => ({ ...hit, dismissed: false })),
      }),
    ),
  };
}

beforeEach(() => {
  // Not there in jsdom.
  Element.prototype.scrollIntoView = scrolled;
  sessionStorage.clear();
  localStorage.clear();
  index = new SpokenIndex(pronouncer);
  SAID.forEach((text, at) => {
    const words = text
      .split(' ')
      .map((word, n) => ({ text: word, startMs: n * 1000, endMs: n * 1000 + 800, certainty: null }));
    index.upsert([{ id: at + 1, wholeId: 0, spoken: { words, speakers: [] } }]);
  });
  const about = {
    renditions: ['proxy' as const],
    startFrame: 0,
    durationFrames: 250,
    durationMs: 10_000,
    sound: SOUND,
  };
  server = new LibraryServer([asset(1, { name: 'wren.mov', ...about }), asset(2, { name: 'osk.mov', ...about })]);
  server.on('spoken', answer);
  server.on('dismissHit', () => null);
  server.on('first', () => null);
  server.on('transcript', () => ({ sources: [], shown: null }));
});

const view = 'nl-dialogue';
const open = (address = '/dialogue?said=bell', who: 'editor' | 'viewer' = 'editor') =>
  Screen.open(address, server, who);
const hits = (screen: Screen) =>
  screen.all(`${view} .hit`).map(({ textContent }) => textContent?.replace(/\s+/g, ' ').trim());
const active = (screen: Screen) =>
  screen.all(`${view} .hit.active`).map(({ textContent }) => textContent?.trim().slice(0, 11));
const msPlayed = (screen: Screen) =>
  Math.round((screen.all<HTMLVideoElement>('nl-player video')[0]?.currentTime ?? -1) * 1000);

describe('the dialogue section', () => {
  it('says how many speak, and listens while one types', async () => {
    const screen = await open('/dialogue');
    await screen.says(view, '2 files have a transcript');
    await screen.type(`${view} [aria-label="What was said"]`, 'gate');
    await screen.says(`${view} .said`, '1 hit in 1 file');
    expect(screen.address).toBe('/dialogue?said=gate');
    expect(hits(screen)).toEqual(['00:00:07:00 100% the bell and the hole in the gate']);
    await screen.type(`${view} [aria-label="What was said"]`, 'weir');
    await screen.says(view, 'Nobody says it');
  });

  it('shows what loosening brings, and loosens', async () => {
    const screen = await open('/dialogue?said=hole');
    await screen.says(`${view} .said`, '1 hit in 1 file');
    const counts = () => screen.all(`${view} nl-strictness .n`).map(({ textContent }) => textContent);
    expect(counts()).toEqual(['1', '1', '1', '1', '2']);
    await screen.click(`${view} nl-strictness button`, 'Sounds like');
    await screen.says(`${view} .said`, '2 hits in 2 files');
    await until(
      'the other',
      () =>
        screen
          .all(`${view} mark.alike`)
          .map(({ textContent }) => textContent)
          .join() === 'whole',
    );
    expect(screen.address).toBe('/dialogue?said=hole&notch=4');
    // By arrows too, of which the player hears nothing; the one that is chosen is come to by Tab.
    const arrow = (key: string) =>
      screen
        .one('nl-strictness [aria-checked="true"]', '')
        .dispatchEvent(new KeyboardEvent('keydown', { key, bubbles: true, cancelable: true }));
    arrow('ArrowLeft');
    await until('a notch stricter', () => screen.address === '/dialogue?said=hole&notch=3');
    expect(document.activeElement?.textContent).toContain('Perhaps');
    arrow('ArrowRight');
    await until('a notch looser', () => screen.address === '/dialogue?said=hole&notch=4');
    const stops = screen.all('nl-strictness [role="radio"]').map((each) => each.getAttribute('tabindex'));
    expect(stops).toEqual(['-1', '-1', '-1', '-1', '0']);
  });

  it('is gone through by keys, a little before each hit and playing', async () => {
    const screen = await open();
    await screen.says(`${view} .said`, '3 hits in 2 files');
    await screen.press(']');
    await until('the player', () => screen.all('nl-player video').length === 1);
    // Two hits are before one; the first of them is a second and a half into it.
    expect(active(screen)).toEqual(['00:00:02:00']);
    await until('it there', () => msPlayed(screen) >= 480 && msPlayed(screen) < 560);
    await screen.press(']');
    expect(active(screen)).toEqual(['00:00:05:00']);
    await screen.press(']');
    expect(active(screen)).toEqual(['00:00:01:00']);
    await until('the other file', () => screen.text('nl-details h2').includes('wren.mov'));
    await screen.press('[');
    expect(active(screen)).toEqual(['00:00:05:00']);
  });

  it('keeps a hit as a marker, and dismisses one until it is wanted again', async () => {
    const screen = await open();
    await screen.says(`${view} .said`, '3 hits');
    await screen.press(']');
    await screen.press('Shift+k');
    await until('the marker', () => server.markers.length === 1);
    await screen.says('nl-toasts', 'Kept as a marker in “osk.mov”.');
    expect(server.markers[0]).toMatchObject({
      ...{ kind: 'hit', start: 50, end: 71, name: 'bell', note: '100% likely, as spelled' },
    });
    await screen.press('Shift+d');
    await screen.says(`${view} .said`, 'Show 1 dismissed');
    expect(server.bodies('dismissHit')).toEqual([{ said: 'bell', assetId: 2, startMs: 2000, dismissed: true }]);
    expect(active(screen)).toEqual(['00:00:05:00']);
    expect(hits(screen)).toHaveLength(2);
    await screen.click(`${view} button`, 'Show 1 dismissed');
    expect(hits(screen)).toHaveLength(3);
    await screen.click(`${view} .hit.dismissed`);
    await screen.press('Shift+d');
    await until('it back', () => screen.all(`${view} .hit.dismissed`).length === 0);
  });

  it('asks for all, any or what is close together, in the order that is wanted', async () => {
    const screen = await open('/dialogue?said=bell%20gate');
    await screen.says(`${view} .said`, '2 hits in 1 file');
    await screen.choose(`${view} [aria-label="How it goes together"]`, 'any');
    await screen.says(`${view} .said`, '4 hits in 2 files');
    await screen.choose(`${view} [aria-label="How it goes together"]`, 'near');
    await screen.says(`${view} .said`, '2 hits in 1 file');
    const seconds = () => screen.all<HTMLInputElement>(`${view} .near input`)[0] as HTMLInputElement;
    seconds().value = '9000';
    seconds().dispatchEvent(new Event('change'));
    await until('as much as may be', () => server.bodies('spoken').at(-1)?.withinS === 3600);
    expect(seconds().value).toBe('3600');
    seconds().value = '10';
    seconds().dispatchEvent(new Event('change'));
    await until('it back', () => server.bodies('spoken').at(-1)?.withinS === 10);
    await screen.choose(`${view} [aria-label="Order of the files"]`, 'most');
    await until('it asked', () => server.bodies('spoken').at(-1)?.sort === 'most');
    expect(server.bodies('spoken').at(-1)).toMatchObject({ how: 'near', withinS: 10 });
  });

  it('makes a string-out of what is listed, with as much around each hit as is wanted', async () => {
    const project = {
      id: 5,
      name: 'Slow Water',
      description: null,
      counting: '25' as const,
      by: 'Wren',
      createdMs: 0,
      stringOuts: [],
      broken: 0,
    };
    server.on('projects', () => ({ projects: [project] }));
    server.on('newStringOut', () => new Refusal(422, { code: 'refused', reason: 'Nothing to cut.' }));
    const screen = await open();
    await screen.click(`${view} button`, 'String-out …');
    await screen.says('.modal', 'Make a string-out of 3 hits');
    await screen.type('#pull-handles', '2');
    await screen.click('.modal button', 'Make it');
    await screen.says('.modal [role="alert"]', 'Nothing to cut.');
    expect(server.bodies('newStringOut')).toEqual([
      {
        ...{ name: 'Said: bell', projectId: 5, handlesMs: 2000 },
        parts: [
          { assetId: 2, startMs: 2000, endMs: 2800 },
          { assetId: 2, startMs: 5000, endMs: 5800 },
          { assetId: 1, startMs: 1000, endMs: 1800 },
        ],
      },
    ]);
    await screen.click('.modal button', 'Cancel');
  });

  it('is narrowed by the search line, which says what is wrong with it', async () => {
    const screen = await open();
    await screen.says(`${view} .said`, '3 hits');
    await screen.type('nl-search-line input', 'tag:dawn');
    await until('it asked', () => server.bodies('spoken').at(-1)?.query === 'tag:dawn');
    expect(screen.address).toBe('/dialogue?said=bell&q=tag:dawn');
    await screen.says(view, 'Only in what the search line finds');
    await screen.type('nl-search-line input', 'tag:');
    await screen.says(`${view} [role="alert"]`, 'It narrows nothing yet');
    await until('all asked', () => server.bodies('spoken').at(-1)?.query === '');
    await screen.type('nl-search-line input', 'tag:dawn');
    await screen.click(`${view} button`, 'In all files');
    await until('all', () => server.bodies('spoken').at(-1)?.query === '');
  });

  it('says what went wrong, and asks again; who may only look keeps nothing', async () => {
    server.on('spoken', () => new Refusal(503, { code: 'refused', reason: 'Not now.' }));
    const screen = await open('/dialogue?said=bell', 'viewer');
    await screen.says(`${view} [role="alert"]`, 'Not now.');
    server.on('spoken', answer);
    await screen.click(`${view} button`, 'Try again');
    await screen.says(`${view} .said`, '3 hits');
    expect(screen.text(`${view} .said`)).not.toContain('in a bin …');
    await screen.press(']');
    await screen.press('Shift+k');
    expect(server.markers).toEqual([]);
  });

  it('keeps all hits that are listed, as markers or as subclips, at once', async () => {
    server.on('newMarkers', () => server.written());
    server.on('newSubclips', () => server.written());
    const screen = await open();
    await screen.says(`${view} .said`, '3 hits in 2 files');
    await screen.click(`${view} .said button`, 'Keep');
    await screen.click(`${view} .said button`, 'All hits as markers');
    await screen.says('nl-toasts', '3 hits kept as markers.');
    const note = '100% likely, as spelled';
    const marker = { kind: 'hit', colour: 'none', name: 'bell', note };
    const [markers] = server.bodies('newMarkers');
    expect(markers?.markers).toHaveLength(3);
    // 25 frames a second, and what the word lasts.
    expect(markers?.markers).toEqual(
      expect.arrayContaining([
        { ...marker, assetId: 1, start: 25, end: 46 },
        { ...marker, assetId: 2, start: 50, end: 71 },
      ]),
    );
    // What is dismissed is not kept.
    await screen.press(']');
    await until('the first', () => active(screen).length === 1);
    await screen.press('Shift+d');
    await until('it dismissed', () => server.bodies('dismissHit').length === 1);
    await screen.says(`${view} .said`, '1 dismissed');
    await screen.click(`${view} .said button`, 'Keep');
    await screen.click(`${view} .said button`, 'All hits as subclips');
    await screen.says('nl-toasts', '2 subclips made of hits.');
    const [subclips] = server.bodies('newSubclips');
    expect(subclips?.subclips).toHaveLength(2);
    // A second around each, within the file.
    for (const subclip of subclips?.subclips ?? [])
      expect(subclip).toMatchObject({ name: 'bell', in: expect.any(Number) as number });
    expect(subclips?.subclips.every((each) => each.out - each.in >= 45 && each.out <= 250)).toBe(true);
    server.on('newMarkers', () => new Refusal(422, { code: 'refused', reason: 'Too many.' }));
    await screen.click(`${view} .said button`, 'Keep');
    await screen.click(`${view} .said button`, 'All hits as markers');
    await screen.says('nl-toasts', 'Nothing was kept. Too many.');
  });

  it.each([
    ['/dialogue?said=bell&q=tag:dawn', 'tag:dawn said:"bell"'],
    [
      '/dialogue?said=bell%20%22the%20gat*%22%20-rain&how=near&within=5&notch=4',
      'heard:"bell + the gat*,5s,sounds" -said:"rain"',
    ],
    ['/dialogue?said=bell%20gate&how=any&notch=2', 'heard:bell or heard:gate'],
  ])('is kept as a live bin, as strict as it is and with what else holds of the files: %s', async (address, query) => {
    server.on('newLiveBin', (asked) => liveBin(9, asked.name, asked.query, 2));
    server.on('search', () => ({ total: 2, found: 2, offset: 0, revision: 1, assets: [], groups: null, lifted: null }));
    const screen = await open(address);
    await screen.click(`${view} button`, 'as a live bin …');
    await until('the dialog', () => screen.all('#live-bin-query').length === 1);
    expect(screen.one<HTMLInputElement>('#live-bin-query').value).toBe(query);
    await screen.type('#live-bin-name', 'Bells');
    await screen.click('.modal button', 'Save');
    await screen.says('nl-toasts', 'Kept as the live bin “Bells”.');
    expect(server.bodies('newLiveBin')).toMatchObject([{ name: 'Bells', query }]);
  });

  it('has all that was found taken along as a file, or says why not', async () => {
    const saved: string[] = [];
    Object.assign(URL, { createObjectURL: () => 'blob:saved', revokeObjectURL: () => undefined });
    jest.spyOn(HTMLAnchorElement.prototype, 'click').mockImplementation(function (this: HTMLAnchorElement) {
      saved.push(`${this.download} ${this.href}`);
    });
    server.on('takeHits', ({ format }) => ({ name: `Said_ bell.${format}`, type: 'text/plain', text: 'TITLE: bell' }));
    const screen = await open('/dialogue?said=bell&notch=2');
    await screen.click(`${view} button`, 'Take along');
    await screen.click(`${view} button`, 'All hits as a cut list (EDL)');
    await until('the file', () => saved.length > 0);
    expect(saved).toEqual(['Said_ bell.edl blob:saved']);
    expect(server.bodies('takeHits')).toMatchObject([{ said: 'bell', notch: 2, sort: 'best', format: 'edl' }]);
    server.on('takeHits', () => new Refusal(422, { code: 'refused', reason: 'There is nothing to cut.' }));
    await screen.click(`${view} button`, 'OpenTimelineIO');
    await screen.says('nl-toasts', 'There is nothing to cut.');
    expect(saved).toHaveLength(1);
  });
});
