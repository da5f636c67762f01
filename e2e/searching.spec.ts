import { begin, type Begun, stillPlace, until, Window } from './kit';

const FILES = ['A001C001.mov', 'A001C002.mov', 'B001C001.mp4', 'S01T01.wav'];

let bench: Begun['bench'];
let browser: Begun['browser'];
let maren: Begun['maren'];
let end: Begun['end'];

beforeAll(async () => {
  ({ bench, browser, maren, end } = await begin(FILES));
  await maren.section('Library');
  await maren.says('[data-test="count"]', `${FILES.length} assets`);
  const { assets } = (await maren.post('/api/search', {})) as { assets: { id: number; name: string }[] };
  const tags: Record<string, string[]> = {
    'A001C001.mov': ['Dawn', 'lock'],
    'A001C002.mov': ['Dawn'],
    'B001C001.mp4': ['early dawn'],
  };
  for (const { id, name } of assets)
    if (tags[name])
      await maren.post('/api/assets/edit', {
        ...{ assetIds: [id], seenRevision: Number.MAX_SAFE_INTEGER, set: {}, addTags: tags[name], removeTags: [] },
      });
}, 300_000);
afterAll(() => end(), 60_000);

const address = (window = maren) => decodeURIComponent(new URL(window.page.url()).search);
const offered = (field: string, window = maren) =>
  window.page.$$eval(`[data-facet="${field}"] .row-of`, (rows) =>
    rows.map(
      (row) => `${row.querySelector('.cut')?.textContent ?? ''} ${row.querySelector('.uses')?.textContent ?? ''}`,
    ),
  );
const tiles = (window = maren) =>
  window.page.$$eval('nl-tile .name', (all) => all.map((name) => name.textContent?.trim()).sort());

