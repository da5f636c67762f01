import { asset, liveBin } from '../../../test/assets';
import { serverWith } from '../../../test/indexed';
import { person, Screen, until } from '../../../test/screen';
import { sessionActions } from '../shared/session';

const library = () =>
  serverWith([
    asset(1, { tags: ['dawn', 'lock'], reel: 'B' }),
    asset(2, { tags: ['dawn'], reel: 'A' }),
    asset(3, { tags: ['lock'] }),
    asset(4, { tags: ['bell'] }),
  ]);
const open = async (address: string, server = library()) => {
  const screen = await Screen.open(address, server);
  await until('the list', () => screen.all('nl-tile').length > 0);
  return screen;
};
const steps = (screen: Screen) => screen.all('nl-trail li .mono').map(({ textContent }) => textContent);
const tabs = (screen: Screen) =>
  screen
    .all('nl-answer-tabs .tab')
    .map(
      (tab) => (tab.classList.contains('active') ? '> ' : '') + (tab.querySelector('.name')?.textContent?.trim() ?? ''),
    );
const address = (screen: Screen) => decodeURIComponent(screen.address);

afterEach(() => localStorage.clear());

describe('searching within what was found', () => {
  it('narrows while one types, is a step of its own then, and each step can be taken away', async () => {
    const screen = await open('/library?q=tag:dawn');
    await screen.says('[data-test="count"]', '2 assets');
    await screen.press('S', { shiftKey: true });
    expect(document.activeElement?.id).toBe('within');
    const box = await screen.type('#within', 'tag:lock');
    await screen.says('[data-test="count"]', '1 asset');
    expect(address(screen)).toBe('/library?q=tag:dawn tag:lock');
    expect(steps(screen)).toEqual(['tag:dawn']);
    await screen.press('Enter');
    await screen.harness.fixture.whenStable();
    expect([box.value, steps(screen)]).toEqual(['', ['tag:dawn', 'tag:lock']]);
    await screen.type('#within', '-reel:b');
    await screen.says('[data-test="count"]', '0 assets');
    await screen.press('Escape');
    await screen.says('[data-test="count"]', '1 asset');
    await screen.click('nl-trail li:first-child button');
    await until('the other step', () => steps(screen).join() === 'tag:lock');
    await screen.says('[data-test="count"]', '2 assets');
    await screen.click('nl-trail li button');
    await screen.says('[data-test="count"]', '4 assets');
    expect(address(screen)).toBe('/library');
  });

  it('says what is wrong with what is written there, and leaves the list as it is', async () => {
    const screen = await open('/library?q=tag:dawn');
    await screen.says('[data-test="count"]', '2 assets');
    await screen.type('#within', 'tag:lock');
    await screen.says('[data-test="count"]', '1 asset');
    const box = await screen.type('#within', 'tga:lock');
    await screen.says('#within-issue', 'Did you mean “tag:”?');
    await screen.press('Enter');
    expect([box.value, address(screen)]).toEqual(['tga:lock', '/library?q=tag:dawn']);
    await screen.says('[data-test="count"]', '2 assets');
    // Another search meanwhile is not lost by mending it.
    await screen.type('#search-line', 'tag:bell');
    await screen.says('[data-test="count"]', '1 asset');
    await screen.type('#within', 'clip4');
    await until('both', () => address(screen) === '/library?q=tag:bell clip4');
  });

  it('works in a bin as well, and stays in it', async () => {
    const server = library();
    server.on('liveBins', () => ({ bins: [liveBin(7, 'Dawns', 'tag:dawn or tag:lock', 3)] }));
    server.on('projects', () => ({ projects: [] }));
    const screen = await open('/bins/7', server);
    await screen.says('[data-test="count"]', '3 assets');
    expect(steps(screen)).toEqual([]);
    await screen.type('#within', 'tag:dawn');
    await screen.says('[data-test="count"]', '2 assets');
    expect(address(screen)).toBe('/bins/7?within=tag:dawn');
    await screen.press('Enter');
    await until('the step', () => steps(screen).join() === 'tag:dawn');
    await screen.click('nl-trail li button');
    await screen.says('[data-test="count"]', '3 assets');
  });
});

