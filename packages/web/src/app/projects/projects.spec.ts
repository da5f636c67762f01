import { countingById, type Counting } from '@larder/core/timecode';
import type { ConformAnswer, Project } from '@larder/contract';
import { storage } from '../../../test/things';
import { FakeServer, Refusal, Screen, until } from '../../../test/screen';

const project = (id: number, name: string, changes: Partial<Project> = {}): Project => ({
  id,
  name,
  description: null,
  counting: '25',
  by: 'Maren',
  createdMs: 0,
  stringOuts: [],
  broken: 0,
  ...changes,
});

async function open(role: 'editor' | 'viewer' = 'editor') {
  const all = [
    project(1, 'Slow Water, one', {
      description: 'Locks',
      stringOuts: [{ id: 4, projectId: 1, name: 'First cut', counting: '25', items: 3, broken: 2, updatedMs: 0 }],
    }),
  ];
  const server = new FakeServer()
    .on('projects', () => ({ projects: [...all] }))
    .on('newProject', ({ name, counting }) => {
      const made = project(9, name, { counting });
      all.unshift(made);
      return made;
    });
  const screen = await Screen.open('/projects', server, role);
  await screen.says('section.project', 'Slow Water, one');
  return { screen, server };
}

async function drop(screen: Screen, name: string, text: string): Promise<void> {
  const picker = screen.one<HTMLInputElement>('input[type="file"]');
  const file = { name, text: () => Promise.resolve(text) };
  Object.defineProperty(picker, 'files', { configurable: true, value: [file] });
  Object.defineProperty(picker, 'value', { configurable: true, writable: true, value: name });
  picker.dispatchEvent(new Event('change'));
  await screen.harness.fixture.whenStable();
}

