import { asset, liveBin } from '../../../test/assets';
import { LibraryServer } from '../../../test/library';
import { Refusal, Screen, until } from '../../../test/screen';
import { job } from '../../../test/things';
import { libraryActions } from './state/library.actions';

const many = (count: number) =>
  new LibraryServer(Array.from({ length: count }, (_unused, index) => asset(index + 1, { renditions: [] })));

const open = async (server: LibraryServer, address = '/library') => ({
  server,
  screen: await Screen.open(address, server),
});

describe('searching in the search line', () => {
  it('asks while typing, from the first key on, and the address is the search', async () => {
    const { screen, server } = await open(many(30));
    await screen.says('[data-test="count"]', '30 assets');
    for (const text of ['c', 'cl', 'clip', 'clip1']) await screen.type('#search-line', text);
    await screen.says('[data-test="count"]', '11 assets');
    expect(screen.address).toBe('/library?q=clip1');
    const asked = server.bodies('search').map(({ query }) => query);
    expect(asked[0]).toBe('');
    expect(asked.at(-1)).toBe('clip1');
    expect(asked[1]).toBe('c');
    // No more than once for each key.
    expect(asked.length).toBeLessThanOrEqual(5);
  });

  it('points at the character that is wrong, keeps the last answer, and is right again when mended', async () => {
    const { screen, server } = await open(many(3), '/library?q=clip2');
    await screen.says('[data-test="count"]', '1 asset');
    await screen.type('#search-line', 'clip2 tga:dawn');
    await screen.says('#search-issue', 'Did you mean “tag:”?');
    expect(screen.text('nl-search-line u')).toBe('tga');
    expect(screen.one('#search-line').getAttribute('aria-invalid')).toBe('true');
    expect(screen.text('.body .notice')).toContain('still the answer to your last search');
    expect(screen.all('nl-tile')).toHaveLength(1);
    expect(server.bodies('search').map(({ query }) => query)).toEqual(['clip2']);
    await screen.type('#search-line', 'clip3');
    await screen.says('nl-tile', 'clip3.mov');
    expect(screen.all('#search-issue')).toEqual([]);
  });

  it('says what to do when nothing fits, and leads back to all', async () => {
    const { screen } = await open(many(3), '/library?q=nosuch');
    await screen.says('.nothing', 'Nothing fits this search');
    await screen.click('.nothing button', 'Show the whole library');
    await screen.says('[data-test="count"]', '3 assets');
    expect(screen.one<HTMLInputElement>('#search-line').value).toBe('');
  });

  it('is reached by its key from anywhere, and leads to the library from another section', async () => {
    const server = many(3);
    server.on('jobs', () => ({ jobs: [] }));
    const { screen } = await open(server, '/jobs');
    await screen.press('/');
    expect(document.activeElement?.id).toBe('search-line');
    await screen.type('#search-line', 'clip2');
    await screen.says('nl-tile', 'clip2.mov');
    await screen.press('Escape');
    expect(document.activeElement).toBe(document.body);
    await screen.click('[aria-label="Clear the search"]');
    await screen.says('[data-test="count"]', '3 assets');
  });

  it('keeps a search as a live bin under a name, which then opens', async () => {
    const { screen, server } = await open(many(3), '/library?q=clip2');
    await screen.says('[data-test="count"]', '1 asset');
    const bin = liveBin(7, 'The second', 'clip2', 1);
    server.on('newLiveBin', () => bin);
    server.on('liveBins', () => ({ bins: [bin] }));
    await screen.click('button', 'Keep as live bin');
    expect(screen.one<HTMLInputElement>('#live-bin-name').value).toBe('clip2');
    await screen.type('#live-bin-name', 'The second');
    await screen.click('.modal-content button[type="submit"]');
    await until('the bin', () => screen.address === '/bins/7');
    expect(server.bodies('newLiveBin')).toMatchObject([{ name: 'The second', query: 'clip2', shared: true }]);
    await screen.says('nl-bins .bin', 'The second');
  });
});

