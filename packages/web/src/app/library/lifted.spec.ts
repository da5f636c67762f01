import { asset } from '../../../test/assets';
import { serverWith } from '../../../test/indexed';
import { Screen, until } from '../../../test/screen';

const library = (hand: readonly number[] = []) =>
  serverWith(
    [
      asset(1, { notes: 'the bell rings' }),
      asset(2, { tags: ['lock'] }),
      asset(3, { notes: 'no sound' }),
      asset(4, { tags: ['lock'], notes: 'bell, distant' }),
    ],
    hand,
  );
const open = async (address: string, server = library()) => {
  const screen = await Screen.open(address, server);
  await until('the list', () => screen.all('nl-tile').length > 0);
  return screen;
};
const dim = (screen: Screen) => screen.all<HTMLElement>('nl-tile.dim').map(({ dataset }) => dataset['id']);
const chosen = (screen: Screen) => screen.all<HTMLElement>('nl-tile.selected').map(({ dataset }) => dataset['id']);

afterEach(() => localStorage.clear());

describe('what a search finds, lifted out of the whole list', () => {
  it('leaves everything in its place, says how many there are, and is stepped through round and round', async () => {
    const server = library();
    const screen = await open('/library?q=bell', server);
    await screen.says('[data-test="count"]', '2 assets');
    await screen.press('L', { shiftKey: true });
    await screen.says('[data-test="count"]', '2 of 4 assets');
    await until('the others step back', () => dim(screen).join() === '2,3');
    expect(server.bodies('search').at(-1)).toMatchObject({ query: '', lift: 'bell' });
    expect(screen.text('nl-tile[data-id="1"]')).toContain('Notes');
    await screen.press('.');
    await until('the first', () => chosen(screen).join() === '1');
    await screen.press('.');
    await until('the next', () => chosen(screen).join() === '4');
    await screen.press('.');
    await until('the first again', () => chosen(screen).join() === '1');
    await screen.press(',');
    await until('the last', () => chosen(screen).join() === '4');
    // All that was searched for, and no more.
    await screen.press('a', { ctrlKey: true });
    await until('both', () => chosen(screen).join() === '1,4');
    await screen.click('nl-lift-bar button', 'Only matches');
    await screen.says('[data-test="count"]', '2 assets');
    expect(dim(screen)).toEqual([]);
  });

  it('says so where nothing is found, and is not offered where nothing is searched for', async () => {
    const screen = await open('/library');
    expect(screen.all('nl-lift-bar')).toEqual([]);
    await screen.press('L', { shiftKey: true });
    await screen.type('#within', 'nowhere');
    await screen.says('.nothing', 'Nothing fits this search');
    await screen.press('Escape');
    await until('all', () => screen.all('nl-tile').length === 4);
    await screen.type('#within', 'nowhere');
    await screen.press('Enter');
    await until('the bar', () => screen.all('nl-lift-bar').length === 1);
    await screen.click('nl-lift-bar button', 'All, matches lifted');
    await screen.says('[data-test="count"]', '0 of 4 assets');
    await until('none stands out', () => dim(screen).length === 4);
    expect(screen.all<HTMLButtonElement>('nl-lift-bar > button').map(({ disabled }) => disabled)).toEqual([true, true]);
  });

  it('is of what is in a bin, there, and stays chosen through reloads', async () => {
    localStorage.setItem('neat-larder.settings', JSON.stringify({ lift: true }));
    const server = library();
    // `serverWith` has one bin, “Best”.
    await Screen.open('/bins?in=Best&within=tag:lock', server);
    await until('asked within', () =>
      server.bodies('search').some(({ query, lift }) => query === 'in:"Best"' && lift === 'bin:"best" tag:lock'),
    );
  });

  it('stands in a column of its own in the ledger, with its words marked', async () => {
    localStorage.setItem('neat-larder.settings', JSON.stringify({ view: 'ledger' }));
    const screen = await Screen.open('/library?q=bell', library());
    await until('why', () => screen.all('nl-ledger mark').length === 2);
    expect(screen.text('nl-ledger .ag-header')).toContain('Found in');
    expect(screen.all('nl-ledger mark').map(({ textContent }) => textContent)).toEqual(['bell', 'bell']);
    await screen.press('L', { shiftKey: true });
    await until('the others step back', () => new Set(screen.all('nl-ledger .ag-row.nl-dim')).size >= 2);
  });
});
