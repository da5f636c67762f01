import { copyFileSync, mkdirSync, renameSync, rmSync, statSync, writeFileSync } from 'node:fs';
import { dirname, join } from 'node:path';
import type { Browser } from 'puppeteer-core';
import { dist } from '@larder/command/home';
import { makeClip, treeHash } from '../packages/server/test/kit';
import { Bench, opened, until, Window } from './kit';

/** A day in the yard, of which the folder is moved and called otherwise, and two clips that only a tape still has. */
const YARD = ['B002C001.mov', 'B002C002.mov', 'B002C003.mov', 'B002C004.mov'];
const FOUNDRY = ['F010C001.mov', 'F010C002.mov'];

let bench: Bench;
let browser: Browser;
let maren: Window;
let close: () => Promise<void>;
let shelfId: number;
let stringOut: number;
let taped: string;

const tapesIn = (folder: string): string => join(folder, 'tapes');

const archiveIn = (folder: string): string =>
  JSON.stringify({
    ...{ name: 'Tape shelf', catalogue: join(tapesIn(folder), 'catalogue.csv'), program: process.execPath },
    arguments: [dist('tape-shelf.mjs'), tapesIn(folder), '1', '200000', '{tape}', '{path}', '{to}'],
  });

const at = (...path: string[]): string => join(bench.shelf, ...path);

/** What was shot, and what of it is on tape. */
function shoot(): void {
  YARD.forEach((name, n) =>
    makeClip(at('yard/day two', name), { reel: 'B002', timecode: `10:0${n}:00:00`, tone: 300 + 30 * n }),
  );
  FOUNDRY.forEach((name, n) => {
    makeClip(at('foundry', name), { reel: 'F010', timecode: `11:0${n}:00:00`, tone: 500 + 30 * n });
    const to = join(tapesIn(bench.folder), 'SW01/foundry', name);
    mkdirSync(dirname(to), { recursive: true });
    copyFileSync(at('foundry', name), to);
  });
  makeClip(at('keep/K001C001.mov'), { reel: 'K001', timecode: '12:00:00:00', tone: 700 });
  const bytes = (name: string) => statSync(join(tapesIn(bench.folder), 'SW01/foundry', name)).size;
  writeFileSync(
    join(tapesIn(bench.folder), 'catalogue.csv'),
    [
      'tape,path,bytes,reel,rate,start,frames',
      ...FOUNDRY.map((name, n) => `SW01,foundry/${name},${bytes(name)},F010,25,11:0${n}:00:00,25`),
    ].join('\r\n'),
  );
  taped = treeHash(join(tapesIn(bench.folder), 'SW01'));
}

/** People tidy up: a folder goes elsewhere, two clips go altogether, and others come to lie somewhere under their names. */
function tidyUp(): void {
  mkdirSync(at('tidied'));
  renameSync(at('yard/day two'), at('tidied/yard at dusk'));
  FOUNDRY.forEach((name, n) => {
    rmSync(at('foundry', name));
    makeClip(at('dailies', name), { tone: 900 + 30 * n });
  });
}

const post = (path: string, body?: unknown) => maren.post(path, body);
const assets = async (query: string): Promise<readonly number[]> =>
  (await post('/api/search/ids', { query }))['ids'] as number[];
/** The index follows a moment behind what is written. */
const found = (query: string, count: number) =>
  until(`${query} to find ${count}`, async () => {
    const ids = await assets(query);
    return ids.length === count && ids;
  });
const jobsEnded = () =>
  until('all jobs to end', async () => {
    const { jobs } = (await maren.send('GET', '/api/jobs')) as { jobs: readonly { state: string }[] };
    return jobs.every(({ state }) => !['queued', 'running'].includes(state));
  });

beforeAll(async () => {
  bench = await Bench.start([], [], (folder) => ({ 'archive.json': archiveIn(folder) }));
  ({ browser, close } = await opened());
  maren = await Window.open(browser, bench.base, 'maren');
  mkdirSync(bench.shelf, { recursive: true });
  mkdirSync(tapesIn(bench.folder));
  shoot();
  await bench.shelve(maren);
  await post('/api/storages', { name: 'Store', rootPath: bench.folderFor('store'), managed: true });
  const { id } = await post('/api/projects', { name: 'The Yard', description: null, counting: '25' });
  const assetIds = [...(await assets('reel:B002')), ...(await assets('reel:F010')), ...(await assets('reel:K001'))];
  stringOut = Number((await post('/api/string-outs', { name: 'Hull', projectId: id, assetIds }))['id']);
  tidyUp();
  const { storages } = (await maren.send('GET', '/api/storages')) as { storages: { id: number; name: string }[] };
  shelfId = storages.find(({ name }) => name === 'Shelf')?.id ?? 0;
  await post(`/api/storages/${String(shelfId)}/scan`, {});
  await jobsEnded();
}, 300_000);
afterAll(async () => {
  await close();
  await bench.stop();
}, 60_000);

