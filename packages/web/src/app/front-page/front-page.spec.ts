import { asset, liveBin } from '../../../test/assets';
import { status } from '../../../test/things';
import { FakeServer, Screen, until } from '../../../test/screen';
import type { LibraryStatus, LoggingPlace } from '@larder/contract';

async function open(now: LibraryStatus, places: readonly LoggingPlace[] = []) {
  let said = now;
  const server = new FakeServer()
    .on('status', () => said)
    .on('rows', ({ ids }) => ({ assets: ids.map((id) => asset(id, { title: `Clip "${id}"` })), revision: 1 }))
    .on('loggingPlaces', () => ({ places }))
    .on('pull', () => ({ assetIds: [] }))
    .on('liveBins', () => ({
      bins: [liveBin(3, 'Dawn', 'tag:dawn', 1234)],
    }));
  const screen = await Screen.open('/', server);
  return { screen, server, becomes: (next: LibraryStatus) => (said = next) };
}

const links = (screen: Screen) =>
  screen
    .all<HTMLAnchorElement>('.matters a')
    .map((link) => [link.textContent?.trim(), decodeURIComponent(link.getAttribute('href') ?? '')]);

describe('the front page', () => {
  it('of an empty library shows the way to fill it', async () => {
    const { screen } = await open(status({ assets: 0 }));
    await screen.says('main', 'The larder is empty');
    expect(screen.one('main a.btn').getAttribute('href')).toBe('/storage');
  });

  it('leads back to where one stopped logging, unless all of it is logged', async () => {
    const place = { query: 'tag:dawn', assetId: 3, done: 212, total: 640, atMs: 1 };
    const { screen } = await open(status(), [place]);
    await until('the matter', () => links(screen).length > 0);
    expect(links(screen)).toEqual([['Go on logging tag:dawn: 212 of 640', '/log?q=tag:dawn']]);
  });

  it('names only what needs a hand, the worst first, each with the way there', async () => {
    const { screen } = await open(
      status({
        byState: { online: 5, offline: 2, missing: 1, changed: 3 },
        jobs: { queued: 4, running: 1, paused: 0, done: 9, failed: 2, cancelled: 0 },
        unreadable: 1,
        untagged: 1200,
      }),
    );
    await until('the matters', () => links(screen).length > 0);
    expect(links(screen)).toEqual([
      ['1 original missing: find and relink', '/upkeep'],
      ['3 files changed since they were catalogued', '/library?q=is:changed'],
      ['2 assets on a storage that is not mounted', '/storage'],
      ['1 file cannot be read', '/library?q=kind:unreadable'],
      ['2 jobs failed', '/jobs'],
      ['5 jobs running or waiting', '/jobs'],
      ['1,200 assets without a tag', '/library?q=no:tag'],
    ]);
  });

  it('is content when all is well, and shows kinds, bins and what came in last', async () => {
    const { screen } = await open(status({ recent: [8, 7], shotDays: [{ day: '2026-05-03', count: 14 }] }));
    await screen.says('.matters', 'Nothing. Everything is where it should be.');
    expect(screen.text('.kinds')).toContain('12 video');
    expect(screen.text('.bins')).toContain('1,234');
    await screen.says('.recent', 'Clip "7"');
    expect(decodeURIComponent(screen.one('.recent a').getAttribute('href') ?? '')).toBe('/library?q=name:"clip8.mov"');
    await screen.click('nl-day-chart button', '2026-05-03: 14');
    expect(decodeURIComponent(screen.address)).toBe('/library?q=shot:2026-05-03');
  });

  it('follows the library', async () => {
    const { screen, becomes } = await open(status());
    await screen.says('.big', '14 assets');
    becomes(status({ assets: 15 }));
    screen.changed('asset', 15, 2);
    await screen.says('.big', '15 assets');
  });

  it('says when the server does not answer', async () => {
    const server = new FakeServer();
    const screen = await Screen.open('/', server);
    await screen.says('[role="alert"]', 'The server does not answer.');
  });
});
