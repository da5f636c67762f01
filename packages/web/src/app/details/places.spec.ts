import type { Asset } from '@larder/contract';
import { asset } from '../../../test/assets';
import { LibraryServer } from '../../../test/library';
import { job } from '../../../test/things';
import { Refusal, Screen, until } from '../../../test/screen';

async function open(
  changes: Partial<Asset>,
  role: 'manager' | 'editor' = 'manager',
  setUp: (server: LibraryServer) => unknown = () => undefined,
) {
  const server = new LibraryServer([asset(1, changes)]);
  server
    .on('first', () => null)
    .on('bins', () => ({ bins: [] }))
    .on('locations', () => ({
      locations: [{ storageId: 3, storage: 'Card', path: 'A001/clip1.mov', state: 'offline' }],
    }))
    .on('fixityOf', () => ({
      checks: [
        { atMs: 2, path: 'Shelf/a/clip1.mov', outcome: 'changed', xxh64: '0000000000000001', by: 'Maren' },
        { atMs: 1, path: 'Shelf/a/clip1.mov', outcome: 'first', xxh64: '0ea03b369a463d9d', by: null },
      ],
    }));
  setUp(server);
  const screen = await Screen.open('/library', server, role);
  await screen.click('nl-tile', 'clip1.mov');
  await screen.says('nl-details', 'clip1.mov');
  return { server, screen };
}

describe('where an asset was', () => {
  const seen = (server: LibraryServer, changes: object = {}) =>
    server.on('lastSeen', () => ({
      ...{
        storageId: 1,
        storage: 'Shelf',
        path: 'day/A001/clip1.mov',
        bytes: 2_500_000,
        modifiedMs: 0,
        addedMs: 0,
        isListed: false,
      },
      ...{ seenMs: Date.parse('2026-05-12T10:00:00Z'), xxh64: '0ea03b369a463d9d' },
      folder: { path: 'day/A001', online: 3, missing: 12, changed: 0 },
      ...changes,
    }));

  it('is said of one that is missing, with how all else in its folder is, and the way to find it', async () => {
    const { screen } = await open({ state: 'missing' }, 'manager', seen);
    await screen.says('nl-last-seen', 'Shelf/day/A001/clip1.mov');
    for (const words of [
      '12 May 2026',
      '2.5 MB',
      '0ea03b369a463d9d',
      'It has been missing since',
      '3 files there, 12 files missing',
    ])
      expect(screen.text('nl-last-seen')).toContain(words);
    expect(screen.one('nl-last-seen a', 'Find it').getAttribute('href')).toBe('/upkeep?of=assets&assets=1');
  });

  it('of one whose storage is away there is nothing to find', async () => {
    const { screen } = await open({ state: 'offline' }, 'manager', (server) =>
      seen(server, { xxh64: null, folder: { path: '', online: 0, missing: 0, changed: 0 } }),
    );
    await screen.says('nl-last-seen', 'Its storage has been away since');
    await screen.says('nl-last-seen', 'In its folder: nothing that is catalogued.');
    expect(screen.all('nl-last-seen a')).toEqual([]);
  });

  it('of a clip that a list names nobody saw anything', async () => {
    const { screen } = await open({ state: 'missing' }, 'manager', (server) => seen(server, { isListed: true }));
    await screen.says('nl-last-seen', 'Never: a cut list names it');
    expect(screen.text('nl-last-seen')).not.toContain('since');
    expect(screen.all('nl-last-seen a')).toHaveLength(1);
  });

  it('is not asked of one that is there', async () => {
    const { server } = await open({});
    expect(server.bodies('lastSeen')).toEqual([]);
  });

  it('that cannot be told is said', async () => {
    const { screen } = await open({ state: 'changed' }, 'editor', (server) =>
      server.on('lastSeen', () => new Refusal(404, { code: 'not-found', what: 'asset' })),
    );
    await screen.says('nl-last-seen', 'cannot be shown just now');
    expect(screen.all('nl-last-seen a')).toEqual([]);
  });
});

