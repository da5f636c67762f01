import { execFileSync } from 'node:child_process';
import { writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { FILE_PATHS, type Asset } from '@larder/contract';
import { allJobsEnded, type Client, scanned, TestLibrary, treeHash, until } from './kit';
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
