import type { FolderScan, Inspection, ShelfAnswer, ShelfFolder } from '@larder/contract';
import { countShelf, type ShelfRow, type ShelfState } from '@larder/core/shelf';
import { job, storage } from '../../../test/things';
import { FakeServer, Refusal, Screen, until } from '../../../test/screen';
import { liveActions } from '../shared/live.actions';
import { wordScan } from './shelf';
import { pathsTo } from './shelf.state';

const scan = (changes: Partial<FolderScan> = {}): FolderScan => ({
  state: 'not-scanned',
  jobId: null,
  done: 0,
  total: null,
  atMs: null,
  by: null,
  message: null,
  ...changes,
});
const row = (path: string, state: ShelfState, changes: Partial<ShelfRow> = {}): ShelfRow => ({
  path,
  name: path.slice(path.lastIndexOf('/') + 1),
  bytes: 1500,
  modifiedMs: 0,
  files: 1,
  sidecars: [],
  state,
  assetId: state === 'new' ? null : 7,
  ...changes,
});

const inspection = (path: string): Inspection => ({
  path,
  name: path.slice(path.lastIndexOf('/') + 1),
  kind: 'video',
  files: 1,
  bytes: 1500,
  modifiedMs: 0,
  rate: { num: 25, den: 1, dropFrame: false },
  durationFrames: 100,
  durationMs: 4000,
  startFrame: 90_000,
  width: 63,
  height: 35,
  channels: 2,
  gaps: [],
  sheets: [{ title: 'Picture', rows: [{ label: 'Codec', value: 'FFV1' }] }],
  unusual: [{ code: 'odd-size', width: 63, height: 35 }],
  reason: null,
});

/** A server with a card of a few folders, which lists them as the real one does. */
class CardServer extends FakeServer {
  rows: ShelfRow[] = [
    row('day one/a.mov', 'new', { sidecars: ['a.xmp'] }),
    row('day one/b.mov', 'online'),
    row('day one/cut/c.mov', 'missing'),
    row('day two/d.mov', 'changed'),
    row('shot_[001-240].png', 'new', { files: 240 }),
  ];
  scans: Record<string, FolderScan> = {};
  mounted = true;

  constructor() {
    super();
    this.on('storages', () => ({
      storages: [
        storage(4, { name: 'Card', rootPath: '/media/card' }),
        storage(5, { name: 'Store', rootPath: '/media/store', managed: true }),
      ],
    }));
    this.on('browse', ({ path = '', flat = false, only = [], offset = 0, limit = 200 }): ShelfAnswer => {
      const inside = path === '' ? this.rows : this.rows.filter((each) => each.path.startsWith(`${path}/`));
      const rest = (each: ShelfRow) => each.path.slice(path === '' ? 0 : path.length + 1);
      const direct = flat ? inside : inside.filter((each) => !rest(each).includes('/'));
      const shown = only.length > 0 ? direct.filter(({ state }) => (only as ShelfState[]).includes(state)) : direct;
      const names = [
        ...new Set(inside.flatMap((each) => (rest(each).includes('/') ? [rest(each).split('/')[0] ?? ''] : []))),
      ];
      return {
        path,
        mounted: this.mounted,
        scan: this.scans[path] ?? scan(),
        folders: flat ? [] : names.map((name) => this.folder([path, name].filter(Boolean).join('/'), name)),
        counts: countShelf(direct),
        total: shown.length,
        offset,
        rows: shown.slice(offset, offset + limit),
        others: path === 'day one' ? 2 : 0,
        unnameable: 0,
      };
    });
    this.on('inspect', ({ path }) => inspection(path));
    this.on('listen', () => ({
      peaksDb: [-12, null],
      seconds: 4,
      unusual: [{ code: 'silent-channels', channels: [2], of: 2 }],
    }));
    this.on('presets', () => ({ presets: [] }));
    this.on('bins', () => ({ bins: [] }));
    this.on('twins', () => ({
      twins: [{ path: 'day one/a.mov', sign: 'same-ends', assetId: 9, assetName: 'a.mov', at: 'Store/a.mov' }],
      looked: 2,
      total: 2,
    }));
    this.on('ingest', () => ({ job: job(11, { kind: 'ingest', state: 'queued' }) }));
    this.on('scan', ({ folders = [] }) => ({
      job: job(9, { subject: `Card/${folders[0]?.path ?? ''}`, state: 'queued' }),
    }));
  }

  private folder(path: string, name: string): ShelfFolder {
    return {
      path,
      name,
      counts: countShelf(this.rows.filter((each) => each.path.startsWith(`${path}/`))),
      scan: this.scans[path] ?? scan(),
    };
  }
}

