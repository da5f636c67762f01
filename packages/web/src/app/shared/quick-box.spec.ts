import type { Job } from '@larder/contract';
import { asset, liveBin } from '../../../test/assets';
import { LibraryServer } from '../../../test/library';
import { Screen, until } from '../../../test/screen';
import { quick } from './quick-box';

describe('a quick search', () => {
  it('fits what says all of its words, whatever their case and accents, and anything while it is empty', () => {
    const { text, fits } = quick();
    expect(fits()('Bell foundry', null)).toBe(true);
    text.set('foundry  BÉLL');
    expect([fits()('Bell foundry'), fits()('Bell', 'the foundry'), fits()('Bell')]).toEqual([true, true, false]);
  });
});

const server = () =>
  new LibraryServer([asset(1)])
    .on('bins', () => ({
      bins: ['Day one', 'Day one/Lock', 'Day two'].map((path, at) => ({
        ...{
          id: at + 1,
          parentId: at === 1 ? 1 : null,
          name: path.split('/').at(-1) ?? '',
          path,
          count: 0,
          broken: 0,
          by: null,
        },
      })),
    }))
    .on('liveBins', () => ({
      bins: [liveBin(7, 'Dawns', 'tag:dawn', 3), liveBin(8, 'Weirs', 'tag:weir', 1, { parentId: 3 })],
    }))
    .on('projects', () => ({
      projects: ['Slow Water', 'Bell metal'].map((name, at) => ({
        ...{ id: at + 1, name, description: null, counting: '25' as const, by: 'Maren', createdMs: 0, broken: 0 },
        stringOuts:
          at === 0
            ? []
            : [{ id: 4, projectId: 2, name: 'Rough cut', counting: '25', items: 2, broken: 0, updatedMs: 0 }],
      })),
    }));
const bins = (screen: Screen) => screen.all<HTMLElement>('.bin .cut').map(({ textContent }) => textContent);

/** Types what nothing says, reads so, and shows all again. */
async function sayNothingFits(screen: Screen, within: string): Promise<void> {
  await screen.type('nl-quick-box input', 'nothing such');
  await screen.says(within, 'Nothing here says nothing such');
  await screen.click('nl-nothing-fits button', 'Show all');
  await until('all', () => screen.all('nl-nothing-fits').length === 0);
}

describe('the quick box above a list', () => {
  it('narrows the bins, with what they stand in, and Escape shows all again', async () => {
    const screen = await Screen.open('/bins', server());
    await until('the bins', () => bins(screen).length === 5);
    await screen.type('nl-quick-box input', 'lock');
    await until('one and what it is in', () => bins(screen).join() === 'Day one,Lock');
    await screen.type('nl-quick-box input', 'weir');
    await until('a live bin and what it is in', () => bins(screen).join() === 'Day two,Weirs');
    screen
      .all('nl-quick-box input')[0]
      ?.dispatchEvent(new KeyboardEvent('keydown', { key: 'Escape', bubbles: true, cancelable: true }));
    await until('all', () => bins(screen).length === 5);
    await sayNothingFits(screen, 'nav.list');
    expect(bins(screen)).toHaveLength(5);
  });

  it('narrows projects by what is in them', async () => {
    const screen = await Screen.open('/projects', server());
    await until('both', () => screen.all('.project').length === 2);
    await screen.type('nl-quick-box input', 'rough');
    await until('one', () => screen.text('.project').includes('Bell metal') && screen.all('.project').length === 1);
    await sayNothingFits(screen, '.page');
    await until('both', () => screen.all('.project').length === 2);
  });

  it('narrows jobs by their work and what it is done on', async () => {
    const job = (id: number, kind: Job['kind'], subject: string) =>
      ({
        ...{
          id,
          kind,
          subject,
          state: 'done',
          done: 1,
          total: 1,
          unit: 'files',
          message: null,
          assetId: null,
          storageId: null,
        },
        ...{ worker: null, heartbeatMs: null, createdMs: 0, startedMs: 0, finishedMs: 0, priority: 0, detail: null },
      }) as unknown as Job;
    const screen = await Screen.open(
      '/jobs',
      server().on('jobs', () => ({ jobs: [job(1, 'scan', 'Card A'), job(2, 'verify', 'Shelf')] })),
    );
    await until('both', () => screen.all('[data-job]').length === 2);
    await screen.type('nl-quick-box input', 'fixity');
    await until('one', () => screen.all('[data-job]').length === 1);
    await screen.type('nl-quick-box input', 'card scan');
    await until('the other', () => screen.text('[data-job]').includes('Card A'));
    await sayNothingFits(screen, '.page');
    await until('both', () => screen.all('[data-job]').length === 2);
  });

  it('narrows the storages', async () => {
    const storages = ['Shelf', 'Card A'].map((name, at) => ({
      ...{ id: at + 1, name, kind: 'local' as const, rootPath: `/media/${name}`, state: 'online' as const },
      ...{ volume: null, managed: false, verifyDays: null, stateSinceMs: 0, lastScanMs: null, job: null, watches: [] },
      counts: { online: 1, offline: 0, missing: 0, changed: 0 },
    }));
    const screen = await Screen.open(
      '/storage',
      server().on('storages', () => ({ storages }) as never),
    );
    await until('both', () => screen.text('.page').includes('Card A') && screen.text('.page').includes('Shelf'));
    await screen.type('nl-quick-box input', 'media card');
    await until('one', () => !screen.text('.page').includes('/media/Shelf'));
    expect(screen.text('.page')).toContain('Card A');
    await sayNothingFits(screen, '.page');
    expect(screen.all('.shelf')).toHaveLength(2);
  });

  it('of the page on searching says so too', async () => {
    const screen = await Screen.open('/how-to-search', server());
    await screen.says('.page', 'What to write');
    await sayNothingFits(screen, '.page');
    await screen.says('.page', 'What to write');
  });
});
