import { execFileSync } from 'node:child_process';
import { writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { saidText } from '@larder/core/dialogue';
import { FILE_PATHS } from '@larder/contract';
import { allJobsEnded, type Client, scanned, TestLibrary } from './kit';

const LINE = 'We came down to the slipway at Ottermouth in the winter.';

let library: TestLibrary;
let editor: Client;
let assetId: number;

beforeAll(async () => {
  library = await TestLibrary.start(1);
  const manager = await library.as('manager');
  editor = await library.as('editor');
  const shelf = library.shelf('sound');
  execFileSync('flite', ['-voice', 'rms', '-t', LINE, '-o', join(shelf, 'spoken.wav')]);
  await scanned(manager, 'Sound', shelf);
  await allJobsEnded(manager);
  assetId = (await editor.call('search', {})).assets[0]?.id ?? 0;
}, 120_000);
afterAll(() => library.stop(), 60_000);

const listed = async (by = editor) => (await by.call('customWords', null)).words;

async function said(): Promise<string> {
  await editor.call('recognise', { assetIds: [assetId] });
  await allJobsEnded(editor);
  return saidText((await editor.call('transcript', { source: 'recognised' }, assetId)).shown?.words ?? []);
}

describe('the words of a production', () => {
  it('are those of names that the recogniser does not know, with how they may be said', async () => {
    expect(await said()).not.toMatch(/Ottermouth|slipway/);
    const names = 'Ottermouth; the Slipway, slipway, Wren 1998';
    expect(await editor.call('newCustomWords', { names })).toEqual({
      ...{ added: 2, known: ['the', 'Wren'], left: ['1998'] },
    });
    const odd = [`a${'\u0301'.repeat(200)}`, 'x'.repeat(61)];
    expect(await editor.call('newCustomWords', { names: odd.join(' ') })).toEqual({ added: 0, known: [], left: odd });
    // Whoever says the same again adds nothing.
    expect((await editor.call('newCustomWords', { names: 'OTTERMOUTH' })).added).toBe(0);
    expect(await listed()).toMatchObject([
      { text: 'Ottermouth', says: [expect.stringMatching(/^AA T ER M /)] },
      { text: 'Slipway', says: [expect.stringMatching(/^S L IH P W EY$/)] },
    ]);
  });

  it('are heard, and written as they were', async () => {
    const heard = await said();
    expect(heard).toContain('Ottermouth');
    expect(heard).toContain('Slipway');
    const { sources } = await editor.call('transcript', { source: null }, assetId);
    expect(sources[0]?.madeBy).toMatch(/, with 2 custom words$/);
    const { revision } = await editor.call('status', null);
    const { files } = await editor.call('spoken', { said: 'ottermouth', atLeast: revision });
    expect(files.map(({ asset }) => asset.id)).toEqual([assetId]);
  });

  it('are looked for as somebody says that they are said, also after a restart', async () => {
    const [word] = await listed();
    const says = ['aa t er  m uh th', 'OW T ER M AW TH'];
    await editor.call('changeCustomWord', { says }, word?.id);
    expect((await listed())[0]?.says).toEqual(['AA T ER M UH TH', 'OW T ER M AW TH']);
    const sounds = async () => {
      const { revision } = await editor.call('status', null);
      return (await editor.call('spoken', { said: 'Ottermouth', atLeast: revision })).items[0]?.sounds;
    };
    expect(await sounds()).toBe('AA T ER M UH TH');
    library = await library.again();
    editor = await library.as('editor');
    expect(await sounds()).toBe('AA T ER M UH TH');
    await editor.call('removeCustomWord', null, word?.id);
    expect(await sounds()).toMatch(/^AA T ER M /);
    expect((await listed()).map(({ text }) => text)).toEqual(['Slipway']);
  });

  it('can be heard', async () => {
    const spoken = async (way: string) => editor.raw('GET', FILE_PATHS.spokenWay(way));
    const path = join(library.shelf('heard'), 'way.wav');
    writeFileSync(path, Buffer.from(await (await spoken('S L IH P W EY')).arrayBuffer()));
    const asked = ['-v', 'error', '-show_entries', 'format=duration:stream=codec_type', '-of', 'csv=p=0', path];
    const [kind, seconds] = execFileSync('ffprobe', asked, { encoding: 'utf8' }).trim().split('\n');
    expect(kind).toBe('audio');
    expect(Number(seconds)).toBeGreaterThan(0.2);
    const refused = async (way: string) => (await spoken(way)).status;
    expect(await refused('[[a]]')).toBe(422);
    expect(await refused('AA '.repeat(50))).toBe(422);
  });

  it('are made of sounds that there are, by those who may', async () => {
    const [word] = await listed();
    for (const says of [[], ['XX'], [''], Array.from({ length: 6 }, () => 'AA')])
      expect(await editor.refused('changeCustomWord', { says }, word?.id)).toMatchObject({ status: 422 });
    expect(await editor.refused('newCustomWords', { names: ' ?! ' })).toMatchObject({ status: 422 });
    expect(await editor.refused('changeCustomWord', { says: ['AA'] }, 999_999)).toMatchObject({ status: 404 });
    expect(await editor.refused('removeCustomWord', null, 999_999)).toMatchObject({ status: 404 });
    const viewer = await library.as('viewer');
    expect(await viewer.refused('newCustomWords', { names: 'Slipgate' })).toMatchObject({
      error: { code: 'not-allowed' },
    });
    expect(await listed(viewer)).toHaveLength(1);
  });
});