async function open(address = '/storage/4', role: 'manager' | 'viewer' = 'manager') {
  const server = new CardServer();
  const screen = await Screen.open(address, server, role);
  await until('the folder', () => screen.all('.bar').length > 0);
  await screen.harness.fixture.whenStable();
  return { server, screen };
}

const tree = (screen: Screen) =>
  screen.all('cdk-tree-node').map((line) => (line.textContent ?? '').replace(/\s+/g, ' ').trim());
const listed = (screen: Screen) =>
  screen.all('.row-line').map((line) => (line.textContent ?? '').replace(/\s+/g, ' ').trim());

describe('looking into a storage', () => {
  it('shows its folders with what asks for somebody, and what lies in it', async () => {
    const { screen } = await open();
    expect(screen.text('h1')).toBe('Card');
    expect(tree(screen)).toEqual(['day one 1 new, 1 missing', 'day two 1 changed']);
    expect(listed(screen)).toEqual([expect.stringMatching(/^New ?shot_\[001-240\]\.png ?240 files ?1\.5 kB/)]);
    expect(screen.text('[data-test="folder-scan"]')).toBe('Not scanned');
  });

  it('a folder is opened by its name, by its address, and by a path that is typed or pasted whole', async () => {
    const { screen } = await open();
    await screen.click('cdk-tree-node .name', 'day one');
    await until('its files', () => listed(screen).length === 2);
    expect(decodeURIComponent(screen.address)).toContain('path=day one');
    expect(listed(screen)[0]).toMatch(/^New ?a\.mov ?\+ 1 sidecar/);
    expect(screen.text('.bar')).toContain('2 other files');
    const field = await screen.type('#shelf-path', '/media/card/day two/');
    field.closest('form')?.dispatchEvent(new Event('submit', { cancelable: true }));
    await until('the other', () => listed(screen).some((line) => line.includes('d.mov')));
    expect(decodeURIComponent(screen.address)).toContain('path=day two');
  });

  it('a folder deep down is found unfolded in the tree', async () => {
    const { screen } = await open('/storage/4?path=day%20one%2Fcut');
    await until('the tree', () => tree(screen).length === 3);
    expect(screen.one('cdk-tree-node.active').dataset['folder']).toBe('day one/cut');
    expect(pathsTo('a/b/c')).toEqual(['a', 'a/b', 'a/b/c']);
  });

  it('folders unfold and fold, and are asked for when they do', async () => {
    const { screen, server } = await open();
    await screen.click('[aria-label="Unfold day one"]');
    await until('its folder', () => tree(screen).length === 3);
    expect(tree(screen)[1]).toBe('cut 1 missing');
    await screen.click('[aria-label="Fold day one"]');
    expect(tree(screen)).toHaveLength(2);
    expect(server.bodies('browse').filter(({ path, limit }) => path === 'day one' && limit === 0)).toHaveLength(1);
  });

  it('the whole tree follows what happens, also above the folder that is open', async () => {
    const { screen, server } = await open('/storage/4?path=day%20one%2Fcut');
    await until('the tree', () => tree(screen).length === 3);
    server.rows = server.rows.map((each) => (each.state === 'new' ? { ...each, state: 'online', assetId: 8 } : each));
    screen.changed('asset', 8, 9);
    await until('the count above', () => tree(screen)[0] === 'day one 1 missing');
  });

  it('all below comes in one list, narrowed by state and widened again', async () => {
    const { screen } = await open();
    await screen.click('.head input[type="checkbox"]');
    screen.one('.head input[type="checkbox"]').dispatchEvent(new Event('change'));
    await until('all of it', () => listed(screen).length === 5);
    expect(listed(screen)[2]).toContain('day one/cut/c.mov');
    await screen.click('.btn-group button', '1 missing');
    await until('the missing', () => listed(screen).length === 1);
    expect(screen.address).toContain('show=missing');
    await screen.click('.btn-group button', '1 missing');
    await until('all again', () => listed(screen).length === 5);
  });

  it('what is catalogued leads to the library, what is new does not', async () => {
    const { screen } = await open('/storage/4?path=day%20one');
    const links = screen
      .all<HTMLAnchorElement>('.row-line a')
      .map((link) => decodeURIComponent(link.getAttribute('href') ?? ''));
    expect(links).toEqual(['/library?q=name:"b.mov" storage:"Card"']);
  });

  it('a folder without files shows its folders with their scans', async () => {
    const { screen, server } = await open();
    server.rows = server.rows.filter((each) => each.path.includes('/'));
    server.scans = {
      'day one': scan({ state: 'scanned', atMs: 0, by: 'Maren' }),
      'day two': scan({ state: 'failed', message: 'It went away.' }),
    };
    screen.changed('asset', 1, 9);
    await until('the table', () => screen.all('.folders tbody tr').length === 2);
    expect(screen.text('.folders tbody')).toMatch(
      /day one.*1.*1.*0.*1.*Scanned.*by Maren.*day two.*Scan failed.*It went away\./,
    );
    await screen.click('.folders a', 'day two');
    await until('its file', () => listed(screen).some((line) => line.includes('d.mov')));
  });

  it('one that is not mounted says so, shows what is known, and cannot be scanned', async () => {
    const { screen, server } = await open();
    server.mounted = false;
    screen.changed('storage', 4, 9);
    await screen.says('.notice', 'Not mounted.');
    expect(listed(screen)[0]).toMatch(/^Offline/);
    expect(screen.text('.bar .btn-group')).not.toContain('online');
    expect(screen.one<HTMLButtonElement>('.bar button', 'Scan this folder').disabled).toBe(true);
  });

  it('things are chosen, by their boxes and by key, and brought in as somebody says', async () => {
    const { screen, server } = await open('/storage/4?path=day%20one');
    await screen.click('[aria-label="Choose a.mov"]');
    screen.one('[aria-label="Choose a.mov"]').dispatchEvent(new Event('change'));
    await screen.says('.bar .btn-primary', 'Bring in 1 thing');
    await screen.press('ArrowDown');
    await screen.press('ArrowDown');
    await until('the second', () => screen.address.includes('b.mov'));
    await screen.press('x');
    await screen.says('.bar .btn-primary', 'Bring in 2 things');
    await screen.click('.bar .btn-primary');
    await screen.says('.modal-content', 'Bring in 2 things');
    await screen.says('.twins', 'The library has one of these already.');
    await screen.click('.modal-content label.option', 'Copy');
    screen.one('.modal-content label.option input', '').dispatchEvent(new Event('change'));
    const copy = screen.all<HTMLInputElement>('.modal-content label.option input')[1] as HTMLInputElement;
    copy.dispatchEvent(new Event('change'));
    await until('the target', () => screen.all('#ingest-target').length === 1);
    const folder = await screen.type('#ingest-folder', '/day one/');
    folder.dispatchEvent(new Event('blur'));
    await screen.click('.modal-content label.check', 'write down what is said');
    await screen.type('#ingest-new-bin', 'Arrived');
    await screen.type('#ingest-naming', '{reel}_{n:2}');
    await screen.says('.modal-body', 'a.mov → REEL_01.mov');
    await screen.choose('[aria-label="What becomes of day one/a.mov"]', 'anyway');
    await screen.click('.modal-footer button[type="submit"]');
    await until('the ingest', () => server.bodies('ingest').length === 1);
    expect(server.bodies('ingest')[0]).toMatchObject({
      paths: ['day one/a.mov', 'day one/b.mov'],
      folders: [],
      settings: {
        ...{ way: 'copy', recognises: true },
        destination: { storageId: 5, folder: 'day one' },
        bin: { id: null, name: 'Arrived', mirror: false },
        naming: '{reel}_{n:2}',
      },
      twins: [{ path: 'day one/a.mov', way: 'anyway' }],
    });
    await screen.says('nl-toasts', 'It is being brought in.');
    expect(screen.text('.bar .btn-primary')).toContain('Bring in this folder');
  });

  it('a pattern that is none is told at once, and nothing is sent with it', async () => {
    const { screen, server } = await open('/storage/4?path=day%20one');
    await screen.click('.bar .btn-primary', 'Bring in this folder');
    await screen.type('#ingest-naming', '{nmae}');
    await screen.says('.invalid-feedback', '{nmae} is nothing that can be put into a name.');
    await screen.click('.modal-footer button[type="submit"]');
    await screen.says('.modal-footer [role="alert"]', '{nmae} is nothing');
    expect(server.bodies('ingest')).toEqual([]);
  });

  it('what is looked at tells what it is and what is unusual, and goes on with the arrows', async () => {
    const { screen } = await open('/storage/4?path=day%20one');
    await screen.click('.row-line .look', 'a.mov');
    await screen.says('nl-judge', 'Its size is odd: 63 × 35.');
    await screen.says('nl-judge', 'Silent: channel 2 of 2.');
    expect(screen.text('nl-judge dl')).toContain('CodecFFV1');
    expect(screen.text('[data-test="shelf-timecode"]')).toBe('01:00:00:00');
    expect(screen.all('nl-channel-meters .channel')).toHaveLength(2);
    await screen.press('ArrowRight', { shiftKey: true });
    await screen.says('[data-test="shelf-timecode"]', '01:00:00:01');
    expect(screen.one<HTMLImageElement>('nl-shelf-player img').getAttribute('src')).toBe(
      '/files/shelf/4/frame?path=day%20one%2Fa.mov&frame=1',
    );
    await screen.press('Escape');
    await until('it to close', () => screen.all('nl-judge').length === 0);
  });

  it('what cannot be looked at says so, and is tried again', async () => {
    const { screen, server } = await open('/storage/4?path=day%20one&look=day%20one%2Fa.mov');
    await screen.says('nl-judge', 'Its size is odd');
    server.on('inspect', () => new Refusal(404, { code: 'not-found', what: 'file' }));
    await screen.press('ArrowDown');
    await screen.says('nl-judge', 'There is no such file any more.');
    server.on('inspect', ({ path }) => inspection(path));
    await screen.click('nl-judge button', 'Try again');
    await screen.says('nl-judge', 'Its size is odd');
  });

  it('a path that is none is refused in words, and the last folder stays', async () => {
    const { screen, server } = await open();
    server.on('browse', () => new Refusal(404, { code: 'not-found', what: 'folder' }));
    const field = await screen.type('#shelf-path', 'nowhere');
    field.closest('form')?.dispatchEvent(new Event('submit', { cancelable: true }));
    await screen.says('.notice', 'There is no such folder any more.');
    expect(listed(screen)).toHaveLength(1);
  });

  it('fetches a long folder window by window', async () => {
    const { screen, server } = await open();
    server.rows = Array.from({ length: 900 }, (_unused, index) => row(`v${String(index).padStart(4, '0')}.mov`, 'new'));
    screen.changed('asset', 1, 9);
    await until('the long list', () => screen.text('.bar').includes('900 new'));
    screen.dispatch({ type: '[Shelf] Window needed', start: 390, end: 420 } as never);
    await until('two windows', () => server.bodies('browse').filter(({ offset }) => (offset ?? 0) > 0).length === 2);
    expect(server.bodies('browse').map(({ offset }) => offset ?? 0)).toEqual(expect.arrayContaining([200, 400]));
  });
});

