import type { Bin, LiveBin } from '@larder/contract';
import { asset, liveBin as bin } from '../../../test/assets';
import { LibraryServer } from '../../../test/library';
import { Refusal, Screen, until } from '../../../test/screen';

async function open(address: string, role: 'editor' | 'viewer' = 'editor') {
  let all: LiveBin[] = [bin(1, 'Ones', 'clip1', 2), bin(2, 'Twos', 'clip2', 1)];
  const server = new LibraryServer([1, 2, 10].map((id) => asset(id)));
  server.on('liveBins', () => ({ bins: all }));
  server.on('changeLiveBin', (written, id) => {
    all = all.map((each) => (each.id === id ? { ...each, ...written } : each));
    return all.find((each) => each.id === id) as LiveBin;
  });
  server.on('removeLiveBin', (_body, id) => {
    all = all.filter((each) => each.id !== id);
    return null;
  });
  return { server, screen: await Screen.open(address, server, role), set: (next: LiveBin[]) => (all = next) };
}

describe('live bins', () => {
  it('show what fits their search, and their search as a way into the search line', async () => {
    const { screen } = await open('/bins');
    await screen.says('main', 'Choose a bin');
    await screen.click('a.bin', 'Ones');
    await screen.says('[data-test="count"]', '2 assets');
    expect(screen.one('a.bin.active').getAttribute('aria-current')).toBe('page');
    expect(screen.one('a.query').getAttribute('href')).toBe('/library?q=clip1');
    await screen.click('a.bin', 'Twos');
    await screen.says('[data-test="count"]', '1 asset');
    expect(screen.text('h1')).toContain('Twos');
  });

  it('their counts follow the library, and the list does not begin anew for it', async () => {
    const { screen, server, set } = await open('/bins/1');
    await screen.says('[data-test="count"]', '2 assets');
    await screen.click('nl-tile', 'clip1.mov');
    set([bin(1, 'Ones', 'clip1', 3), bin(2, 'Twos', 'clip2', 1)]);
    screen.changed('asset', 10, 5);
    await screen.says('[data-bin="Ones"]', '3');
    expect(screen.text('[data-test="count"]')).toContain('1 selected');
    expect(server.bodies('search').every(({ query }) => query === 'clip1')).toBe(true);
  });

  it('are renamed without changing their search', async () => {
    const { screen, server } = await open('/bins/1');
    await screen.click('button', 'Edit');
    await screen.type('#live-bin-name', 'First ones');
    await screen.click('.modal-content button[type="submit"]');
    await screen.says('nl-bins .list', 'First ones');
    await screen.says('nl-toasts', '“First ones” changed.');
    expect(server.bodies('changeLiveBin')).toEqual([
      { name: 'First ones', query: 'clip1', parentId: null, projectId: null, shared: true },
    ]);
  });

  it('a name that is taken is refused in words, and nothing is lost', async () => {
    const { screen, server } = await open('/bins/1');
    server.on('changeLiveBin', () => new Refusal(422, { code: 'refused', reason: 'There is a bin “Twos” already.' }));
    await screen.click('button', 'Edit');
    await screen.type('#live-bin-name', 'Twos');
    await screen.click('.modal-content button[type="submit"]');
    await screen.says('.modal-content [role="alert"]', 'There is a bin “Twos” already.');
    expect(screen.one<HTMLInputElement>('#live-bin-name').value).toBe('Twos');
    await screen.click('.modal-content button', 'Cancel');
    expect(screen.text('nl-bins .list')).toContain('Ones');
  });

  it('their search is edited as text and as criteria, with how much fits it', async () => {
    const { screen, server } = await open('/bins/1');
    await screen.click('button', 'Edit');
    await screen.says('#live-bin-issue', '2 assets now.');
    await screen.type('#live-bin-query', 'clip1 duration>');
    await screen.says('#live-bin-issue', 'needs a value');
    expect(screen.one<HTMLButtonElement>('.modal-content button[type="submit"]').disabled).toBe(true);
    // The rows are of what could be read last.
    expect(screen.one<HTMLInputElement>('nl-criteria .value').value).toBe('clip1');
    const value = screen.one<HTMLInputElement>('nl-criteria .value');
    value.value = 'clip2';
    value.dispatchEvent(new Event('change', { bubbles: true }));
    await until('the text', () => screen.one<HTMLInputElement>('#live-bin-query').value === 'clip2');
    await screen.says('#live-bin-issue', '1 asset now.');
    await screen.click('.modal-content button[type="submit"]');
    await screen.says('nl-bins a.query', 'clip2');
    expect(server.bodies('changeLiveBin')).toMatchObject([{ name: 'Ones', query: 'clip2' }]);
  });

  it('are removed by themselves only', async () => {
    const { screen } = await open('/bins/1');
    await screen.click('button', 'Remove this bin');
    await screen.says('nl-toasts', 'The bin “Ones” is gone; what it showed is where it was.');
    await until('the list', () => screen.all('a.bin').length === 1);
    expect(screen.address).toBe('/bins');
  });

  it('stand in bins and projects, and are seen by all or by one', async () => {
    const { screen, server, set } = await open('/bins/1');
    server.on('bins', () => ({
      bins: [{ id: 7, parentId: null, name: 'Day one', path: 'Day one', count: 0, broken: 0, by: null }],
    }));
    const project = { description: null, counting: '25' as const, by: null, createdMs: 0, stringOuts: [], broken: 0 };
    server.on('projects', () => ({ projects: [{ id: 4, name: 'Episode', ...project }] }));
    set([bin(1, 'Ones', 'clip1', 2, { parentId: 7 }), bin(2, 'Twos', 'clip2', 1, { projectId: 4, shared: false })]);
    screen.changed('bin', 7, 9);
    screen.changed('live-bin', 1, 9);
    screen.changed('project', 4, 9);
    await screen.says('nl-bins .list', 'Episode');
    await screen.says('nl-bins .list', 'only me');
    const rows = screen.all('nl-bins a.bin').map((row) => row.textContent.replace(/\s+/g, ' ').trim());
    expect(rows).toEqual(['Day one0', 'Ones2', 'Twosonly me1']);
    await screen.click('button', 'Edit');
    expect(screen.one<HTMLSelectElement>('#live-bin-place').value).toBe('bin/7');
    await screen.choose('#live-bin-place', 'project/4');
    await screen.click('.modal-content button[type="submit"]');
    await until('sent', () => server.bodies('changeLiveBin').length === 1);
    expect(server.bodies('changeLiveBin')).toMatchObject([
      { name: 'Ones', parentId: null, projectId: 4, shared: true },
    ]);
  });

  it('come in by the set to begin with, and from files; what is left out is told', async () => {
    const { screen, server } = await open('/bins');
    server.on('takeLiveBins', ({ file }) => ({
      made: file.liveBins.slice(1).map(({ name }) => name),
      left: [{ name: file.liveBins[0]?.name ?? '', why: 'There is one of that name here.' }],
    }));
    await screen.click('nl-live-bins-menu button', 'Sets and files');
    await screen.click('.dropdown-item', 'Add the starter set');
    await screen.says('nl-toasts', 'live bins added.');
    await screen.says('nl-toasts', 'Left out: “Untagged”: There is one of that name here.');
    expect(server.bodies('takeLiveBins')[0]).toMatchObject({ projectId: null, file: { version: 1 } });
    // What is no JSON is told of and sends nothing.
    const picker = screen.one<HTMLInputElement>('nl-live-bins-menu input');
    Object.defineProperty(picker, 'files', {
      value: [{ name: 'odd.json', size: 1, text: () => Promise.resolve('{') }],
    });
    picker.dispatchEvent(new Event('change'));
    await screen.says('nl-toasts', '“odd.json” is no JSON');
    expect(server.bodies('takeLiveBins')).toHaveLength(1);
  });

  it('are frozen to a bin that is filled by hand', async () => {
    const { screen, server } = await open('/bins/1');
    server.on('freezeLiveBin', () => ({ id: 9, count: 2 }));
    await screen.click('button', 'Freeze');
    expect(screen.one<HTMLInputElement>('#name-field').value).toMatch(/^Ones, \d{4}-\d\d-\d\d$/);
    await screen.type('#name-field', 'Ones for good');
    await screen.click('.modal-content button[type="submit"]');
    await screen.says('nl-toasts', '“Ones for good” keeps what was in “Ones”.');
    expect(server.bodies('freezeLiveBin')).toEqual([{ name: 'Ones for good', parentId: null }]);
    expect(decodeURIComponent(screen.address)).toBe('/bins?in=Ones for good');
  });

  it('a viewer looks into them and changes none', async () => {
    const { screen } = await open('/bins/1', 'viewer');
    await screen.says('[data-test="count"]', '2 assets');
    expect(screen.text('main')).not.toMatch(/Edit|Rename/);
  });
});

