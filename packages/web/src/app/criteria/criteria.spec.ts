import { asset } from '../../../test/assets';
import { serverWith } from '../../../test/indexed';
import { Screen, until } from '../../../test/screen';

const assets = () => [
  asset(1, { tags: ['dawn', 'lock'], verdict: 'circled', durationMs: 5000 }),
  asset(2, { tags: ['dawn'], durationMs: 12_000 }),
  asset(3, { tags: ['lock'], durationMs: 30_000 }),
];
const search = (screen: Screen) => decodeURIComponent(/q=(.*)/.exec(screen.address)?.[1] ?? '');

/** Each row in words, and what begins a group. */
const rows = (screen: Screen): string[] =>
  screen.all('nl-criteria [data-test="way"], nl-criteria [data-test="criterion"]').map((each) => {
    const chosen = (select: HTMLSelectElement) => select.selectedOptions[0]?.textContent?.trim() ?? '';
    if (each instanceof HTMLSelectElement) return chosen(each);
    const negated = each.querySelector('.not')?.getAttribute('aria-pressed') === 'true';
    const said = [...each.querySelectorAll<HTMLSelectElement | HTMLInputElement>('select, input')].map((box) =>
      box instanceof HTMLSelectElement ? chosen(box) : box.value,
    );
    return [...said.slice(0, 1), ...(negated ? ['not'] : []), ...said.slice(1)].join(' | ');
  });

/** Chooses in, or writes into, a box of a row. */
async function put(screen: Screen, row: number, label: string, value: string): Promise<void> {
  const boxes = screen.all('nl-criteria [data-test="criterion"]')[row];
  const box = boxes?.querySelector<HTMLInputElement>(`[aria-label="${label}"]`);
  if (!box) throw new Error(`row ${row} has no ${label}`);
  box.value = value;
  box.dispatchEvent(new Event('change', { bubbles: true }));
  await screen.harness.fixture.whenStable();
}

async function open(path = '/library'): Promise<Screen> {
  localStorage.setItem('neat-larder.settings', JSON.stringify({ criteria: true }));
  const screen = await Screen.open(path, serverWith(assets()));
  await until('the rows', () => rows(screen).length > 0);
  return screen;
}

describe('criteria', () => {
  it('are shown by Shift W, with a row to begin with, and hidden by it', async () => {
    const screen = await Screen.open('/library', serverWith(assets()));
    await screen.press('W', { shiftKey: true });
    await until('the rows', () => rows(screen).join() === 'All of these,Any field | says | ');
    await screen.press('W', { shiftKey: true });
    await until('they went', () => rows(screen).length === 0);
  });

  it('write the search line row by row, each as soon as it is whole', async () => {
    const screen = await open();
    await put(screen, 0, 'Field', 'duration');
    await put(screen, 0, 'Condition', 'more');
    expect(search(screen)).toBe('');
    await put(screen, 0, 'Value', '10s');
    await until('the search', () => search(screen) === 'duration>10s');
    await screen.says('[data-test="count"]', '2 assets');
    await screen.click('nl-criteria .top button', 'Row');
    await put(screen, 1, 'Field', 'tag');
    // The row that asks for nothing yet stays while the other is changed.
    await put(screen, 0, 'Value', '4s');
    await until('the search', () => search(screen) === 'duration>4s');
    expect(rows(screen)).toEqual(['All of these', 'Duration | is more than | 4s', 'Tags | says | ']);
    await put(screen, 1, 'Condition', 'exactly');
    await put(screen, 1, 'Value', 'Lock');
    await until('both', () => search(screen) === 'duration>4s tag=lock');
    await screen.click('nl-criteria .not');
    await until('the contrary', () => search(screen) === '-duration>4s tag=lock');
    await screen.click('nl-criteria .criterion .last');
    await until('one', () => search(screen) === 'tag=lock');
    expect(rows(screen)).toEqual(['All of these', 'Tags | says exactly | Lock']);
  });

  it('show what was written in the search line, groups within groups, and turn into it again', async () => {
    const screen = await open(
      '/library?q=lock (tag=dawn or -verdict:ng) duration:5s..20s -(has:place no:scene) added:last-week',
    );
    const written = [
      ...['All of these', 'Any field | says | lock'],
      ...['Any of these', 'Tags | says exactly | dawn', 'Verdict | not | is | NG'],
      'Duration | is between | 5s | 20s',
      ...['None of these', 'All of these', 'Place | says anything', 'Scene | says nothing'],
      'Added | is in | last week',
    ];
    expect(rows(screen)).toEqual(written);
    await screen.choose('nl-criteria-group nl-criteria-group [data-test="way"]', 'all');
    await until('all of them', () => search(screen).startsWith('lock tag=dawn -verdict:ng duration'));
    // What is all of all stands in one list.
    expect(rows(screen).slice(0, 4)).toEqual([
      'All of these',
      'Any field | says | lock',
      'All of these',
      'Tags | says exactly | dawn',
    ]);
    await screen.click('nl-criteria-group nl-criteria-group [title="Take the group away"]');
    await until('without', () => search(screen).startsWith('lock duration:5s..20s'));
    await screen.click('nl-criteria .top button', 'Group');
    await until('a group', () => rows(screen).at(-1) === 'Any field | says | ');
    expect(rows(screen).at(-2)).toBe('Any of these');
  });

  it('say what is wrong with a value, and ask for the rest', async () => {
    const screen = await open('/library?q=lock duration>10s');
    await put(screen, 1, 'Value', 'long');
    await until('the search', () => search(screen) === 'lock');
    await screen.says('nl-criteria [role="alert"]', 'Write a duration such as 10s');
    expect(rows(screen).at(-1)).toBe('Duration | is more than | long');
    await put(screen, 1, 'Condition', 'between');
    await put(screen, 1, 'From', '5s');
    await until('from', () => search(screen) === 'lock duration>=5s');
    await put(screen, 1, 'To', '1m');
    await until('to', () => search(screen) === 'lock duration:5s..1m');
    expect(screen.all('nl-criteria [role="alert"]')).toEqual([]);
  });
});
