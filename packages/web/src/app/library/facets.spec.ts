import { asset } from '../../../test/assets';
import { serverWith } from '../../../test/indexed';
import { Refusal, Screen, until } from '../../../test/screen';

const assets = () => [
  asset(1, { tags: ['Dawn', 'lock'], verdict: 'circled' }),
  asset(2, { tags: ['Dawn', 'Reed’s yard'] }),
  asset(3, { tags: ['lock', 'bell'] }),
  asset(4, { tags: ['early dawn'], verdict: 'ng' }),
];
const DAY = 86_400_000;
const arranged = (settings: object) => localStorage.setItem('neat-larder.settings', JSON.stringify(settings));

/** What a field offers, a line each: what is chosen with a sign before it. */
const offered = (screen: Screen, field: string): string[] =>
  screen.all(`[data-facet="${field}"] .row-of`).map((row) => {
    const [label, count] = [row.querySelector('.cut')?.textContent, row.querySelector('.uses')?.textContent];
    const sign = row.classList.contains('chosen') ? '+' : row.classList.contains('refused') ? '-' : '';
    return `${sign}${label ?? ''} ${count ?? ''}`.trim();
  });

async function open(
  path: string,
  facets: string[] = ['tag', 'verdict'],
  server = serverWith(assets()),
): Promise<Screen> {
  arranged({ beside: 'facets', facets });
  const screen = await Screen.open(path, server);
  await until('the counts', () => screen.all('.row-of').length > 0);
  return screen;
}

