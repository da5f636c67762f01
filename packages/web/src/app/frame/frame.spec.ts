import { status } from '../../../test/things';
import { FakeServer, person, Refusal, Screen, until } from '../../../test/screen';
import { KEY_TABLE } from '../shared/keys';
import { liveActions } from '../shared/live.actions';

const server = () =>
  new FakeServer()
    .on('status', () => status())
    .on('liveBins', () => ({ bins: [] }))
    .on('jobs', () => ({ jobs: [] }))
    .on('demoPeople', () => ({
      people: [person(), { ...person('editor'), id: 2, login: 'tobin', name: 'Tobin' }],
      password: 'pw',
    }));

describe('signing in', () => {
  const signedOut = () => server().on('session', () => ({ person: null }));
  const open = async (address: string, fake = signedOut()) => {
    // The guard asks first; nobody is signed in.
    const on = fake.on.bind(fake);
    fake.on = (name: never, answer: never) => (name === 'session' ? fake : on(name, answer));
    return { screen: await Screen.open(address, fake), server: fake };
  };

  it('comes before everything else, and leads back to where one wanted to go', async () => {
    const { screen, server: fake } = await open('/jobs');
    expect(screen.address).toBe('/sign-in?back=%2Fjobs');
    fake.on('signIn', () => ({ person: person() }));
    await screen.click('[data-login="tobin"]');
    await until('the jobs', () => screen.address === '/jobs');
    expect(fake.bodies('signIn')).toEqual([{ login: 'tobin', password: 'pw' }]);
    expect(screen.text('[data-test="person"]')).toBe('Maren Oakley');
  });

  it('an address from elsewhere does not lead away', async () => {
    const { screen, server: fake } = await open('/sign-in?back=%2F%2Felsewhere.example');
    fake.on('signIn', () => ({ person: person() }));
    await screen.click('[data-login="maren"]');
    await until('the front page', () => screen.address === '/');
  });

  it('says what is missing before it asks, and what was refused after', async () => {
    const { screen, server: fake } = await open('/sign-in');
    await screen.click('button[type="submit"]');
    expect(screen.text('[role="alert"]')).toContain('Who are you?');
    expect(screen.text('[role="alert"]')).toContain('A password is needed.');
    fake.on('signIn', () => new Refusal(401, { code: 'wrong-password' }));
    await screen.type('#login', 'maren');
    await screen.type('#password', 'guess');
    await screen.click('button[type="submit"]');
    await screen.says('[role="alert"]', 'Name and password do not go together.');
    expect(screen.one<HTMLInputElement>('#password').value).toBe('guess');
  });

  it('without demo people there is only the form', async () => {
    const fake = signedOut();
    fake.on('demoPeople', () => ({ people: [], password: null }));
    const { screen } = await open('/sign-in', fake);
    expect([screen.all('fieldset').length, screen.all('#login').length]).toEqual([0, 1]);
  });
});

describe('the frame', () => {
  it('leads to every section, and marks the one that is open', async () => {
    const screen = await Screen.open('/jobs', server());
    expect(screen.all('nav.rail a.section').map((link) => link.textContent?.trim())).toEqual([
      'Front page',
      'Library',
      'Dialogue',
      'Bins',
      'Projects',
      'Storage',
      'Upkeep',
      'Jobs',
      'Settings',
    ]);
    expect(screen.one('nav.rail [aria-current="page"]').textContent).toContain('Jobs');
  });

  it('prints every key in the table, by place', async () => {
    const screen = await Screen.open('/jobs', server());
    await screen.press('?', { shiftKey: true });
    await until('the sheet', () => screen.all('nl-key-sheet').length === 1);
    expect(screen.all('nl-key-sheet dd').map((each) => each.textContent)).toEqual(
      expect.arrayContaining(KEY_TABLE.map(({ label }) => label)),
    );
    expect(screen.all('nl-key-sheet kbd')).toHaveLength(KEY_TABLE.length);
    // Pressed again it stays one.
    await screen.press('?', { shiftKey: true });
    expect(screen.all('nl-key-sheet')).toHaveLength(1);
  });

  it('says when the connection is lost, and nothing more when it is back', async () => {
    const screen = await Screen.open('/jobs', server());
    screen.dispatch(liveActions.lost());
    await screen.says('.bar', 'No connection; trying again');
    screen.dispatch(liveActions.connected({ revision: 8 }));
    await until('the connection', () => !screen.text('.bar').includes('No connection'));
  });

  it('changes its theme, and remembers it', async () => {
    const screen = await Screen.open('/settings', server());
    await screen.click('[aria-label="Change the theme"]');
    expect(document.documentElement.getAttribute('data-bs-theme')).toBe('dark');
    expect(localStorage.getItem('neat-larder.settings')).toContain('"theme":"dark"');
    expect(screen.one('nl-settings [aria-pressed="true"]').textContent).toContain('Dark, for dim rooms');
    await screen.click('nl-settings button', 'Paper, for daylight');
    expect(document.documentElement.getAttribute('data-bs-theme')).toBe('light');
  });

  it('with nothing of one’s own to undo says so', async () => {
    const nothing = new Refusal(422, { code: 'refused', reason: 'There is nothing of yours to undo.' });
    const screen = await Screen.open(
      '/jobs',
      server().on('undo', () => nothing),
    );
    await screen.press('z', { ctrlKey: true });
    await screen.says('nl-toasts', 'There is nothing of yours to undo.');
  });

  it('signs out, even if the server does not answer', async () => {
    const screen = await Screen.open('/jobs', server());
    await screen.click('[data-test="person"]');
    await screen.click('.dropdown-menu button', 'Sign out');
    await until('the sign-in', () => screen.address === '/sign-in');
  });

  it('an address that is none says so, and leads home', async () => {
    const screen = await Screen.open('/pantry', server());
    await screen.says('main', 'There is no such page');
    expect(screen.one('main a').getAttribute('href')).toBe('/');
  });
});
