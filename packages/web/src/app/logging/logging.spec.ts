import type { LoggingPlace, LoggingPlaceAt, TagBook } from '@larder/contract';
import { asset } from '../../../test/assets';
import { LibraryServer } from '../../../test/library';
import { Refusal, Screen, until } from '../../../test/screen';

const BOOK: TagBook = {
  freeTags: true,
  sets: [{ id: 1, name: 'Light', description: '', letter: '', pattern: 'dots' }],
  tags: ['dawn', 'dusk'].map((name, index) => ({
    ...{ id: index + 1, name, uses: 0, setId: 1, letter: '', description: '', synonyms: [] },
  })),
};

let server: LibraryServer;
let places: LoggingPlace[];
beforeEach(() => {
  sessionStorage.clear();
  localStorage.clear();
  places = [];
  server = new LibraryServer(
    [1, 2, 3, 4].map((id) =>
      asset(id, {
        name: `clip${id}.mov`,
        tags: [],
        verdict: null,
        description: null,
        notes: null,
        renditions: ['proxy'],
      }),
    ),
  );
  server
    .on('tags', () => BOOK)
    .on('first', () => null)
    .on('loggingPlaces', () => ({ places }))
    .on('setLoggingPlace', (place: LoggingPlaceAt) => {
      places = [{ ...place, atMs: 1 }];
      return null;
    })
    // Nothing is logged yet; the fake server does not read searches.
    .on('searchIds', ({ query }) => ({
      ids: query?.includes('has:verdict') ? [] : [...server.assets.keys()],
      revision: server.revision,
    }));
});

const open = async (address = '/log', role: 'editor' | 'viewer' = 'editor'): Promise<Screen> => {
  const screen = await Screen.open(address, server, role);
  await until('a clip', () => screen.all('nl-logging nl-player').length > 0);
  return screen;
};
const verdicts = () => [...server.assets.values()].map(({ verdict }) => verdict);

describe('logging mode', () => {
  it('tag, verdict and next take four keys, and it says how far one has come', async () => {
    const screen = await open();
    await screen.says('[data-test=progress]', '0 of 4 logged');
    await screen.says('.right', 'clip1.mov');
    for (const key of ['t', 'd', 'c']) await screen.press(key);
    await screen.says('.right', 'clip2.mov');
    await screen.says('[data-test=progress]', '1 of 4 logged');
    for (const key of ['t', '.', 'n']) await screen.press(key);
    await screen.says('.right', 'clip3.mov');
    await until('both saved', () => verdicts().join() === 'circled,ng,,');
    expect([1, 2].map((id) => server.assets.get(id)?.tags)).toEqual([['dawn'], ['dawn']]);
  });

  it('goes on, back, and to the next that nobody has logged; stays at both ends', async () => {
    const screen = await open();
    await screen.press('ArrowUp');
    await screen.says('.right', 'clip1.mov');
    await screen.press('ArrowDown');
    await screen.says('.right', 'clip2.mov');
    await screen.press('h');
    await screen.press('ArrowUp');
    await screen.press('ArrowUp');
    await screen.says('.right', 'clip1.mov');
    await screen.press('ArrowDown', { shiftKey: true });
    await screen.says('.right', 'clip3.mov');
    await screen.press('ArrowDown');
    await screen.press('ArrowDown');
    await screen.says('.right', 'clip4.mov');
    // None after it.
    await screen.press('ArrowDown', { shiftKey: true });
    await screen.says('.right', 'clip4.mov');
  });

  it('stays where it is after a verdict where somebody wants that, and when one is taken back', async () => {
    const screen = await open();
    await screen.press('c');
    await screen.says('.right', 'clip2.mov');
    await screen.press('ArrowUp');
    await screen.says('.right', 'clip1.mov');
    await screen.press('c');
    await until('it taken back', () => verdicts()[0] === null);
    await screen.says('.right', 'clip1.mov');
    screen.one<HTMLInputElement>('[data-test=auto-advance]').click();
    await screen.press('h');
    await until('the verdict', () => verdicts()[0] === 'hold');
    await screen.says('.right', 'clip1.mov');
  });

  it('begins where one stopped, or at the clip that is selected, and remembers', async () => {
    places = [{ query: '', assetId: 3, done: 2, total: 4, atMs: 1 }];
    const screen = await open();
    await screen.says('.right', 'clip3.mov');
    await screen.press('ArrowDown');
    await until('the place', () => places[0]?.assetId === 4);
    expect(places[0]).toMatchObject({ query: '', total: 4 });
    await screen.press('Escape');
    await until('the list', () => screen.all('nl-tile').length === 4);
    await screen.click('nl-tile[data-id="2"]');
    await screen.click('a', 'Log these');
    await screen.says('.right', 'clip2.mov');
  });

  it('counts what colleagues log, and shows what they changed', async () => {
    const screen = await open();
    // Told one after the other: none of them is forgotten for the next.
    for (const id of [2, 3]) {
      server.colleague(id, { verdict: 'hold' });
      screen.changed('asset', id, server.revision);
    }
    await screen.says('[data-test=progress]', '2 of 4 logged');
    await screen.press('ArrowDown', { shiftKey: true });
    await screen.says('.right', 'clip4.mov');
  });

  it('fields are filled in beside the player', async () => {
    const screen = await open();
    await screen.press('e');
    expect(document.activeElement?.id).toBe('field-title');
    const field = await screen.type('#field-title', 'Gate opens');
    field.blur();
    await until('the title', () => server.assets.get(1)?.title === 'Gate opens');
    await screen.says('.right h2', 'Gate opens');
  });

  it('a tag on a marked stretch is a marker, and the clip is not tagged', async () => {
    const screen = await open();
    await screen.press('i');
    await screen.press('ArrowRight');
    await screen.press('ArrowRight');
    await screen.press('o');
    for (const key of ['t', 'd']) await screen.press(key);
    await until('the marker', () => server.markers.length === 1);
    expect(server.markers[0]).toMatchObject({ kind: 'tag', start: 0, end: 3, name: 'dawn' });
    expect(server.assets.get(1)?.tags).toEqual([]);
  });

  it('says when there is nothing to log, and when the list cannot be had', async () => {
    server.on('searchIds', () => ({ ids: [], revision: 1 }));
    const screen = await Screen.open('/log?q=kind:still', server, 'editor');
    await screen.says('nl-logging', 'Nothing to log here');
    await screen.says('nl-logging', 'kind:still');
    server.on('searchIds', () => new Refusal(500, { code: 'internal', reference: 'x1' }));
    await screen.click('a', 'To the library');
    await screen.type('#search-line', 'boat');
    await until('the search', () => screen.address.includes('boat'));
    await screen.harness.navigateByUrl('/log?q=boat');
    await screen.says('nl-logging', 'The clips cannot be listed');
    server.on('searchIds', () => ({ ids: [2], revision: 1 }));
    await screen.click('button', 'Try again');
    await screen.says('.right', 'clip2.mov');
  });

  it('who may only look walks through it without changing anything', async () => {
    const screen = await open('/log', 'viewer');
    for (const key of ['c', 't', 'd', 'm', 'ArrowDown']) await screen.press(key);
    await screen.says('.right', 'clip2.mov');
    expect(server.bodies('edit')).toHaveLength(0);
    expect(server.markers).toHaveLength(0);
  });
});
