import { plainSettings } from '@larder/core/ingest';
import type { SimulatedVolume, WatchFolder } from '@larder/contract';
import { storage } from '../../../test/things';
import { FakeServer, Refusal, Screen, until } from '../../../test/screen';

const settings = plainSettings();

function server() {
  let watches: WatchFolder[] = [];
  let volumes: SimulatedVolume[] = [
    { name: 'card-a', slot: null },
    { name: 'card-b', slot: 'left' },
  ];
  return new FakeServer()
    .on('storages', () => ({
      storages: [
        storage(1, { name: 'Card', kind: 'removable', volume: 'file:card-one' }),
        storage(2, { name: 'Store', managed: true }),
      ],
    }))
    .on('presets', () => ({ presets: [{ id: 3, name: 'Rushes', settings, by: 'Maren' }] }))
    .on('watches', () => ({ watches }))
    .on('newWatch', (watch) => {
      watches = [{ ...watch, id: 8 }];
      return { id: 8 };
    })
    .on('changeWatch', (watch, id) => {
      watches = [{ ...watch, id }];
      return { id };
    })
    .on('removeWatch', () => {
      watches = [];
      return null;
    })
    .on('volumes', () => ({ volumes, slots: ['left', 'right'] }))
    .on('mountVolume', ({ name, slot = null }) => {
      if (slot === 'left') return new Refusal(422, { code: 'refused', reason: 'There is something in left already.' });
      volumes = volumes.map((volume) => (volume.name === name ? { name, slot } : volume));
      return { volumes };
    })
    .on('jobLimits', () => ({ limits: [{ kind: 'ingest', most: 2 }] }))
    .on('setJobLimits', ({ limits }) => ({ limits }));
}

describe('storages', () => {
  it('say what they are, whether copies may go there, and how full they are', async () => {
    const screen = await Screen.open('/storage', server());
    await screen.says('[data-storage="Card"]', 'Removable volume');
    expect(screen.text('[data-storage="Card"]')).toContain('recognised by its identity');
    expect(screen.text('[data-storage="Store"]')).toContain('Local disk, takes copies');
    expect(screen.text('[data-storage="Store"]')).toContain('500 GB of 2.0 TB free');
    expect(screen.one('[data-storage="Store"] .space span').style.width).toBe('75%');
  });

  it('are changed in place, and a refusal is said there', async () => {
    const fake = server();
    fake.on(
      'changeStorage',
      () => new Refusal(422, { code: 'refused', reason: 'There is already a storage called “Store”.' }),
    );
    const screen = await Screen.open('/storage', fake);
    await screen.click('[aria-label="Settings of Card"]');
    await screen.type('#name-1', 'Store');
    await screen.says('nl-storage-settings', 'Never looked over as a whole.');
    await screen.type('#hours-1', '24');
    await screen.choose('#kind-1', 'network');
    await screen.click('nl-storage-settings button[type="submit"]');
    await screen.says('nl-storage-settings', 'There is already a storage called');
    fake.on('changeStorage', ({ name, kind }) => storage(1, { name, kind }));
    await screen.type('#name-1', 'Card one');
    await screen.click('nl-storage-settings button[type="submit"]');
    await until('the form to close', () => screen.all('nl-storage-settings').length === 0);
    expect(fake.bodies('changeStorage').at(-1)).toEqual({
      name: 'Card one',
      kind: 'network',
      managed: false,
      verifyDays: null,
      presenceHours: 24,
      recognises: false,
    });
  });

  it('can lie elsewhere: looked for there, moved, and put back', async () => {
    const fake = server();
    fake.on('lookAtRoot', ({ rootPath }) =>
      rootPath === '/mnt/new'
        ? { looked: 40, same: 37, changed: 1, missing: 2 }
        : { looked: 40, same: 0, changed: 0, missing: 40 },
    );
    fake.on('moveStorage', ({ rootPath }) => storage(1, { name: 'Card', rootPath }));
    const screen = await Screen.open('/storage', fake);
    await screen.click('[aria-label="Settings of Card"]');
    await screen.click('nl-storage-root button', 'It lies in another folder now');
    await screen.type('#root-1', '/mnt/other');
    await screen.click('nl-storage-root button', 'Look there');
    await screen.says('nl-storage-root', 'None of 40 files that were looked for lies there: it is another folder.');
    expect(screen.text('nl-storage-root')).not.toContain('It lies there now');
    await screen.type('#root-1', '/mnt/new');
    await screen.click('nl-storage-root button', 'Look there');
    await screen.says('nl-storage-root', '37 of 40 files that were looked for lie there, 2 not, 1 with another size.');
    fake.on('moveStorage', () => new Refusal(422, { code: 'refused', reason: 'It is being scanned.' }));
    await screen.click('nl-storage-root button', 'It lies there now');
    await screen.says('nl-storage-root', 'It is being scanned.');
    fake.on('moveStorage', ({ rootPath }) => storage(1, { name: 'Card', rootPath }));
    await screen.click('nl-storage-root button', 'It lies there now');
    await screen.says('nl-toasts', '“Card” lies in /mnt/new now, and is being scanned.');
    await screen.click('nl-toasts button', 'Undo');
    await until('the way back', () => fake.bodies('moveStorage').length === 3);
    expect(fake.bodies('moveStorage').map(({ rootPath }) => rootPath)).toEqual([
      '/mnt/new',
      '/mnt/new',
      '/media/shelf1',
    ]);
  });

  it('are checked byte by byte on demand', async () => {
    const fake = server();
    fake.on('verify', () => new Refusal(422, { code: 'refused', reason: 'Not now.' }));
    const screen = await Screen.open('/storage', fake);
    await screen.click('[data-storage="Store"] button', 'Check bytes');
    await screen.says('nl-toasts', 'Not now.');
    expect(fake.bodies('verify')).toEqual([{ storageId: 2 }]);
  });
});

