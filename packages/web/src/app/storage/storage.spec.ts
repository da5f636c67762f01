import { job, storage } from '../../../test/things';
import { FakeServer, Refusal, Screen, until } from '../../../test/screen';
import { liveActions } from '../shared/live.actions';
import type { Storage } from '@larder/contract';

async function open(shelves: readonly Storage[], role: 'manager' | 'editor' = 'manager') {
  const all = [...shelves];
  const server = new FakeServer()
    .on('storages', () => ({ storages: [...all] }))
    .on('scan', (_body, id) => ({ job: job(5, { storageId: id, state: 'queued' }) }))
    .on('cancelJob', (_body, id) => ({ job: job(id, { state: 'cancelled' }) }))
    .on('newStorage', ({ name, rootPath }) => {
      const made = storage(9, { name, rootPath, counts: { online: 0, offline: 0, missing: 0, changed: 0 } });
      all.push(made);
      return made;
    });
  const screen = await Screen.open('/storage', server, role);
  await until('the answer', () => server.asked.some(({ name }) => name === 'storages'));
  await screen.harness.fixture.whenStable();
  return { screen, server, all };
}

describe('the shelves', () => {
  it('with none yet, says what one is', async () => {
    const { screen } = await open([]);
    await screen.says('main', 'No storage yet');
    expect(screen.text('main')).toContain('alters nothing');
  });

  it('say how many of their assets stand how, each a way to them', async () => {
    const { screen } = await open([
      storage(1, { counts: { online: 12, offline: 0, missing: 3, changed: 1 }, lastScan: job(3, { done: 16 }) }),
      storage(2, { state: 'offline', counts: { online: 0, offline: 2, missing: 0, changed: 0 } }),
    ]);
    await screen.says('[data-storage="Shelf 1"]', '12 online');
    const links = screen
      .all<HTMLAnchorElement>('[data-storage="Shelf 1"] li a')
      .map((link) => link.getAttribute('href'));
    expect(links.map((link) => decodeURIComponent(link ?? ''))).toEqual([
      '/library?q=storage:"Shelf 1" is:online',
      '/library?q=storage:"Shelf 1" is:missing',
      '/library?q=storage:"Shelf 1" is:changed',
    ]);
    expect(screen.text('[data-storage="Shelf 1"] [data-test="scan"]')).toContain('16 files');
    expect(screen.text('[data-storage="Shelf 1"] footer')).toContain('Find missing files');
    expect(screen.text('[data-storage="Shelf 2"]')).toContain('2 assets can still be found and logged');
    expect(screen.one<HTMLButtonElement>('[data-storage="Shelf 2"] footer button').disabled).toBe(true);
  });

  it('are added with what is wrong said by the same rules as on the server, and scanned at once', async () => {
    const { screen, server } = await open([]);
    await screen.click('button', 'Add a storage');
    await screen.type('#storage-root', 'cards');
    await screen.click('button', 'Add and scan');
    await screen.says('form [role="alert"]', 'absolute path');
    expect(server.bodies('newStorage')).toEqual([]);
    await screen.type('#storage-name', 'Card reader');
    await screen.type('#storage-root', '/media/cards');
    await screen.click('button', 'Add and scan');
    await screen.says('[data-storage="Card reader"]', '/media/cards');
    await until('the scan', () => server.asked.some(({ name, id }) => name === 'scan' && id === 9));
    expect(screen.all('form')).toEqual([]);
  });

  it('one that the server refuses stays in the form', async () => {
    const { screen, server } = await open([]);
    server.on('newStorage', () => new Refusal(422, { code: 'refused', reason: '/media/x cannot be read.' }));
    await screen.click('button', 'Add a storage');
    await screen.type('#storage-name', 'X');
    await screen.type('#storage-root', '/media/x');
    await screen.click('button', 'Add and scan');
    await screen.says('form [role="alert"]', '/media/x cannot be read.');
    expect(screen.one<HTMLInputElement>('#storage-root').value).toBe('/media/x');
    await screen.click('form button', 'Cancel');
    expect(screen.all('form')).toEqual([]);
  });

  it('follow a scan while it runs, and it can be cancelled', async () => {
    const { screen, server, all } = await open([storage(1)]);
    await screen.says('[data-storage="Shelf 1"] .scan', 'Not scanned');
    await screen.click('footer button', 'Scan');
    const running = job(5, { state: 'running', done: 40, total: 200 });
    all[0] = storage(1, { lastScan: running });
    screen.dispatch(liveActions.jobs({ jobs: [running] }));
    await screen.says('[data-test="scan"]', '40 of 200 files');
    expect(screen.one('[role="progressbar"]').getAttribute('aria-valuenow')).toBe('20');
    await screen.click('footer button', 'Cancel the scan');
    expect(server.asked.at(-1)).toMatchObject({ name: 'cancelJob', id: 5 });
    all[0] = storage(1, { lastScan: job(5, { state: 'cancelled', message: 'by Maren' }) });
    screen.dispatch(liveActions.jobs({ jobs: [] }));
    await screen.says('[data-test="scan"]', 'Scan cancelled: by Maren');
  });

  it('an editor sees them and is offered nothing', async () => {
    const { screen } = await open([storage(1)], 'editor');
    await screen.says('[data-storage="Shelf 1"]', '12 online');
    expect([screen.all('footer').length, screen.text('main').includes('Add a storage')]).toEqual([0, false]);
  });
});