/** One walk: each step stands on the one before. */
describe('from a project whose storage was reorganised to a string-out that conforms', () => {
  it('what is wrong is told where it is needed, and leads to where it is mended', async () => {
    await maren.section('Upkeep');
    await maren.says('[data-test="missing"]', '6 originals missing.');
    await maren.says('nl-health', 'The Yard, Hull');
    await maren.section('Projects');
    await maren.clickText('nl-broken a', '6 originals missing');
    await maren.says('nl-look-form', 'Of what is in the project “The Yard”.');
  });

  it('nothing is decided before she says so', async () => {
    await maren.click('nl-look-form input[name="exact"]');
    await maren.click('nl-look-form button[type="submit"]');
    await maren.says('nl-relink-plan', 'files looked at in Shelf');
    await maren.says('[data-state="decide"]', '6');
    expect(await maren.page.$$('nl-relink-item')).toHaveLength(6);
  });

  it('one is pointed at by hand, and what became of it is offered for the others', async () => {
    const [first] = await assets('name:B002C001');
    await maren.click(`[data-asset="${String(first)}"] button[aria-label^="Point at"]`);
    await maren.choose('#point-folder', 'tidied/yard at dusk');
    await maren.choose('#point-file', 'tidied/yard at dusk/B002C001.mov');
    await maren.clickText('.modal-content button', 'This is it');
    await maren.says('[data-test="rule"]', 'now in Shelf/tidied/yard at dusk');
    await maren.clickText('[data-test="rule"] button', 'Accept 3 files');
    await maren.clickText('nl-relink-plan button', 'Mend 4 links');
    await maren.says('nl-toasts', '4 links mended');
    await maren.says('[data-test="missing"]', '2 originals missing.');
  });

  it('all of it is undone with a key, and done again', async () => {
    await maren.page.evaluate(() => (document.activeElement as HTMLElement | null)?.blur());
    await maren.press('Control+z');
    await maren.says('[data-test="missing"]', '6 originals missing.');
    await maren.press('Control+Shift+z');
    await maren.says('[data-test="missing"]', '2 originals missing.');
  });

  it('two that are only called the same are told apart, and rejected', async () => {
    await maren.section('Projects');
    await maren.clickText('nl-broken a', '2 originals missing');
    await maren.says('nl-look-form', 'Of what is in the project “The Yard”.');
    await maren.click('nl-look-form button[type="submit"]');
    await maren.says('nl-relink-plan', '2 originals to find');
    // Exact ones would have been accepted.
    await maren.says('[data-state="decide"]', '2');
    expect(await maren.text('nl-relink-plan')).toContain('Lookalike');
    expect(await maren.text('nl-relink-plan')).not.toContain('Exact');
    await maren.click('[data-state="decide"]');
    await maren.clickText('nl-relink-plan button', 'Reject all of these');
    await maren.says('[data-state="rejected"]', '2');
  });

  it('they are fetched from the archive, and mended by themselves', async () => {
    await maren.clickText('nl-relink-plan a', 'Restore list of 2 originals');
    await maren.says('nl-restore-list', 'Tape shelf has 2 of them');
    await maren.click('[data-test="fetch-all"]');
    await maren.says('nl-restore-list', 'Nothing has to be restored');
    expect(treeHash(join(tapesIn(bench.folder), 'SW01'))).toBe(taped);
    await jobsEnded();
  });

  it('the string-out conforms, and nothing was doubled', async () => {
    await maren.section('Projects');
    await maren.clickText('a', 'Hull');
    await maren.clickText('button', 'Conform check');
    await maren.says('[data-test="conform"]', 'Conforms: 7 events at 25');
    const { items } = (await maren.send('GET', `/api/string-outs/${stringOut}`)) as { items: { assetId: number }[] };
    const { assets: cut } = (await post('/api/assets/rows', { ids: items.map(({ assetId }) => assetId) })) as {
      assets: { name: string; path: string; state: string }[];
    };
    expect(cut.map(({ path, state }) => `${state} ${path}`)).toEqual([
      ...YARD.map((name) => `online tidied/yard at dusk/${name}`),
      ...FOUNDRY.map((name) => `online from the archive/SW01/foundry/${name}`),
      'online keep/K001C001.mov',
    ]);
    // Those that lie under the names of others are recordings of their own.
    expect(await assets('')).toHaveLength(9);
  });

  it('what was brought in a second time is merged into the first, in Upkeep, and comes apart again with a key', async () => {
    const [kept = 0] = await assets('name:K001C001');
    mkdirSync(join(bench.shelf, 'again'));
    copyFileSync(join(bench.shelf, 'keep/K001C001.mov'), join(bench.shelf, 'again/K001C001.mov'));
    await post(`/api/storages/${String(shelfId)}/scan`, {});
    await jobsEnded();
    const twins = await found('name:K001C001', 2);
    const edit = { seenRevision: 1_000_000, set: { title: 'Brought in again' }, addTags: [], removeTags: [] };
    await post('/api/assets/edit', { ...edit, assetIds: twins.filter((id) => id !== kept) });
    await maren.section('Upkeep');
    await maren.clickText('nl-twins-card a', 'Look at them');
    await maren.says('[data-test="twins"]', 'Differs in title');
    await maren.clickText('[data-test="twins"] button', `Keep #${kept}, merge 1 other`);
    await maren.says('nl-toasts', '1 asset merged');
    // Else the first of two cards may still be the one that was merged.
    await until('the card to be gone', async () => !(await maren.text('nl-twins')).includes('Differs in title'));
    // All of these are drawn alike, as takes of one set-up are.
    await maren.says('[data-test="same"]', 'nearly the same pictures');
    await maren.clickText('[data-test="twins"] button', 'Not the same');
    await maren.says('nl-twins', 'Nothing is catalogued more than once');
    expect(await found('name:K001C001', 1)).toEqual([kept]);
    expect(await assets('"Brought in again"')).toEqual([kept]);
    await maren.press('Control+z');
    await maren.says('nl-toasts', 'Undone: merging of 2 assets');
    await maren.says('[data-test="twins"]', 'Differs in title');
    await found('name:K001C001', 2);
  });

  it('a list of clips that nobody has seen is brought in, found by reel and timecode, and conforms', async () => {
    const list = join(bench.folder, 'strangers.edl');
    writeFileSync(
      list,
      [
        ...['TITLE: Strangers', 'FCM: NON-DROP FRAME'],
        '001  Z001     V     C        05:00:00:05 05:00:00:15 01:00:00:00 01:00:00:10',
        ...['* FROM CLIP NAME: He turns round', ''],
      ].join('\n'),
    );
    // On the shelf, and never scanned.
    makeClip(join(bench.shelf, 'new card/Z001_C001.mov'), { reel: 'Z001', timecode: '05:00:00:00' });
    await maren.section('Projects');
    await (await maren.page.$('input[type="file"]'))?.uploadFile(list);
    await maren.says('[data-test="conform"]', '1 event of 1 needs a look');
    await maren.clickText('nl-read-list button', 'Bring it in');
    await maren.says('[data-test="read"]', 'Brought in as Strangers, 1 clip.');
    await maren.clickText('[data-test="read"] a', 'Find it');
    await maren.says('nl-look-form', 'Of what is in the string-out “Strangers”.');
    await maren.click('nl-look-form button[type="submit"]');
    await maren.says('nl-relink-item', 'He turns round (never seen, 05:00:00:05 – 05:00:00:15)');
    await maren.says('nl-relink-item', 'new card/Z001_C001.mov');
    await maren.clickText('nl-relink-item button', 'Accept');
    await maren.clickText('nl-relink-plan button', 'Mend 1 link');
    await maren.says('nl-toasts', '1 link mended');
    await maren.section('Projects');
    await maren.clickText('a', 'Strangers');
    await maren.clickText('button', 'Conform check');
    await maren.says('[data-test="conform"]', 'Conforms: 1 event at 25');
    expect(maren.complaints).toEqual([]);
    expect(maren.strays).toEqual([]);
  });
});