describe('answers side by side', () => {
  it('each keep their search and order, through a reload', async () => {
    const screen = await open('/library?q=tag:dawn');
    await screen.choose('#sort', 'reel/up');
    expect(tabs(screen)).toEqual([]);
    await screen.click('[data-test="another-answer"]');
    expect(tabs(screen)).toEqual(['tag:dawn', '> tag:dawn']);
    await screen.type('#search-line', 'tag:bell');
    await screen.says('[data-test="count"]', '1 asset');
    await screen.choose('#sort', 'name/up');
    expect(tabs(screen)).toEqual(['tag:dawn', '> tag:bell']);
    await screen.click('nl-answer-tabs .name', 'tag:dawn');
    await until('the first', () => screen.all('nl-tile .name')[0]?.textContent?.trim() === 'clip2.mov');
    expect([address(screen), screen.one<HTMLSelectElement>('#sort').value]).toEqual(['/library?q=tag:dawn', 'reel/up']);
    expect(tabs(screen)).toEqual(['> tag:dawn', 'tag:bell']);
    await until('kept', () => localStorage.getItem('neat-larder.answers.1') !== null);
    expect(JSON.parse(localStorage.getItem('neat-larder.answers.1') ?? '')).toEqual({
      all: [
        { query: 'tag:dawn', order: 'reel/up' },
        { query: 'tag:bell', order: 'name/up' },
      ],
      at: 0,
    });
    await screen.click('nl-answer-tabs .tab.active .close');
    await screen.says('[data-test="count"]', '1 asset');
    expect([tabs(screen), address(screen)]).toEqual([[], '/library?q=tag:bell']);
  });

  it('are found again by whoever had them open, and a link that is none of them stands beside them', async () => {
    const kept = {
      all: [
        { query: 'tag:dawn', order: 'reel/up' },
        { query: 'tag:bell', order: 'name/up' },
      ],
      at: 0,
    };
    localStorage.setItem('neat-larder.answers.1', JSON.stringify(kept));
    const screen = await open('/library?q=tag:lock');
    await until('three', () => tabs(screen).join() === 'tag:dawn,> tag:lock,tag:bell');
    screen.dispatch(sessionActions.signedIn({ person: { ...person(), id: 2 } }));
    await until('nobody else’s', () => tabs(screen).length === 0);
  });

  it('is come back to from another section as it was left, and is all of the library at a second click', async () => {
    const server = library();
    server.on('jobs', () => ({ jobs: [] }));
    const screen = await open('/library?q=tag:dawn', server);
    await screen.click('.rail a', 'Jobs');
    await until('the jobs', () => screen.address === '/jobs');
    await screen.click('.rail a', 'Library');
    await screen.says('[data-test="count"]', '2 assets');
    expect(address(screen)).toBe('/library?q=tag:dawn');
    await screen.click('.rail a', 'Library');
    await screen.says('[data-test="count"]', '4 assets');
  });

  it('that were kept in no form that can be read are none', async () => {
    localStorage.setItem('neat-larder.answers.1', '{"all":[{"query":5}],"at":9}');
    const screen = await open('/library?q=tag:lock');
    expect(tabs(screen)).toEqual([]);
    await screen.says('[data-test="count"]', '2 assets');
  });

  it.each([
    ['What is in both', '1 asset', 'tag:lock tag:dawn'],
    ['What is in either', '3 assets', 'tag:(lock or dawn)'],
    ['What is in one only', '2 assets', 'tag:lock -tag:dawn or tag:dawn -tag:lock'],
    ['What is here only', '1 asset', 'tag:lock -tag:dawn'],
  ])('are put together: %s', async (way, count, query) => {
    const screen = await open('/library?q=tag:dawn');
    await screen.click('[data-test="another-answer"]');
    await screen.type('#search-line', 'tag:lock');
    await until('the second', () => tabs(screen).join() === 'tag:dawn,> tag:lock');
    await screen.click('nl-answer-tabs [ngbDropdownToggle]');
    await screen.click('nl-answer-tabs .menu button', way);
    await screen.says('[data-test="count"]', count);
    expect(address(screen)).toBe(`/library?q=${query}`);
    expect(tabs(screen)).toHaveLength(3);
  });
});