describe('the list', () => {
  it('fetches the pages that come into sight, and only those', async () => {
    const { screen, server } = await open(many(1000));
    await screen.says('[data-test="count"]', '1,000 assets');
    screen.dispatch(libraryActions.windowNeeded({ start: 640, end: 720 }));
    await until('two more pages', () => server.bodies('search').length === 3);
    expect(server.bodies('search').map(({ offset }) => offset)).toEqual([0, 600, 700]);
    screen.dispatch(libraryActions.windowNeeded({ start: 650, end: 700 }));
    await screen.harness.fixture.whenStable();
    expect(server.bodies('search')).toHaveLength(3);
  });

  it('is asked for again in another order, by the order chosen', async () => {
    const { screen, server } = await open(many(5));
    await screen.says('[data-test="count"]', '5 assets');
    await screen.choose('#sort', 'added/down');
    await until('another question', () => server.bodies('search').length === 2);
    expect(server.bodies('search')[1]).toMatchObject({ sort: { field: 'added', descending: true }, offset: 0 });
  });

  it('an order by several fields, as the ledger gives it, is named and asked for again', async () => {
    const { screen, server } = await open(many(5));
    await screen.says('[data-test="count"]', '5 assets');
    const sort = { field: 'reel', descending: true, then: [{ field: 'take', descending: false }] } as const;
    screen.dispatch(libraryActions.sortChanged({ sort }));
    await until('another question', () => server.bodies('search').length === 2);
    expect(server.bodies('search')[1]).toMatchObject({ sort });
    await screen.says('#sort', 'Reel, falling, then Take');
    await screen.choose('#sort', 'verdict/up');
    await until('a third', () => server.bodies('search').length === 3);
    await screen.choose('#sort', 'name/up');
    await until('it gone', () => !screen.text('#sort').includes('falling'));
  });

  it('follows what others change, with at least the revision that was told', async () => {
    const { screen, server } = await open(many(2));
    await screen.says('nl-tile', 'clip1.mov');
    server.colleague(1, { title: 'Seen by Tobin' });
    screen.changed('asset', 1, 42);
    await screen.says('nl-tile', 'Seen by Tobin');
    expect(server.bodies('search').at(-1)?.atLeast).toBe(42);
  });

  it('keeps what it shows when the server goes away, says so, and asks again on demand', async () => {
    const { screen, server } = await open(many(2));
    await screen.says('nl-tile', 'clip1.mov');
    server.down = true;
    screen.changed('asset', 1, 3);
    await screen.says('.notice', 'The server does not answer.');
    expect(screen.all('nl-tile')).toHaveLength(2);
    server.down = false;
    await screen.click('.notice button', 'Try again');
    await until('no complaint', () => screen.all('.notice').length === 0);
  });

  it('an error of the server is worded', async () => {
    const server = many(1).on('search', () => new Refusal(500, { code: 'internal', reference: 'r-3' }));
    const { screen } = await open(server);
    await screen.says('.notice', 'Something went wrong on the server (reference r-3).');
  });

  it('says of an empty library how to fill it', async () => {
    const { screen } = await open(many(0));
    await screen.says('.nothing', 'The library is empty');
  });

  it('a range that reaches beyond what is at hand is asked for', async () => {
    const { screen, server } = await open(many(450));
    await screen.click('nl-tile', 'clip1.mov');
    screen.dispatch(libraryActions.select({ index: 430, mode: 'range' }));
    await screen.says('[data-test="count"]', '431 selected');
    expect(server.bodies('searchIds')[0]).toMatchObject({ offset: 0, limit: 431 });
    // The details need the rows that were never on the screen.
    await until('the rows', () => server.bodies('rows').some(({ ids }) => ids.includes(431)));
  });

  it('moves with the arrows, by rows too, and takes the selection along', async () => {
    const { screen } = await open(many(30));
    await screen.click('nl-tile', 'clip1.mov');
    const selected = () => screen.all('nl-tile.selected').map((tile) => /clip\d+/.exec(tile.textContent ?? '')?.[0]);
    await screen.press('ArrowRight');
    expect(selected()).toEqual(['clip2']);
    await screen.press('ArrowDown');
    const below = Number(selected()[0]?.slice(4));
    expect(below).toBeGreaterThan(3);
    await screen.press('ArrowUp');
    expect(selected()).toEqual(['clip2']);
    await screen.press('ArrowRight', { shiftKey: true });
    // Shift and an arrow step a frame while a player is there; the selection stays.
    expect(selected()).toEqual(['clip2']);
    await screen.press('ArrowLeft');
    await screen.press('ArrowLeft');
    expect(selected()).toEqual(['clip1']);
  });
});