describe('bins that are filled by hand', () => {
  const hand = (id: number, path: string, count: number, parentId: number | null = null): Bin => ({
    id,
    parentId,
    name: path.slice(path.lastIndexOf('/') + 1),
    path,
    count,
    broken: path === 'Lock' ? 2 : 0,
    by: 'Maren',
  });
  async function openHand(address: string, role: 'editor' | 'viewer' = 'editor') {
    const { server, screen } = await open(address, role);
    server.on('bins', () => ({ bins: [hand(7, 'Day one', 3), hand(8, 'Day one/clip1', 2, 7)] }));
    server.on('binAssets', () => ({ revision: 2, group: 'g', changed: 1 }));
    screen.changed('bin', 7, 9);
    return { server, screen };
  }

  it('stand by their paths, one within the other, and show what is in them', async () => {
    const { screen, server } = await openHand('/bins');
    await screen.says('[data-bin="Day one/clip1"]', '2');
    await screen.click('a.bin', 'clip1');
    await until('its search', () => server.bodies('search').some(({ query }) => query === 'in:"Day one/clip1"'));
    expect(screen.text('h1')).toContain('clip1');
    expect(decodeURIComponent(screen.address)).toBe('/bins?in=Day one/clip1');
  });

  it('say how many of their originals are lost, and lead to finding them', async () => {
    const { screen, server } = await openHand('/bins');
    server.on('bins', () => ({ bins: [hand(7, 'Day one', 3), hand(8, 'Lock', 2)] }));
    screen.changed('bin', 8, 10);
    await until('the alert', () => screen.all('nl-broken a').length === 1);
    expect(screen.one('nl-broken a').textContent?.trim()).toBe('2 originals missing');
    expect(screen.one('nl-broken a').getAttribute('href')).toBe('/upkeep?of=bin&id=8&named=Lock');
  });

  it('are made within the one that is open, renamed, and taken away', async () => {
    const { screen, server } = await openHand('/bins?in=Day%20one');
    server
      .on('newBin', () => ({ id: 9 }))
      .on('changeBin', (_body, id) => ({ id }))
      .on('removeBin', () => null);
    await until('it to be open', () => screen.all('a.bin.active').length === 1);
    await screen.click('button.new');
    await screen.says('.modal-content', 'A new bin in “Day one”');
    await screen.type('#name-field', 'Wides');
    await screen.click('.modal-content button[type="submit"]');
    await until('it to be made', () => server.bodies('newBin').length === 1);
    expect(server.bodies('newBin')).toEqual([{ name: 'Wides', parentId: 7 }]);
    await screen.click('a.bin', 'Day one');
    await screen.click('nl-library button', 'Rename');
    await screen.type('#name-field', 'Monday');
    await screen.click('.modal-content button[type="submit"]');
    await until('it to be renamed', () => server.bodies('changeBin').length === 1);
    expect(server.bodies('changeBin')).toEqual([{ name: 'Monday', parentId: null }]);
    await screen.click('a.bin', 'Day one');
    await screen.click('nl-library button', 'Remove this bin');
    await screen.says('nl-toasts', 'what was in it is where it was');
  });

  it('are filled by the key B, and a new one is made on the way', async () => {
    const { screen, server } = await openHand('/library');
    server.on('newBin', () => ({ id: 12 }));
    await screen.click('nl-tile', 'clip1.mov');
    await screen.press('b');
    await screen.says('.modal-content', 'Put 1 asset into a bin');
    await screen.choose('#bin-choice', '0');
    await screen.click('.modal-content button[type="submit"]');
    await screen.says('.modal-content [role="alert"]', 'The bin needs a name.');
    await screen.type('#bin-name', 'Best');
    await screen.click('.modal-content button[type="submit"]');
    await screen.says('nl-toasts', '1 asset put into “Best”.');
    expect(server.asked.filter(({ name }) => name === 'binAssets').map(({ id, body }) => [id, body])).toEqual([
      [12, { add: [1] }],
    ]);
  });
});