describe('where an asset is', () => {
  it('its bins lead to themselves, its other places say how they are, its mezzanine can be had', async () => {
    const { screen } = await open({ bins: ['Day one/A001'], otherLocations: 1, renditions: ['proxy', 'mezzanine'] });
    expect(screen.one('nl-places a', 'Day one/A001').getAttribute('href')).toBe('/bins?in=Day%20one%2FA001');
    await screen.says('nl-places', 'Offline: Card/A001/clip1.mov');
    expect(screen.one('nl-places a', 'Edit-ready copy').getAttribute('href')).toBe('/files/1/mezzanine');
  });

  it('says nothing where there is nothing', async () => {
    const { screen, server } = await open({});
    expect(screen.text('nl-places')).toBe('Fixity');
    expect(server.bodies('locations')).toEqual([]);
  });

  it('every look at its bytes is kept, the newest first', async () => {
    const { screen } = await open({});
    await screen.click('nl-places button', 'Fixity');
    await screen.says('nl-places', '0ea03b369a463d9d');
    const lines = screen.all('nl-places p').map((line) => (line.textContent ?? '').replace(/\s+/g, ' '));
    expect(lines[0]).toMatch(/Maren.*Changed.*0000000000000001/);
    expect(screen.all('nl-places p')[0]?.classList).toContain('bad');
    expect(lines[1]).toMatch(/Hashed for the first time.*0ea03b369a463d9d/);
  });

  it('a manager has them looked at now, and sees what came of it', async () => {
    const { screen, server } = await open({});
    server.on('verify', () => ({ job: job(8, { kind: 'verify', state: 'queued' }) }));
    let asked = 0;
    server.on('jobs', () => ({ jobs: [job(8, { kind: 'verify', state: (asked += 1) > 1 ? 'done' : 'running' })] }));
    await screen.click('nl-places button', 'Fixity');
    await screen.click('nl-places button', 'Check its bytes now');
    await screen.says('nl-toasts', 'Every byte of it is being read.');
    await until('the checks to be asked again', () => server.bodies('fixityOf').length > 1);
    expect(server.bodies('verify')).toEqual([{ assetIds: [1] }]);
    server.on('verify', () => new Refusal(422, { code: 'refused', reason: 'Not now.' }));
    await screen.click('nl-places button', 'Check its bytes now');
    await screen.says('nl-toasts', 'Not now.');
  });

  it('others see the checks and start none', async () => {
    const { screen } = await open({}, 'editor');
    await screen.click('nl-places button', 'Fixity');
    await screen.says('nl-places', 'Hashed for the first time');
    expect(screen.all('nl-places button').map((button) => button.textContent?.trim())).toEqual(['Fixity']);
  });

  it('what it shows of the file includes loudness, gaps and alpha', async () => {
    const { screen } = await open({
      loudness: { integratedLufs: -23, rangeLu: 5, truePeakDb: -1.2 },
      gaps: [
        [1005, 1006],
        [1009, 1009],
      ],
      alpha: 'straight',
    });
    const facts = screen.text('nl-details dl');
    expect(facts).toContain('-23 LUFS, 5 LU, peak -1.2 dBTP');
    expect(facts).toContain('1005–1006, 1009');
    expect(facts).toContain('straight');
  });

  it('what has no proxy yet is asked for first, what has one is not', async () => {
    const { server } = await open({});
    expect(server.bodies('first')).toEqual([{ assetId: 1 }]);
  });
});

describe('fixity of the whole library', () => {
  const upkeep = async (bad: boolean) => {
    const server = new LibraryServer([]);
    server
      .on('storages', () => ({ storages: [] }))
      .on('fixity', () => ({
        checked: 3,
        never: 1200,
        oldestMs: 0,
        bad: bad ? [{ assetId: 4, name: 'torn.mov', outcome: 'missing' as const, atMs: 0 }] : [],
      }));
    const screen = await Screen.open('/upkeep', server);
    await screen.says('nl-fixity', '3 assets looked at byte by byte, 1,200 never.');
    return screen;
  };
  it('names what is not as it was, with a way to it', async () => {
    const screen = await upkeep(true);
    expect(screen.text('nl-fixity')).toContain('Missing');
    expect(screen.one('nl-fixity a', 'torn.mov').getAttribute('href')).toBe('/library?q=name:%22torn.mov%22');
  });
  it('says so where all is well', async () => {
    const screen = await upkeep(false);
    expect(screen.text('nl-fixity')).toContain('All of it was as it should be.');
  });
});