describe('the pull list', () => {
  it('takes what is selected once each, says how long and large it is, and keeps it on the server', async () => {
    const { screen, server } = await open(many(3));
    await screen.press('a', { ctrlKey: true });
    await screen.says('[data-test="count"]', '3 selected');
    await screen.press('p');
    await screen.press('p');
    await screen.says('[data-test="pull-count"]', '3 assets, 0:12, 3.0 kB');
    expect(server.pulled).toEqual([1, 2, 3]);
    await screen.click('nl-tray button', 'Pull list');
    await screen.click('nl-tray [aria-label="Take clip2.mov out of the pull list"]');
    await screen.says('[data-test="pull-count"]', '2 assets');
    await screen.click('nl-tray button', 'Empty it');
    await screen.says('[data-test="pull-count"]', 'empty');
    await until('the server to know', () => server.pulled.length === 0);
  });

  it('is there on the next visit, and names what is not online', async () => {
    const server = many(3);
    server.pulled = [1, 3];
    server.colleague(3, { state: 'missing' });
    const { screen } = await open(server);
    screen.dispatch({ type: '[Server] Connected', revision: 2 } as never);
    await screen.says('[data-test="pull-count"]', '2 assets');
    await screen.says('nl-tray .trouble', '1 not online');
  });

  it('becomes a string-out of a new project, with the names asked for', async () => {
    const server = many(2);
    server.pulled = [1, 2];
    server.on('projects', () => ({ projects: [] }));
    server.on('newProject', ({ name, counting }) => ({
      id: 5,
      name,
      counting,
      description: null,
      by: null,
      createdMs: 0,
      stringOuts: [],
      broken: 0,
    }));
    const made = {
      id: 6,
      projectId: 5,
      name: 'Cut',
      counting: '25',
      startFrame: 0,
      version: 1,
      items: [],
      markers: [],
    };
    server.on('newStringOut', () => made);
    server.on('stringOut', () => made);
    const { screen } = await open(server);
    screen.dispatch({ type: '[Server] Connected', revision: 2 } as never);
    await screen.click('nl-tray button', 'Make a string-out');
    await screen.click('.modal-content button', 'Make it');
    expect(screen.text('.modal-content [role="alert"]')).toBe('The string-out needs a name.');
    await screen.type('#pull-name', 'Cut');
    await screen.click('.modal-content button', 'Make it');
    expect(screen.text('.modal-content [role="alert"]')).toBe('The project needs a name.');
    await screen.type('#pull-new', 'Episode');
    await screen.click('.modal-content button', 'Make it');
    await until('the string-out', () => screen.address === '/string-outs/6');
    expect(server.bodies('newProject')).toEqual([{ name: 'Episode', description: null, counting: '25' }]);
    expect(server.bodies('newStringOut')).toEqual([{ name: 'Cut', projectId: 5, assetIds: [1, 2] }]);
  });
});

describe('XMP sidecars of a list', () => {
  it('are written by a job, and read by their names; what is left out is told', async () => {
    const { screen, server } = await open(many(3));
    server.on('writeSidecars', () => ({ job: job(31, { kind: 'sidecars', state: 'done' }) }));
    server.on('jobs', () => ({ jobs: [job(31, { kind: 'sidecars', state: 'done', subject: '3 assets' })] }));
    await screen.click('nl-table-menu [aria-label="Take along or read in"]');
    const choose = () => screen.chooseFile('nl-list-sidecars input', 'lock.mov.xmp', '<packet/>');
    let left = 0;
    server.on('readSidecars', () => ({
      ...server.written(),
      ...{ read: 1, left, leftTold: [{ path: 'x.xmp', why: 'No asset is called that.' }].slice(0, left) },
    }));
    await choose();
    await screen.says('nl-toasts', '1 sidecar read.');
    left = 2;
    await choose();
    await screen.says('nl-toasts', '1 sidecar read, but not all. x.xmp: No asset is called that. And 1 more.');
    server.on('readSidecars', () => new Refusal(422, { code: 'refused', reason: 'None of them was read.' }));
    await choose();
    await screen.says('nl-toasts', 'None of them was read.');
    expect(server.bodies('readSidecars')[0]).toEqual({ files: [{ path: 'lock.mov.xmp', text: '<packet/>' }] });
    await screen.press('z', { ctrlKey: true });
    await until('the undo', () => server.bodies('undo').length === 1);
    await screen.click('nl-list-sidecars button', 'Write an XMP sidecar of each');
    await until('the jobs', () => screen.address === '/jobs');
    expect(server.bodies('writeSidecars')).toEqual([{ query: '', assetIds: null }]);
    await screen.says('nl-jobs', 'Take them along');
    expect(screen.one<HTMLAnchorElement>('nl-jobs a[download]').getAttribute('href')).toBe('/files/exports/31.zip');
  });
});
