import type { LiveBinWatch } from '@larder/contract';
import { asset, liveBin } from '../../../test/assets';
import { serverWith } from '../../../test/indexed';
import { status } from '../../../test/things';
import { Refusal, Screen, until } from '../../../test/screen';

const library = () => {
  let watch: LiveBinWatch | null = { cameIn: 2, sinceMs: 1_700_000_000_000, upTo: 41 };
  return serverWith([asset(1, { tags: ['dawn'] }), asset(2, { tags: ['dawn'] }), asset(4, { tags: ['dawn'] })])
    .on('liveBins', () => ({ bins: [liveBin(7, 'Dawns', 'tag:dawn', 3, { watch })] }))
    .on('projects', () => ({ projects: [] }))
    .on('cameIn', () => ({ ids: [4, 2] }))
    .on('sawLiveBin', () => {
      watch = { cameIn: 0, sinceMs: 1_700_000_001_000, upTo: 0 };
      return null;
    })
    .on('watchLiveBin', ({ on }) => {
      watch = on ? { cameIn: 0, sinceMs: 1_700_000_002_000, upTo: 0 } : null;
      return null;
    });
};

describe('what came into a live bin', () => {
  it('stands beside its name, is shown as a list, and is gone once it was seen', async () => {
    const server = library();
    const screen = await Screen.open('/bins/7', server);
    await screen.says('.bin .came', '2 new');
    await screen.click('nl-library .btn', '2 assets came in');
    await until('those', () => decodeURIComponent(screen.address) === '/bins/7?within=number:(4 or 2)');
    await until('their tiles', () => screen.all('nl-tile').length === 2);
    await screen.click('nl-library .btn', 'Seen');
    await until('no news', () => screen.all('.bin .came').length === 0);
    expect(server.bodies('sawLiveBin')).toEqual([{ revision: 41 }]);
  });

  it('is told only to whoever wants it, and what is refused is said', async () => {
    const server = library();
    const screen = await Screen.open('/bins/7', server);
    const notices = () => screen.one('nl-library .btn[aria-pressed][title*="ingests"]').getAttribute('aria-pressed');
    await until('on', () => notices() === 'true');
    await screen.click('nl-library .btn', 'Notices');
    await until('off', () => notices() === 'false');
    server.on('watchLiveBin', () => new Refusal(422, { code: 'refused', reason: 'You are told of 20 already.' }));
    await screen.click('nl-library .btn', 'Notices');
    await screen.says('nl-toasts', 'You are told of 20 already.');
    expect(server.bodies('watchLiveBin')).toEqual([{ on: false }, { on: true }]);
  });

  it('stands on the front page, with the way there', async () => {
    const server = library()
      .on('status', () => status({ assets: 3 }))
      .on('loggingPlaces', () => ({ places: [] }));
    const screen = await Screen.open('/', server);
    await screen.says('.matters', '2 assets came into “Dawns”');
    expect(screen.one('.matters a[href="/bins/7"]')).toBeTruthy();
  });
});