describe('scanning from there', () => {
  it('the open folder, or those that are ticked, with or without what lies below', async () => {
    const { screen, server } = await open();
    await screen.click('.bar button', 'Scan this folder');
    await screen.says('nl-toasts', 'is being scanned');
    for (const name of ['day one', 'day two']) {
      const box = screen.one<HTMLInputElement>(`[aria-label="Tick ${name}"]`);
      box.checked = true;
      box.dispatchEvent(new Event('change'));
    }
    screen.one('.bar input[type="checkbox"]').dispatchEvent(new Event('change'));
    await screen.click('.bar button', 'Scan 2 ticked folders');
    await until('both scans', () => server.bodies('scan').length === 2);
    expect(server.bodies('scan')).toEqual([
      { folders: [{ path: '', deep: true }] },
      {
        folders: [
          { path: 'day one', deep: false },
          { path: 'day two', deep: false },
        ],
      },
    ]);
    await screen.says('.bar', 'Scan this folder');
  });

  it('is followed while it runs, and resumed when it was interrupted', async () => {
    const { screen, server } = await open();
    server.scans[''] = scan({ state: 'scanning', jobId: 9, done: 40, total: 200 });
    screen.dispatch(liveActions.jobs({ jobs: [job(9)] }));
    await screen.says('[data-test="folder-scan"]', 'Scanning: 40 of 200');
    server.scans[''] = scan({ state: 'interrupted', jobId: 9, atMs: 0 });
    screen.dispatch(liveActions.jobs({ jobs: [job(9)] }));
    await screen.says('[data-test="folder-scan"]', 'Scan interrupted');
    server.on('retryJob', (_body, id) => ({ job: job(id) }));
    await screen.click('.bar button', 'Resume');
    expect(server.asked.some(({ name, id }) => name === 'retryJob' && id === 9)).toBe(true);
  });

  it('a viewer looks and is offered no scan', async () => {
    const { screen } = await open('/storage/4', 'viewer');
    expect(screen.text('.bar')).not.toContain('Scan this');
    expect(screen.all('cdk-tree-node input')).toEqual([]);
  });

  it.each([
    [scan(), 'Not scanned'],
    [scan({ state: 'queued' }), 'Waiting to be scanned'],
    [scan({ state: 'scanning' }), 'Scanning …'],
    [scan({ state: 'failed', message: 'Gone.' }), 'Scan failed : Gone.'],
  ])('%# is worded', (state, words) => expect(wordScan(state)).toBe(words));
});

describe('places kept at hand', () => {
  it('are pinned, found again at the top of the tree, and let go of', async () => {
    const { screen } = await open('/storage/4?path=day%20one');
    await screen.click('[aria-label="Pin this folder"]');
    expect(screen.text('.pinned')).toContain('day one');
    await screen.click('.top');
    await until('the top', () => !screen.address.includes('path='));
    await screen.click('.pinned', 'day one');
    await until('the place', () => screen.address.includes('path='));
    await screen.click('[aria-label="Pin this folder"]');
    expect(screen.all('.pinned')).toEqual([]);
  });
});
