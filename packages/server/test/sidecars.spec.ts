import { execFileSync } from 'node:child_process';
import { readdirSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { unzipSync } from 'fflate';
import { FILE_PATHS, type Asset } from '@larder/contract';
import { ExportStore } from '../src/media/export-store';
import { allJobsEnded, type Client, jobEnded, scanned, TestLibrary, treeHash, until } from './kit';
import { wave } from './wave';

let library: TestLibrary;
let editor: Client;
let shelf: string;
let ids: number[];

const FOREIGN = `<x:xmpmeta xmlns:x="adobe:ns:meta/"><rdf:RDF xmlns:rdf="http://www.w3.org/1999/02/22-rdf-syntax-ns#">
<rdf:Description rdf:about="" xmlns:lab="http://example.org/lab/1/" lab:bath="C-41"/></rdf:RDF></x:xmpmeta>`;

beforeAll(async () => {
  library = await TestLibrary.start(1);
  const manager = await library.as('manager');
  editor = await library.as('editor');
  shelf = library.shelf('sound');
  for (const n of [0, 1]) writeFileSync(join(shelf, `T${n}.wav`), wave(n));
  writeFileSync(join(shelf, 'T0.xmp'), FOREIGN);
  await manager.call('newField', {
    ...{ label: 'Page', type: 'url', help: '', group: 'logged', choices: [], unit: '' },
    ...{ plain: false, retired: false, range: null, standard: '' },
  });
  await scanned(manager, 'Sound', shelf);
  await allJobsEnded(manager);
  ids = [
    ...(await until('the index', async () => {
      const answer = await manager.call('search', { query: 'kind:audio' });
      return answer.total === 2 && answer.assets.toSorted((a, b) => (a.name < b.name ? -1 : 1)).map(({ id }) => id);
    })),
  ];
}, 120_000);
afterAll(() => library.stop(), 60_000);

const rowOf = async (id: number) => (await editor.call('rows', { ids: [id] })).assets[0] as Asset;
const sidecar = async (id: number) => (await editor.raw('GET', FILE_PATHS.sidecar(id))).text();
const SAID = {
  title: 'Lower lock, “first light” & <mist>',
  description: 'Two lines:\nÉcluse, 水門, مرحبا 🎬',
  rating: 4,
  reel: 'S01',
  scene: '12A',
  people: ['Ada Fenn', 'Nan Weir'],
  rights: 'Cleared for the series',
  place: 'Lower lock',
  position: '50.4120, -3.518012',
  verdict: 'circled',
  shop_page: 'https://example.org/a?b=c&d=e',
} as const;

describe('an XMP sidecar', () => {
  it('is read by ExifTool, value for value', async () => {
    await editor.call('edit', {
      ...{ assetIds: [ids[0] ?? 0], seenRevision: Number.MAX_SAFE_INTEGER, set: SAID },
      ...{ addTags: ['dawn', 'lock'], removeTags: [] },
    });
    const path = join(library.folder, 'out.xmp');
    writeFileSync(path, await sidecar(ids[0] ?? 0));
    const [read] = JSON.parse(
      execFileSync('exiftool', ['-j', '-G1', '-struct', '-U', '-charset', 'utf8', path]).toString(),
    ) as Record<string, unknown>[];
    expect(read).toMatchObject({
      'XMP-dc:Title': SAID.title,
      'XMP-dc:Description': SAID.description,
      'XMP-dc:Subject': ['dawn', 'lock'],
      'XMP-dc:Rights': SAID.rights,
      'XMP-xmp:Rating': SAID.rating,
      'XMP-xmpDM:TapeName': SAID.reel,
      'XMP-xmpDM:Scene': SAID.scene,
      'XMP-iptcExt:PersonInImage': SAID.people,
      'XMP-iptcCore:Location': SAID.place,
      'XMP-exif:GPSLatitude': `50 deg 24' 43.20" N`,
      'XMP-exif:GPSLongitude': `3 deg 31' 4.84" W`,
      // Beside the standards, in a namespace of the library's own.
      'XMP-larder:Verdict': SAID.verdict,
      'XMP-larder:Shop_page': SAID.shop_page,
      // As the sidecar beside the original has it.
      'XMP-lab:Bath': 'C-41',
    });
  });

  it('says everything of another asset, as one change that can be undone; originals are not touched', async () => {
    const before = treeHash(shelf);
    const [from, to] = [ids[0] ?? 0, ids[1] ?? 0];
    const text = await sidecar(from);
    expect(await editor.call('readSidecar', { text }, to)).toMatchObject({ changed: 1, issues: [] });
    const [one, other] = [await rowOf(from), await rowOf(to)];
    for (const key of ['title', 'description', 'reel', 'scene', 'verdict', 'logged', 'tags'] as const)
      expect([key, other[key]]).toEqual([key, one[key]]);
    await editor.call('undo', {});
    expect(await rowOf(to)).toMatchObject({ title: null, tags: [], logged: {} });
    expect(treeHash(shelf)).toBe(before);
  });

  it('written by ExifTool is read', async () => {
    const path = join(library.folder, 'theirs.xmp');
    execFileSync('exiftool', [
      ...['-q', '-o', path, '-XMP-dc:Title=By hand', '-XMP-dc:Subject=dusk', '-XMP-dc:Subject=barge'],
      ...['-XMP-xmp:Rating=9', '-XMP-xmpDM:Scene=7', '-XMP-iptcExt:PersonInImage=Tobin Reed'],
      ...['-XMP-exif:GPSLatitude=33.5 S', '-XMP-exif:GPSLongitude=151.25 E', '-XMP-iptcCore:Location=Quay'],
    ]);
    const text = execFileSync('cat', [path]).toString();
    const { issues } = await editor.call('readSidecar', { text }, ids[1]);
    expect(issues).toEqual(['Rating: Rating is a whole number from 1 to 5.']);
    expect(await rowOf(ids[1] ?? 0)).toMatchObject({
      ...{ title: 'By hand', scene: '7', tags: ['barge', 'dusk'], place: 'Quay' },
      logged: { people: ['Tobin Reed'], position: '-33.5000, 151.2500' },
    });
  });

  it('is hostile until parsed', async () => {
    const refused = (text: string, client = editor) => client.refused('readSidecar', { text }, ids[1]);
    expect(await refused('no XML at all')).toMatchObject({ error: { reason: 'That is no XMP sidecar.' } });
    expect(await refused(`<!DOCTYPE x [<!ENTITY a "aaaa">]>${FOREIGN}`)).toMatchObject({ status: 422 });
    expect(await refused('')).toMatchObject({ status: 422 });
    expect(await refused(FOREIGN, await library.as('viewer'))).toMatchObject({ status: 403 });
    expect(await editor.refused('readSidecar', { text: FOREIGN }, 999_999)).toMatchObject({ status: 404 });
  });
});

describe('XMP sidecars of many', () => {
  const said = async () =>
    (await editor.call('rows', { ids })).assets.map(({ title, tags, logged }) => ({ title, tags, logged }));
  const title = (id: number, text: string) =>
    editor.call('edit', {
      ...{ assetIds: [id], seenRevision: Number.MAX_SAFE_INTEGER, set: { title: text } },
      ...{ addTags: [], removeTags: [] },
    });

  it('are written into the export folder as they lie on their storages, taken along as one archive, and read back as one change', async () => {
    const shelfBefore = treeHash(shelf);
    const before = await said();
    const { revision } = await editor.call('status', null);
    await until(
      'the index',
      async () => (await editor.call('search', { query: '', limit: 0, atLeast: revision })).revision >= revision,
    );
    const { job } = await editor.call('writeSidecars', { query: 'kind:audio', assetIds: null });
    expect(await jobEnded(editor, job.id)).toMatchObject({
      state: 'done',
      done: 2,
      message: expect.stringContaining('exports') as unknown,
    });
    const answer = await editor.raw('GET', FILE_PATHS.exported(job.id));
    const files = Object.entries(unzipSync(new Uint8Array(await answer.arrayBuffer())))
      .map(([path, bytes]) => ({ path, text: new TextDecoder().decode(bytes) }))
      .toSorted((a, b) => (a.path < b.path ? -1 : 1));
    expect(files.map(({ path }) => path)).toEqual(['Sound/T0.wav.xmp', 'Sound/T1.wav.xmp']);
    expect(files[0]?.text).toBe(await sidecar(ids[0] ?? 0));
    for (const id of ids) await title(id, 'Overwritten');
    const read = await editor.call('readSidecars', { files });
    expect(read).toMatchObject({ read: 2, left: 0, changed: 2 });
    expect(await said()).toEqual(before);
    await editor.call('undo', { group: read.group });
    expect((await said()).map((each) => each.title)).toEqual(['Overwritten', 'Overwritten']);
    await editor.call('redo', null);
    expect(treeHash(shelf)).toBe(shelfBefore);
  });

  it('are matched by their names, and by their folders where names are not enough; what belongs to none is told', async () => {
    const manager = await library.as('manager');
    const other = library.shelf('other');
    writeFileSync(join(other, 'T0.wav'), wave(7));
    await scanned(manager, 'Other', other);
    await allJobsEnded(manager);
    const text = (words: string) =>
      FOREIGN.replace('lab:bath="C-41"', `xmlns:dc="http://purl.org/dc/elements/1.1/" dc:source="${words}"`);
    const asked = [
      { path: 'sidecars/Other/T0.wav.xmp', text: text('by its folder') },
      { path: 'T0.wav.xmp', text: text('of either') },
      { path: 'deep/T1.xmp', text: text('without its ending') },
      { path: 'T1.wav.xmp', text: text('the same again') },
      { path: 'T9.wav.xmp', text: text('of nobody') },
      { path: 'T1.xmp', text: 'no XMP' },
    ];
    expect(await editor.call('readSidecars', { files: asked })).toMatchObject({
      ...{ read: 2, changed: 2, left: 4 },
      leftTold: [
        { path: 'T0.wav.xmp', why: '2 assets are called that.' },
        { path: 'T1.wav.xmp', why: 'Another of these files belongs to the same asset.' },
        { path: 'T9.wav.xmp', why: 'No asset is called that.' },
        { path: 'T1.xmp', why: 'That is no XMP sidecar.' },
      ],
    });
    expect((await rowOf(ids[1] ?? 0)).logged).toMatchObject({ source: 'without its ending' });
    expect((await rowOf(ids[0] ?? 0)).logged).not.toHaveProperty('source');
    await editor.call('undo', {});
    expect(await editor.refused('readSidecars', { files: [asked[4] as { path: string; text: string }] })).toMatchObject(
      {
        error: { reason: 'None of them was read. T9.wav.xmp: No asset is called that.' },
      },
    );
  });

  it('bring no tags that this library does not allow', async () => {
    const manager = await library.as('manager');
    await manager.call('freeTags', { allowed: false });
    const text = FOREIGN.replace(
      'lab:bath="C-41"/>',
      'xmlns:dc="http://purl.org/dc/elements/1.1/"><dc:subject><rdf:Bag><rdf:li>never heard of</rdf:li></rdf:Bag></dc:subject></rdf:Description>',
    );
    expect(await editor.call('readSidecars', { files: [{ path: 'T1.xmp', text }] })).toMatchObject({
      ...{ read: 1, changed: 0, left: 1 },
      leftTold: [{ path: 'T1.xmp', why: '“never heard of” is no tag of any set.' }],
    });
    await manager.call('freeTags', { allowed: true });
  });

  it('are refused to who may only look, and of nothing', async () => {
    const viewer = await library.as('viewer');
    expect(await viewer.refused('writeSidecars', { query: '', assetIds: null })).toMatchObject({ status: 403 });
    expect(await viewer.refused('readSidecars', { files: [{ path: 'a.xmp', text: FOREIGN }] })).toMatchObject({
      status: 403,
    });
    expect(await editor.refused('writeSidecars', { query: 'name:nothing', assetIds: null })).toMatchObject({
      error: { reason: 'There is nothing in this list.' },
    });
    for (const id of ['999', '0', '1e3', '..'])
      expect((await editor.raw('GET', `/files/exports/${id}.zip`)).status).toBe(404);
  });
});

describe('the export folder', () => {
  it('cannot be left, whatever things are called', async () => {
    const root = library.shelf('exports apart');
    const store = new ExportStore(root);
    for (const parts of [
      ['..', '..', 'a.xmp'],
      ['/etc', 'b.xmp'],
      ['a/../../..', '.hidden.xmp'],
      ['nul\0', 'con:?*.xmp'],
      ['', '..', '.'],
    ])
      await store.put(3, parts, 'x');
    const written = readdirSync(root, { recursive: true }).map(String);
    expect(written.every((path) => path === '3' || path.startsWith('3/'))).toBe(true);
    expect(written.filter((path) => path.endsWith('a.xmp'))).toHaveLength(1);
    expect(readdirSync(library.folder)).not.toContain('a.xmp');
  });
});