describe('narrowing a list by what is said in it', () => {
  it('is shown beside the list by W, counts, and what is chosen stands in the address, exactly what was counted', async () => {
    const screen = await Screen.open('/library', serverWith(assets()));
    await screen.says('[data-test="count"]', '4 assets');
    await screen.press('w');
    await until('the counts', () => offered(screen, 'tag').length > 0);
    expect(offered(screen, 'tag')).toEqual(['Dawn 2', 'lock 2', 'bell 1', 'early dawn 1', 'Reed’s yard 1']);
    expect(offered(screen, 'verdict')).toEqual(['Circled 1', 'NG 1', 'Nothing said 2']);
    await screen.click('[data-facet="tag"] .value', 'Dawn');
    await until('the search', () => screen.address === '/library?q=tag%3Ddawn');
    await screen.says('[data-test="count"]', '2 assets');
    await until('what may be chosen beside it', () => offered(screen, 'verdict').join() === 'Circled 1,Nothing said 1');
    // Of the tags it is said what else there is, as if none were chosen.
    expect(offered(screen, 'tag')[0]).toBe('+Dawn 2');
    expect(offered(screen, 'tag')[1]).toBe('lock 2');
    await screen.press('w');
    await until('it went', () => screen.all('nl-facets').length === 0);
  });

  it('several are any of them, or all of them; and each can be let go of, or all', async () => {
    const screen = await open('/library?q=tag=dawn');
    await until('the choice', () => offered(screen, 'tag')[0] === '+Dawn 2');
    await screen.click('[data-facet="tag"] .value', 'lock');
    await until('any', () => screen.address === '/library?q=tag%3D(dawn%20or%20lock)');
    await screen.says('[data-test="count"]', '3 assets');
    await screen.click('[data-facet="tag"] .small-act', 'any of');
    await until('all', () => screen.address === '/library?q=tag%3Ddawn%20tag%3Dlock');
    await screen.says('[data-test="count"]', '1 asset');
    // Now each other would have to be there as well.
    await until('counted within', () => offered(screen, 'tag').join() === '+Dawn 1,+lock 1');
    await screen.click('[data-facet="tag"] .value', 'Dawn');
    await until('one', () => screen.address === '/library?q=tag%3Dlock');
    await screen.click('[data-facet="tag"] [title="Ask nothing of Tags"]');
    await until('none', () => screen.address === '/library');
  });

  it('what is left out stays in sight, spelled as it was, and can be let in again', async () => {
    const screen = await open('/library');
    await screen.click('[data-facet="tag"] .out', 'Reed’s yard');
    await until('the search', () => screen.address === '/library?q=-tag%3D%22reed%20s%20yard%22');
    await until('left out', () => offered(screen, 'tag').includes('-Reed’s yard left out'));
    await screen.click('[data-facet="tag"] .refused .value');
    await until('let in', () => screen.address === '/library');
    await until('as before', () => offered(screen, 'tag').includes('Reed’s yard 1'));
  });

  it('what was written by hand stands there as written, and can be taken away', async () => {
    const screen = await open('/library?q=tag:dawn tag:e*');
    // Words that are said in it are more than the tag; what is merely begun is no choice.
    await until('the choice', () => offered(screen, 'tag').join() === 'early dawn 1,+tag:dawn');
    await screen.click('[data-facet="tag"] .value', 'tag:dawn');
    await until('the rest', () => screen.address === '/library?q=tag:e*');
  });

  it('days and lengths are offered as stretches, the newest day first, and more are shown on demand', async () => {
    const days = Array.from({ length: 9 }, (_unused, n) =>
      asset(n + 1, { shotMs: n * DAY, durationMs: 4000 + n * 6000 }),
    );
    const screen = await open('/library', ['shot', 'duration'], serverWith(days));
    expect(offered(screen, 'duration')).toEqual(['Under 5 seconds 1', '5 to 15 seconds 1', '15 to 60 seconds 7']);
    expect(offered(screen, 'shot')).toHaveLength(6);
    expect(offered(screen, 'shot')[0]).toMatch(/^9 Jan 1970|1970-01-09|Jan 9, 1970/);
    await screen.click('[data-facet="shot"] .more', '3 more');
    await until('all', () => offered(screen, 'shot').length === 9);
    await screen.click('[data-facet="duration"] .value', '5 to 15');
    await until('the search', () => decodeURIComponent(screen.address) === '/library?q=duration:5s..14.999s');
    await screen.says('[data-test="count"]', '1 asset');
    await screen.click('[data-facet="shot"] .more', 'Fewer');
    await until('few', () => offered(screen, 'shot').length <= 6);
  });

  it('show how what was found is spread, from which a stretch is chosen', async () => {
    const days = Array.from({ length: 9 }, (_unused, n) =>
      asset(n + 1, { shotMs: n * DAY, durationMs: 4000 + n * 6000, bytes: 1000 }),
    );
    const screen = await open('/library', ['shot', 'duration', 'size', 'tag'], serverWith(days));
    const bars = (field: string) =>
      screen.all(`[data-facet="${field}"] nl-spread-chart button`).map(({ textContent }) => textContent);
    await until('the bars', () => bars('shot').length === 9);
    expect(bars('shot')[1]).toBe('2 Jan 1970: 1');
    expect(bars('duration').at(-1)).toBe('0:30 to 1:00: 4');
    // Where all are alike there is nothing to choose.
    expect([bars('size'), bars('tag')]).toEqual([[], []]);
    await screen.click('[data-facet="shot"] nl-spread-chart button', '3 Jan 1970');
    await until('the search', () => decodeURIComponent(screen.address) === '/library?q=shot:1970-01-03');
    await screen.says('[data-test="count"]', '1 asset');
    await until('a single one is no spread', () => bars('shot').length === 0);
    await screen.click('[data-facet="shot"] [title="Ask nothing of Shot on"]');
    await until('all of them', () => bars('shot').length === 9);
    await screen.click('[data-facet="duration"] nl-spread-chart button', '0:30 to 1:00');
    await until('within', () => bars('shot').length === 4);
  });

  it('fields are folded, added and taken away; a folded one is not counted', async () => {
    const server = serverWith(assets());
    const screen = await open('/library', ['tag', 'verdict'], server);
    await screen.click('[data-facet="tag"] .fold');
    await until('folded', () => server.bodies('facets').at(-1)?.fields.join() === 'verdict');
    expect(offered(screen, 'tag')).toEqual([]);
    await screen.click('nl-facets .fields button');
    await screen.click('nl-facets .menu label', 'Kind');
    await until('added', () => offered(screen, 'kind').length > 0);
    await screen.click('nl-facets .menu label', 'Verdict');
    await until('taken away', () => screen.all('[data-facet="verdict"]').length === 0);
  });

  it('a field in which nothing is said tells so, unless nothing was found at all', async () => {
    const screen = await open('/library', ['tag', 'people']);
    expect(screen.text('[data-facet="people"] .none')).toBe('Nothing said here yet');
    await screen.type('#search-line', 'nowhere');
    await screen.says('[data-test="count"]', '0 assets');
    await until('no tags', () => offered(screen, 'tag').length === 0);
    expect(screen.all('nl-facets .none')).toEqual([]);
  });

  it('says why nothing is counted, and asks again', async () => {
    const server = serverWith(assets());
    server.on('facets', () => new Refusal(500, { code: 'internal', reference: 'r-9' }));
    arranged({ beside: 'facets', facets: ['tag'] });
    const screen = await Screen.open('/library', server);
    await screen.says('nl-facets [role="alert"]', 'r-9');
    server.on('facets', () => ({
      facets: [{ field: 'tag', groups: [{ label: 'bell', count: 1, test: null }], more: 0 }],
      revision: 1,
    }));
    await screen.click('nl-facets [role="alert"] button', 'Try again');
    await until('the counts', () => offered(screen, 'tag').join() === 'bell 1');
    expect(screen.all('nl-facets [role="alert"]')).toEqual([]);
  });
});