describe('one search, three faces', () => {
  it('is narrowed by what is said in the list, counted', async () => {
    await maren.search('');
    await maren.press('w');
    await until(
      'the counts',
      async () => (await offered('tag')).join() === 'Dawn 2,early dawn 1,lock 1,Nothing said 1',
    );
    await maren.clickText('[data-facet="tag"] .value', 'Dawn');
    // Exactly what was counted, though another tag has that word too.
    await maren.says('[data-test="count"]', '2 assets');
    expect(address()).toBe('?q=tag=dawn');
    await maren.page.hover('[data-facet="kind"] .row-of');
    await until('what is left', async () => (await offered('kind')).join() === 'Video 2');
    await maren.clickText('[data-facet="tag"] .value', 'early dawn');
    await maren.says('[data-test="count"]', '3 assets');
    expect(address()).toBe('?q=tag=(dawn or "early dawn")');
  });

  it('is narrowed to a stretch by dragging over how it is spread', async () => {
    await maren.search('');
    await maren.click('nl-facets .fields button');
    await maren.clickText('nl-facets .menu label', 'Size');
    await maren.click('nl-facets .fields button');
    const chart = '[data-facet="size"] nl-spread-chart svg';
    await (await maren.page.waitForSelector(chart))?.scrollIntoView();
    // Counts of other fields come in above it.
    const box = await stillPlace(maren.page, chart);
    const bars = await maren.page.$eval('[data-facet="size"] nl-spread-chart [role="img"]', (each) =>
      (each.getAttribute('aria-label') ?? '').split('; '),
    );
    expect(bars.length).toBeGreaterThan(1);
    const middle = box.y + box.height / 2;
    await maren.page.mouse.move(box.x + 2, middle);
    await maren.page.mouse.down();
    await maren.page.mouse.move(box.x + (0.8 * box.width) / bars.length, middle, { steps: 4 });
    await maren.page.mouse.up();
    await until('the first bar', () => Promise.resolve(/^\?q=size[:<]/.test(address())));
    await maren.says('[data-test="count"]', new RegExp(`^${/: (\d+) asset/.exec(bars[0] ?? '')?.[1] ?? ''} asset`));
    await maren.search('tag=(dawn or "early dawn")');
  });

  it('is the same as rows, and goes on being written there', async () => {
    await maren.press('Shift+w');
    await until('two rows', async () => (await maren.page.$$('nl-criteria [data-test="criterion"]')).length === 2);
    await maren.says('nl-criteria', 'Any of these');
    await maren.choose('nl-criteria [data-test="way"]', 'none');
    await until('none of them', () => Promise.resolve(address() === '?q=-tag=(dawn or "early dawn")'));
    await until('the sound', async () => (await tiles()).join() === 'S01T01.wav');
    await maren.choose('nl-criteria [data-test="way"]', 'any');
    await maren.clickText('nl-criteria .top button', 'Row');
    const row = 'nl-criteria [data-test="criterion"]:nth-of-type(4)';
    await maren.choose(`${row} [aria-label="Field"]`, 'kind');
    await maren.choose(`${row} [aria-label="Value"]`, 'audio');
    await maren.says('[data-test="count"]', '4 assets');
    await maren.search('tag=dawn');
    await until('one row', async () => (await maren.page.$$('nl-criteria [data-test="criterion"]')).length === 1);
  });

  it('is kept as a live bin of a project, which follows what a colleague edits, and opens elsewhere by its address', async () => {
    const link = maren.page.url();
    const project = { name: 'Slow Water', description: null, counting: '25' };
    const { id } = (await maren.post('/api/projects', project)) as { id: number };
    await maren.page.locator('button[title="Keep this search as a live bin"]').click();
    await maren.fill('#live-bin-name', 'First light');
    await maren.choose('#live-bin-place', `project/${id}`);
    await maren.clickText('.modal-content button', 'Save');
    await maren.says('[data-bin="First light"]', '2');
    await maren.says('nl-bins .list', 'Slow Water');
    const tobin = await Window.open(browser, bench.base, 'tobin');
    await tobin.section('Library');
    const { assets } = (await tobin.post('/api/search', { query: 'name:S01T01' })) as { assets: { id: number }[] };
    await tobin.post('/api/assets/edit', {
      ...{ assetIds: assets.map(({ id }) => id), seenRevision: 1e9, set: {}, addTags: ['dawn'], removeTags: [] },
    });
    await maren.says('[data-bin="First light"]', '3');
    await maren.says('[data-test="count"]', '3 assets');
    const ines = await Window.open(browser, bench.base, 'ines');
    await ines.page.goto(link);
    await ines.says('[data-test="count"]', '3 assets');
    expect(await tiles(ines)).toEqual(['A001C001.mov', 'A001C002.mov', 'S01T01.wav']);
    for (const window of [maren, tobin, ines]) expect([window.strays, window.complaints]).toEqual([[], []]);
  });

  it('and its search is edited there as rows', async () => {
    await maren.clickText('nl-library button', 'Edit');
    await maren.says('#live-bin-issue', '3 assets now.');
    await maren.choose('.modal-content nl-criteria [aria-label="Condition"]', 'says');
    await maren.says('#live-bin-issue', '4 assets now.');
    expect(await maren.page.$eval('#live-bin-query', (box) => (box as HTMLInputElement).value)).toBe('tag:dawn');
    await maren.clickText('.modal-content button', 'Save');
    await maren.says('[data-bin="First light"]', '4');
  });

  it('finds words in other forms, what live bins find, and what was searched for before', async () => {
    await maren.section('Library');
    await maren.search('locks');
    await maren.says('[data-test="count"]', '1 asset');
    await maren.search('"locks"');
    await maren.says('[data-test="count"]', '0 assets');
    await maren.search('in:"First light" -kind:audio');
    await maren.says('[data-test="count"]', '3 assets');
    await maren.choose('#sort', 'relevance/down name/up');
    await maren.search('dawn lock or dawn');
    await until('the best first', async () => {
      const names = await maren.page.$$eval('nl-tile .name', (all) => all.map((name) => name.textContent?.trim()));
      return names.length === 4 && names[0] === 'A001C001.mov';
    });
    await maren.search('');
    await maren.click('#search-line');
    const past = () => maren.page.$$eval('ngb-typeahead-window button', (all) => all.map((each) => each.textContent));
    await until('those from before', async () =>
      (await past()).some((words) => words.includes('in:"First light" -kind:audio')),
    );
    await maren.clickText('ngb-typeahead-window button', 'in:"First light"');
    await maren.says('[data-test="count"]', '3 assets');
    expect([maren.strays, maren.complaints]).toEqual([[], []]);
  });

  it('is searched again step by step, and stands open beside another that it is put together with, through a reload', async () => {
    await maren.search('has:tag');
    await maren.says('[data-test="count"]', '4 assets');
    await maren.press('Shift+s');
    await maren.page.keyboard.type('kind:video');
    await maren.says('[data-test="count"]', '3 assets');
    await maren.page.keyboard.press('Enter');
    await until('two steps', async () => (await maren.page.$$('nl-trail li')).length === 2);
    await maren.click('[data-test="another-answer"]');
    await maren.search('tag:lock');
    await maren.says('[data-test="count"]', '1 asset');
    await maren.page.reload();
    await maren.says('[data-test="count"]', '1 asset');
    expect(await maren.page.$$('nl-answer-tabs .tab')).toHaveLength(2);
    await maren.clickText('nl-answer-tabs .name', 'has:tag kind:video');
    await maren.says('[data-test="count"]', '3 assets');
    await maren.clickText('nl-answer-tabs button', 'Combine');
    await maren.clickText('nl-answer-tabs .menu button', 'What is here only');
    await maren.says('[data-test="count"]', '2 assets');
    expect(address()).toBe('?q=has:tag kind:video -tag:lock');
    // Come back to as it was left, without a step then.
    await maren.section('Bins');
    await maren.section('Library');
    await maren.says('[data-test="count"]', '2 assets');
    await maren.click('nl-trail li:last-child button');
    await maren.says('[data-test="count"]', '3 assets');
    expect([maren.strays, maren.complaints]).toEqual([[], []]);
  });

  it('and follows in every window what others cut from, and what the live bins it refers to become', async () => {
    const tobin = await Window.open(browser, bench.base, 'tobin');
    await maren.search('is:unused');
    await maren.says('[data-test="count"]', '4 assets');
    const { assets } = (await tobin.post('/api/search', { query: 'name:B001C001' })) as { assets: { id: number }[] };
    const { projects } = (await tobin.send('GET', '/api/projects')) as { projects: { id: number }[] };
    const cut = { name: 'Morning', projectId: projects[0]?.id, assetIds: assets.map(({ id }) => id) };
    expect(await tobin.post('/api/string-outs', cut)).toMatchObject({ items: [{}] });
    await maren.says('[data-test="count"]', '3 assets');
    await maren.search('in:"First light"');
    await maren.says('[data-test="count"]', '4 assets');
    const { bins } = (await tobin.send('GET', '/api/live-bins')) as { bins: { id: number; name: string }[] };
    const first = bins.find(({ name }) => name === 'First light');
    const changed = { name: 'First light', query: 'tag:lock', projectId: projects[0]?.id };
    await tobin.send('PUT', `/api/live-bins/${String(first?.id)}`, changed);
    await maren.says('[data-test="count"]', '1 asset');
    for (const window of [maren, tobin]) expect([window.strays, window.complaints]).toEqual([[], []]);
  });

  it('lifts what it finds out of the whole list, step by step, and tells of what others bring into a live bin', async () => {
    await maren.search('tag:lock');
    await maren.says('[data-test="count"]', '1 asset');
    await maren.clickText('nl-lift-bar button', 'All, matches lifted');
    await maren.says('[data-test="count"]', '1 of 4 assets');
    await until('the others step back', async () => (await maren.page.$$('nl-tile.dim')).length === 3);
    await maren.press('.');
    await maren.says('nl-tile.selected', 'A001C001.mov');
    await maren.press('Shift+l');
    await maren.says('[data-test="count"]', '1 asset');
    await maren.clickText('nl-details a', 'More like this');
    await until('what is like it', () => Promise.resolve(address().startsWith('?q=like:')));

    await maren.section('Bins');
    await maren.clickText('.bin', 'First light');
    await maren.clickText('nl-library button', 'Notices');
    await until(
      'watched',
      async () => (await maren.page.$$('nl-library [aria-pressed="true"][title*="ingests"]')).length > 0,
    );
    const tobin = await Window.open(browser, bench.base, 'tobin');
    const { assets } = (await tobin.post('/api/search', { query: 'name:S01T01' })) as { assets: { id: number }[] };
    await tobin.post('/api/assets/edit', {
      ...{ assetIds: assets.map(({ id }) => id), seenRevision: Number.MAX_SAFE_INTEGER, set: {} },
      ...{ addTags: ['lock'], removeTags: [] },
    });
    await maren.says('.bin .came', '1 new');
    await maren.section('Front page');
    await maren.clickText('.matters a', '1 asset came into “First light”');
    await maren.clickText('nl-library button', '1 asset came in');
    await until('just that', async () => (await tiles()).join() === 'S01T01.wav');
    await maren.clickText('nl-library button', 'Seen');
    await until('no news', async () => (await maren.page.$$('.bin .came')).length === 0);
    for (const window of [maren, tobin]) expect([window.strays, window.complaints]).toEqual([[], []]);
  });

  it('is listed as its hits in time, from one of which to the next the player goes', async () => {
    const { assets } = (await maren.post('/api/search', { query: 'kind:video' })) as { assets: { id: number }[] };
    const marked = assets.slice(0, 2);
    for (const [at, { id }] of marked.entries())
      for (const [start, name] of [
        [20 + at, 'Heron on the gate'],
        [60, 'Nothing to see'],
      ] as const)
        await maren.post(`/api/assets/${id}/markers`, { start, name, kind: 'note' });
    await maren.section('Library');
    await maren.search('heron');
    await maren.says('[data-test="count"]', '2 assets');
    await maren.click('[aria-label="Show as"] button[title^="Hits in time"]');
    await maren.says('nl-hits-view .said', '2 hits in 2 assets');
    await maren.clickText('nl-hits-view .hit', 'Heron on the gate');
    const frame = async () => Number((await maren.text('nl-player [data-test="frame"]')).split('/')[0]);
    await until('the first hit', async () => (await frame()) === 20);
    await maren.press('ArrowDown');
    await until('the next clip at its hit', async () => (await frame()) === 21);
    await maren.click('[aria-label="Show as"] button[title^="Contact sheet"]');
    expect([maren.strays, maren.complaints]).toEqual([[], []]);
  });
});
