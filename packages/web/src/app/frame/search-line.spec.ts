import { asset } from '../../../test/assets';
import { LibraryServer } from '../../../test/library';
import { person, Refusal, Screen, until } from '../../../test/screen';
import { sessionActions } from '../shared/session';

const opened = async (past: readonly string[] = []) => {
  const server = new LibraryServer([
    asset(1, { tags: ['golden hour'], renditions: [] }),
    asset(2, { tags: ['golden hour', 'gold'], renditions: [] }),
  ]);
  server.on('pastSearches', () => ({ queries: past }));
  server.on('facet', () => ({
    values: [
      { value: 'golden hour', count: 2 },
      { value: 'gold', count: 1 },
      { value: 'lock', count: 1 },
    ],
  }));
  const screen = await Screen.open('/library', server);
  await screen.says('[data-test="count"]', '2 assets');
  screen.one<HTMLInputElement>('#search-line').focus();
  return { screen, server };
};
/** The proposals hang beneath the body, outside of what the screen looks at. */
const offered = () =>
  [...document.querySelectorAll('ngb-typeahead-window button')].map((each) =>
    [...each.querySelectorAll('span')]
      .map(({ textContent }) => textContent)
      .filter(Boolean)
      .join(' '),
  );

describe('proposals in the search line', () => {
  it('go from the name of a field to what is said in it, by the arrows and Enter alone', async () => {
    const { screen, server } = await opened();
    const input = await screen.type('#search-line', 'clip ta');
    await until('the fields', () => offered()[0] === 'tag: Tags');
    await screen.press('ArrowDown');
    await screen.press('Enter');
    expect(input.value).toBe('clip tag:');
    await until('the tags', () => offered().join() === '"golden hour" 2,gold 1,lock 1');
    expect(server.bodies('facet')).toEqual([{ query: 'clip', field: 'tag' }]);
    await screen.type('#search-line', 'clip tag:go');
    await until('those that begin so', () => offered().join() === '"golden hour" 2,gold 1');
    expect(server.bodies('facet').at(-1)).toEqual({ query: 'clip tag:go*', field: 'tag' });
    await screen.press('ArrowDown');
    await screen.press('Enter');
    expect([input.value, document.activeElement === input]).toEqual(['clip tag:"golden hour" ', true]);
    await until('the search', () => screen.address.includes('golden%20hour'));
    await until('no more', () => offered().length === 0);
    // With nothing proposed, Enter is done with the line.
    await screen.press('Enter');
    expect(document.activeElement).not.toBe(input);
  });

  it('are left by Escape, and then the line', async () => {
    const { screen } = await opened();
    const input = await screen.type('#search-line', 'verdict:');
    await until('the verdicts', () => offered().join() === 'circled,hold,ng');
    await screen.press('Escape');
    await until('none', () => offered().length === 0);
    expect([input.value, document.activeElement === input]).toEqual(['verdict:', true]);
    await screen.press('Escape');
    expect(document.activeElement).not.toBe(input);
  });

  it('are what one searched for before, while nothing is written and among names of fields', async () => {
    const { screen, server } = await opened(['tag:"golden hour" -music', 'clip1']);
    server.on('rememberSearch', ({ query }) => {
      server.on('pastSearches', () => ({ queries: [query, 'clip1'] }));
      return null;
    });
    const input = screen.one<HTMLInputElement>('#search-line');
    input.blur();
    input.focus();
    await until(
      'those from before',
      () => offered().join('|') === 'tag:"golden hour" -music searched before|clip1 searched before',
    );
    await screen.press('ArrowDown');
    await screen.press('ArrowDown');
    await screen.press('Enter');
    expect(input.value).toBe('clip1');
    await until('the search', () => screen.address.endsWith('?q=clip1'));
    await screen.type('#search-line', 'go');
    await until('the one with these letters', () => offered().join() === 'tag:"golden hour" -music searched before');
    await screen.press('Escape');
    // Done with, it is remembered; once, and only if it can be read.
    await screen.type('#search-line', 'clip2');
    input.blur();
    await until('remembered', () => server.bodies('pastSearches').length === 2);
    input.focus();
    await screen.type('#search-line', 'tga:gold');
    input.blur();
    await screen.type('#search-line', '');
    await until('the last one first', () => offered()[0] === 'clip2 searched before');
    expect(server.bodies('rememberSearch')).toEqual([{ query: 'clip2' }]);
  });

  it('from before are those of whoever is signed in, not of who was', async () => {
    const { screen, server } = await opened(['only mine']);
    const come = () => {
      screen.one('#search-line').blur();
      screen.one('#search-line').focus();
    };
    come();
    await until('hers', () => offered().join() === 'only mine searched before');
    screen.dispatch(sessionActions.signedOut());
    screen.dispatch(sessionActions.signedIn({ person: { ...person('viewer'), id: 2, login: 'ines' } }));
    server.on('pastSearches', () => ({ queries: ['theirs'] }));
    come();
    await until('theirs', () => offered().join() === 'theirs searched before');
  });

  it('of what something may be near are the places that have a position', async () => {
    const { screen, server } = await opened();
    server.on('facet', () => ({ values: [{ value: 'Low Quay', count: 3 }] }));
    const input = await screen.type('#search-line', 'clip near:lo');
    await until('the place', () => offered().join() === '"Low Quay" 3');
    expect(server.bodies('facet').at(-1)).toEqual({ query: 'clip has:position place:lo*', field: 'place' });
    await screen.press('ArrowDown');
    await screen.press('Enter');
    expect(input.value).toBe('clip near:"Low Quay" ');
  });

  it('are none for words of their own, and where the server does not say', async () => {
    const { screen, server } = await opened();
    server.on('facet', () => new Refusal(500, { code: 'internal', reference: 'r-3' }));
    await screen.type('#search-line', 'people:w');
    await until('asked', () => server.bodies('facet').length === 1);
    await screen.type('#search-line', 'clip2');
    await screen.says('[data-test="count"]', '1 asset');
    expect(offered()).toEqual([]);
    expect(screen.all('[role="alert"]')).toEqual([]);
  });
});