describe('projects', () => {
  it('show their string-outs, each a way to it', async () => {
    const { screen } = await open();
    expect(screen.text('section.project')).toMatch(/Locks.*First cut.*3 clips, last saved/);
    expect(screen.one('section.project a').getAttribute('href')).toBe('/string-outs/4');
    // What is lost of one is said, with the way to find it; of a whole that has none nothing is.
    expect(screen.all('section.project nl-broken').map(({ textContent }) => textContent?.trim())).toEqual([
      '',
      '2 originals missing',
    ]);
    expect(screen.one('section.project li nl-broken a').getAttribute('href')).toBe(
      '/upkeep?of=string-out&id=4&named=First%20cut',
    );
  });

  it('are made with a name and a rate', async () => {
    const { screen, server } = await open();
    await screen.click('button', 'New project');
    expect(screen.one<HTMLButtonElement>('form button[type="submit"]').disabled).toBe(true);
    await screen.type('#project-name', '  Episode two ');
    await screen.choose('#project-rate', '29.97df');
    await screen.click('form button[type="submit"]');
    await screen.says('section.project', 'Episode two');
    expect(server.bodies('newProject')).toEqual([{ name: 'Episode two', description: null, counting: '29.97df' }]);
    expect(screen.all('form')).toEqual([]);
  });

  it('check a cut list that came back, counted at the rate that was chosen for it', async () => {
    const { screen, server } = await open();
    server.on('conform', () => ({ title: 'Back', counting: '24', clean: true, issues: [], events: [] }));
    await screen.choose('#list-rate', '24');
    await drop(screen, 'back.edl', 'TITLE: Back');
    await screen.says('.conform', 'Conforms: 0 events at 24');
    expect(server.bodies('conform')).toEqual([{ fileName: 'back.edl', text: 'TITLE: Back', counting: '24' }]);
    await screen.click('[aria-label="Close the report"]');
    expect(screen.all('.conform')).toEqual([]);
  });

  describe('bring a list in as a string-out', () => {
    const range = { start: 0, end: 10 };
    const event = (number: number, found: boolean): ConformAnswer['events'][number] => ({
      event: {
        ...{ number, reel: 'A001', clipName: null, sourceFile: null, assetId: null, hasPicture: true, hasSound: false },
        ...{ source: range, sourceCounting: countingById('25') as Counting, record: range },
      },
      ...{ matchedBy: null, used: null, asset: found ? { id: 1, name: 'clip.mov' } : null },
      ...(found ? { issues: [], words: [] } : { issues: [{ code: 'no-media' }], words: ['Nothing fits.'] }),
    });
    const checked = async (events: ConformAnswer['events'], role: 'editor' | 'viewer' = 'editor') => {
      const { screen, server } = await open(role);
      server.on('conform', () => ({ title: 'Back', counting: '25', clean: false, issues: [], events }));
      server.on('storages', () => ({ storages: [storage(3), storage(4, { state: 'offline' })] }));
      const read = { stringOutId: 7, name: 'Back', items: 2, unseen: 1, losses: ['A gap of 2 frames is closed.'] };
      server.on('readList', () => read);
      await drop(screen, 'back.edl', 'TITLE: Back');
      await screen.says('.conform', '1 event of 2');
      return { screen, server };
    };
    const list = { fileName: 'back.edl', text: 'TITLE: Back', counting: '25' as const };

    it('with what was never seen missing where it is expected, and the way to find it', async () => {
      const { screen, server } = await checked([event(1, true), event(2, false)]);
      expect(screen.all('#list-storage option').map(({ textContent }) => textContent?.trim())).toEqual([
        'Shelf 3',
        'nowhere: leave them out',
      ]);
      await screen.type('#list-name', ' Rough cut ');
      await screen.click('nl-read-list button', 'Bring it in');
      await screen.says(
        'nl-read-list',
        'Brought in as Back, 2 clips. One that the library has never seen is missing now',
      );
      expect(screen.all('nl-conform-report')).toEqual([]);
      expect(screen.text('nl-read-list')).toContain('A gap of 2 frames is closed.');
      expect(server.bodies('readList')).toEqual([{ ...list, projectId: 1, name: 'Rough cut', expectedOn: 3 }]);
      expect(screen.all('nl-read-list a').map((link) => link.getAttribute('href'))).toEqual([
        '/string-outs/7',
        '/upkeep?of=string-out&id=7&named=Back',
      ]);
      // Another list is another one to bring in.
      await drop(screen, 'other.edl', 'TITLE: Other');
      await screen.says('nl-read-list', 'Bring it in');
      expect(screen.all('nl-conform-report')).toHaveLength(1);
    });

    it('without what was never seen, where somebody says so', async () => {
      const { screen, server } = await checked([event(1, true), event(2, false)]);
      const nowhere = screen.all<HTMLOptionElement>('#list-storage option').at(-1)?.value ?? '';
      await screen.choose('#list-storage', nowhere);
      // Lists come anew with whatever happens meanwhile.
      const asked = server.bodies('storages').length;
      screen.changed('storage', 3, 2);
      await until('the storages anew', () => server.bodies('storages').length > asked);
      await screen.click('nl-read-list button', 'Bring it in');
      await screen.says('nl-read-list', 'Brought in as Back');
      expect(server.bodies('readList')).toMatchObject([{ expectedOn: null, name: 'Back' }]);
    });

    it('and says why it cannot be', async () => {
      const { screen, server } = await checked([event(1, true), event(2, false)]);
      server.on('readList', () => new Refusal(422, { code: 'refused', reason: 'Nothing of it can be cut.' }));
      await screen.click('nl-read-list button', 'Bring it in');
      await screen.says('nl-read-list [role="alert"]', 'Nothing of it can be cut.');
    });

    it('is not for viewers', async () => {
      const { screen } = await checked([event(1, true), event(2, false)], 'viewer');
      expect(screen.all('nl-read-list')).toEqual([]);
    });
  });

  it('a file that is no cut list is refused in words', async () => {
    const { screen, server } = await open();
    server.on('conform', () => new Refusal(422, { code: 'refused', reason: 'holiday.jpg is no cut list.' }));
    await drop(screen, 'holiday.jpg', '…');
    await screen.says('nl-toasts', 'holiday.jpg is no cut list.');
  });

  it('a viewer makes none', async () => {
    const { screen } = await open('viewer');
    expect(screen.text('main')).not.toContain('New project');
  });

  it('with none yet, say how one comes about', async () => {
    const screen = await Screen.open(
      '/projects',
      new FakeServer().on('projects', () => ({ projects: [] })),
    );
    await until('the words', () => screen.text('main').includes('No projects yet'));
  });
});