describe('watch folders', () => {
  it('are added with a preset, switched off, and taken away', async () => {
    const fake = server();
    const screen = await Screen.open('/storage', fake);
    await screen.says('nl-watch-folders', 'None yet.');
    await screen.click('nl-watch-folders button', 'Watch');
    await screen.says('nl-watch-folders [role="alert"]', 'Choose a storage and a preset.');
    const pick = async (selector: string, text: string) => {
      const option = screen
        .all<HTMLOptionElement>(`${selector} option`)
        .find((each) => each.textContent?.includes(text));
      await screen.choose(selector, option?.value ?? '');
    };
    await pick('#watch-storage', 'Store');
    await pick('#watch-preset', 'Rushes');
    await screen.type('#watch-folder', '/incoming/');
    await screen.click('nl-watch-folders button', 'Watch');
    screen.changed('watch', 8, 2);
    await screen.says('[data-watch="incoming"]', 'Store');
    expect(screen.text('[data-watch="incoming"]')).toContain('Rushes, quiet for 10 s');
    screen.one('[aria-label="Watch incoming"]').dispatchEvent(new Event('change'));
    await until('it to be off', () => fake.bodies('changeWatch').length === 1);
    expect(fake.bodies('changeWatch')[0]).toMatchObject({
      active: false,
      folder: 'incoming',
      storageId: 2,
      presetId: 3,
    });
    await screen.click('[aria-label="Do not watch incoming any more"]');
    screen.changed('watch', 8, 3);
    await screen.says('nl-watch-folders', 'None yet.');
  });
});

describe('the demo’s volumes', () => {
  it('are plugged in and pulled, and what is refused is said', async () => {
    const screen = await Screen.open('/settings', server());
    await screen.says('[data-volume="card-a"]', 'in the drawer');
    await screen.click('[data-volume="card-a"] button', 'Plug into left');
    await screen.says('nl-toasts', 'There is something in left already.');
    await screen.click('[data-volume="card-a"] button', 'Plug into right');
    await screen.says('[data-volume="card-a"]', 'in right');
    await screen.click('[data-volume="card-b"] button', 'Pull');
    await screen.says('[data-volume="card-b"]', 'in the drawer');
  });
  it('are not offered where there are none, nor to those who may not', async () => {
    const none = server().on('volumes', () => ({ volumes: [], slots: [] }));
    const screen = await Screen.open('/settings', none);
    await until('the limits', () => screen.all('#limit-ingest').length === 1);
    expect(screen.all('[data-volume]')).toEqual([]);
  });
  it('a viewer sees them and touches nothing', async () => {
    const screen = await Screen.open('/settings', server(), 'viewer');
    await screen.says('[data-volume="card-b"]', 'in left');
    expect(screen.all('[data-volume] button')).toEqual([]);
    expect(screen.one<HTMLInputElement>('#limit-ingest').disabled).toBe(true);
  });
});

describe('jobs at once', () => {
  it('are limited by whole numbers only', async () => {
    const fake = server();
    const screen = await Screen.open('/settings', fake);
    await until('the limits', () => screen.all('#limit-ingest').length === 1);
    const set = (text: string) => {
      const field = screen.one<HTMLInputElement>('#limit-ingest');
      field.value = text;
      field.dispatchEvent(new Event('change'));
    };
    set('0');
    await screen.says('nl-toasts', 'A limit is a whole number from 1 to 256.');
    expect(fake.bodies('setJobLimits')).toEqual([]);
    set('4');
    await screen.says('nl-toasts', 'Ingest: 4 at once.');
    expect(fake.bodies('setJobLimits')).toEqual([{ limits: [{ kind: 'ingest', most: 4 }] }]);
  });
});
